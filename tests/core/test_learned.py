"""The learned mask: what it looks at, that its layers are what NumPy makes of them, and what it tells apart."""

import math

import numpy as np
import pytest

from wedge_turn.core.centre import kernels, learned
from wedge_turn.core.centre.pages import PAGE, Pages
from wedge_turn.core.centre.wedge import Shape, Wedge
from wedge_turn.demo.sounds import A, E, O, hertz
from wedge_turn.demo.synth import noise, put, reed, room, shaped, struck, sung

STEP = 44_100 / 4_096


def sides(seed: int, frames: int, lines: int) -> list[np.ndarray]:
    rng = np.random.default_rng(seed)
    return [rng.standard_normal((frames, lines)) + 1j * rng.standard_normal((frames, lines)) for _ in range(2)]


def parts(seed: int, frames: int = 12, lines: int = 400) -> list[np.ndarray]:
    left, right = (side.astype(np.complex64) for side in sides(seed, frames, lines))
    both, lean, apart, across = made = [np.empty((frames, lines), np.float32) for _ in range(4)]
    kernels.energies(left, right, both, lean, apart, across)
    return made


def seen_of(made: list[np.ndarray], opening: float = 1.0) -> np.ndarray:
    both, lean, apart, across = made
    return learned.features(both, lean, apart, across, opening, STEP)


def test_likeness_and_lean_are_those_of_the_spectra() -> None:
    """2·Re(L·R*)/(A + B) and |A − B|/(A + B) of each frame alone, here without any window around it."""
    left, right = sides(1, 3, 60)
    seen = seen_of(parts(1, 3, 60))
    assert seen.shape == (learned.FEATURES, 3, 60)
    a, b = np.abs(left) ** 2, np.abs(right) ** 2
    assert np.allclose(seen[3], 2 * (left * right.conj()).real / (a + b), atol=1e-5)
    assert np.allclose(seen[4], np.abs(a - b) / (a + b), atol=1e-5)
    three = [np.sum(x, axis=0) for x in (left * right.conj(), a + b)]
    assert np.allclose(seen[0][1], 2 * three[0].real / three[1], atol=1e-5)
    assert np.allclose(seen[1][1], 2 * np.abs(three[0]) / three[1], atol=1e-5)


def test_a_line_is_judged_by_its_surroundings_alone() -> None:
    """So that what is left away beyond them changes nothing."""
    made = parts(2)
    whole = seen_of(made)
    part = seen_of([x[2:, : 200 + learned.REACH] for x in made])
    inside = slice(learned.MARGIN, None)
    assert np.allclose(part[:, inside, :200], whole[:, 2:][:, inside, :200], atol=1e-4)


def test_an_opening_widens_what_is_like() -> None:
    made = parts(3)
    narrow, wide = seen_of(made), seen_of(made, 2.0)
    assert np.allclose(1 - wide[3], (1 - narrow[3]) / 4, atol=1e-5)
    assert np.allclose(wide[4], narrow[4] / 2, atol=1e-5)


@pytest.mark.parametrize("rectified", [True, False])
def test_a_layer_is_a_product_of_matrices(rectified: bool) -> None:
    rng = np.random.default_rng(4)
    seen, weights, bias = (rng.standard_normal(shape).astype(np.float32) for shape in ((17, 301), (17, 40), (40,)))
    out = np.empty((40, 301), np.float32)
    kernels.layer(seen, weights, bias, rectified, out)
    expected = weights.T.astype(np.float64) @ seen + bias[:, None]
    assert np.allclose(out, np.maximum(expected, 0) if rectified else expected, atol=1e-4)


def test_what_was_taught_is_a_small_network_from_the_features_to_a_share() -> None:
    layers = learned.load_layers()
    sizes = [layers[0][0].shape[0], *(len(bias) for _, bias in layers)]
    assert (sizes[0], sizes[-1]) == (learned.FEATURES, 1)
    assert all(weights.shape == (a, b) for (weights, _), a, b in zip(layers, sizes, sizes[1:], strict=False))
    shares = learned.gains(seen_of(parts(5)), layers)
    assert shares.shape == (12, 400)
    assert (shares >= 0).all()
    assert (shares <= 1).all()


def little_mix() -> tuple[np.ndarray, np.ndarray]:
    """A sung lead in a room; bass, strokes and organ notes aside: made here, and for this test only."""
    rng, rate, frames = np.random.default_rng(31), 44_100, 3 * PAGE
    lead, middle, left, right = (np.zeros(frames) for _ in range(4))
    for n, note in enumerate((60, 64, 67, 65, 62, 60, 64)):
        put(
            lead,
            shaped(sung(np.full(24_000, hertz(note)), (A, O, E)[n % 3], rate, rng), 0.04, 0.1, rate),
            0.6 * n,
            rate,
        )
        put(middle, 0.5 * struck(hertz(36), 0.5, rate, [(1, 1, 0.6), (2, 0.4, 0.4)]), 0.6 * n, rate)
        put(middle, shaped(noise(rng, 0.15, rate, 200, 6_000), 0.001, 0.12, rate), 0.3 + 0.6 * n, rate, 0.5)
        put(left, reed(hertz(48 + n % 3), 0.6, rate), 0.6 * n, rate, 0.1)
        put(right, reed(hertz(55 + n % 2), 0.6, rate), 0.6 * n, rate, 0.1)
    voice = np.stack(room(0.3 * lead / np.abs(lead).max(), rng, rate, 1.4, 0.25), axis=1)
    return voice, 0.3 * np.stack([middle + left, middle + right], axis=1)


def test_a_voice_is_told_from_strokes_in_the_middle_better_than_by_the_formula() -> None:
    """SDR of the lead, from 180 Hz to 10 kHz: the formula takes every stroke for centre."""
    lead, rest = little_mix()
    mix = lead + rest

    def read(start: int, frames: int) -> np.ndarray:
        out = np.zeros((frames, 2))
        first, last = max(0, start), min(len(mix), start + frames)
        out[first - start : last - start] = mix[first:last]
        return out

    found = {}
    for mask in (False, True):
        made = Wedge(read, 44_100, Shape(learned=mask))
        centre = Pages(made.page, len(mix)).read(0, len(mix), 1, 2)
        found[mask] = 10 * math.log10(np.sum(lead**2) / np.sum((lead - centre) ** 2))
    assert found[True] > found[False] + 1


@pytest.mark.parametrize("mask", [False, True])
def test_after_the_loudest_sound_silence_is_silence(mask: bool) -> None:
    """Sums that run along time and lines keep a trace of what went by: it must not become anything that is heard."""
    rng = np.random.default_rng(7)
    mix = np.zeros((4 * PAGE, 2))
    mix[20_000:90_000] = rng.standard_normal((70_000, 1)) * 0.3 + rng.standard_normal((70_000, 2)) * 0.01
    mix[200_000:205_000, 0] = 1.0

    def read(start: int, frames: int) -> np.ndarray:
        out = np.zeros((frames, 2))
        first, last = max(0, start), min(len(mix), start + frames)
        out[first - start : last - start] = mix[first:last]
        return out

    made = Wedge(read, 44_100, Shape(low=0.0, high=22_050.0, learned=mask))
    pages = Pages(made.page, len(mix))
    sides, centre = (pages.read(0, len(mix), part, 2) for part in (0, 1))
    for found in (sides, centre):
        assert np.isfinite(found).all()
        assert np.abs(found[100_000:190_000]).max() < 1e-9
    assert np.abs(sides + centre - mix).max() < 1e-12
