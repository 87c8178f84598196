"""The voice mask: its bands, features and layers against a few plain lines of NumPy, what a frame depends on, and that
it tells a voice from what else stands in the middle.
"""

import math
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
import scipy.signal
from numpy.typing import NDArray

from wedge_turn.core.centre import Extraction, Shape
from wedge_turn.core.centre import spectra as spectra_of
from wedge_turn.core.centre.voice import layers, network, recent
from wedge_turn.core.centre.voice.bands import BANDS, EDGES, FRACTION, LINES, LOWER
from wedge_turn.core.centre.voice.features import OF_A_BAND, OF_A_LINE, compute_features
from wedge_turn.core.pages import Pages
from wedge_turn.core.recent import LruCache
from wedge_turn.demo.sounds import A, E, O, hertz
from wedge_turn.demo.synth import noise, put, reed, room, shaped, struck, sung

RATE = 44_100
Array = NDArray[Any]


def random(seed: int, *shape: int) -> NDArray[np.float32]:
    return np.random.default_rng(seed).standard_normal(shape).astype(np.float32)


def spectra(seed: int, frames: int) -> tuple[Array, Array]:
    left, right = (random(seed + n, frames, LINES) + 1j * random(seed + n + 2, frames, LINES) for n in (0, 1))
    return left.astype(np.complex64), (0.5 * left + right).astype(np.complex64)


def test_bands_are_single_lines_at_first_and_fill_the_rest() -> None:
    widths = np.diff(EDGES)
    assert (EDGES[0], EDGES[-1], len(widths)) == (6, LINES, BANDS)
    assert (widths[:60] == 1).all()
    assert widths.min() >= 1
    assert (widths[-20:] > 10).all()
    assert ((FRACTION >= 0) & (FRACTION <= 1)).all()
    assert (np.diff(LOWER + FRACTION) >= 0).all()


def test_features_are_those_of_their_formulas() -> None:
    left, right = spectra(1, 9)
    of_bands, of_lines = compute_features(left, right)
    assert (of_bands.shape, of_lines.shape) == ((9, BANDS, OF_A_BAND), (9, OF_A_LINE, LINES))
    a, b, cross = np.abs(left) ** 2, np.abs(right) ** 2, left * right.conj()
    frame = 4
    near = slice(3, 6)
    t, c = (a + b)[frame], cross.real[frame]
    t3, c3, d3 = ((x[near]).sum(axis=0) for x in (a + b, cross.real, cross.imag))
    wide_t, wide_c = (np.convolve(x, np.ones(3), "same") for x in (t3, c3))
    expected = [
        2 * c / t, side_over_mid(t, c), 2 * c3 / t3, 2 * np.hypot(c3, d3) / t3,
        np.abs((a - b)[near].sum(axis=0)) / t3, side_over_mid(t3, c3), side_over_mid(wide_t, wide_c),
        np.log(t / (np.convolve(t, np.ones(15), "same") / 15)) / 3, np.log(t / (a + b)[1:8].mean(axis=0)) / 2,
    ]  # fmt: skip
    for n, values in enumerate(expected):
        assert np.allclose(of_lines[frame, n], np.clip(values, -3, 3), atol=2e-3), n
    band = [np.add.reduceat(x, EDGES[:-1], axis=1) for x in (a, b, cross.real, cross.imag)]
    whole = band[0] + band[1]
    level = whole.mean(axis=1).sum() / 13  # all nine frames lie within six of the middle one
    assert np.allclose(of_bands[frame, :, 0], np.log(whole[frame] / level + 1e-5) / 3, atol=1e-3)
    assert np.allclose(of_bands[frame, :, 1], 2 * band[2][frame] / whole[frame], atol=1e-4)
    assert np.allclose(of_bands[frame, :, 4], 2 * np.abs(band[3][frame]) / whole[frame], atol=1e-4)
    swapped = compute_features(right, left)
    assert all(np.allclose(x, y, atol=1e-3) for x, y in zip((of_bands, of_lines), swapped, strict=True))
    louder = compute_features(8 * left, 8 * right)[1]
    assert np.allclose(louder, of_lines, atol=1e-3)


