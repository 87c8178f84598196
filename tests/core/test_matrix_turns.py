"""Every turn that is a matrix: the laws it is held to, published values, and what is written and proved."""

import math
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import Ints, engine_on, noise, read_ints, write_wav
from wedge_turn.core.audio.encoding import ENCODINGS
from wedge_turn.core.audio.form import Form
from wedge_turn.core.audio.pcm import encode
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.engine import Engine
from wedge_turn.core.errors import RateDiffersError, TurnInputError
from wedge_turn.core.findings import findings_of
from wedge_turn.core.manifest import Manifest
from wedge_turn.core.measure.survey import survey
from wedge_turn.core.mixing import IntegerMix
from wedge_turn.core.plan import Plan, Sheet, Step
from wedge_turn.core.proof import Recomputed
from wedge_turn.core.single import turn_with
from wedge_turn.core.turns import (
    Align,
    AnyTurn,
    ClipInfo,
    Decode,
    Encode,
    Fold,
    Level,
    Matrix,
    Merge,
    Polarity,
    Sum,
    Swap,
    Width,
)

RATE = 48_000


def delivered(folder: Path, turn: AnyTurn, *files: Ints, names: list[str] | None = None, bits: int = 24,
              **order: object) -> tuple[Manifest, Path]:  # fmt: skip
    encoding = {16: "s16", 24: "s24", 32: "s32"}[bits]
    folder.mkdir(exist_ok=True, parents=True)
    wavs = [WavFile(write_wav(folder / f"{n}.wav", ints, encoding=encoding)) for n, ints in enumerate(files)]  # type: ignore[arg-type]
    engine = engine_on(turn, *wavs, names=names or [f"in{n}" for n in range(len(files))])
    manifest = deliver(engine, Order(tuple(engine.sheet.ends()), **order), folder / "out")  # type: ignore[arg-type]
    return manifest, folder / "out" / manifest.files[0].name


def quiet(seed: int, frames: int, channels: int, bits: int = 24) -> Ints:
    """Integers with so much headroom that nothing here clips."""
    return noise(seed, frames, channels, bits - 2)


amounts = st.floats(-1, 1).map(lambda x: round(x, 3))


@settings(max_examples=60, deadline=None)
@given(
    turn=st.one_of(
        st.builds(Width, width=st.floats(0, 2).map(lambda x: round(x, 3))),
        st.builds(Matrix, ll=amounts, lr=amounts, rl=amounts, rr=amounts),
        st.builds(Encode, scale=st.sampled_from(["half", "power"])),
        st.builds(Decode, side_db=st.floats(-12, 0)),
        st.builds(Fold, take=st.just("sum"), law=st.sampled_from(["average", "power"])),
    ),
    bits=st.sampled_from([16, 24]),
    depth=st.sampled_from(["same", "16", "24", "float"]),
    dither=st.booleans(),
)
def test_what_rounding_and_dither_leave_is_never_taken_for_a_fault(
    turn: AnyTurn, bits: int, depth: str, dither: bool, tmp_path_factory: pytest.TempPathFactory
) -> None:
    """Whatever a turn's way back makes of them; long enough for the largest errors to occur."""
    folder = tmp_path_factory.mktemp("turned")
    manifest, path = delivered(folder, turn, quiet(1, 20_000, 2, bits), bits=bits, depth=depth, dither=dither)
    assert path.exists()
    assert all(sum(file.clipped) == 0 for file in manifest.files)


TURNS_OF_STEREO: list[AnyTurn] = [
    Swap(), Polarity(channels="left"), Polarity(channels="both"), Encode(), Encode(scale="power"), Decode(),
    Decode(side_db=4.5, flip_side=True), Decode(side_db="off"), Width(width=0), Width(width=1.7), Fold(),
    Fold(take="right"), Fold(law="power"), Fold(take="blend", blend=0.3), Matrix(ll=0.4, lr=-0.3, rl=0.1, rr=1.2),
    Level(gains_db=(-3, 2)),
    Align(delay=(0, 17)),
]  # fmt: skip


