"""What the channels of a file say, each by itself: damage, silence, hum, peaks, an offset, bits that are not used.

Every threshold stands here, with its reason; figures that are not from a standard are common practice, no source.
"""

from collections.abc import Iterator, Sequence
from typing import Final

from wedge_turn.core.findings.finding import FileFinding, Remedy, capitalize, make_remedy, write_percent
from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures
from wedge_turn.core.naming import join_words
from wedge_turn.core.turns import format_db

# Two steps of 16 bits: the last bit and its dither. A channel whose every sample stays below holds no sound; its mean
# says nothing, as a cough in twenty minutes hardly raises it.
SILENT_PEAK_DBFS: Final = -84.0
# A channel is nearly silent where it is below this but for a twentieth of the time, and as far below the other as
# crosstalk of a bad cable would not be.
QUIET_DBFS: Final = -84.0
QUIET_BELOW_DB: Final = 60.0
# −50 dBFS of direct current costs no headroom to speak of; beyond, it clicks at cuts.
OFFSET: Final = 0.00316


def check_damage(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
    if measures.damaged:
        yield FileFinding(
            code="damaged",
            label="damaged samples",
            message=f"{_invalid(measures.damaged)} (NaN, infinite or beyond +120 dBFS), read as silence.",
            measured={"samples": measures.damaged},
        )


def check_silence(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:
    peak = measures.whole.peak_dbfs
    if is_empty(measures):
        yield FileFinding(
            code="empty",
            label="silent",
            message="Digital silence: every sample is zero."
            if peak is None
            else f"No sample is above {_db(peak)} dBFS: effectively silent.",
            measured={"peak_dbfs": "-inf" if peak is None else peak},
        )
        return
    peaks = [channel.peak_dbfs for channel in measures.channels]
    silent = [n for n, level in enumerate(peaks) if level is None or level < SILENT_PEAK_DBFS]
    quiet = [n for n in _quiet_channels(measures) if n not in silent]
    if silent:
        which, level = _channels(form, silent), peaks[silent[0]]
        how = "is silent" if level is None else f"never rises above {_db(level)} dBFS: effectively silent"
        yield FileFinding(
            code="silent-channel",
            label=f"{which} silent",
            message=f"{capitalize(which)} {how}.",
            measured={"channels": ",".join(str(n + 1) for n in silent)},
            remedy=_fold_to_other(name, form, silent),
        )
    if quiet:
        which, levels = _channels(form, quiet), measures.channels[quiet[0]]
        yield FileFinding(
            code="nearly-silent-channel",
            label=f"{which} nearly silent",
            message=f"{capitalize(which)} is below {_db(levels.usual_dbfs)} dBFS RMS nearly all of the time, and yet "
            f"holds sound: its loudest, {_db(levels.peak_dbfs)} dBFS, is at {_clock(levels.peak_seconds or 0.0)}.",
            measured={"channels": ",".join(str(n + 1) for n in quiet), "peak_dbfs": levels.peak_dbfs or 0.0},
            remedy=_fold_to_other(name, form, quiet),
        )


def check_hum(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:
    humming = [n for n, channel in enumerate(measures.channels) if channel.hum_hz]
    if not humming:
        return
    levels = measures.channels[humming[0]]
    which = "the file" if len(humming) == form.channels else _channels(form, humming)
    yield FileFinding(
        code="hum",
        label="only hum" if len(humming) == form.channels else f"{which} only hum",
        message=f"{capitalize(which)} holds nothing but mains hum: {levels.hum_hz} Hz and its harmonics, at "
        f"{_db(levels.rms_dbfs)} dBFS RMS.",
        measured={"channels": ",".join(str(n + 1) for n in humming), "hertz": levels.hum_hz or 0},
        remedy=_fold_to_other(name, form, humming),
    )


def _fold_to_other(name: str, form: Form, without: Sequence[int]) -> Remedy | None:
    """Of a stereo file in which one channel holds nothing of use: a mono file of the other."""
    if form.channels != 2 or len(without) != 1:
        return None
    other = "right" if without[0] == 0 else "left"
    return make_remedy(f"fold to {other}", "fold", (name,), take=other)


def check_peaks(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
    whole = measures.whole
    over = whole.peak_dbfs or 0.0
    if over > 0:
        up = f"{round(over, 2):.4g} dB"
        holds = form.stored.is_float
        yield FileFinding(
            code="over-full-scale" if holds else "would-clip",
            label=f"{round(over, 1):.4g} dB over" if holds else "would clip",
            message=f"Samples reach {up} above full scale: kept in float, clipped at 24 bit."
            if holds
            else f"Samples reach {up} above full scale: at {form.stored.depth} bit they will clip. Lower the level by "
            "that much, or deliver as float.",
            measured={"peak_dbfs": over},
            remedy=make_remedy(
                f"level {format_db(-_ceil_hundredth(over))}", "level", gains_db=(-_ceil_hundredth(over),)
            ),
        )
    elif whole.clipped_runs:
        where = [_channel(form, n) for n, levels in enumerate(measures.channels) if levels.clipped_runs]
        runs = "1 place" if whole.clipped_runs == 1 else f"{whole.clipped_runs:,} places"
        yield FileFinding(
            code="clipped",
            label="clipped",
            message=f"{capitalize(' and '.join(where))}: four or more samples in a row at full scale, in {runs} "
            f"({whole.clipped_samples:,} samples). It was clipped when it was recorded or mixed.",
            measured={"runs": whole.clipped_runs, "samples": whole.clipped_samples},
        )


def check_offset(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
    offsets = [abs(channel.steady_dc) for channel in measures.channels]
    if max(offsets) < OFFSET:
        return
    worst = offsets.index(max(offsets))
    # Those of a tenth of it are as real; what is less is taken for chance.
    given = [channel.steady_dc if abs(channel.steady_dc) >= OFFSET / 10 else 0.0 for channel in measures.channels]
    each = [f"{_channel(form, n)} {write_percent(100 * offset)}" for n, offset in enumerate(given) if offset]
    yield FileFinding(
        code="dc-offset",
        label="DC offset",
        message=f"DC offset of {join_words(each)} of full scale: edits may click.",
        measured={"dc": measures.channels[worst].steady_dc},
        remedy=make_remedy("remove DC", "dc", offset=tuple(round(100 * offset, 6) for offset in given)),
    )


def check_bits(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
    used = measures.bits_used
    if used is None or measures.whole.rms_dbfs is None:
        return
    smallest = next((bits for bits in (16, 24) if used <= bits), None)
    if smallest is None or (not form.stored.is_float and form.stored.bits <= smallest):
        return
    stored = "this float file" if form.stored.is_float else f"this {form.stored.bits}-bit file"
    yield FileFinding(
        code="bits-used",
        label=f"{smallest}-bit samples",
        message=f"Every sample of {stored} fits in {smallest} bits: delivering at {smallest} bit loses nothing.",
        measured={"bits_used": used},
    )


def is_empty(measures: Measures) -> bool:
    """Whether there is no sound at all."""
    peak = measures.whole.peak_dbfs
    return peak is None or peak < SILENT_PEAK_DBFS


def has_silent_channel(measures: Measures) -> bool:
    """Whether a channel is so quiet beside the loudest, or so full of hum, that comparing them says nothing."""
    return bool(_quiet_channels(measures)) or any(channel.hum_hz for channel in measures.channels)


def _quiet_channels(measures: Measures) -> list[int]:
    """Channels that are far below the loudest nearly all of the time; all of them where there is no sound at all."""
    levels = [channel.usual_dbfs for channel in measures.channels]
    loudest = max((level for level in levels if level is not None), default=None)
    if loudest is None:
        return list(range(len(levels)))
    below = min(QUIET_DBFS, loudest - QUIET_BELOW_DB)
    return [n for n, level in enumerate(levels) if level is None or level < below]


def _channel(form: Form, n: int) -> str:
    """What a channel is called: as its file calls it, by its speaker, or by its number."""
    if form.channels == 1:
        return "the file"
    if form.channels == 2:
        return ("left", "right")[n]
    return (form.labels and form.labels[n]) or (form.speakers[n] if form.speakers else f"channel {n + 1}")


def _channels(form: Form, which: Sequence[int]) -> str:
    return " and ".join(_channel(form, n) for n in which)


def _db(level: float | None) -> str:
    return "−∞" if level is None else f"{level:.1f}".replace("-", "−")


def _clock(seconds: float) -> str:
    """A time within a file, as in 3:12.5."""
    return f"{int(seconds // 60)}:{seconds % 60:04.1f}"


def _invalid(count: int) -> str:
    return "1 invalid sample" if count == 1 else f"{count:,} invalid samples"


def _ceil_hundredth(decibels: float) -> float:
    """To the next hundredth above a level that is known to a thousandth, so that what is lowered by it fits."""
    return round(decibels + 0.0005 + 0.005, 2)
