"""The laws that every turn is held to, on the example that it gives itself."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from support.helpers import example_engine
from wedge_turn.core.errors import RateDiffersError, TurnInputError
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, ClipInfo, Turn, describe_accepted
from wedge_turn.core.worksheet import step_ref

FRAMES = 1_503


def example(kind: str) -> Turn:
    return TURN_ADAPTER.validate_python({"kind": kind, **TURNS[kind].example.settings})


@pytest.mark.parametrize("kind", TURNS)
@settings(max_examples=6, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_a_stretch_alone_equals_the_same_stretch_of_the_whole(kind: str, data: st.DataObject, tmp_path: Path) -> None:
    engine = example_engine(kind, tmp_path, FRAMES)
    for n, output in enumerate(engine.sheet.outcomes["only"].outputs):
        clip = engine.clip(step_ref("only", n))
        assert clip.form.frames == output.form.frames
        whole = clip.read(-40, clip.form.frames + 80)
        start = data.draw(st.integers(-40, clip.form.frames))
        frames = data.draw(st.integers(1, clip.form.frames + 40 - start))
        # Of an engine of its own, that has computed nothing else.
        alone = example_engine(kind, tmp_path, FRAMES).clip(step_ref("only", n)).read(start, frames)
        assert alone.tobytes() == whole[start + 40 : start + 40 + frames].tobytes()
        assert not whole[:40].any()
        assert not whole[-40:].any()


@pytest.mark.parametrize("kind", TURNS)
def test_an_example_does_something_and_survives_json(kind: str, tmp_path: Path) -> None:
    turn = example(kind)
    assert TURN_ADAPTER.validate_json(turn.model_dump_json()) == turn
    engine = example_engine(kind, tmp_path, FRAMES)
    inputs = [engine.clip(f"source:{n}") for n in range(len(turn.example.channels))]
    (first, *_) = engine.sheet.outcomes["only"].outputs
    result = engine.clip("step:only:0").read(0, first.form.frames)
    assert not any(np.array_equal(result, one.read(0, one.form.frames)) for one in inputs)
    assert turn.sentence([engine.sheet.info(f"source:{n}") for n in range(len(inputs))])


@pytest.mark.parametrize("kind", TURNS)
def test_a_refusal_says_which_inputs_fit(kind: str, tmp_path: Path) -> None:
    """Every number of clips up to three of every number of channels up to three, as the data say."""
    turn, accepts = example(kind), TURNS[kind].accepts
    form = example_engine(kind, tmp_path, FRAMES).sheet.info("source:0").form
    refused = 0
    for channels in [(n,) * count for n in (1, 2, 3) for count in (1, 2, 3)] + [(1, 2)]:
        clips = [
            ClipInfo(f"clip {n}", form.model_copy(update={"channels": accepted, "speaker_mask": 0}))
            for n, accepted in enumerate(channels)
        ]
        if any(accepted.takes(channels) for accepted in accepts):
            continue
        with pytest.raises(TurnInputError) as error:
            turn.outcome(clips)
        assert str(error.value).startswith(f"{kind} takes {describe_accepted(accepts)}; ")
        refused += 1
    assert refused
    if any(accepted.most != 1 for accepted in accepts):
        two = [
            ClipInfo("slow", form.model_copy(update={"channels": 1, "rate": 44_100})),
            ClipInfo("fast", form.model_copy(update={"channels": 1, "rate": 48_000})),
        ]
        with pytest.raises(RateDiffersError, match="slow is at 44,100 Hz and fast is at 48,000 Hz"):
            turn.outcome(two)
