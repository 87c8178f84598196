"""The window of the short-time transforms, against scipy's."""

import numpy as np
import pytest
import scipy.signal

from wedge_turn.core.windows import hann


@pytest.mark.parametrize("size", [2, 256, 4_096, 8_191])
def test_the_window_is_scipys(size: int) -> None:
    assert np.abs(hann(size) - scipy.signal.windows.hann(size, sym=False)).max() < 1e-12


def test_two_windows_half_a_length_apart_add_up_to_one() -> None:
    assert np.abs(hann(1_024) + np.roll(hann(1_024), 512) - 1).max() < 1e-12
