"""The numbers of every turn from its settings, by the formulas of docs/turns.md, written a second time: what the plan
says a line does is held against them, and what is proved is computed by them.

Names decide which input of a merge is left, and which is mid: that alone is taken from the plan (`picked`).
"""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

import numpy as np

from wedge_turn.proof.recipe import Form, Hush, Over, Recipe, Step

_DAY = 24 * 3600
_SCALES = {"half": 0.5, "power": math.sqrt(0.5)}
_LAWS = {"average": 0.5, "power": math.sqrt(0.5), "full": 1.0}
Rows = list[list[float]]


def apply_laws(recipe: Recipe) -> Recipe:
    """The recipe with each step's numbers as its settings have them. Raises ValueError, with its turn, for a step of
    which the plan says something else.
    """
    by_law = replace(recipe, steps={key: _check(step) for key, step in recipe.steps.items()})
    for step in by_law.steps.values():
        if any(form.rate != by_law.rate_of(ref) for ref, form in zip(step.inputs, step.forms, strict=True)):
            raise ValueError(str(step.turn.get("kind")))
    return by_law


def _check(step: Step) -> Step:
    law = _law(step)
    same = (
        np.allclose(np.array(law.matrix), np.array(step.matrix), rtol=2.0**-50, atol=0) if not _over_time(law) else True
    )
    if not same or (law.offsets, law.frames) != (step.offsets, step.frames):
        raise ValueError(str(step.turn.get("kind")))
    return law


def _over_time(step: Step) -> bool:
    return step.computed or not step.is_matrix


