"""The laws every turn is held to, and what split and merge do to length, start, depth and name."""

import json
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError
from tools.generate import document_turns

from support.helpers import bext, engine_on, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Clip, Engine, make_clip
from wedge_turn.core.clips.engine import apply
from wedge_turn.core.delivery.rawblocks import RawBlocks
from wedge_turn.core.errors import ChannelUnknownError, NotFoundError, RateDiffersError, TurnInputError
from wedge_turn.core.form import Form
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, ClipInfo, Decode, MatrixOutcome, Merge, Output, Split, Sum
from wedge_turn.core.worksheet import Plan, Sheet, Step, parse_ref

NAMES = ["lamp_L", "lamp_R"]


def two_monos(
    folder: Path, lengths: tuple[int, int] = (1000, 1000), starts: tuple[int, int] | None = None
) -> list[WavFile]:
    carried = [(bext(start),) for start in starts] if starts else [(), ()]
    return [
        WavFile(write_wav(folder / f"{n}.wav", noise(n, length, 1), carried=carried[n]))
        for n, length in enumerate(lengths)
    ]


def whole(clip: Clip) -> np.ndarray:
    return clip.read(0, clip.form.frames)


@pytest.mark.parametrize("kind", TURNS)
def test_settings_survive_json_and_the_documentation_has_them_all(kind: str) -> None:
    turn = TURN_ADAPTER.validate_python({"kind": kind})
    assert TURN_ADAPTER.validate_json(turn.model_dump_json()) == turn
    text = document_turns()
    assert text == Path("docs/turns.md").read_text("utf-8"), "run `make api`"
    for setting in set(type(turn).model_fields) - {"kind"}:
        assert f"| `{setting}` |" in text


@given(cuts=st.lists(st.integers(-20, 1100), max_size=6), starts=st.tuples(*[st.integers(0, 60)] * 2))
def test_a_stretch_alone_equals_the_same_stretch_of_the_whole(
    tmp_path: Path, cuts: list[int], starts: tuple[int, int]
) -> None:
    engine = engine_on(Merge(), *two_monos(tmp_path, (1000, 900), starts), names=NAMES)
    clip = engine.clip("step:only:0")
    all_of_it = clip.read(-20, clip.form.frames + 200)
    edges = sorted({-20, *cuts, clip.form.frames + 180})
    pieces = [clip.read(a, b - a) for a, b in pairwise(edges)]
    assert np.vstack(pieces).tobytes() == all_of_it.tobytes()
    raw = RawBlocks.of(clip, clip.form.stored)
    assert raw is not None
    for a, b in pairwise(edges):
        read = raw.read(a, b - a).reshape(-1, 3).astype(np.int64) @ [1, 1 << 8, 1 << 16]
        values = np.where(read >= 2**23, read - 2**24, read).reshape(-1, 2) / 2**23
        assert np.array_equal(values, clip.read(a, b - a))


def test_a_merge_puts_each_file_on_its_side_at_its_level(tmp_path: Path) -> None:
    files = two_monos(tmp_path)
    for order in ([0, 1], [1, 0]):
        engine = engine_on(Merge(), *(files[i] for i in order), names=[NAMES[i] for i in order])
        merged = whole(engine.clip("step:only:0"))
        assert np.array_equal(merged, np.hstack([file.read(0, 1000) for file in files]))
        assert engine.sheet.info("step:only:0").name == "lamp"


def test_a_split_of_a_merge_is_the_source_itself(tmp_path: Path) -> None:
    """Taps compose: nothing is computed, and offsets return to where they were."""
    files = two_monos(tmp_path, starts=(100, 130))
    infos = {str(n): ClipInfo(NAMES[n], file.form) for n, file in enumerate(files)}
    merge = Step(id="m", turn=Merge(), inputs=("source:0", "source:1"))
    split = Step(id="s", turn=Split(), inputs=("step:m:0",))
    engine = Engine(Sheet(Plan(steps=(merge, split)), infos), lambda i: files[int(i)])
    for n, offset in ((0, 0), (1, 30)):
        ((tap,),) = engine.clip(f"step:s:{n}").channels
        assert (tap.source, tap.gain, tap.offset) == (files[n], 1.0, offset)
        assert engine.sheet.info(f"step:s:{n}").form.start_time == 100