@pytest.mark.parametrize("turn", TURNS_OF_STEREO, ids=lambda turn: turn.words)
def test_what_is_written_is_what_is_heard_and_what_is_proved(turn: AnyTurn, tmp_path: Path) -> None:
    """The file agrees with a computation of its own by soundfile and numpy, to what rounding and dither explain."""
    ints = quiet(1, 70_001, 2)
    manifest, path = delivered(tmp_path, turn, ints)
    (proof,) = [p.proof for p in manifest.proofs]
    (file,) = manifest.files
    bits = int(file.depth)
    written = soundfile.read(path, dtype="float64", always_2d=True)[0]
    engine = engine_on(turn, WavFile(tmp_path / "0.wav"), names=["in0"])
    outcome = engine.sheet.outcomes["only"]
    delays = outcome.offsets
    longer = np.zeros((outcome.frames, 2))
    for channel, delay in enumerate(delays):
        longer[delay : delay + len(ints), channel] = ints[:, channel] / 2**23
    expected = longer @ outcome.matrix.T
    steps = 1.5 if file.dithered else 0.5
    assert np.abs(written - expected).max() <= steps * 2.0 ** (1 - bits) + 1e-12
    exact = not file.dithered and outcome.way_back is not None
    assert (proof.kind == "comes-back") == (outcome.way_back is not None)
    assert proof.exact or not exact
    assert proof.residual_dbfs is None or proof.residual_dbfs < -100


@pytest.mark.parametrize("turn", TURNS_OF_STEREO, ids=lambda turn: turn.words)
@settings(max_examples=12)
@given(data=st.data())
def test_a_stretch_alone_equals_the_same_stretch_of_the_whole(
    turn: AnyTurn, data: st.DataObject, tmp_path: Path
) -> None:
    engine = engine_on(turn, WavFile(write_wav(tmp_path / "a.wav", noise(1, 900, 2))))
    clip = engine.clip("step:only:0")
    whole = clip.read(-30, clip.form.frames + 60)
    start = data.draw(st.integers(-30, clip.form.frames))
    frames = data.draw(st.integers(1, clip.form.frames + 30 - start))
    assert clip.read(start, frames).tobytes() == whole[start + 30 : start + 30 + frames].tobytes()
    # Computed another way, as the proof of what cannot be undone is, it is the same but for the last place.
    again = Recomputed(engine.sheet.outcomes["only"], [engine.clip("source:0")], 0).read(start, frames)
    assert np.abs(again - clip.read(start, frames)).max() <= 1e-15 * 8


@pytest.mark.parametrize("bits", [16, 24])
def test_encode_and_decode_give_every_sample_back(bits: int, tmp_path: Path) -> None:
    """RFC 9639 (FLAC), channel decorrelation: one bit more is enough, to the last one of full-scale noise."""
    ints = noise(2, 50_000, 2, bits)
    manifest, path = delivered(tmp_path, Encode(), ints, bits=bits)
    assert manifest.files[0].depth == {16: "24", 24: "32"}[bits]
    assert manifest.proofs[0].proof.exact
    encoded = read_ints(path, 32).astype(np.int64)
    shift = 32 - bits - 1
    assert np.array_equal(encoded[:, 0], (ints[:, 0] + ints[:, 1]) << shift)
    assert np.array_equal(encoded[:, 1], (ints[:, 0] - ints[:, 1]) << shift)
    back, again = delivered(tmp_path / "back", Decode(), encoded, bits=32)
    assert back.proofs[0].proof.exact
    assert np.array_equal(read_ints(again, 32), ints << (32 - bits))


def test_a_decode_of_an_encode_is_the_source_itself(tmp_path: Path) -> None:
    wav = WavFile(write_wav(tmp_path / "a.wav", noise(3, 2_000, 2)))
    steps = (
        Step(id="e", turn=Encode(), inputs=("source:0",)),
        Step(id="d", turn=Decode(), inputs=("step:e:0",)),
        Step(id="s", turn=Swap(), inputs=("step:d:0",)),
        Step(id="b", turn=Swap(), inputs=("step:s:0",)),
    )
    engine = Engine(Sheet(Plan(steps=steps), {"0": ClipInfo("a", wav.form)}), lambda _: wav)
    assert engine.sheet.info("step:e:0").form.encoding == "s32"
    last = engine.clip("step:b:0")
    assert last.form.encoding == "s24"
    assert [[(tap.gain, tap.channel) for tap in taps] for taps in last.channels] == [[(1.0, 0)], [(1.0, 1)]]
    manifest = deliver(engine, Order(("step:b:0", "step:e:0")), tmp_path / "out")
    assert all(p.proof.exact for p in manifest.proofs)
    assert np.array_equal(read_ints(tmp_path / "out" / manifest.files[0].name), noise(3, 2_000, 2))


