"""Removing the centre and keeping it: laws, signals with known answers, and what is proved on the written files."""

import math
from collections.abc import Callable
from pathlib import Path

import mir_eval
import numpy as np
import pytest
import scipy.signal
from hypothesis import given, settings
from hypothesis import strategies as st

from support.helpers import engine_on, read_ints, write_wav
from wedge_turn.core.audio import WavFile, open_files
from wedge_turn.core.centre.bands import design_band_filter, shape_band
from wedge_turn.core.centre.extraction import VOICE_PAGE
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.errors import TurnInputError
from wedge_turn.core.pages import PAGE
from wedge_turn.core.turns import Centre
from wedge_turn.core.worksheet import parse_turn

RATE = 44_100
FRAMES = 3 * PAGE + 1_234
LONG = VOICE_PAGE + PAGE + 1_234  # more than one page of every method


def centre(folder: Path, block: np.ndarray, turn: Centre, rate: int = RATE, bits: int = 24) -> Engine:
    encoding = {16: "s16", 24: "s24"}[bits]
    ints = np.rint(block * 2 ** (bits - 1)).astype(np.int64)
    path = write_wav(folder / f"{abs(hash(turn))}-{rate}.wav", ints, rate=rate, encoding=encoding)  # type: ignore[arg-type]
    return engine_on(turn, WavFile(path), names=["song"])


def heard(engine: Engine, output: int = 0) -> np.ndarray:
    clip = engine.clip(f"step:only:{output}")
    return clip.read(0, clip.form.frames)


def sine(hertz: float, frames: int = FRAMES, rate: int = RATE) -> np.ndarray:
    return np.asarray(0.2 * np.sin(2 * np.pi * hertz * np.arange(frames) / rate))


def noise(seed: int, frames: int = FRAMES) -> np.ndarray:
    return np.random.default_rng(seed).standard_normal(frames) * 0.1


def level(part: np.ndarray, whole: np.ndarray) -> float:
    return 10 * math.log10(np.mean(part**2) / np.mean(whole**2))