def test_equal_taps_add_and_opposite_ones_cancel(tmp_path: Path) -> None:
    clip = make_clip(two_monos(tmp_path)[0])
    form = clip.form
    outcome = MatrixOutcome((Output("x", form),), np.array([[0.5, 0.5]]), (0, 0), form.frames)
    assert apply(outcome, [clip, clip])[0].channels[0][0].gain == 1.0
    against = MatrixOutcome((Output("x", form),), np.array([[0.5, -0.5]]), (0, 0), form.frames)
    assert apply(against, [clip, clip])[0].channels == ((),)
    assert not outcome.exact
    assert outcome.inverse is None


def test_recorded_start_times_line_up_and_the_result_keeps_the_earlier(tmp_path: Path) -> None:
    files = two_monos(tmp_path, (1000, 1000), starts=(5_000, 5_200))
    lined = engine_on(Merge(), *files, names=NAMES)
    form = lined.clip("step:only:0").form
    assert (form.frames, form.start_time) == (1200, 5_000)
    merged = whole(lined.clip("step:only:0"))
    assert np.array_equal(merged[200:, 1], files[1].read(0, 1000)[:, 0])
    assert not merged[:200, 1].any()
    assert not merged[1000:, 0].any()
    assert [f.code for f in lined.sheet.outcomes["only"].findings] == ["start-differs"]

    by_file = engine_on(Merge(line_up="file"), *files, names=NAMES)
    assert by_file.clip("step:only:0").form.frames == 1000
    common = engine_on(Merge(length="trim"), *files, names=NAMES).clip("step:only:0")
    assert (common.form.frames, common.form.start_time) == (800, 5_200)
    assert np.array_equal(whole(common)[:, 0], files[0].read(200, 800)[:, 0])


def test_takes_that_do_not_overlap_are_lined_up_by_their_starts(tmp_path: Path) -> None:
    files = two_monos(tmp_path, starts=(0, 10**9))
    assert engine_on(Merge(), *files, names=NAMES).clip("step:only:0").form.frames == 1000


def test_different_lengths_are_padded_or_trimmed_and_said(tmp_path: Path) -> None:
    files = two_monos(tmp_path, (1000, 700))
    padded = engine_on(Merge(), *files, names=NAMES)
    (finding,) = padded.sheet.outcomes["only"].findings
    assert (finding.code, finding.measured) == ("length-differs", {"samples": 300})
    assert "lamp_R is 300 samples" in finding.message
    assert padded.clip("step:only:0").form.frames == 1000
    assert engine_on(Merge(length="trim"), *files, names=NAMES).clip("step:only:0").form.frames == 700


def test_the_deeper_depth_wins(tmp_path: Path) -> None:
    a = WavFile(write_wav(tmp_path / "a.wav", noise(1, 50, 1, 16), encoding="s16"))
    b = WavFile(write_wav(tmp_path / "b.wav", noise(2, 50, 1, 24)))
    engine = engine_on(Merge(), a, b, names=NAMES)
    assert engine.clip("step:only:0").form.encoding == "s24"
    assert [f.code for f in engine.sheet.outcomes["only"].findings] == ["depth-differs"]


def test_merges_and_splits_that_do_not_fit_are_refused_by_name(tmp_path: Path) -> None:
    mono, second = two_monos(tmp_path)
    slow = WavFile(write_wav(tmp_path / "slow.wav", noise(1, 50, 1), rate=44_100))
    stereo = WavFile(write_wav(tmp_path / "wide.wav", noise(1, 50, 2)))
    with pytest.raises(RateDiffersError, match=r"48,000 Hz and lamp_R is at 44,100 Hz"):
        engine_on(Merge(), mono, slow, names=NAMES)
    with pytest.raises(ChannelUnknownError, match="wind and sea"):
        engine_on(Merge(), mono, second, names=["wind", "sea"])
    with pytest.raises(TurnInputError, match="2 were given: lamp_L is mono and lamp_R is stereo"):
        engine_on(Merge(), mono, stereo, names=NAMES)
    with pytest.raises(TurnInputError, match="takes at least 2 mono clips; file 0 has 1 channel"):
        engine_on(Merge(), mono)
    with pytest.raises(TurnInputError, match="split takes one clip with at least 2 channels; file 0 has 1 channel"):
        engine_on(Split(), mono)
    with pytest.raises(TurnInputError, match="one clip"):
        engine_on(Split(), stereo, stereo)