def test_the_power_scale_comes_back_to_the_sample_too(tmp_path: Path) -> None:
    manifest, _ = delivered(tmp_path, Encode(scale="power"), quiet(4, 60_000, 2))
    assert (manifest.proofs[0].proof.exact, manifest.proofs[0].proof.residual_dbfs) == (True, None)


def test_a_flipped_lowest_value_is_counted(tmp_path: Path) -> None:
    ints = quiet(5, 1_000, 2)
    ints[[3, 40], 1] = -(2**23)
    manifest, path = delivered(tmp_path, Polarity(channels="right"), ints)
    assert manifest.files[0].clipped == [0, 2]
    assert "upside down" in next(f.message for f in manifest.findings if f.code == "clipped")
    assert not manifest.proofs[0].proof.exact
    written = read_ints(path)
    assert np.array_equal(written[:, 0], ints[:, 0])
    assert np.array_equal(written[:, 1], np.minimum(-ints[:, 1], 2**23 - 1))


def test_what_clips_is_counted_by_channel_with_what_would_mend_it(tmp_path: Path) -> None:
    loud = noise(6, 20_000, 2)
    manifest, _ = delivered(tmp_path, Level(gains_db=(3, 0)), loud)
    left, right = manifest.files[0].clipped
    assert left > 0
    assert right == 0
    (finding,) = [f for f in manifest.findings if f.code == "clipped"]
    assert float(finding.measured["over_db"]) == pytest.approx(3, abs=0.01)
    engine = engine_on(Level(gains_db=(3, 0)), WavFile(tmp_path / "0.wav"))
    clip = engine.clip("step:only:0")
    (noted,) = [n for n in findings_of("x", clip.form, survey(clip)) if n.code == "would-clip"]
    assert noted.remedy is not None
    again = engine_on(Level(gains_db=(3, 0)), WavFile(tmp_path / "0.wav"))
    lowered = again.made(noted.remedy.turn, ("step:only:0",))
    assert np.abs(lowered.read(0, 20_000)).max() <= 1
    as_float, _ = delivered(tmp_path / "float", Level(gains_db=(3, 0)), loud, depth="float")
    assert as_float.files[0].clipped == [0, 0]


@pytest.mark.parametrize(
    ("law", "equal", "independent"), [("average", 0, -3.01), ("power", 3.01, 0), ("full", 6.02, 3.01)]
)
def test_laws_of_summing(law: str, equal: float, independent: float, tmp_path: Path) -> None:
    """Two equal signals summed +6.02 dB, independent ones of equal power +3.01 dB (arithmetic)."""
    rng = np.random.default_rng(7)
    one, other = (np.rint(rng.standard_normal(200_000) * 2**18).astype(np.int64) for _ in range(2))
    for second, expected in ((one, equal), (other, independent)):
        wav = WavFile(write_wav(tmp_path / f"{expected}.wav", np.stack([one, second], axis=1)))
        fold = turn_with("fold", {"law": law})
        clip = engine_on(fold, wav).clip("step:only:0")
        level = 20 * math.log10(np.sqrt(np.mean(clip.read(0, 200_000) ** 2)) / (np.sqrt(np.mean(one**2)) / 2**23))
        assert level == pytest.approx(expected, abs=0.05)
        sides = survey(engine_on(fold, wav).clip("source:0")).sides
        folded = survey(clip).whole.rms_dbfs
        assert sides is not None
        assert sides.fold_dbfs[fold.law] == pytest.approx(folded, abs=2e-3)  # type: ignore[union-attr]


def test_opposite_sides_are_silence_in_any_sum(tmp_path: Path) -> None:
    ints = quiet(8, 3_000, 1)
    for law in ("average", "power", "full"):
        wav = WavFile(write_wav(tmp_path / f"{law}.wav", np.hstack([ints, -ints])))
        assert not engine_on(turn_with("fold", {"law": law}), wav).clip("step:only:0").read(0, 3_000).any()


