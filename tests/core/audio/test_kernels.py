"""What compiled code may never do: write outside its arrays, or into one that is read only."""

import numpy as np
import pytest
from numba.core.errors import TypingError

from wedge_turn.core.audio import encode
from wedge_turn.core.audio import kernels as audio
from wedge_turn.core.audio.pcm import decode
from wedge_turn.core.form import ENCODINGS
from wedge_turn.core.measure import kernels as measure

SIZES = [0.0, 1.0, 1e6, 1e19, 1e25, 3e38, np.inf, -np.inf, np.nan]


@pytest.mark.parametrize("left", SIZES)
@pytest.mark.parametrize("right", SIZES)
def test_no_direction_lies_outside_the_field(left: float, right: float) -> None:
    """Also of an energy that float32 does not hold, whose angle is NaN."""
    spectra = [np.full((3, 9), value, np.complex64) for value in (left, right)]
    around = np.zeros(36 + 16)
    measure.directions(spectra[0], spectra[1], 1, around[8:-8])
    assert not around[:8].any()
    assert not around[-8:].any()
    energy = np.zeros((2 + 2, 61))
    measure.paint_map(spectra[0], spectra[1], np.arange(9) % 2, energy[1:-1])
    assert not energy[[0, -1]].any()


def test_an_array_that_is_read_only_is_not_written_to() -> None:
    for writes in (
        lambda: audio.encode_s24(np.zeros(4, np.int32), np.frombuffer(bytes(12), np.uint8)),
        lambda: audio.bytes_to_integers(np.zeros(12, np.uint8), 0, np.frombuffer(bytes(16), np.int32), 1),
        lambda: measure.measure_bins(np.zeros((4, 1)), 2, np.frombuffer(bytes(32), np.float32).reshape(2, 4)),
    ):
        with pytest.raises(TypingError):
            writes()  # type: ignore[no-untyped-call]


def test_arrays_that_do_not_lie_in_one_piece_are_read_as_they_are() -> None:
    """Every other byte, and one from an odd address."""
    raw = np.random.default_rng(1).integers(0, 256, 6_001, np.uint8)
    for piece in (raw[1::2], raw[1:3_001]):
        samples = decode(np.ascontiguousarray(piece), ENCODINGS["s24"], 1)
        out = np.empty(len(piece) // 3)
        audio.bytes_to_integers(piece, 0, out, 2.0**-23)
        assert np.array_equal(out, samples[:, 0])
        assert bytes(encode(samples, ENCODINGS["s24"])[0]) == piece.tobytes()


@pytest.mark.parametrize(
    ("samples", "places"),
    [([0, 1, -1], 0), ([0.5], 1), ([2.0**-23, 1], 23), ([0.1], 31), ([1e-45], 31), ([0.75, 3.0], 2), ([], 0)],
)
def test_binary_places_are_the_fewest_that_hold_every_sample(samples: list[float], places: int) -> None:
    assert measure.binary_places(np.array(samples, np.float64), 0, 31) == places
