"""What a job's files need: what is safe unheard, what is asked, and what is fine."""

from pathlib import Path

import numpy as np
import pytest

from helpers import quiet, write_wav
from wedge_turn.core.audio.wavfile import WavFile
from wedge_turn.core.delivery.copies import Copy
from wedge_turn.core.delivery.deliver import deliver
from wedge_turn.core.delivery.order import Order
from wedge_turn.core.engine import Engine
from wedge_turn.core.errors import ProofFailedError, StoppedError
from wedge_turn.core.measure.survey import survey
from wedge_turn.core.overview import clips_to_measure, describe, judge
from wedge_turn.core.plan import Dismissal, Plan, Step, source_ref
from wedge_turn.core.preparation import Preparation, preparation
from wedge_turn.core.sheet import Sheet
from wedge_turn.core.turns import ClipInfo, Fold, Level, Swap


class Session:
    """Files as the sources of a job."""

    def __init__(self, folder: Path, **files: np.ndarray) -> None:
        folder.mkdir(exist_ok=True)
        self.files = {name: WavFile(write_wav(folder / f"{name}.wav", ints)) for name, ints in files.items()}
        self.infos = {name: ClipInfo(name, file.form) for name, file in self.files.items()}

    def engine(self, plan: Plan) -> Engine:
        return Engine(Sheet(plan, self.infos), self.files.__getitem__)

    def prepared(self, plan: Plan | None = None) -> Preparation:
        engine = self.engine(plan or Plan())
        names = list(self.infos)
        wanted = clips_to_measure(engine.sheet, names, [""] * len(names))
        measures = {
            key: survey(engine.made(turn, refs) if turn else engine.clip(refs[0]))
            for key, (turn, refs) in wanted.items()
        }
        judgements = {
            source_ref(name): judge(name, info.form, measures[engine.sheet.key(source_ref(name))])
            for name, info in self.infos.items()
        }
        return preparation(
            engine.sheet, describe(engine.sheet, names, [""] * len(names), lambda _: measures), judgements
        )


def session(folder: Path) -> Session:
    one, two = quiet(1, 4_000, 1), quiet(2, 4_000, 1)
    return Session(
        folder, oh_L=one, oh_R=two, gtr=np.hstack([one, one]), fog=np.hstack([one, -one]), mix=quiet(3, 4_000, 2)
    )


def test_safe_turns_questions_and_untouched_files_are_told_apart(tmp_path: Path) -> None:
    found = session(tmp_path).prepared()
    assert [(one.code, one.turn.kind, one.inputs) for one in found.safe] == [
        ("pair", "merge", ("source:oh_L", "source:oh_R")),
        ("dual-mono", "fold", ("source:gtr",)),
    ]
    assert [(one.ref, one.code) for one in found.questions] == [("source:fog", "opposite-polarity")]
    assert found.untouched == ("source:mix",)


def test_what_is_done_archived_or_dismissed_is_left_alone(tmp_path: Path) -> None:
    here = session(tmp_path)
    done = Plan(steps=(Step(id="f", turn=Fold(take="left"), inputs=("source:gtr",)),))
    assert [one.code for one in here.prepared(done).safe] == ["pair"]
    archived = Plan(archived=("source:gtr", "source:oh_L", "source:mix"))
    found = here.prepared(archived)
    assert (found.safe, found.untouched) == ((), ("source:oh_R",))
    dismissed = here.prepared(Plan(dismissed=(Dismissal(ref="source:fog", code="opposite-polarity"),)))
    assert (dismissed.questions, dismissed.untouched) == ((), ("source:fog", "source:mix"))
    # A half of a pair that is used already takes the other half with it nowhere.
    used = Plan(steps=(Step(id="s", turn=Swap(), inputs=("source:fog",)),))
    assert [one.code for one in here.prepared(used).questions] == []


def test_ambiguous_names_are_asked_about_until_a_line_takes_one_of_them(tmp_path: Path) -> None:
    here = Session(
        tmp_path, **{f"Front_{side}": quiet(n, 4_000, 1) for n, side in enumerate(("Left", "Right", "Center"))}
    )
    asked = here.prepared().questions
    assert [one.code for one in asked] == ["ambiguous-names"]
    used = Plan(steps=(Step(id="l", turn=Level(gains_db=(-3,)), inputs=asked[0].inputs[:1]),))
    assert here.prepared(used).questions == ()


def test_adding_everything_that_is_safe_leaves_nothing_safe(tmp_path: Path) -> None:
    here = session(tmp_path)
    steps = tuple(suggestion.step(f"s{n}") for n, suggestion in enumerate(here.prepared().safe))
    again = here.prepared(Plan(steps=steps))
    assert (again.safe, again.untouched) == ((), ("source:mix",))


def copies_of(here: Session, folder: Path) -> tuple[Copy, ...]:
    return tuple(Copy(folder / f"{name}.wav", f"{name}.wav", here.files[name].form) for name in ("mix", "fog"))


def test_copies_are_proved_like_results(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    here = session(tmp_path / "in")
    engine = here.engine(Plan())
    order = Order((), copies=copies_of(here, tmp_path / "in"))
    manifest = deliver(engine, order, tmp_path / "out")
    assert [(file.name, file.copied) for file in manifest.files] == [("mix.wav", True), ("fog.wav", True)]
    assert (tmp_path / "out" / "mix.wav").read_bytes() == (tmp_path / "in" / "mix.wav").read_bytes()
    monkeypatch.setattr("wedge_turn.core.delivery.copies.hash_stored", lambda _: ("another", "disk"))
    with pytest.raises(ProofFailedError, match="could not be read back"):
        deliver(engine, order, tmp_path / "bad")
    assert not (tmp_path / "bad").exists()


def test_a_copy_and_a_result_of_one_name_get_different_names(tmp_path: Path) -> None:
    here = session(tmp_path / "in")
    engine = here.engine(Plan(steps=(Step(id="s", turn=Swap(), inputs=("source:mix",)),)))
    manifest = deliver(engine, Order(("step:s:0",), copies=copies_of(here, tmp_path / "in")), tmp_path / "out")
    assert [file.name for file in manifest.files] == ["mix.wav", "mix (2).wav", "fog.wav"]


def test_the_first_failure_stops_what_is_written_beside_it(tmp_path: Path) -> None:
    """Four files at once, stopped at half: the error is the one of the stop, and nothing is left behind."""
    here = session(tmp_path / "in")
    engine = here.engine(Plan())
    refs = tuple(source_ref(name) for name in here.infos)

    def stop(share: float) -> None:
        if share > 0.5:
            raise StoppedError("Stopped by hand")

    with pytest.raises(StoppedError, match="by hand"):
        deliver(engine, Order(refs), tmp_path / "out", stop)
    assert not (tmp_path / "out").exists()
