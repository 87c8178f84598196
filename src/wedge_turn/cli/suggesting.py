"""What `suggest` prints: a turn with its settings, as `apply` takes them, measured from a file."""

import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Final, Literal

from wedge_turn.core.clips import Clip, join_channels
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.measure import (
    HUSH_BIN,
    draw_pictures,
    measure_blending,
    measure_delays,
    measure_mean_squares,
    suggest_hushes,
)
from wedge_turn.core.session import Session
from wedge_turn.core.turns import Align, AnyTurn, Fold, Level, format_samples, int_if_integral, write_turn
from wedge_turn.core.worksheet import source_ref

What = Literal["hushes", "delay", "blend"]
# As much as a voice in the other microphone is usually lowered by: common practice, no source.
LEVEL_DB: Final = -12.0


def suggest(
    what: What, paths: Sequence[Path], level_db: float = LEVEL_DB, threshold_db: float | None = None
) -> tuple[str, str]:
    """The turn as `apply` takes it, and in a sentence what was measured.

    Raises BadRequestError where there is nothing to suggest, or for files that can't be laid side by side.
    """
    with Session.open(paths) as session:
        clips = [session.engine.clip(source_ref(key)) for key in session.paths]
        if len({clip.form.rate for clip in clips}) > 1:
            raise BadRequestError("The files have different sample rates", help="Resample one of them first.")
        clip = join_channels(clips) if len(clips) > 1 else clips[0]
        if clip.form.channels < 2:
            raise BadRequestError(f"{paths[0].name} is mono", help="Give a file of two channels or more, or two files.")
        measure: dict[What, Callable[[], tuple[AnyTurn, str]]] = {
            "hushes": lambda: _find_hushes(clip, level_db, threshold_db),
            "delay": lambda: _find_delay(clip),
            "blend": lambda: _find_blend(clip),
        }
        turn, sentence = measure[what]()
        if len(clips) > 1:
            sentence += " Merge the files in this order first, with --set order=given."
        return write_turn(turn), sentence


def _find_hushes(clip: Clip, level_db: float, threshold_db: float | None) -> tuple[AnyTurn, str]:
    rate = clip.form.rate
    with tempfile.TemporaryDirectory() as folder:
        draw_pictures(clip, Path(folder))
        powers, size = measure_mean_squares(clip, Path(folder), HUSH_BIN)
        suggestion = suggest_hushes(powers, size, rate, threshold_db)
    if not suggestion.hushes or suggestion.threshold_db is None:
        raise BadRequestError(
            "No hushes to suggest: no channel has a voice of its own that the others pick up as spill",
            help="Listen, and write the hushes yourself.",
        )
    hushes = [
        {
            "channel": hush.channel,
            "start": round(hush.start / rate, 3),
            "end": round(min(hush.end, clip.form.frames) / rate, 3),
            "gain_db": level_db,
        }
        for hush in suggestion.hushes
    ]
    turn = Level.model_validate({"hush": hushes})
    number = "1 hush" if len(hushes) == 1 else f"{len(hushes)} hushes"
    return turn, f"{number}, where a channel is {suggestion.threshold_db:g} dB or more below the loudest other."


def _find_delay(clip: Clip) -> tuple[AnyTurn, str]:
    form = clip.form
    late = measure_delays(clip.read, form.frames, form.channels, form.rate)
    drifting = [delay.channel for delay in late if delay.drift is not None]
    unsure = [delay.channel for delay in late if delay.samples is None and delay.drift is None]
    if drifting:
        raise BadRequestError(f"Channel {drifting[0]} drifts against the first", help="No single delay aligns them.")
    if unsure:
        raise BadRequestError(
            f"No delay between channel 1 and channel {unsure[0]} is sure", help="They may not carry the same sound."
        )
    behind = [0.0, *(delay.samples or 0.0 for delay in late)]
    turn = Align(delay=tuple(int_if_integral(round(max(behind) - by, 2)) for by in behind))
    delays = ", ".join(
        f"channel {delay.channel} is {format_samples(round(abs(delay.samples or 0.0), 2))} samples"
        f" {'late' if (delay.samples or 0.0) >= 0 else 'early'}{' and inverted' if delay.inverted else ''}"
        for delay in late
    )
    together = not any(turn.delay) and not any(delay.inverted for delay in late)
    return turn, "All channels are aligned." if together else f"{delays[:1].upper()}{delays[1:]}."


def _find_blend(clip: Clip) -> tuple[AnyTurn, str]:
    form = clip.form
    if form.channels != 2:
        raise BadRequestError(f"Two channels are blended; {form.channels} were given")
    (late,) = measure_delays(clip.read, form.frames, 2, form.rate)
    best = measure_blending(clip.read, form.frames, form.rate, 0.5, 0, flip=False, late=late).best
    if best is None:
        raise BadRequestError("There is nothing to blend: a channel is silent", help="Check the file.")
    sure = "by the low end alone" if best.confidence is None else f"confidence {best.confidence:.2f}"
    turn = Fold(take="sum", flip_right=best.flip, delay=best.delay)
    return turn, f"The low end is {best.gain_db:+.1f} dB against the sum as it is ({sure}).".replace("-", "−")
