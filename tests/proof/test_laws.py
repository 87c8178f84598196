"""What a turn makes of its settings is held against its law, written a second time: a turn that is wrong is not proved
by itself. Settings are tried in many combinations; what a turn says wrong is found for every one of them.
"""

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from support.helpers import engine_on, example_engine, noise, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.errors import ProofFailedError
from wedge_turn.core.turns import (
    TURN_ADAPTER,
    TURNS,
    Align,
    AnyTurn,
    Decode,
    Encode,
    Fold,
    Level,
    Matrix,
    MatrixOutcome,
    Polarity,
    Sum,
    Trim,
    Width,
)

FRAMES = 1_503
GAINS = st.floats(-24, 12).map(lambda db: round(db, 2))
ANY_TURN: st.SearchStrategy[AnyTurn] = st.one_of(
    st.builds(Encode, scale=st.sampled_from(["half", "power"])),
    st.builds(
        Decode,
        scale=st.sampled_from(["half", "power"]),
        side_db=GAINS | st.just("off"),
        exchange=st.booleans(),
        flip_side=st.booleans(),
    ),
    st.builds(Width, width=st.floats(0, 4)),
    st.builds(Matrix, ll=st.floats(-2, 2), lr=st.floats(-2, 2), rl=st.floats(-2, 2), rr=st.floats(-2, 2)),
    st.builds(
        Fold,
        take=st.sampled_from(["left", "right", "sum", "blend"]),
        law=st.sampled_from(["average", "power", "full"]),
        flip_right=st.booleans(),
        delay=st.sampled_from([0, 3, -5, 2.5, -0.25]),
        blend=st.floats(0, 1),
    ),
    st.builds(Polarity, channels=st.sampled_from(["left", "right", "both", (2,), (1, 2)])),
    st.builds(Sum, gains_db=st.lists(GAINS, max_size=1).map(tuple), flip=st.sampled_from([(), (1,)])),
    st.builds(
        Level,
        gains_db=st.tuples(GAINS, GAINS) | st.tuples(GAINS),
        hush=st.sampled_from(["", "1:10s-900s:-6:3", "2:0-0.01;2:300s-1500s:-inf:0", "1:1s-40s:-3:30;1:20s-60s:-9"]),
    ),
    st.builds(Align, delay=st.tuples(st.integers(-40, 40), st.sampled_from([0, 7, 0.5, -3.125]))),
    st.builds(Trim, start=st.sampled_from(["10s", 0.001, 0.0]), end=st.sampled_from(["900s", 0.02, "end"])),
)


@given(turn=ANY_TURN, depth=st.sampled_from(["same", "16", "24", "32", "float"]))
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_every_setting_is_proved_by_its_law(
    turn: AnyTurn, depth: Any, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("law")
    count = 2 if turn.kind == "sum" else 1
    wavs = [WavFile(write_wav(folder / f"{n}.wav", noise(n, FRAMES, 2))) for n in range(count)]
    engine = engine_on(turn, *wavs)
    manifest = deliver(engine, Order(tuple(engine.sheet.list_ends()), depth), folder / "out")
    assert "identical" in manifest.proofs[0].proof.statement


WRONG: dict[str, Any] = {
    "another gain": lambda made: replace(made, matrix=made.matrix * (1 + 2.0**-20)),
    "another sign": lambda made: replace(made, matrix=-made.matrix),
    "channels the other way round": lambda made: replace(made, matrix=np.roll(made.matrix, 1, axis=1)),
    "a sample late": lambda made: replace(made, offsets=tuple(at + 1 for at in made.offsets)),
}


@pytest.mark.parametrize("kind", [kind for kind in TURNS if kind != "centre"])
def test_a_turn_that_is_wrong_is_not_proved_by_itself(
    kind: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Everything that follows from what it says is as wrong as that, and agrees with it."""
    turn = TURN_ADAPTER.validate_python({"kind": kind, **TURNS[kind].example.settings})
    real = type(turn)._outcome
    for name, change in WRONG.items():
        with monkeypatch.context() as patch:

            def wrong(self: Any, inputs: Any, change: Any = change) -> Any:
                made = real(self, inputs)
                return change(made) if isinstance(made, MatrixOutcome) else made

            plain = example_engine(kind, tmp_path, FRAMES).sheet.outcomes["only"]
            patch.setattr(type(turn), "_outcome", wrong)
            engine = example_engine(kind, tmp_path, FRAMES)
            made = engine.sheet.outcomes["only"]
            if np.array_equal(made.matrix, plain.matrix) and made.offsets == plain.offsets:
                continue
            # These take the order of several inputs from their names, which the plan alone reads.
            if kind in ("merge", "decode") and name == "channels the other way round":
                continue
            with pytest.raises(ProofFailedError, match=f"its {kind} does not match its settings"):
                deliver(engine, Order(tuple(engine.sheet.list_ends()), "24"), tmp_path / "bad")
