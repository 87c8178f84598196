"""Even out: gains that give the channels of a clip the same loudness.

    g_i = max_j L_j − L_i − e

L_i is the integrated loudness of channel i by itself [1]: its gates leave out where the channel is silent or only holds
the spill of another. e lowers all of them together where one would otherwise rise above −1 dBTP, the highest true peak
that [2] permits, so that nothing clips.

[1] ITU-R BS.1770-5, Algorithms to measure audio programme loudness and true-peak audio level, 2023.
[2] EBU R 128, Loudness normalisation and permitted maximum level of audio signals, 2020.
"""

from typing import Final

from wedge_turn.core.measure.measures import Measures

MAX_DBTP: Final = -1.0
MAX_GAIN: Final = 48.0


def match_loudness(measures: Measures) -> tuple[float, ...] | None:
    """A gain in dB, to hundredths, for each channel; None for one channel, and where one is silent or too quiet."""
    levels = [(channel.loudness_lufs, channel.true_peak_dbtp) for channel in measures.channels]
    measured = [(loudness, peak) for loudness, peak in levels if loudness is not None and peak is not None]
    if len(measured) < 2 or len(measured) < len(levels):
        return None
    loudest = max(loudness for loudness, _ in measured)
    excess = max(0.0, *(peak + loudest - loudness - MAX_DBTP for loudness, peak in measured))
    gains = tuple(round(loudest - loudness - excess, 2) for loudness, _ in measured)
    return gains if max(gains) <= MAX_GAIN else None