@pytest.mark.parametrize(("error_db", "residue"), [(0.1, -38.8), (1.0, -19.3)])
def test_what_a_gain_error_leaves_of_a_cancellation(error_db: float, residue: float, tmp_path: Path) -> None:
    """20·log10(1 − 10^(−g/20)), derived."""
    ints = noise(9, 20_000, 1, 22)
    files = [WavFile(write_wav(tmp_path / f"{n}.wav", ints)) for n in range(2)]
    left = engine_on(Sum(gains_db=(0, -error_db), flip=(2,)), *files).clip("step:only:0").read(0, 20_000)
    level = 20 * math.log10(np.sqrt(np.mean(left**2)) / np.sqrt(np.mean((ints / 2**23) ** 2)))
    assert level == pytest.approx(residue, abs=0.05)


@pytest.mark.parametrize(("degrees", "residue"), [(1, -35.2), (10, -15.2)])
def test_what_a_phase_error_leaves_of_a_cancellation(degrees: float, residue: float, tmp_path: Path) -> None:
    """20·log10(2·sin(φ/2)), derived."""
    t = 2 * np.pi * 997 * np.arange(RATE) / RATE
    waves = [np.rint(2**21 * np.sin(t - np.deg2rad(angle)))[:, None].astype(np.int64) for angle in (0, degrees)]
    files = [WavFile(write_wav(tmp_path / f"{n}.wav", wave)) for n, wave in enumerate(waves)]
    left = engine_on(Sum(flip=(2,)), *files).clip("step:only:0").read(0, RATE)
    assert 20 * math.log10(np.sqrt(np.mean(left**2)) * math.sqrt(2) * 4) == pytest.approx(residue, abs=0.05)


@pytest.mark.parametrize("ms", [0.5, 1.0, 2.0])
def test_a_late_side_notches_the_sum_first_at_half_its_period(ms: float, tmp_path: Path) -> None:
    """Arithmetic of the comb filter: equal sides τ apart sum to nothing first at 1/(2τ), 1 ms → 500 Hz."""
    impulse = np.zeros((4_800, 2), np.int64)
    impulse[100, 0] = impulse[100 + round(ms * RATE / 1_000), 1] = 2**22
    summed = engine_on(Fold(), WavFile(write_wav(tmp_path / "w.wav", impulse))).clip("step:only:0").read(0, 4_800)
    response = np.abs(np.fft.rfft(summed[:, 0]))
    hertz = np.fft.rfftfreq(4_800, 1 / RATE)
    below = hertz < 1_500 / ms / 2
    assert hertz[below][np.argmin(response[below])] == pytest.approx(500 / ms, abs=RATE / 4_800)
    assert response[0] == pytest.approx(0.5)


