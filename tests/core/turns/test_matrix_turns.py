"""Every turn that is a matrix: the laws it is held to, published values, and what is written and proved."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from support.helpers import delivered, engine_on, noise, quiet, read_ints, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.errors import RateDiffersError, TurnInputError
from wedge_turn.core.findings.file import find_in_file
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.turns import (
    DC,
    TURNS,
    Align,
    AnyTurn,
    ClipInfo,
    Decode,
    Encode,
    Fold,
    Level,
    Matrix,
    Polarity,
    Sum,
    Swap,
    Width,
)
from wedge_turn.core.worksheet import Plan, Sheet, Step, parse_turn

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
def test_rounding_and_dither_are_within_tolerance(
    turn: AnyTurn, bits: int, depth: str, dither: bool, tmp_path_factory: pytest.TempPathFactory
) -> None:
    """Whatever a turn's way back makes of them; long enough for the largest errors to occur."""
    folder = tmp_path_factory.mktemp("turned")
    manifest, path = delivered(folder, turn, quiet(1, 20_000, 2, bits), bits=bits, depth=depth, dither=dither)
    assert path.exists()
    assert all(sum(file.clipped) == 0 for file in manifest.files)


Channel = np.ndarray
SIDE = 10 ** (4.5 / 20)
# What each turn makes of left and right, written down by hand from its description; delays in frames last.
FORMULAS: list[tuple[AnyTurn, Callable[[Channel, Channel], tuple[Channel, ...]], tuple[int, int]]] = [
    (Swap(), lambda left, right: (right, left), (0, 0)),
    (Polarity(channels="left"), lambda left, right: (-left, right), (0, 0)),
    (Polarity(channels="both"), lambda left, right: (-left, -right), (0, 0)),
    (Encode(), lambda left, right: ((left + right) / 2, (left - right) / 2), (0, 0)),
    (Encode(scale="power"), lambda left, right: ((left + right) / 2**0.5, (left - right) / 2**0.5), (0, 0)),
    (Decode(), lambda mid, side: (mid + side, mid - side), (0, 0)),
    (Decode(side_db=4.5, flip_side=True), lambda mid, side: (mid - SIDE * side, mid + SIDE * side), (0, 0)),
    (Decode(side_db="off"), lambda mid, _: (mid, mid), (0, 0)),
    (Width(width=0), lambda left, right: ((left + right) / 2, (left + right) / 2), (0, 0)),
    (Width(width=1.7), lambda left, right: (1.35 * left - 0.35 * right, 1.35 * right - 0.35 * left), (0, 0)),
    (Fold(), lambda left, right: ((left + right) / 2,), (0, 0)),
    (Fold(take="left"), lambda left, _: (left,), (0, 0)),
    (Fold(take="right"), lambda _, right: (right,), (0, 0)),
    (Fold(take="sum", law="power"), lambda left, right: ((left + right) / 2**0.5,), (0, 0)),
    (Fold(take="blend", blend=0.3), lambda left, right: (0.7 * left + 0.3 * right,), (0, 0)),
    (Matrix(ll=0.4, lr=-0.3, rl=0.1, rr=1.2), lambda left, right: (0.4 * left - 0.3 * right, 0.1 * left + 1.2 * right),
     (0, 0)),
    (Level(gains_db=(-3, 2)), lambda left, right: (10 ** (-3 / 20) * left, 10 ** (2 / 20) * right), (0, 0)),
    (DC(offset=(3.125, -0.78125)), lambda left, right: (left - 1 / 32, right + 1 / 128), (0, 0)),
    (Align(delay=(0, 17)), lambda left, right: (left, right), (0, 17)),
]  # fmt: skip
TURNS_OF_STEREO = [turn for turn, _, _ in FORMULAS]
# Tested by themselves: of several clips, or of several results, or with samples around each.
ELSEWHERE = {"split", "merge", "sum", "centre", "trim", "resample"}


def test_every_turn_is_among_those_the_laws_are_tested_on() -> None:
    assert {turn.kind for turn in TURNS_OF_STEREO} | ELSEWHERE == set(TURNS)