def at(block: np.ndarray, hertz: float, rate: int = RATE) -> float:
    """The amplitude of a sine in the middle of a channel."""
    middle = block[PAGE // 2 : -PAGE // 2]
    window = np.hanning(len(middle))
    t = np.arange(len(middle)) / rate
    return float(2 * abs(np.sum(middle * window * np.exp(-2j * np.pi * hertz * t))) / window.sum())


MIX = np.stack([sine(997) + sine(300) + sine(2_000), sine(997) + sine(3_000)], axis=1)
SETTINGS = [
    Centre(), Centre(position=0.3, strength=2.5), Centre(protect_drums=True, keep="both"),
    Centre(low_hz=200, depth=0.6),
    Centre(method="wedge"), Centre(method="wedge", keep="both"),
    Centre(method="wedge", keep="centre", low_hz=0, high_hz="max"), Centre(method="wedge", position=-0.6, opening=1.7),
    Centre(method="wedge", strength=0.7, depth=0.6), Centre(method="wedge", protect_drums=True),
    Centre(method="difference"),
    Centre(method="difference", low_hz=200), Centre(method="difference", low_hz=150, high_hz=6_000),
    Centre(method="difference", low_hz=150, lows="left"), Centre(method="difference", keep="both"),
    Centre(method="difference", low_hz=150, lows="right"),
]  # fmt: skip


@pytest.mark.parametrize("turn", SETTINGS, ids=lambda t: t.model_dump_json(exclude_defaults=True))
def test_a_stretch_alone_equals_the_same_stretch_of_the_whole(turn: Centre, tmp_path: Path) -> None:
    length = LONG if turn.method == "voice" else FRAMES
    mix = np.stack([noise(1, length), noise(2, length)], axis=1)
    whole = heard(centre(tmp_path, mix, turn))
    rng = np.random.default_rng(3)
    for _ in range(4):
        start = int(rng.integers(-50, length))
        frames = int(rng.integers(1, 2 * PAGE))
        alone = centre(tmp_path, mix, turn).clip("step:only:0").read(start, frames)
        inside = slice(max(0, -start), max(0, min(frames, length - start)))
        assert alone[inside].tobytes() == whole[start + inside.start : start + inside.stop].tobytes()
        assert not alone[: inside.start].any()
        assert not alone[inside.stop :].any()


@given(
    position=st.floats(-1, 1), opening=st.floats(0.2, 3), strength=st.floats(0.3, 5), depth=st.floats(0, 1),
    low=st.sampled_from([0.0, 60.0, 180.0, 400.0]), rate=st.sampled_from([8_000, 44_100, 96_000, 192_000]),
    method=st.sampled_from(["wedge", "voice"]),
)  # fmt: skip
@settings(max_examples=15)
def test_sides_and_centre_add_up(
    tmp_path: Path, position: float, opening: float, strength: float, depth: float, low: float, rate: int, method: str
) -> None:
    mix = np.stack([noise(4, 90_000), noise(5, 90_000) + sine(300, 90_000)], axis=1)
    turn = Centre.model_validate(
        {"keep": "both", "method": method, "position": position, "opening": opening if method == "wedge" else 1,
         "strength": strength, "depth": depth, "low_hz": low, "high_hz": "max"}
    )  # fmt: skip
    engine = centre(tmp_path, mix, turn, rate)
    source = engine.clip("source:0").read(0, 90_000)
    assert np.abs(heard(engine, 0) + heard(engine, 1) - source).max() < 1e-12


@pytest.mark.parametrize("turn", [Centre(keep="both", method="wedge"), Centre(keep="both", method="difference"),
                                  Centre(keep="both")])  # fmt: skip
@pytest.mark.parametrize("bits", [16, 24])
def test_written_files_add_up_within_minus_120_db(turn: Centre, bits: int, tmp_path: Path) -> None:
    engine = centre(tmp_path, MIX * 0.4, turn, bits=bits)
    manifest = deliver(engine, Order(("step:only:0", "step:only:1")), tmp_path / "out")
    (proof,) = [p.proof for p in manifest.proofs]
    assert proof.kind == "round-trip"
    assert proof.exact or (proof.residual_dbfs or 0) < -120
    assert [file.depth for file in manifest.files] == ["24", "24"]
    sides, middle = (read_ints(tmp_path / "out" / file.name) for file in manifest.files)
    source = read_ints(next(tmp_path.glob("*.wav")), bits) << (24 - bits)
    back = np.hstack([middle + sides / 2, middle - sides / 2]) if turn.method == "difference" else sides + middle
    assert np.abs(back - source).max() <= 4
    alone = centre(tmp_path, MIX * 0.4, turn.model_copy(update={"keep": "sides"}))
    single = deliver(alone, Order(("step:only:0",)), tmp_path / "alone")
    assert single.proofs[0].proof.kind == "recomputed"


def test_the_difference_takes_a_centred_sine_below_60_db(tmp_path: Path) -> None:
    sides = heard(centre(tmp_path, MIX, Centre(method="difference")))
    assert sides.shape[1] == 1
    assert 20 * math.log10(at(sides[:, 0], 997) / 0.2) < -60
    for hertz in (300, 2_000, 3_000):  # what is in one side alone keeps its level
        assert at(sides[:, 0], hertz) == pytest.approx(0.2, rel=1e-3)


@pytest.mark.parametrize(("low", "high"), [(200.0, None), (120.0, 6_000.0)])
def test_the_lows_follow_the_crossover(low: float, high: float | None, tmp_path: Path) -> None:
    """What stays of a centred sine is what the crossover does not pass: scipy.signal.freqz as the reference."""
    taps = design_band_filter(RATE, low, RATE / 2 if high is None else high)
    turn = Centre(method="difference", low_hz=low, high_hz=high or "max")
    for hertz in (50, 100, low, 400, 1_000, 5_000, 9_000):
        both = np.stack([sine(hertz)] * 2, axis=1)
        sides = heard(centre(tmp_path, both, turn))
        passed = abs(scipy.signal.freqz(taps, worN=[hertz], fs=RATE)[1][0])
        assert at(sides[:, 0], hertz) / 0.2 == pytest.approx(abs(1 - passed), abs=2e-3)
    assert abs(scipy.signal.freqz(taps, worN=[low], fs=RATE)[1][0]) == pytest.approx(0.5, abs=0.01)


def test_lows_of_one_side_give_a_mono_file(tmp_path: Path) -> None:
    for lows, channel in (("left", 0), ("right", 1)):
        turn = parse_turn("centre", {"method": "difference", "low_hz": "150", "lows": lows})
        mix = np.stack([sine(50) + sine(997), sine(70) + sine(997)], axis=1)
        sides = heard(centre(tmp_path, mix, turn))  # type: ignore[arg-type]
        assert sides.shape[1] == 1
        assert at(sides[:, 0], (50, 70)[channel]) == pytest.approx(0.2, rel=0.01)
        assert at(sides[:, 0], (70, 50)[channel]) < 0.002
        assert at(sides[:, 0], 997) < 0.0003


def test_the_wedge_takes_a_centred_sine_and_leaves_those_aside(tmp_path: Path) -> None:
    engine = centre(tmp_path, MIX, Centre(method="wedge", keep="both"))
    sides, middle = heard(engine, 0), heard(engine, 1)
    assert 20 * math.log10(at(sides[:, 0], 997) / 0.2) < -20
    assert at(middle[:, 0], 997) == pytest.approx(0.2, rel=0.1)
    assert at(sides[:, 0], 2_000) == pytest.approx(0.2, rel=0.11)
    assert at(sides[:, 1], 3_000) == pytest.approx(0.2, rel=0.11)


@pytest.mark.parametrize("position", [-0.7, -0.3, 0.5])
def test_the_wedge_follows_its_position(position: float, tmp_path: Path) -> None:
    """A source panned by the law of equal power is taken out where it stands, and left where the wedge is not."""
    angle = np.pi / 4 * (1 + position)
    mix = np.stack([np.cos(angle) * sine(997), np.sin(angle) * sine(997)], axis=1)
    there = heard(centre(tmp_path, mix, Centre(method="wedge", position=position)))
    elsewhere = heard(centre(tmp_path, mix, Centre(method="wedge", position=-math.copysign(1, position))))
    assert level(there, mix) < -20
    assert level(elsewhere, mix) > -3


def test_little_of_unrelated_noise_is_centre(tmp_path: Path) -> None:
    mix = np.stack([noise(6), noise(7)], axis=1)
    wedges = [Centre(method="wedge", low_hz=0, high_hz="max"), Centre(method="wedge", strength=3)]
    for turn in (Centre(), Centre(method="wedge"), *wedges):
        assert level(heard(centre(tmp_path, mix, turn)), mix) > -1.5


def test_outside_the_band_and_without_depth_nothing_changes(tmp_path: Path) -> None:
    low = np.stack([sine(60)] * 2, axis=1)
    middle = slice(PAGE // 2, -PAGE // 2)  # where a sine begins and ends, it is not only itself
    assert level((heard(centre(tmp_path, low, Centre(method="wedge", low_hz=240))) - low)[middle], low[middle]) < -60
    engine = centre(tmp_path, MIX, Centre(method="wedge", depth=0))
    assert np.array_equal(heard(engine), engine.clip("source:0").read(0, FRAMES))
    half = heard(centre(tmp_path, np.stack([sine(997)] * 2, axis=1), Centre(method="wedge", depth=0.5)))
    assert at(half[:, 0], 997) == pytest.approx(0.1, rel=0.02)


def test_drums_are_protected(tmp_path: Path) -> None:
    """Strokes in the middle stay; a held note in the middle goes."""
    rng = np.random.default_rng(8)
    strokes = np.zeros(FRAMES)
    for start in range(4_000, FRAMES - 4_000, 22_050):
        strokes[start : start + 3_000] += rng.standard_normal(3_000) * np.exp(-np.arange(3_000) / 400) * 0.4
    mix = np.stack([strokes + sine(997)] * 2, axis=1)
    whole = {"method": "wedge", "low_hz": 0.0, "high_hz": "max"}
    turns = [Centre.model_validate({**whole, "protect_drums": on}) for on in (False, True)]
    bare, kept = (heard(centre(tmp_path, mix, turn))[:, 0] for turn in turns)
    struck = strokes != 0
    assert np.mean(kept[struck] ** 2) > 4 * np.mean(bare[struck] ** 2)
    assert at(kept, 997) < 0.06


def test_edges_rise_over_half_an_octave() -> None:
    band = shape_band(48_000, 2_049, 200.0, 10_000.0)
    hertz = np.arange(2_049) * 24_000 / 2_048
    assert band[np.argmin(abs(hertz - 200))] == pytest.approx(0.5, abs=0.03)
    assert not band[hertz < 165].any()
    assert (band[(hertz > 240) & (hertz < 8_400)] == 1).all()
    assert (shape_band(48_000, 2_049, 0, 24_000) == 1).all()


@pytest.mark.filterwarnings("ignore:mir_eval.separation")
@pytest.mark.filterwarnings("ignore::FutureWarning")
def test_separation_is_better_than_the_classic_way(tmp_path: Path) -> None:
    """SDR by mir_eval (Vincent, Gribonval and Févotte, IEEE TASLP 14, 2006), on a mix with known parts."""
    frames = 6 * RATE
    t = np.arange(frames) / RATE
    lead = sum(np.sin(2 * np.pi * 220 * n * t + 3 * np.sin(2 * np.pi * 5 * t)) / n for n in range(1, 12))
    lead = lead * (np.sin(2 * np.pi * t / 1.5) > -0.3) * 0.1
    rng = np.random.default_rng(9)
    wide = [scipy.signal.lfilter([1], [1, -0.95], rng.standard_normal(frames)) * 0.02 for _ in range(2)]
    bass = 0.2 * np.sin(2 * np.pi * 55 * t)
    rest = np.stack([bass + wide[0], bass + wide[1]], axis=1)
    mix = rest + lead[:, None]
    shares = {}
    for name, turn in (
        ("wedge", Centre(keep="both", method="wedge")),
        ("voice", Centre(keep="both")),
        ("difference", Centre(keep="both", method="difference")),
    ):
        engine = centre(tmp_path, mix, turn)
        sides, middle = heard(engine, 0), heard(engine, 1)
        scores = [
            mir_eval.separation.bss_eval_sources(
                np.stack([rest[:, 0], lead]), np.stack([sides[:, 0], middle[:, 0]]), False
            )[0]
        ]
        shares[name] = scores[0]
    assert (shares["wedge"] > shares["difference"] + 4).all()
    assert (shares["voice"] > shares["difference"] + 4).all()


def test_a_difference_has_a_centre_that_is_one(tmp_path: Path) -> None:
    """(L + R)/2, mono, never a channel of 2R − L; within a band, where there is none, it is refused."""
    mix = np.stack([noise(1, 5_000), noise(2, 5_000)], axis=1)
    engine = centre(tmp_path, mix, Centre(method="difference", keep="both"))
    sides, middle = heard(engine, 0), heard(engine, 1)
    source = engine.clip("source:0").read(0, 5_000)
    assert np.array_equal(sides[:, 0], source[:, 0] - source[:, 1])
    assert np.array_equal(middle[:, 0], (source[:, 0] + source[:, 1]) / 2)
    for within in ({"low_hz": 180.0}, {"high_hz": 9_000.0}, {"lows": "left"}):
        for keep in ("centre", "both"):
            turn = Centre.model_validate({"method": "difference", "keep": keep, **within})
            with pytest.raises(TurnInputError, match="a difference within a band has no centre"):
                centre(tmp_path, mix, turn)


def clicks(sound: np.ndarray, border: int) -> bool:
    """Whether the sound bends at a border as nowhere near it: by its second differences, (frames, channels)."""
    bends = np.abs(np.diff(sound[border - 2_000 : border + 2_000], n=2, axis=0)).max(axis=1)
    around = np.concatenate([bends[:1_990], bends[2_008:]])
    return bool(bends[1_994:2_004].max() > 1.5 * around.max())


@pytest.mark.parametrize("method", ["wedge", "voice"])
def test_real_recordings_come_through_without_clicks(method: str, recording: Callable[[str], Path]) -> None:
    """Nothing that is no number, and no step at the border of two pages that the rest does not have."""
    size = VOICE_PAGE if method == "voice" else PAGE
    names = ("loop_garzul.flac", "Marimbach.ogg", "perc_bell.flac")
    for name in names:
        with open_files([recording(name)]) as [(_, file)]:
            engine = engine_on(Centre.model_validate({"keep": "both", "method": method}), file)
            for output in (0, 1):
                sound = heard(engine, output)
                assert np.isfinite(sound).all()
                borders = range(size, len(sound) - 2_000, size)
                assert borders or method == "voice"
                for border in borders:
                    assert not clicks(sound, border)
                    broken = sound.copy()
                    broken[border:] += 4 * np.abs(np.diff(sound[border - 2_000 : border + 2_000], axis=0)).max()
                    assert clicks(broken, border)


def test_contradictory_settings_are_refused(tmp_path: Path) -> None:
    with pytest.raises(TurnInputError, match="nothing lies between"):
        centre(tmp_path, MIX, Centre(low_hz=5_000, high_hz=400))
    with pytest.raises(TurnInputError, match="only the wedge has a width"):
        centre(tmp_path, MIX, Centre(opening=2))
    with pytest.raises(TurnInputError, match="stereo"):
        engine_on(Centre(), WavFile(write_wav(tmp_path / "m.wav", np.zeros((10, 1), np.int64))))


def test_lines_of_the_learned_mask_are_computed_by_the_voice_method(tmp_path: Path) -> None:
    stored = {"kind": "centre", "method": "learned", "opening": 1.7, "strength": 2.0}
    turn = Centre.model_validate(stored)
    assert (turn.method, turn.opening, turn.strength) == ("voice", 1, 2)
    engine = centre(tmp_path, MIX, turn)
    (finding,) = engine.sheet.outcomes["only"].findings
    assert finding.code == "method-replaced"
    assert Centre.model_validate(turn.model_dump()) == turn
    assert not centre(tmp_path, MIX, Centre(strength=2.0)).sheet.outcomes["only"].findings