def _law(step: Step) -> Step:
    turn, forms = step.turn, step.forms
    channels, frames = sum(form.channels for form in forms), forms[0].frames
    still = (0,) * channels
    if step.bypassed:
        return replace(step, matrix=_rows(np.eye(channels).tolist()), offsets=still, frames=frames)
    over = None if step.stretch is None else _over(step.stretch, forms[0])
    kind = turn["kind"]
    if kind == "centre":
        return replace(step, offsets=still, frames=frames, over=over, computed=True)
    if kind == "resample" and turn["rate"] != forms[0].rate:
        rate = int(turn["rate"])
        return replace(step, offsets=still, frames=-(-frames * rate // forms[0].rate), computed=True, rate=rate)
    offsets, delays = still, (0.0,) * channels
    hushes: tuple[Hush, ...] = ()
    if kind in ("merge", "decode", "sum"):
        offsets, frames = _timeline(kind, turn, forms)
    elif kind == "trim":
        start, end = _trimmed(turn, forms[0])
        offsets, frames = (-start,) * channels, end - start
    elif kind in ("align", "fold"):
        offsets, delays, frames = _later(kind, turn, forms[0])
    elif kind == "level":
        hushes = _hushes(turn["hush"], forms[0])
    added = _added(turn, channels, step.bits) if kind == "dc" else ()
    matrix = _rows(_matrix(kind, turn, forms, step.picked))
    law = replace(
        step, matrix=matrix, offsets=offsets, delays=delays, frames=frames, added=added, hushes=hushes, over=over
    )
    # What is said of turns over time are no offsets: they are sources of their own to what follows.
    return law if law.is_matrix else replace(law, inverse=None)


def _matrix(kind: str, turn: Mapping[str, Any], forms: Sequence[Form], picked: Sequence[int]) -> Rows:
    channels = sum(form.channels for form in forms)
    match kind:
        case "split" | "trim" | "align" | "dc" | "resample":
            return _identity(channels)
        case "merge":
            if sorted(picked) != list(range(channels)):
                raise ValueError("merge")
            return [[float(n == at) for n in range(channels)] for at in picked]
        case "swap":
            return [[0.0, 1.0], [1.0, 0.0]]
        case "polarity":
            chosen = turn["channels"]
            names = {"left": [1], "right": [2], "both": list(range(1, channels + 1))}
            inverted = names.get(chosen, [1]) if isinstance(chosen, str) else list(chosen)
            inverted = [1] if channels == 1 else inverted
            return [
                [0.0 if n != m else -1.0 if n + 1 in inverted else 1.0 for n in range(channels)]
                for m in range(channels)
            ]
        case "encode":
            k = _SCALES[turn["scale"]]
            return [[k, k], [k, -k]]
        case "decode":
            k = 1.0 if turn["scale"] == "half" else _SCALES["power"]
            side = 0.0 if turn["side_db"] == "off" else k * _factor(turn["side_db"])
            side = -side if turn["flip_side"] else side
            if len(forms) == 1 and tuple(picked) != ((1, 0) if turn["exchange"] else (0, 1)):
                raise ValueError("decode")
            rows = [[0.0, 0.0], [0.0, 0.0]]
            for row, sign in zip(rows, (1.0, -1.0), strict=True):
                row[picked[0]], row[picked[1]] = k, sign * side
            return rows
        case "width":
            own, opposite = 0.5 + turn["width"] / 2, 0.5 - turn["width"] / 2
            return [[own, opposite], [opposite, own]]
        case "matrix":
            return [[turn["ll"], turn["lr"]], [turn["rl"], turn["rr"]]]
        case "fold":
            sign = -1.0 if turn["flip_right"] else 1.0
            law, blend = _LAWS[turn["law"]], turn["blend"]
            takes = {
                "left": [1.0, 0.0],
                "right": [0.0, 1.0],
                "sum": [law, sign * law],
                "blend": [1 - blend, sign * blend],
            }
            return [takes[turn["take"]]]
        case "sum":
            width, given = forms[0].channels, turn["gains_db"]
            factors = [_factor(given[n]) if n < len(given) else 1.0 for n in range(len(forms))]
            factors = [-factor if n + 1 in turn["flip"] else factor for n, factor in enumerate(factors)]
            return [[factors[n // width] * float(n % width == m) for n in range(channels)] for m in range(width)]
        case "level":
            given = turn["gains_db"]
            gains = [_factor(given[n if len(given) > 1 else 0]) for n in range(channels)]
            return [[gains[m] * float(n == m) for n in range(channels)] for m in range(channels)]
    raise ValueError(kind)


def _timeline(kind: str, turn: Mapping[str, Any], forms: Sequence[Form]) -> tuple[tuple[int, ...], int]:
    """Where each channel lies, and how long the result is: by the starts that were recorded, where all were and all
    takes overlap, else by the starts of the files.
    """
    if len(forms) == 1:
        return (0,) * forms[0].channels, forms[0].frames
    by_record = kind == "decode" or (kind == "merge" and turn["line_up"] == "recorded")
    trims = kind == "merge" and turn["length"] == "trim"
    starts = [form.start_time for form in forms if form.start_time is not None]
    together = len(starts) == len(forms) and max(starts) < min(
        at + form.frames for at, form in zip(starts, forms, strict=True)
    )
    starts = starts if by_record and together else [0] * len(forms)
    ends = [at + form.frames for at, form in zip(starts, forms, strict=True)]
    first, last = (max(starts), min(ends)) if trims else (min(starts), max(ends))
    return tuple(at - first for at, form in zip(starts, forms, strict=True) for _ in range(form.channels)), last - first


def _trimmed(turn: Mapping[str, Any], form: Form) -> tuple[int, int]:
    """From which frame to which; in recorded time of the day before or after too."""
    of_day = turn["time"] == "recorded"
    start = _frame(turn["start"], form, of_day=of_day)
    end = None if turn["end"] == "end" else _frame(turn["end"], form, of_day=of_day)
    if turn["time"] == "file" or form.start_time is None:
        return start, form.frames if end is None else min(end, form.frames)
    day = _DAY * form.rate
    if end is not None and end < start:
        end += day
    since = form.start_time
    for later in (0,) if end is None else (0, day, -day):
        first = max(0, start + later - since)
        last = form.frames if end is None else min(form.frames, end + later - since)
        if first < last:
            return first, last
    raise ValueError("trim")


def _later(kind: str, turn: Mapping[str, Any], form: Form) -> tuple[tuple[int, ...], tuple[float, ...], int]:
    """Whole samples and fractions that each channel goes later, and how long the result is."""
    if kind == "align":
        later = [round(by - min(turn["delay"]), 6) for by in turn["delay"]]
    else:
        delay = turn["delay"] if turn["take"] in ("sum", "blend") else 0
        later = [max(0, -delay), max(0, delay)]
    floors = tuple(math.floor(by) for by in later)
    return floors, tuple(by - at for by, at in zip(later, floors, strict=True)), form.frames + math.ceil(max(later))


def _hushes(hushes: Sequence[Mapping[str, Any]], form: Form) -> tuple[Hush, ...]:
    return tuple(
        Hush(
            hush["channel"] - 1,
            _frame(hush["start"], form),
            _frame(hush["end"], form),
            0.0 if hush["gain_db"] == "mute" else 10.0 ** (hush["gain_db"] / 20.0),
            round(hush["fade_ms"] * form.rate / 1000),
        )
        for hush in hushes
    )


def _over(stretch: Mapping[str, Any], form: Form) -> Over:
    """The fades lie within, and there are none at the start and the end of the clip."""
    start = _frame(stretch["start"], form)
    end = form.frames if stretch["end"] == "end" else min(_frame(stretch["end"], form), form.frames)
    fade = min(round(stretch["fade_ms"] * form.rate / 1000), (end - start) // 2)
    return Over(start, end, 0 if start == 0 else fade, 0 if end == form.frames else fade)


def _frame(place: float | str, form: Form, *, of_day: bool = False) -> int:
    """Seconds, samples as `480s`, or time code, from the clip's start or from midnight."""
    if not isinstance(place, str):
        return round(place * form.rate)
    if place.endswith("s"):
        return int(place[:-1])
    samples = _count_from_midnight(place, form)
    if of_day:
        return samples
    day = _DAY * form.rate
    frame = samples - (form.start_time or 0) % day
    return frame + day if frame < 0 and frame + day < form.frames else frame


def _count_from_midnight(place: str, form: Form) -> int:
    """A time code in samples: frames are counted through, but for the numbers that `;` drops at rates near 30 and 60,
    two or four in every minute that is not a tenth one (SMPTE ST 12-1; from memory).
    """
    code, _, value = place.partition("@")
    frame_rate = _parse_frame_rate(value) if value else Fraction(form.frame_rate)
    counted = round(frame_rate)
    hours, minutes, seconds, frames = (int(part) for part in re.split("[:;]", code))
    minutes += 60 * hours
    number = (60 * minutes + seconds) * counted + frames
    if (";" in code or (form.drops and not value)) and counted % 30 == 0 and frame_rate != counted:
        number -= 2 * (counted // 30) * (minutes - minutes // 10)
    return round(number / frame_rate * form.rate)


def _parse_frame_rate(text: str) -> Fraction:
    """A rate as it is written; those that are written rounded are a thousandth and a bit less than whole."""
    rate = Fraction(text)
    near = Fraction(round(rate) * 1000, 1001)
    return near if rate.denominator > 1 and abs(near - rate) < 0.015 else rate


def _added(turn: Mapping[str, Any], channels: int, bits: int | None) -> tuple[float, ...]:
    """What is added to each channel: of integers a whole number of their steps."""
    offsets = list(turn["offset"]) * (channels if len(turn["offset"]) == 1 else 1)
    if bits is None:
        return tuple(-percent / 100 for percent in offsets)
    return tuple(-round(percent / 100 * 2 ** (bits - 1)) / 2 ** (bits - 1) for percent in offsets)


def _factor(decibels: float) -> float:
    return 1.0 if decibels == 0 else 10.0 ** (decibels / 20.0)


def _identity(size: int) -> Rows:
    return [[float(n == m) for n in range(size)] for m in range(size)]


def _rows(matrix: Rows) -> tuple[tuple[float, ...], ...]:
    return tuple(tuple(row) for row in matrix)