def pattern(turn: Decode, mid: np.ndarray, side: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Left and right of a decode, by the angle of a source, of microphones with these patterns."""
    form = ClipInfo("x_ms", Form(channels=2, frames=1, rate=RATE, encoding="s24"))
    matrix = turn.outcome([form]).matrix
    return matrix[0, 0] * mid + matrix[0, 1] * side, matrix[1, 0] * mid + matrix[1, 1] * side


THETA = np.deg2rad(np.arange(-180, 180))


def test_omni_and_figure_eight_are_cardioids_to_the_sides() -> None:
    """Streicher and Dooley, J. Audio Eng. Soc. 33 (1985); 1 + sin θ."""
    left, right = pattern(Decode(), np.ones(360), np.sin(THETA))
    assert np.allclose(left, 1 + np.sin(THETA))
    assert np.rad2deg(THETA[left.argmax()]) == pytest.approx(90)
    assert np.rad2deg(THETA[right.argmax()]) == pytest.approx(-90)


def test_figure_eights_are_crossed_figure_eights() -> None:
    """Blumlein, GB 394 325 (1933): at ±45°, each √2 louder (derived)."""
    left, _ = pattern(Decode(), np.cos(THETA), np.sin(THETA))
    assert np.allclose(left, math.sqrt(2) * np.cos(THETA - np.deg2rad(45)))


def test_a_cardioid_in_the_middle() -> None:
    """L = 0.5 + 1.118·cos(θ − 63.4°), derived."""
    left, right = pattern(Decode(), 0.5 + 0.5 * np.cos(THETA), np.sin(THETA))
    assert np.allclose(left, 0.5 + 1.118 * np.cos(THETA - np.deg2rad(63.435)), atol=1e-3)
    flipped, _ = pattern(Decode(flip_side=True), 0.5 + 0.5 * np.cos(THETA), np.sin(THETA))
    assert np.allclose(flipped, right)


def test_surrounds_fold_by_the_recommendation(tmp_path: Path) -> None:
    """ITU-R BS.775-4: centre and surround at −3.01 dB, here as a sum of mono clips."""
    files = [WavFile(write_wav(tmp_path / f"{n}.wav", quiet(n, 500, 1))) for n in range(3)]
    gains = (0, 20 * math.log10(math.sqrt(0.5)), 20 * math.log10(math.sqrt(0.5)))
    made = engine_on(Sum(gains_db=gains), *files).clip("step:only:0").read(0, 500)[:, 0]
    one, centre, surround = (quiet(n, 500, 1)[:, 0] / 2**23 for n in range(3))
    assert np.allclose(made, one + 0.70710678 * (centre + surround))


def test_two_mono_clips_are_decoded_as_their_names_say(tmp_path: Path) -> None:
    mid, side = quiet(1, 400, 1), quiet(2, 400, 1)
    for names, files in ((["h_mid", "h_side"], [mid, side]), (["h_side", "h_mid"], [side, mid])):
        manifest, path = delivered(tmp_path / names[0], Decode(), *files, names=names)
        assert manifest.files[0].name == "h.wav"
        assert np.array_equal(read_ints(path), np.hstack([mid + side, mid - side]))
        assert manifest.proofs[0].proof.exact
    _, turned = delivered(tmp_path / "x", Decode(exchange=True), mid, side, names=["h_mid", "h_side"])
    assert np.array_equal(read_ints(turned), np.hstack([side + mid, side - mid]))


def test_align_moves_by_whole_samples_and_loses_nothing(tmp_path: Path) -> None:
    ints = noise(3, 1_000, 2)
    manifest, path = delivered(tmp_path, Align(delay=(-4, 10)), ints)
    written = read_ints(path)
    assert written.shape == (1_014, 2)
    assert np.array_equal(written[:1_000, 0], ints[:, 0])
    assert np.array_equal(written[14:, 1], ints[:, 1])
    assert (manifest.proofs[0].proof.exact, manifest.proofs[0].proof.kind) == (True, "comes-back")


def test_dither_makes_the_error_noise_and_is_the_same_every_time(tmp_path: Path) -> None:
    """Quantising noise −(6.02·N + 1.76) dB of a full-scale sine (textbook); triangular dither 4.77 dB more, and no
    distortion: Lipshitz, Wannamaker and Vanderkooy, J. Audio Eng. Soc. 40 (1992).
    """
    t = np.arange(2**17)
    tone = np.rint(2**23 * 1.7 * 2**-16 * np.sin(2 * np.pi * 997 / RATE * t)).astype(np.int64)
    ints = np.stack([tone, tone], axis=1)
    spectra = {}
    for dither in (True, False):
        _, path = delivered(tmp_path / str(dither), Fold(), ints, depth="16", dither=dither)
        error = read_ints(path, 16)[:, 0] - tone / 2**8
        if dither:
            # A third of the noise is that of rounding, two thirds are the dither's: 3/12 of a step squared.
            assert 10 * math.log10(np.mean(error**2) * 12) == pytest.approx(4.77, abs=0.1)
        spectra[dither] = 20 * np.log10(np.abs(np.fft.rfft(error * np.hanning(t.size))) / np.sqrt(t.size) + 1e-12)
    peaks = {dither: spectrum.max() - np.median(spectrum) for dither, spectrum in spectra.items()}
    assert peaks[False] > peaks[True] + 12  # harmonics stand out of the one, nothing out of the other
    _, again = delivered(tmp_path / "again", Fold(), ints, depth="16")
    assert again.read_bytes() == (tmp_path / "True" / "out" / "in0.wav").read_bytes()


def test_dither_is_the_same_however_the_file_is_cut(tmp_path: Path) -> None:
    block = np.random.default_rng(1).uniform(-0.5, 0.5, (1_000, 2))
    whole, _ = encode(block, ENCODINGS["s16"], dither=99)
    parts = [encode(block[at : at + 130], ENCODINGS["s16"], dither=99, start=at)[0] for at in range(0, 1_000, 130)]
    assert np.concatenate(parts).tobytes() == whole.tobytes()
    # The quick way through integers adds the very same noise.
    clip = engine_on(Width(width=1.3), WavFile(write_wav(tmp_path / "a.wav", quiet(1, 50_000, 2)))).clip("step:only:0")
    mix = IntegerMix.of(clip, ENCODINGS["s16"])
    assert mix is not None
    quick = mix.read(40_000, 5_000, dither=7).raw.tobytes()
    slow, _ = encode(clip.read(40_000, 5_000), ENCODINGS["s16"], dither=7, start=40_000)
    assert quick == slow.tobytes()


@pytest.mark.parametrize(
    ("layout", "count", "mask"),
    [("quad", 4, 0x33), ("5.0", 5, 0x607), ("5.1", 6, 0x60F), ("7.1", 8, 0x63F), ("discrete", 3, 0)],
)
def test_layouts_have_their_speakers(layout: str, count: int, mask: int, tmp_path: Path) -> None:
    """FL FR FC LFE BL BR SL SR: bits 0x1 0x2 0x4 0x8 0x10 0x20 0x200 0x400 of WAVEFORMATEXTENSIBLE, Microsoft."""
    files = [noise(n, 200, 1) for n in range(count)]
    turn = turn_with("merge", {"layout": layout, "order": "given"})
    manifest, path = delivered(tmp_path, turn, *files, names=[f"take {n}" for n in range(count)])
    assert manifest.proofs[0].proof.exact
    assert np.array_equal(read_ints(path), np.hstack(files))
    with WavFile(path) as wav:
        assert wav.form.speaker_mask == mask


def test_a_layout_is_merged_by_name_in_the_order_of_its_speakers(tmp_path: Path) -> None:
    marks = ["BR", "FL", "BL", "FR"]
    files = [noise(n, 200, 1) for n in range(4)]
    manifest, path = delivered(tmp_path, Merge(), *files, names=[f"beacon_{m}" for m in marks])
    assert manifest.files[0].name == "beacon.wav"
    assert np.array_equal(read_ints(path), np.hstack([files[marks.index(m)] for m in ("FL", "FR", "BL", "BR")]))
    with pytest.raises(TurnInputError, match="takes 6 mono clips; 4 were given"):
        delivered(tmp_path / "x", turn_with("merge", {"layout": "5.1"}), *files)


def test_what_does_not_fit_is_refused_by_name(tmp_path: Path) -> None:
    mono, wide = noise(1, 10, 1), noise(1, 10, 2)
    for turn, files in (
        (Swap(), [mono]), (Swap(), [wide, wide]), (Sum(), [wide]), (Sum(), [mono, wide]),
        (Polarity(channels=(3,)), [wide]), (Level(gains_db=(1, 2, 3)), [wide]), (Align(delay=(1, 2, 3)), [wide]),
        (Decode(), [wide, wide]),
        (Sum(flip=(3,)), [mono, mono]),
    ):  # fmt: skip
        with pytest.raises(TurnInputError):
            delivered(tmp_path, turn, *files)
    slow = WavFile(write_wav(tmp_path / "slow.wav", mono, rate=44_100))
    for turn in (Sum(), Decode()):
        with pytest.raises(RateDiffersError):
            engine_on(turn, WavFile(write_wav(tmp_path / "m.wav", mono)), slow)


@pytest.mark.parametrize(
    ("settings_", "named"),
    [({}, "no change"), ({"ll": 0, "lr": 1, "rl": 1, "rr": 0}, "a swap"), ({"rr": -1}, "a flip of right"),
     ({"ll": 0.8, "lr": 0.2, "rl": 0.2, "rr": 0.8}, "a width of 0.6"), ({"lr": 0.3}, None)],
)  # fmt: skip
def test_a_matrix_says_when_it_is_another_turn(settings_: dict[str, float], named: str | None) -> None:
    assert Matrix(**settings_).named() == named


def test_settings_as_they_are_written_in_a_shell() -> None:
    assert turn_with("polarity", {"channels": "1,2"}) == Polarity(channels=(1, 2))
    assert turn_with("polarity", {"channels": "both"}) == Polarity(channels="both")
    assert turn_with("decode", {"side_db": "off", "exchange": "true"}) == Decode(side_db="off", exchange=True)
    assert turn_with("sum", {"gains_db": "0,-3", "flip": "2"}) == Sum(gains_db=(0, -3), flip=(2,))
    assert turn_with("align", {"delay": "0,14"}) == Align(delay=(0, 14))
