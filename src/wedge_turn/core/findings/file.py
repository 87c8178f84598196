"""What is worth knowing about a file or a pair, and the turn that would deal with it.

An ordinary stereo file has no finding: a false alarm is worse than a missed hint. Every threshold stands here, with
its reason; figures that are not from a standard are common practice, no source. A remedy whose settings would lie
outside what its turn takes is left out: advice is never a reason to fail.
"""

import re
from collections.abc import Callable, Iterator, Sequence
from typing import Final

from pydantic import BaseModel, ConfigDict, ValidationError

from wedge_turn.core.form import Form
from wedge_turn.core.measure import Measures, PolarityChange, StereoMeasures
from wedge_turn.core.turns import TURN_ADAPTER, AnyTurn, Finding, Polarity, format_db, format_samples
from wedge_turn.core.worksheet import Stretch

# Two steps of 16 bits: the last bit and its dither. A channel whose every sample stays below holds no sound; its mean
# says nothing, as a cough in twenty minutes hardly raises it.
SILENT_PEAK_DBFS: Final = -84.0
# A channel is nearly silent where it is below this but for a twentieth of the time, and as far below the other as
# crosstalk of a bad cable would not be.
QUIET_DBFS: Final = -84.0
QUIET_BELOW_DB: Final = 60.0
# A difference of left and right that is 40 dB down is noise or a trace of reverb; a mono file sounds the same.
NEARLY_MONO_DB: Final = -40.0
# Wide recordings with spaced microphones reach −0.2 or so over their length; real inversions lie far below.
OPPOSITE: Final = -0.5
# Long waves reach both microphones of a pair together: the lows of a stereo recording are in polarity, however wide it
# is. Where they are far out of it and no band is in it, a channel is inverted, though wide highs hide that as a whole.
LOWS_HZ: Final = 120.0
LOWS_OPPOSITE: Final = -0.5
WHOLE_BELOW: Final = -0.2
BAND_SOUNDS_DB: Final = -40.0
LOWS_SOUND_DB: Final = -30.0
MIN_SECONDS: Final = 2.0
# Two recordings on one file share neither waves nor their comings and goings, as the two sides of a wide sound do.
NOT_CORRELATED: Final = 0.1
NOT_COHERENT: Final = 0.3
OWN_ENVELOPES: Final = 0.25
TAKE_TURNS: Final = -0.2
# A pan that leans by 6 dB is heard at once; mixes as a whole hardly ever lean by 3.
LEANS_DB: Final = 6.0
# The same sound in both files shows even small differences of gain for what they are.
SAME_SOUND_COHERENCE: Final = 0.8
SAME_SOUND_LEANS_DB: Final = 1.0
# One delayed sound alone gives 1, with a room around it 0.3 to 0.7; unrelated sounds stay below 0.05.
SURE_OF_DELAY: Final = 0.35
DELAY_OVER_NEXT: Final = 2.0
# A few samples are the depth of a capsule or the tilt of a pair: not worth a word.
MIN_DELAY_SECONDS: Final = 0.00012
# −50 dBFS of direct current costs no headroom to speak of; beyond, it clicks at cuts.
OFFSET: Final = 0.00316
# Side lies below mid in nearly every recording; unrelated and far below at once is rare among left and right.
SIDE_BELOW_DB: Final = 3.0
SIDE_FAR_BELOW_DB: Final = 9.0
UNRELATED: Final = 0.25
SAME_ENVELOPE: Final = 0.8
_NAMED_MID_SIDE: Final = re.compile(r"(?:^|[\s._\-(])(?:ms|m-s|mid-?side)(?:$|[\s._\-)])", re.IGNORECASE)


class Remedy(BaseModel):
    """A turn that deals with a finding, and those that follow on its result. `label` is the button; `names` what the
    results are called, if not as usual; `over` the range that it is limited to.
    """

    model_config = ConfigDict(frozen=True)

    label: str
    turn: AnyTurn
    followed_by: tuple[AnyTurn, ...] = ()
    names: tuple[str, ...] = ()
    over: Stretch | None = None


def make_remedy(
    label: str,
    kind: str,
    names: tuple[str, ...] = (),
    over: Stretch | None = None,
    followed_by: tuple[AnyTurn, ...] = (),
    **settings: object,
) -> Remedy | None:
    """A remedy, or None where the turn does not take these settings."""
    try:
        turn = TURN_ADAPTER.validate_python({"kind": kind, **settings})
        return Remedy(label=label, turn=turn, followed_by=followed_by, names=names, over=over)
    except ValidationError:
        return None


