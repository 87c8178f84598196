"""A clip that cancelled to nothing is silence with a form, for every turn that comes after it."""

from pathlib import Path

import numpy as np
import pytest

from support.helpers import noise, read_ints, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Order, deliver
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.turns import TURN_ADAPTER, TURNS, ClipInfo, Split, Sum
from wedge_turn.core.worksheet import Plan, Sheet, Step, Stretch

FRAMES = 6_000
NULL = Step(id="null", turn=Sum(flip=(2,)), inputs=("source:a", "source:a"))
# What each kind takes: the null itself, or one of its channels as often as it takes clips.
CASES = [
    (kind, over)
    for kind, turn in TURNS.items()
    if kind != "dc"  # which moves silence, too
    for over in (None, Stretch(end=0.05))
    if over is None or kind in ("swap", "polarity", "width", "level", "matrix", "encode", "centre")
]


@pytest.mark.parametrize(("kind", "over"), CASES)
def test_every_turn_makes_silence_of_nothing(kind: str, over: Stretch | None, tmp_path: Path) -> None:
    file = WavFile(write_wav(tmp_path / "a.wav", noise(1, FRAMES, 2)))
    example = TURNS[kind].example
    settings = {"keep": "sides"} if kind == "centre" and over else dict(example.settings)
    mono = tuple(f"step:channels:{n}" for n in range(len(example.channels)))
    inputs = ("step:null:0",) * len(example.channels) if example.channels[0] == 2 else mono
    turn = TURN_ADAPTER.validate_python({"kind": kind, **settings, **({"order": "given"} if kind == "merge" else {})})
    steps = (NULL, Step(id="channels", turn=Split(), inputs=("step:null:0",)))
    sheet = Sheet(Plan(steps=steps), {"a": ClipInfo("a", file.form)}).with_step(
        Step(id="turn", turn=turn, inputs=inputs, over=over)
    )
    engine = Engine(sheet, lambda _: file)
    refs = sheet.outputs(sheet.plan.step("turn"))
    manifest = deliver(engine, Order(refs), tmp_path / "out")
    assert len(manifest.files) == len(refs)
    for ref, written in zip(refs, manifest.files, strict=True):
        assert not read_ints(tmp_path / "out" / written.name, 32).any()
        assert written.frames == engine.clip(ref).form.frames > 0
        assert np.array_equal(engine.clip(ref).read(0, 10), np.zeros((10, written.channels)))
        assert measure_signal(engine.clip(ref)).whole.peak_dbfs is None


def test_the_null_itself_is_delivered(tmp_path: Path) -> None:
    file = WavFile(write_wav(tmp_path / "a.wav", noise(1, FRAMES, 2)))
    engine = Engine(Sheet(Plan(steps=(NULL,)), {"a": ClipInfo("a", file.form)}), lambda _: file)
    for container in ("wav", "flac", "aiff"):
        manifest = deliver(engine, Order(("step:null:0",), container=container), tmp_path / container)
        samples = read_ints(tmp_path / container / manifest.files[0].name)
        assert samples.shape == (FRAMES, 2)
        assert not samples.any()
