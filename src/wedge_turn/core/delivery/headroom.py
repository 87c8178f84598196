"""How far above full scale a clip may reach, told before it is written."""

import math
from collections.abc import Mapping, Sequence

from wedge_turn.core.worksheet import Sheet, parse_ref

_STEP = 0.1  # dB: what a level is lowered by is a multiple of it
_ROOM = 0.01  # dB: for rounding and dither at 16 bits, whose step is 0.0003 dB at full scale


def cannot_clip(sheet: Sheet, ref: str, peaks: Mapping[str, Sequence[float | None]]) -> bool:
    """Whether a clip can't exceed full scale, whatever its sources hold at once: by the peaks (dBFS, None for silence)
    of their channels, by reference; sources that are not among them may hold anything.
    """
    for channel in sheet.taps(ref):
        most = 0.0
        for tap in channel:
            if tap.source not in peaks:
                return False
            peak = peaks[tap.source][tap.channel]
            most += abs(tap.gain) * (0.0 if peak is None else 10 ** (peak / 20))
        if most > 1.0 + 1e-9:
            return False
    return True


def list_gain_reductions(over: Mapping[str, float | None]) -> dict[str, float]:
    """By how many dB each clip would have to come down for none to be clipped: all results of a line by the same, so
    that their balance stays. `over` is by how much each exceeds full scale, None where that isn't known.
    """
    highest: dict[tuple[str, str], float] = {}
    for ref, db in over.items():
        line = parse_ref(ref)[:2]
        highest[line] = max(highest.get(line, 0.0), db or 0.0)
    down = {line: round(math.ceil((db + _ROOM) / _STEP) * _STEP, 1) if db else 0.0 for line, db in highest.items()}
    return {ref: down[parse_ref(ref)[:2]] for ref in over}