@pytest.mark.parametrize(("names", "code"), [(["wind", "sea"], "side-unknown"), (["a_R", "a_L"], "side-against-name")])
def test_an_order_that_names_do_not_support_is_said(tmp_path: Path, names: list[str], code: str) -> None:
    engine = engine_on(Merge(order="given"), *two_monos(tmp_path), names=names)
    assert [f.code for f in engine.sheet.outcomes["only"].findings] == [code]
    assert (
        engine.sheet.plan.steps[0]
        .turn.sentence(engine.sheet.inputs(engine.sheet.plan.steps[0]))
        .startswith(f"Merges {names[0]}")
    )


def test_split_names_follow_endings_speakers_or_numbers() -> None:
    def names(channels: int, mask: int = 0, endings: tuple[str, str] = ("_L", "_R"), name: str = "x") -> list[str]:
        form = Form(channels=channels, frames=1, rate=48_000, encoding="s24", speaker_mask=mask)
        return [out.name for out in Split(endings=endings).outcome([ClipInfo(name, form)]).outputs]

    assert names(2) == ["x_L", "x_R"]
    for ending in ("x" * 61, "a\0b", "a\nb"):
        with pytest.raises(ValidationError, match="endings"):
            Split(endings=(ending, "_R"))
    assert names(2, endings=(".left", ".right")) == ["x.left", "x.right"]
    # FL FR FC LFE BL BR of WAVEFORMATEXTENSIBLE, Microsoft: 0x3F
    assert names(6, 0x3F) == ["x_FL", "x_FR", "x_FC", "x_LFE", "x_BL", "x_BR"]
    assert names(3) == ["x_1", "x_2", "x_3"]
    # A clip whose name says that it carries mid and side, as an encode's does.
    assert names(2, name="swell_ms") == ["swell_mid", "swell_side"]
    assert names(2, name="swell ms", endings=("_M", "_S")) == ["swell_M", "swell_S"]
    assert names(2, name="rooms") == ["rooms_L", "rooms_R"]
    assert names(2, name="ms") == ["ms_L", "ms_R"]


def test_groups_say_which_of_many_go_in_together() -> None:
    assert Split().groups(["a", "b"], [2, 2]) == [(0,), (1,)]
    assert Merge().groups(["a_R", "b_L", "a_L", "b_R"], [1] * 4) == [(2, 0), (1, 3)]
    assert Merge().groups(["x", "y"], [1, 1]) == [(0, 1)]
    assert Merge(order="given").groups(["a", "b", "c"], [1] * 3) == [(0, 1, 2)]
    with pytest.raises(ChannelUnknownError, match="c_L"):
        Merge().groups(["a_R", "a_L", "c_L"], [1] * 3)
    assert Decode().groups(["x", "a_side", "b_mid", "a_mid", "b_side"], [2, 1, 1, 1, 1]) == [(3, 1), (2, 4), (0,)]
    assert Sum().groups(["a", "b", "c"], [1] * 3) == [(0, 1, 2)]


def test_a_plan_survives_json_and_allows_no_cycle() -> None:
    merge = Step(id="m", turn=Merge(), inputs=("source:a", "source:b"))
    split = Step(id="s", turn=Split(), inputs=("step:m:0",))
    plan = Plan(steps=(merge, split))
    assert Plan.model_validate_json(plan.model_dump_json()) == plan
    assert json.loads(plan.model_dump_json())["steps"][1]["inputs"] == ["step:m:0"]
    for steps in ((split, merge), (merge, merge)):
        with pytest.raises(ValueError, match=r"before it|twice"):
            Plan(steps=steps)
    with pytest.raises(NotFoundError):
        plan.step("gone")
    assert parse_ref("step:s:1") == ("step", "s", 1)
    assert parse_ref("lost:take 3: left") == ("lost", "take 3: left", 0)


def test_keys_depend_on_what_determines_the_samples(tmp_path: Path) -> None:
    a, b = two_monos(tmp_path)

    def key(turn: Merge, names: list[str], results: tuple[str, ...] = ()) -> str:
        infos = {"0": ClipInfo(names[0], a.form), "1": ClipInfo(names[1], b.form)}
        step = Step(id="x", turn=turn, inputs=("source:0", "source:1"), names=results)
        return Sheet(Plan(steps=(step,)), infos).key("step:x:0")

    same = key(Merge(), NAMES)
    assert key(Merge(), NAMES, ("renamed",)) == same
    assert key(Merge(), NAMES[::-1]) != same
    assert key(Merge(length="trim"), NAMES) != same
