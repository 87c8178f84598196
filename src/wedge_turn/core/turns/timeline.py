"""Placing clips on one time axis: by the start times that were recorded, or by the starts of the files."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from wedge_turn.core.turns.outcome import ClipInfo, Finding

Mode = Literal["recorded", "file"]
Length = Literal["pad", "trim"]


@dataclass(frozen=True)
class Timeline:
    """Where each clip lies: `offsets` from the first frame of the result, which has `frames` and begins at `start_time`
    (samples since midnight; None where no clip records one). `overlaps` says whether recorded takes overlap.
    """

    offsets: tuple[int, ...]
    frames: int
    start_time: int | None
    overlaps: bool
    findings: tuple[Finding, ...]


def line_up(inputs: Sequence[ClipInfo], mode: Mode, length: Length, leading: int = 0) -> Timeline:
    """Place clips of one rate; the start of `leading` counts where they are aligned at their starts."""
    recorded = [clip.form.start_time for clip in inputs]
    known_times = [time for time in recorded if time is not None]
    all_known = len(known_times) == len(inputs)
    overlaps = not all_known or max(known_times) < min(
        time + clip.form.frames for time, clip in zip(known_times, inputs, strict=True)
    )
    by_record = mode == "recorded" and all_known and overlaps
    starts = known_times if by_record else [0] * len(inputs)
    ends = [start + clip.form.frames for start, clip in zip(starts, inputs, strict=True)]
    first, last = (min(starts), max(ends)) if length == "pad" else (max(starts), min(ends))
    start_time = first if by_record else recorded[leading]
    if start_time is None and known_times:
        start_time = known_times[0]
    findings = (
        *_about_lengths(inputs, length, last - first),
        *_about_starts(inputs, by_record, start_time),
    )
    return Timeline(tuple(start - first for start in starts), last - first, start_time, overlaps, findings)


def _about_lengths(inputs: Sequence[ClipInfo], length: Length, frames: int) -> list[Finding]:
    lengths = [clip.form.frames for clip in inputs]
    if len(set(lengths)) == 1:
        return []
    by, rate = max(lengths) - min(lengths), inputs[0].form.rate
    shorter = min(inputs, key=lambda clip: clip.form.frames).name
    how_long = "padded with silence" if length == "pad" else f"all trimmed to {frames:,} samples"
    message = f"{shorter} is {by:,} samples ({by / rate:.3f} s) shorter: {how_long}."
    return [Finding(code="length-differs", message=message, measured={"samples": by})]


def _about_starts(inputs: Sequence[ClipInfo], by_record: bool, start_time: int | None) -> list[Finding]:
    recorded = [(clip.name, clip.form.start_time) for clip in inputs]
    times = [time for _, time in recorded if time is not None]
    if len(times) == len(recorded):
        by, rate = max(times) - min(times), inputs[0].form.rate
        if not by:
            return []
        later = max(inputs, key=lambda clip: clip.form.start_time or 0).name
        how = "aligned by timestamp" if by_record else "aligned at the file starts"
        message = f"{later} starts {by:,} samples ({by / rate:.3f} s) later: {how}."
        return [Finding(code="start-differs", message=message, measured={"samples": by})]
    if not times:
        return []
    without = " and ".join(name for name, time in recorded if time is None)
    message = f"{without} has no timestamp: the result takes the other's, and the files are aligned at their starts."
    return [Finding(code="start-unknown", message=message, measured={"start_time": start_time or 0})]
