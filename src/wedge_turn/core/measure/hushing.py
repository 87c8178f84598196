"""Where hushes would help: one voice to a channel, and each channel carries the spill of the others.

The level of every channel is taken over windows of 50 ms. A channel is *behind* by how much the loudest of the others
is above it. It is suggested to lower it where it is behind by more than a threshold while that other one is active: as
loud as speech is above the channel's own floor. Where both speak neither is behind, so neither is lowered.

    start      when it is behind by the threshold, and what it said itself has died away (`HOLD`)
    goes on    while it is behind by 3 dB less, or through a pause of at most `PAUSE`
    end        so long before it is no longer behind that no onset is cut (`AHEAD`)

What would be shorter than `SHORTEST` is left out. The threshold, where none is given, follows from the spill: as far
below the speech as the channels are apart while one of them speaks alone, less a margin for how that varies. Common
practice for gates (threshold, hysteresis, hold, look-ahead); no published source.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

HUSH_BIN: Final = 0.01  # seconds, about
WINDOW: Final = 0.05  # seconds
MAX_CHANNELS: Final = 8
HYSTERESIS: Final = 3.0  # dB
HOLD: Final = 0.08  # seconds
AHEAD: Final = 0.08  # seconds
PAUSE: Final = 0.4  # seconds
MIN_LENGTH: Final = 0.3  # seconds
ACTIVE_ABOVE_FLOOR: Final = 12.0  # dB
MIN_ACTIVE: Final = -70.0  # dBFS
MARGIN: Final = 7.0  # dB
THRESHOLDS: Final = (3.0, 40.0)  # dB
# Channels that are closer together than this while somebody speaks hold no voice of their own.
MIN_GAP: Final = 6.0  # dB

Levels = NDArray[np.float64]


@dataclass(frozen=True)
class SuggestedHush:
    """A stretch of one channel, counted from 1, in frames."""

    channel: int
    start: int
    end: int


@dataclass(frozen=True)
class HushSuggestion:
    """What to lower, in the order of time, and the threshold in dB that it follows from; None where the channels are
    not one voice each.
    """

    threshold_db: float | None
    hushes: tuple[SuggestedHush, ...]


def levels(powers: NDArray[np.float64], bins_per_second: float) -> Levels:
    """Levels in dB of windows of 50 ms around each bin. `powers` are mean squares, (bins, channels)."""
    width = max(1, round(WINDOW * bins_per_second))
    before = width // 2
    total = np.cumsum(np.pad(powers, ((before + 1, width - 1 - before), (0, 0))), axis=0)
    mean = (total[width:] - total[:-width]) / width
    return 10 * np.log10(np.maximum(mean, 1e-14))


def suggest_hushes(
    powers: NDArray[np.float64], bin_frames: int, rate: int, threshold_db: float | None = None
) -> HushSuggestion:
    """Hushes for a clip with mean squares `powers`, (bins, channels), of bins of `bin_frames`, about 10 ms each."""
    bins, channels = powers.shape
    if not 2 <= channels <= MAX_CHANNELS or bins == 0:
        return HushSuggestion(None, ())
    per_second = rate / bin_frames
    level = levels(powers, per_second)
    active = level > np.maximum(np.percentile(level, 10, axis=0) + ACTIVE_ABOVE_FLOOR, MIN_ACTIVE)
    behind, led = _behind(level, active)
    threshold = _threshold(behind, led) if threshold_db is None else float(np.clip(threshold_db, *THRESHOLDS))
    if threshold is None:
        return HushSuggestion(None, ())
    stretches = [
        SuggestedHush(channel + 1, start * bin_frames, end * bin_frames)
        for channel in range(channels)
        for start, end in _stretches(behind[:, channel], led[:, channel], active[:, channel], threshold, per_second)
    ]
    return HushSuggestion(round(threshold, 1), tuple(sorted(stretches, key=lambda hush: (hush.start, hush.channel))))


def _behind(level: Levels, active: NDArray[np.bool_]) -> tuple[Levels, NDArray[np.bool_]]:
    """By how many dB each channel is below the loudest of the others, and whether that one is active."""
    behind, led = np.empty_like(level), np.empty_like(active)
    for channel in range(level.shape[1]):
        other_levels = np.delete(level, channel, axis=1)
        loudest = other_levels.argmax(axis=1)
        behind[:, channel] = other_levels[np.arange(len(level)), loudest] - level[:, channel]
        led[:, channel] = np.delete(active, channel, axis=1)[np.arange(len(level)), loudest]
    return behind, led


def _threshold(behind: Levels, led: NDArray[np.bool_]) -> float | None:
    """From how far behind each channel is while another one speaks; that which is least so decides."""
    gaps = []
    for channel in range(behind.shape[1]):
        spill = behind[led[:, channel] & (behind[:, channel] > 0), channel]
        if spill.size:
            gaps.append(float(np.median(spill)))
    if not gaps or min(gaps) < MIN_GAP:
        return None
    return float(np.clip(min(gaps) - MARGIN, min(gaps) / 2, THRESHOLDS[1]))


def _stretches(
    behind: Levels, led: NDArray[np.bool_], speaks: NDArray[np.bool_], threshold: float, per_second: float
) -> list[tuple[int, int]]:
    """First bins and ends of the stretches in which a channel is lowered. `speaks` is whether it is active itself."""
    stays = led & (behind > threshold - HYSTERESIS)
    own = speaks & ~stays
    starts = np.flatnonzero(led & (behind > threshold))
    hold, ahead, pause, shortest = (round(seconds * per_second) for seconds in (HOLD, AHEAD, PAUSE, MIN_LENGTH))
    stretches: list[tuple[int, int]] = []
    stop = 0
    for start in starts.tolist():
        if start < stop:
            continue
        stop = last = start
        while stop < len(behind) and not own[stop] and stop - last <= pause:
            last = stop if stays[stop] else last
            stop += 1
        # Where its own voice comes next it is back before that; after a longer pause it was back when that began.
        end = stop - ahead if stop < len(behind) and own[stop] else last + 1
        if end - (start + hold) >= shortest:
            stretches.append((start + hold, end))
        stop = max(stop, start + 1)
    return stretches