@pytest.mark.parametrize(("turn", "formula", "delays"), FORMULAS, ids=lambda one: getattr(one, "words", ""))
def test_written_heard_and_proved_samples_agree(
    turn: AnyTurn,
    formula: Callable[[Channel, Channel], tuple[Channel, ...]],
    delays: tuple[int, int],
    tmp_path: Path,
) -> None:
    """The file agrees with a computation of its own by soundfile and numpy, to what rounding and dither explain, and
    the proof says of it what numpy finds.
    """
    ints = quiet(1, 70_001, 2)
    manifest, path = delivered(tmp_path, turn, ints)
    (proof,) = [p.proof for p in manifest.proofs]
    (file,) = manifest.files
    written = soundfile.read(path, dtype="float64", always_2d=True)[0]
    longer = np.zeros((len(ints) + max(delays), 2))
    for channel, delay in enumerate(delays):
        longer[delay : delay + len(ints), channel] = ints[:, channel] / 2**23
    expected = np.stack(formula(longer[:, 0], longer[:, 1]), axis=1)
    steps = 1.5 if file.dithered else 0.5
    assert np.abs(written - expected).max() <= steps * 2.0 ** (1 - int(file.depth)) + 1e-12
    if proof.kind == "recomputed":
        assert proof.different == np.count_nonzero(np.abs(written - expected) > 1e-14)
        return
    columns = [np.stack(formula(*np.eye(2)[:, i]), axis=0) for i in range(2)]
    returned = written @ np.linalg.inv(np.stack(columns, axis=1)).T
    back = np.stack([returned[delay : delay + len(ints), channel] for channel, delay in enumerate(delays)], axis=1)
    # Values that lie halfway between two steps may be rounded either way by another inverse.
    assert proof.different == pytest.approx(np.count_nonzero(np.rint(back * 2**23) != ints), abs=200)
    assert proof.exact == (proof.different == 0)


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


def test_the_power_scale_round_trips_exactly(tmp_path: Path) -> None:
    manifest, _ = delivered(tmp_path, Encode(scale="power"), quiet(4, 60_000, 2))
    assert (manifest.proofs[0].proof.exact, manifest.proofs[0].proof.residual_dbfs) == (True, None)


def test_a_flipped_lowest_value_is_counted(tmp_path: Path) -> None:
    ints = quiet(5, 1_000, 2)
    ints[[3, 40], 1] = -(2**23)
    manifest, path = delivered(tmp_path, Polarity(channels="right"), ints)
    assert manifest.files[0].clipped == [0, 2]
    assert "inverted" in next(f.message for f in manifest.findings if f.code == "clipped")
    assert not manifest.proofs[0].proof.exact
    written = read_ints(path)
    assert np.array_equal(written[:, 0], ints[:, 0])
    assert np.array_equal(written[:, 1], np.minimum(-ints[:, 1], 2**23 - 1))


def test_clipping_is_counted_by_channel_with_a_remedy(tmp_path: Path) -> None:
    loud = noise(6, 20_000, 2)
    manifest, _ = delivered(tmp_path, Level(gains_db=(3, 0)), loud)
    left, right = manifest.files[0].clipped
    assert left > 0
    assert right == 0
    (finding,) = [f for f in manifest.findings if f.code == "clipped"]
    assert float(finding.measured["over_db"]) == pytest.approx(3, abs=0.01)
    engine = engine_on(Level(gains_db=(3, 0)), WavFile(tmp_path / "0.wav"))
    clip = engine.clip("step:only:0")
    (too_loud,) = [n for n in find_in_file("x", clip.form, measure_signal(clip)) if n.code == "would-clip"]
    assert too_loud.remedy is not None
    again = engine_on(Level(gains_db=(3, 0)), WavFile(tmp_path / "0.wav"))
    lowered = again.preview(too_loud.remedy.turn, ("step:only:0",))
    assert np.abs(lowered.read(0, 20_000)).max() <= 1
    as_float, _ = delivered(tmp_path / "float", Level(gains_db=(3, 0)), loud, depth="float")
    assert as_float.files[0].clipped == [0, 0]


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
    assert (manifest.proofs[0].proof.exact, manifest.proofs[0].proof.kind) == (True, "round-trip")


def test_inputs_that_do_not_fit_are_refused_by_name(tmp_path: Path) -> None:
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
    [({}, "no change"), ({"ll": 0, "lr": 1, "rl": 1, "rr": 0}, "a swap"), ({"rr": -1}, "right inverted"),
     ({"ll": 0.8, "lr": 0.2, "rl": 0.2, "rr": 0.8}, "a width of 0.6"), ({"lr": 0.3}, None)],
)  # fmt: skip
def test_a_matrix_says_when_it_is_another_turn(settings_: dict[str, float], named: str | None) -> None:
    assert Matrix(**settings_).named() == named


def test_settings_as_they_are_written_in_a_shell() -> None:
    assert parse_turn("polarity", {"channels": "1,2"}) == Polarity(channels=(1, 2))
    assert parse_turn("polarity", {"channels": "both"}) == Polarity(channels="both")
    assert parse_turn("decode", {"side_db": "off", "exchange": "true"}) == Decode(side_db="off", exchange=True)
    assert parse_turn("sum", {"gains_db": "0,-3", "flip": "2"}) == Sum(gains_db=(0, -3), flip=(2,))
    assert parse_turn("align", {"delay": "0,14"}) == Align(delay=(0, 14))