class FileFinding(Finding):
    """A finding with a short label for a list, and what would deal with it, where turns do: the first choice, and the
    others.
    """

    label: str
    remedy: Remedy | None = None
    others: tuple[Remedy, ...] = ()


def find_in_file(name: str, form: Form, measures: Measures) -> list[FileFinding]:
    """What there is to know about a file, the gravest first."""
    return [finding for check in _CHECKS for finding in check(name, form, measures)]


def _about_damage(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
    if measures.damaged:
        yield FileFinding(
            code="damaged",
            label="damaged samples",
            message=f"{_invalid(measures.damaged)} (NaN, infinite or beyond +120 dBFS), read as silence.",
            measured={"samples": measures.damaged},
        )


def _about_silence(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:
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
            message=f"{_capitalize(which)} {how}.",
            measured={"channels": ",".join(str(n + 1) for n in silent)},
            remedy=_fold_to_other(name, form, silent),
        )
    if quiet:
        which, levels = _channels(form, quiet), measures.channels[quiet[0]]
        yield FileFinding(
            code="nearly-silent-channel",
            label=f"{which} nearly silent",
            message=f"{_capitalize(which)} is below {_db(levels.usual_dbfs)} dBFS RMS nearly all of the time, and yet "
            f"holds sound: its loudest, {_db(levels.peak_dbfs)} dBFS, is at {_clock(levels.peak_seconds or 0.0)}.",
            measured={"channels": ",".join(str(n + 1) for n in quiet), "peak_dbfs": levels.peak_dbfs or 0.0},
            remedy=_fold_to_other(name, form, quiet),
        )


def _about_hum(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:
    humming = [n for n, channel in enumerate(measures.channels) if channel.hum_hz]
    if not humming:
        return
    levels = measures.channels[humming[0]]
    which = "the file" if len(humming) == form.channels else _channels(form, humming)
    yield FileFinding(
        code="hum",
        label="only hum" if len(humming) == form.channels else f"{which} only hum",
        message=f"{_capitalize(which)} holds nothing but mains hum: {levels.hum_hz} Hz and its harmonics, at "
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


def _about_stereo(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:
    sides = measures.sides
    if sides is None or sides.correlation is None or has_silent_channel(measures) or is_empty(measures):
        return
    if sides.identical:
        message = "Left and right are identical, sample for sample: a mono signal in a stereo file."
        yield FileFinding(
            code="dual-mono",
            label="dual mono",
            message=message,
            measured={},
            remedy=make_remedy("fold to mono", "fold", (name,), take="left"),
        )
        return
    if sides.difference_db is not None and sides.difference_db < NEARLY_MONO_DB:
        yield FileFinding(
            code="nearly-mono",
            label="near mono",
            message=f"The L/R difference is {-sides.difference_db:.1f} dB down: effectively mono.",
            measured={"difference_db": sides.difference_db},
            remedy=make_remedy("fold to mono", "fold", (name,), take="sum"),
        )
        return
    if sides.polarity_change is not None:
        yield _about_polarity_change(sides.polarity_change)
        return
    late = list(find_delay(sides, form))
    if not (late and sides.delay.inverted) and (inverted := find_inversion("left and right", sides, form)):
        yield inverted
        return
    if not late and _looks_like_mid_side(name, sides):
        yield FileFinding(
            code="mid-side-like",
            label="M/S encoded",
            message=f"Channel 2 is {sides.balance_db:.1f} dB below channel 1 and uncorrelated with it, as side is with "
            "mid: this looks like M/S, not left and right.",
            measured={"balance_db": sides.balance_db or 0.0, "correlation": sides.correlation},
            remedy=make_remedy("decode", "decode"),
        )
        return
    if not late and _are_unrelated(sides, form):
        yield _about_two_recordings(sides, measures)
        return
    yield from late
    yield from _about_balance(sides, form, measures)


def find_inversion(who: str, sides: StereoMeasures, form: Form) -> FileFinding | None:
    """Two channels out of polarity: as a whole, or as their lows and all their bands say; else None."""
    correlation = sides.correlation or 0.0
    lows = next((band for band in sides.bands if band.high_hz <= LOWS_HZ and band.level_db >= LOWS_SOUND_DB), None)
    in_bands = (
        lows is not None
        and lows.correlation <= LOWS_OPPOSITE
        and correlation <= WHOLE_BELOW
        and all(band.correlation < 0 for band in sides.bands if band.level_db >= BAND_SOUNDS_DB)
        and form.frames >= MIN_SECONDS * form.rate
    )
    if correlation >= OPPOSITE and not in_bands:
        return None
    loss = "everything" if sides.mono_fold_loss_db is None else f"{sides.mono_fold_loss_db:.1f} dB"
    how = f"correlation {format_signed(correlation)}"
    if lows is not None and in_bands:
        below = f"{format_signed(lows.correlation)} below {LOWS_HZ:.0f} Hz"
        how = f"correlation {below}, negative in every band, {format_signed(correlation)} in all"
    return FileFinding(
        code="opposite-polarity",
        label="out of polarity",
        message=f"{_capitalize(who)} are out of polarity ({how}): a mono sum would lose {loss}.",
        measured={
            "correlation": correlation,
            "mono_fold_loss_db": sides.mono_fold_loss_db or "inf",
            **({"lows": lows.correlation} if lows else {}),
        },
        remedy=make_remedy("invert right", "polarity", channels="right"),
    )


def _are_unrelated(sides: StereoMeasures, form: Form) -> bool:
    """Whether two channels are separate recordings: next to nothing of one is in the other, and they come and go by
    themselves, or take turns, as two who talk do, each with spill of the other.
    """
    envelopes = sides.envelope_correlation
    if abs(sides.correlation or 0.0) >= NOT_CORRELATED or envelopes is None:
        return False
    apart = envelopes < TAKE_TURNS or (envelopes < OWN_ENVELOPES and sides.coherence < NOT_COHERENT)
    return apart and form.frames >= MIN_SECONDS * form.rate


def _about_two_recordings(sides: StereoMeasures, measures: Measures) -> FileFinding:
    """Two voices, or two of anything, one to a channel."""
    leans = sides.balance_db or 0.0
    turns = (sides.envelope_correlation or 0.0) < TAKE_TURNS
    louder, quieter = ("left", "right") if leans > 0 else ("right", "left")
    message = (
        f"Left and right have nothing in common (correlation {format_signed(sides.correlation or 0.0)}): two recordings"
    )
    message += ", and one is quiet while the other sounds." if turns else "."
    if abs(leans) >= LEANS_DB:
        message += f" {_capitalize(louder)} is {abs(leans):.1f} dB louder than {quieter}."
    others = [make_remedy("hush the spill", "level") if turns else None, _both_equally_loud(measures)]
    return FileFinding(
        code="unrelated-channels",
        label="two recordings",
        message=message,
        measured={
            "correlation": sides.correlation or 0.0,
            "coherence": sides.coherence,
            "envelope_correlation": sides.envelope_correlation or 0.0,
            "balance_db": leans,
        },
        remedy=make_remedy("split", "split"),
        others=tuple(remedy for remedy in others if remedy),
    )


def _about_polarity_change(change: PolarityChange) -> FileFinding:
    """One channel is inverted up to a moment, or from it on."""
    inverted_after = change.after < 0
    over = Stretch(start=change.seconds) if inverted_after else Stretch(end=change.seconds)
    where = f"from {change.seconds:.1f} s" if inverted_after else f"up to {change.seconds:.1f} s"
    wrong, right = (change.after, change.before) if inverted_after else (change.before, change.after)
    return FileFinding(
        code="polarity-changes",
        label="polarity changes",
        message=f"Left and right are out of polarity {where} (correlation {format_signed(wrong)}), and in polarity "
        f"{'before' if inverted_after else 'after'} that ({format_signed(right)}).",
        measured={"seconds": change.seconds, "before": change.before, "after": change.after},
        remedy=make_remedy(f"invert right {where}", "polarity", over=over, channels="right"),
    )


def find_delay(sides: StereoMeasures, form: Form) -> Iterator[FileFinding]:
    """A delay between two channels, where it is sure and audible, and whether one of them is inverted besides."""
    delay = sides.delay
    sure = delay.confidence >= SURE_OF_DELAY and delay.confidence >= DELAY_OVER_NEXT * delay.runner_up
    if not sure or abs(delay.samples) < max(2, MIN_DELAY_SECONDS * form.rate):
        return
    by = abs(delay.samples)
    text = format_samples(by)
    later, early = ("right", "left") if delay.samples > 0 else ("left", "right")
    inverted = " and inverted" if delay.inverted else ""
    yield FileFinding(
        code="late-and-inverted" if delay.inverted else "delay",
        label=f"{text} samples late" + (", inverted" if delay.inverted else ""),
        message=f"{_capitalize(later)} is {text} samples ({1000 * by / form.rate:.2f} ms) later than {early}{inverted} "
        f"(confidence {delay.confidence:.2f}).",
        measured={"samples": delay.samples, "ms": round(1000 * delay.samples / form.rate, 3),
                  "confidence": delay.confidence},
        remedy=make_remedy(
            "align, invert right" if delay.inverted else "align",
            "align",
            followed_by=(Polarity(channels="right"),) if delay.inverted else (),
            delay=(by, 0) if delay.samples > 0 else (0, by),
        ),
    )  # fmt: skip


def _about_balance(sides: StereoMeasures, form: Form, measures: Measures) -> Iterator[FileFinding]:
    leans = sides.balance_db
    same_sound = sides.coherence >= SAME_SOUND_COHERENCE and form.channels == 2
    if leans is None or abs(leans) < LEANS_DB:
        return
    louder, quieter = ("left", "right") if leans > 0 else ("right", "left")
    level, equal = balance_remedy(leans) if same_sound else None, _both_equally_loud(measures)
    yield FileFinding(
        code="level-difference",
        label=f"{abs(leans):.0f} dB unbalanced",
        message=f"{_capitalize(louder)} is {abs(leans):.1f} dB louder than {quieter}.",
        measured={"balance_db": leans},
        # Where one channel is so far below that no gain of ours reaches it, it is crosstalk: a file of its own shows
        # it.
        remedy=level or make_remedy("split", "split"),
        others=() if same_sound or equal is None else (equal,),
    )


def _both_equally_loud(measures: Measures) -> Remedy | None:
    """Of two voices, one to a channel: a mono mix in which each is as loud as the other, by BS.1770."""
    left, right = (channel.loudness_lufs for channel in measures.channels)
    if left is None or right is None:
        return None
    share = 1 / (1 + 10 ** min((right - left) / 20, 300.0))  # far beyond any file, where a float would end
    return make_remedy("one mono mix, both equally loud", "fold", take="blend", blend=round(share, 4))


def _about_peaks(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
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
            message=f"{_capitalize(' and '.join(where))}: four or more samples in a row at full scale, in {runs} "
            f"({whole.clipped_samples:,} samples). It was clipped when it was recorded or mixed.",
            measured={"runs": whole.clipped_runs, "samples": whole.clipped_samples},
        )


def _about_offset(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
    offsets = [abs(channel.steady_dc) for channel in measures.channels]
    if max(offsets) < OFFSET:
        return
    worst = offsets.index(max(offsets))
    yield FileFinding(
        code="dc-offset",
        label="DC offset",
        message=f"{_capitalize(_channel(form, worst))} has a DC offset of {100 * offsets[worst]:.2g} % of full "
        "scale: edits may click.",
        measured={"dc": measures.channels[worst].steady_dc},
    )


def _about_bits(name: str, form: Form, measures: Measures) -> Iterator[FileFinding]:  # noqa: ARG001
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


_CHECKS: Final[Sequence[Callable[[str, Form, Measures], Iterator[FileFinding]]]] = (
    _about_damage,
    _about_silence,
    _about_hum,
    _about_stereo,
    _about_peaks,
    _about_offset,
    _about_bits,
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


def _looks_like_mid_side(name: str, sides: StereoMeasures) -> bool:
    below = sides.balance_db or 0.0
    unrelated = abs(sides.correlation or 0.0) < UNRELATED
    if _NAMED_MID_SIDE.search(name):
        return unrelated and below > SIDE_BELOW_DB
    return unrelated and below > SIDE_FAR_BELOW_DB and (sides.envelope_correlation or 0.0) > SAME_ENVELOPE


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


def _capitalize(text: str) -> str:
    """A text as a sentence begins; LFE stays LFE."""
    return text[:1].upper() + text[1:]


def format_signed(correlation: float) -> str:
    return f"{correlation:+.2f}".replace("-", "−")


def balance_remedy(leans: float) -> Remedy | None:
    """A level that raises the quieter channel to the other; `leans` is by how many dB left is louder."""
    gains = (0.0, round(leans, 2)) if leans > 0 else (round(-leans, 2), 0.0)
    return make_remedy("level", "level", gains_db=gains)


def _invalid(count: int) -> str:
    return "1 invalid sample" if count == 1 else f"{count:,} invalid samples"


def _ceil_hundredth(decibels: float) -> float:
    """To the next hundredth above a level that is known to a thousandth, so that what is lowered by it fits."""
    return round(decibels + 0.0005 + 0.005, 2)