def side_over_mid(t: Array, c: Array) -> Array:
    return np.asarray(np.clip(np.log(np.maximum(t - 2 * c, 1e-9) / np.maximum(t + 2 * c, 1e-9)) / 4, -2.5, 2.5))


@pytest.mark.parametrize(("step", "dilation"), [(1, 1), (2, 1), (1, 4)])
def test_a_convolution_is_the_sum_of_its_products(step: int, dilation: int) -> None:
    x, weights, bias = random(1, 11, 20, 3), random(2, 3, 5, 3, 4), random(3, 4)
    padded = np.pad(x, ((dilation, dilation), (2, 2), (0, 0)))
    expected = np.zeros((11, 20 // step, 4))
    for frame in range(11):
        for band in range(0, 20, step):
            window = padded[frame : frame + 2 * dilation + 1 : dilation, band : band + 5]
            expected[frame, band // step] = np.einsum("tfn,tfnm->m", window, weights) + bias
    found = layers.convolution(x, weights, bias, step=step, dilation=dilation)
    assert np.allclose(found, np.maximum(expected, 0), atol=1e-4)


@pytest.mark.parametrize("version", network.RESIDUALS)
def test_the_network_is_its_layers_one_after_the_other(version: int) -> None:
    """Against a plain reference in float64, with random weights of the shapes that are stored."""
    shapes = {name: array.shape for name, array in network.load_weights(version).items()}
    weights = {
        name: random(n, *shape) / np.float32(math.sqrt(math.prod(shape[:-1])))
        for n, (name, shape) in enumerate(shapes.items())
    }
    of_bands, of_lines = random(91, 7, BANDS, OF_A_BAND), random(92, 7, OF_A_LINE, LINES)
    assert np.allclose(
        network.run_network(of_bands, of_lines, weights),
        reference(of_bands, of_lines, weights, {2: 3, 3: 5, 4: 5}[version]),
        atol=1e-4,
    )


def reference(of_bands: Array, of_lines: Array, weights: network.Weights, residuals: int) -> Array:
    def mix(x: Array, name: str) -> Array:
        return np.asarray(x @ weights[f"{name}.weights"] + weights.get(f"{name}.bias", 0))

    def convolved(x: Array, name: str, step: int = 1, dilation: int = 1) -> Array:
        kernel = weights[f"{name}.weights"].astype(np.float64)
        tall, wide = kernel.shape[:2]
        padded = np.pad(x, ((dilation * (tall // 2),) * 2, (wide // 2,) * 2, (0, 0)))
        out = np.zeros((*x.shape[:2], kernel.shape[3]))
        for t in range(tall):
            for f in range(wide):
                out += padded[t * dilation : t * dilation + len(x), f : f + x.shape[1]] @ kernel[t, f]
        return np.asarray(np.maximum(out[:, ::step] + weights[f"{name}.bias"], 0))

    x, levels = convolved(of_bands.astype(np.float64), "enter"), []
    for n in range(3):
        levels.append(x)
        x = convolved(x, f"down{n}", step=2)
    for n in range(residuals):
        x = np.maximum(x + mix(convolved(x, f"near{n}", dilation=2**n), f"back{n}"), 0)
        if n < residuals - 1:
            few = np.maximum(mix(x, f"narrow{n}"), 0)
            whole = np.maximum(mix(few.reshape(len(few), -1), f"whole{n}"), 0)
            x = x + mix(np.maximum(mix(whole, f"apart{n}"), 0).reshape(few.shape), f"widen{n}")
    for n in (2, 1, 0):
        x = convolved(np.maximum(np.repeat(mix(x, f"lift{n}"), 2, axis=1) + levels[n], 0), f"smooth{n}")
    context = mix(x, "context")
    at = LOWER + FRACTION
    spread = np.stack([[np.interp(at, np.arange(BANDS), row) for row in frame.T] for frame in context])
    seen = of_lines.transpose(0, 2, 1)
    hidden = np.maximum(mix(seen, "line0") + spread[:, 1:].transpose(0, 2, 1), 0)
    logits = mix(np.maximum(mix(hidden, "line1"), 0), "line2")[..., 0] + spread[:, 0]
    return np.asarray(1 / (1 + np.exp(-logits)))


@pytest.mark.parametrize(("version", "margin"), [(2, 17), (3, 41), (4, 41)])
def test_a_frame_depends_on_its_margin_and_no_more(version: int, margin: int) -> None:
    def shares(left: Array, right: Array) -> Array:
        return network.compute_shares(left, right, version)

    assert network.find_margin(version) == margin
    left, right = spectra(5, 2 * margin + 5)
    whole = shares(left, right)
    inner = slice(margin, -margin)
    changed = left.copy()
    changed[0] *= 3
    beyond = slice(margin + 1, -1)
    assert np.allclose(shares(changed, right)[beyond], whole[beyond], atol=1e-5)
    alone = shares(left[2:], right[2:])
    assert np.allclose(alone[inner][: len(whole) - 2 * margin - 2], whole[2:][inner], atol=1e-5)
    near = left.copy()
    near[margin - 3] *= 3
    assert not np.allclose(shares(near, right)[inner], whole[inner], atol=1e-5)


@pytest.mark.parametrize("version", network.RESIDUALS)
@pytest.mark.parametrize(("before", "after"), [(0, 0), (3, 0), (0, 50), (17, 17), (41, 41), (60, 1)])
def test_frames_left_out_at_the_ends_change_nothing_in_the_others(version: int, before: int, after: int) -> None:
    pair = spectra(6, 100)
    whole = network.compute_shares(*pair, version)
    part = network.compute_shares(*pair, version, before, after)
    assert part.shape == (100 - before - after, pair[0].shape[1])
    assert np.allclose(part, whole[before : 100 - after], atol=1e-5)


def test_pages_that_were_seen_are_not_asked_about_again(monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[int] = []

    def counted(left: Array, right: Array, version: int, before: int, after: int) -> Array:
        asked.append(version)
        return network.compute_shares(left, right, version, before, after)

    def get(page: tuple[Array, Array], version: int = 4) -> Array:
        return recent.get_shares(*page, version)

    monkeypatch.setattr(recent, "compute_shares", counted)
    monkeypatch.setattr(recent, "_known", LruCache(recent.CACHE_SIZE))
    pages = [spectra(seed, 20) for seed in range(recent.CACHE_SIZE + 1)]
    first = get(pages[0])
    assert np.array_equal(first, network.compute_shares(*pages[0]))
    first[:] = 7  # the caller's own
    assert np.array_equal(get(pages[0]), network.compute_shares(*pages[0]))
    assert asked == [4]
    assert np.array_equal(get(pages[0], 2), network.compute_shares(*pages[0], 2))
    assert asked == [4, 2]
    swapped = get((pages[0][1], pages[0][0]))
    assert asked == [4, 2, 4]
    assert np.array_equal(swapped, network.compute_shares(pages[0][1], pages[0][0]))
    assert len(recent.get_shares(*pages[0], 4, 4, 5)) == 20 - 4 - 5
    assert asked == [4, 2, 4, 4]
    for page in pages:
        get(page)
    asked.clear()
    get(pages[-1])
    assert asked == []
    get(pages[0])
    assert len(asked) == 1  # it was the oldest, and is forgotten


def mix_of(seed: int = 31) -> tuple[Array, Array]:
    """A sung lead in a room; bass and strokes in the middle, organ notes aside: made here, and for this test only."""
    rng, frames = np.random.default_rng(seed), 5 * RATE
    lead, middle, left, right = (np.zeros(frames) for _ in range(4))
    for n, note in enumerate((60, 64, 67, 65, 62, 60, 64)):
        vowel = (A, O, E)[n % 3]
        put(lead, shaped(sung(np.full(24_000, hertz(note)), vowel, RATE, rng), 0.04, 0.1, RATE), 0.6 * n, RATE)
        put(middle, 0.5 * struck(hertz(36), 0.5, RATE, [(1, 1, 0.6), (2, 0.4, 0.4)]), 0.6 * n, RATE)
        put(middle, shaped(noise(rng, 0.15, RATE, 200, 6_000), 0.001, 0.12, RATE), 0.3 + 0.6 * n, RATE, 0.5)
        put(left, reed(hertz(48 + n % 3), 0.6, RATE), 0.6 * n, RATE, 0.1)
        put(right, reed(hertz(55 + n % 2), 0.6, RATE), 0.6 * n, RATE, 0.1)
    voice = np.stack(room(0.3 * lead / np.abs(lead).max(), rng, RATE, 1.4, 0.25), axis=1)
    return voice, 0.3 * np.stack([middle + left, middle + right], axis=1)


def reader(mix: Array) -> Callable[[int, int], Array]:
    def read(start: int, frames: int) -> Array:
        out = np.zeros((frames, 2))
        first, last = max(0, start), min(len(mix), start + frames)
        if last > first:
            out[first - start : last - start] = mix[first:last]
        return out

    return read


def extracted(mix: Array, shape: Shape) -> tuple[Array, Array]:
    extraction = Extraction(reader(mix), RATE, len(mix), shape)
    pages = Pages(extraction.page, len(mix), extraction.size)
    return pages.read(0, len(mix), 0, 2), pages.read(0, len(mix), 1, 2)


def sdr(true: Array, found: Array) -> float:
    return 10 * math.log10(np.sum(true**2) / np.sum((true - found) ** 2))


def test_a_voice_is_told_from_drums_and_bass_in_the_middle() -> None:
    """SDR of the lead: the wedge takes every stroke for centre."""
    lead, rest = mix_of()
    voice, wedge = (extracted(lead + rest, shape)[1] for shape in (Shape(0, 1, 1.5, 1, 0, RATE / 2, voice=3), Shape()))
    assert sdr(lead, voice) > sdr(lead, wedge) + 3


def test_strength_band_depth_position_and_drum_protection_work_on_it() -> None:
    lead, rest = mix_of()
    mix = lead + rest
    free = {"low": 0.0, "high": RATE / 2, "voice": network.LATEST}
    usual = extracted(mix, Shape(**free))[1]  # type: ignore[arg-type]
    more, less = (extracted(mix, Shape(**free, strength=q))[1] for q in (0.5, 3.0))  # type: ignore[arg-type]
    assert np.sum(more**2) > np.sum(usual**2) > np.sum(less**2)
    assert np.allclose(extracted(mix, Shape(**free, depth=0.5))[1], usual / 2, atol=1e-6)  # type: ignore[arg-type]
    banded = extracted(mix, Shape(low=1_000.0, high=3_000.0, voice=network.LATEST))[1]
    below = scipy.signal.butter(8, 600, fs=RATE, output="sos")
    assert np.sum(scipy.signal.sosfilt(below, banded, axis=0) ** 2) < 1e-3 * np.sum(
        scipy.signal.sosfilt(below, usual, axis=0) ** 2
    )
    guarded = extracted(mix, Shape(**free, protect_drums=True))[1]  # type: ignore[arg-type]
    assert 0 < np.sum(guarded**2) < np.sum(usual**2)
    angle = 0.5 * np.pi / 4
    aside = mix @ np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    turned_back = extracted(aside, Shape(**free, position=0.5))[1]  # type: ignore[arg-type]
    turned_lead = lead @ np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    assert sdr(turned_lead, turned_back) == pytest.approx(sdr(lead, usual), abs=0.3)


@pytest.mark.parametrize("voice", [0, 2, 3, 4])
def test_after_the_loudest_sound_silence_is_silence(voice: int) -> None:
    """Sums that run along time and lines keep a trace of what went by: it must not become anything that is heard."""
    rng = np.random.default_rng(7)
    mix = np.zeros((6 * RATE, 2))
    mix[20_000:90_000] = rng.standard_normal((70_000, 1)) * 0.3 + rng.standard_normal((70_000, 2)) * 0.01
    mix[200_000:205_000, 0] = 1.0
    sides, centre = extracted(mix, Shape(low=0.0, high=RATE / 2, voice=voice))
    for found in (sides, centre):
        assert np.isfinite(found).all()
        assert np.abs(found[120_000:190_000]).max() < 1e-6


@pytest.mark.parametrize("rate", [8_000, 22_050, 96_000])
def test_rates_with_fewer_lines_and_with_more(rate: int) -> None:
    lead, rest = mix_of()
    mix = scipy.signal.resample_poly(lead + rest, rate, RATE, axis=0)
    extraction = Extraction(reader(mix), rate, len(mix), Shape(low=0.0, high=rate / 2, voice=network.LATEST))
    sides, centre = extraction.page(0)
    assert np.isfinite(centre).all()
    assert np.abs(sides + centre - reader(mix)(0, extraction.size)).max() < 1e-12


@pytest.mark.parametrize("rate", [48_000, 96_000])
def test_a_voice_comes_out_as_well_at_other_rates(rate: int) -> None:
    lead, rest = mix_of()
    figures = []
    for at in (RATE, rate):
        voice, others = (scipy.signal.resample_poly(part, at // 300, RATE // 300, axis=0) for part in (lead, rest))
        mix = voice + others
        extraction = Extraction(reader(mix), at, len(mix), Shape(low=0.0, high=at / 2, voice=network.LATEST))
        figures.append(sdr(voice, Pages(extraction.page, len(mix), extraction.size).read(0, len(mix), 1, 2)))
    assert figures[1] == pytest.approx(figures[0], abs=1)


@pytest.mark.parametrize("voice", [2, 3])
def test_earlier_versions_see_a_signal_mirrored_beyond_its_ends(voice: int) -> None:
    lead, rest = mix_of()
    shape = Shape(low=0.0, high=RATE / 2, voice=voice)
    alone = Extraction(reader(lead + rest), RATE, 5 * RATE, shape).size
    mix = np.tile(lead + rest, (2, 1))[:alone]
    longer = np.concatenate([mix[::-1], mix, mix[::-1]])
    assert np.array_equal(extracted(mix, shape)[1], extracted(longer, shape)[1][alone : 2 * alone])


def test_the_latest_version_sees_nothing_before_a_signal_and_after_it_the_signal_mirrored() -> None:
    """Against the whole signal in one piece: two pages and a bit, which begin and end in the middle of the music."""
    lead, rest = mix_of()
    mix = np.tile(lead + rest, (3, 1))[10_000:620_001]
    window = spectra_of.make_window(4_096)
    padded = np.concatenate([np.zeros((2_048, 2)), mix, mix[: -50 * 2_048 : -1]])
    count = len(padded) // 2_048 - 1
    left, right = (spectra_of.transform(channel, count, window) for channel in padded.T)
    shares = network.compute_shares(left, right)
    expected = np.zeros_like(padded)
    for channel, spectrum in enumerate((left, right)):
        for n, frame in enumerate(np.fft.irfft(spectrum * shares, axis=1) * window):
            expected[2_048 * n : 2_048 * n + 4_096, channel] += frame
    found = extracted(mix, Shape(low=0.0, high=RATE / 2, voice=network.LATEST))[1]
    assert np.abs(found - expected[2_048 : 2_048 + len(mix)]).max() < 1e-5
