"""What a job's files need: what is safe unheard, what is asked, and what is fine."""

import ast
import re
from pathlib import Path

import numpy as np
import pytest

import wedge_turn.core
from support.helpers import quiet, write_wav
from wedge_turn.core.audio import WavFile
from wedge_turn.core.clips import Engine
from wedge_turn.core.delivery import Copy, Order, deliver
from wedge_turn.core.errors import ProofFailedError, StoppedError
from wedge_turn.core.findings import CODES, Preparation, describe, evaluate_clip, find_clips_to_measure, prepare
from wedge_turn.core.measure import measure_signal
from wedge_turn.core.turns import ClipInfo, Fold, Level, Swap
from wedge_turn.core.worksheet import Dismissal, Pairing, Plan, Sheet, Step, source_ref


class Session:
    """Files as the sources of a job, by their names with a hyphen for what no id holds."""

    def __init__(self, folder: Path, **files: np.ndarray) -> None:
        folder.mkdir(exist_ok=True)
        paths = {name: write_wav(folder / f"{name}.wav", ints) for name, ints in files.items()}
        self.files = {re.sub(r"\W", "-", name): WavFile(path) for name, path in paths.items()}
        self.infos = {
            key: ClipInfo(name, file.form) for name, (key, file) in zip(files, self.files.items(), strict=True)
        }

    def start_at(self, **starts: int | None) -> None:
        """Give files recorded start times."""
        for name, start in starts.items():
            form = self.infos[name].form.model_copy(update={"start_time": start})
            self.infos[name] = ClipInfo(name, form)

    def engine(self, plan: Plan) -> Engine:
        return Engine(Sheet(plan, self.infos), self.files.__getitem__)

    def prepared(self, plan: Plan | None = None) -> Preparation:
        engine = self.engine(plan or Plan())
        names = list(self.infos)
        wanted = find_clips_to_measure(engine.sheet, names, [""] * len(names))
        measures = {
            key: measure_signal(engine.preview(turn, refs) if turn else engine.clip(refs[0]))
            for key, (turn, refs) in wanted.items()
        }
        judgements = {
            source_ref(key): evaluate_clip(info.name, info.form, measures[engine.sheet.key(source_ref(key))])
            for key, info in self.infos.items()
        }
        return prepare(engine.sheet, describe(engine.sheet, names, [""] * len(names), lambda _: measures), judgements)


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


LONG, RATE = 96_000, 48_000


def mono(seed: int, frames: int = LONG) -> np.ndarray:
    return quiet(seed, frames, 1)


@pytest.mark.parametrize(
    "names",
    [
        ("vox take 1", "vox take 2"), ("choir_take_1", "choir_take_2"), ("Track 1", "Track 2"), ("scene 1", "scene 2"),
        ("day-1", "day-2"), ("12A-1", "12A-2"), ("cello.1", "cello.2"), ("gtr_1", "gtr_2"), ("loop (1)", "loop (2)"),
        ("vers 1", "vers 2"), ("keys 1", "keys 2"), ("room_1", "room_2"),
    ],
)  # fmt: skip
def test_numbers_are_takes_and_never_merged_unheard(names: tuple[str, str], tmp_path: Path) -> None:
    one, two = names
    found = Session(tmp_path / "even", **{one: mono(1), two: mono(2)}).prepared()
    assert found.safe == ()
    (question,) = found.questions
    assert (question.code, len(question.inputs)) == ("numbered-pair", 2)
    assert question.message.startswith(f"{one} and {two} are numbered: two takes, or left and right?")
    assert "their correlation is " in question.message
    assert question.remedy is not None
    assert question.remedy.turn.kind == "merge"
    # Of other lengths they are takes, and nobody is asked.
    uneven = Session(tmp_path / "uneven", **{one: mono(1), two: mono(2, LONG + RATE + 10)}).prepared()
    assert (uneven.safe, uneven.questions, len(uneven.untouched)) == ((), (), 2)


@pytest.mark.parametrize(
    ("starts", "frames", "safe", "asked"),
    [
        ((None, None), (LONG, LONG), True, ""),
        ((0, 0), (LONG, LONG - RATE // 2), True, ""),
        ((None, 0), (LONG, LONG), True, ""),
        # The second was started two thirds of a second later, and both were stopped together.
        ((0, 32_000), (LONG, LONG - 32_000), True, ""),
        ((0, 0), (LONG, LONG + 2 * RATE), False, "oh_R is 2.0 s longer than oh_L"),
        ((None, None), (LONG, LONG - RATE - 10), False, "oh_R is 1.0 s shorter than oh_L"),
        ((0, 450 * RATE), (LONG, LONG), False, "oh_R starts 450.000 s later than oh_L"),
        ((RATE, 0), (LONG, LONG), False, "oh_R starts 1.000 s earlier than oh_L"),
        ((0, 240), (LONG, LONG), False, "oh_R starts 0.005 s later than oh_L"),
    ],
)
def test_a_pair_by_name_is_merged_only_if_it_looks_like_one(
    starts: tuple[int | None, int | None], frames: tuple[int, int], safe: bool, asked: str, tmp_path: Path
) -> None:
    here = Session(tmp_path, oh_L=mono(1, frames[0]), oh_R=mono(2, frames[1]))
    here.start_at(oh_L=starts[0], oh_R=starts[1])
    found = here.prepared()
    assert [one.code for one in found.safe] == (["pair"] if safe else [])
    uneven = [one.message for one in found.questions if one.code == "uneven-pair"]
    assert uneven == ([] if safe else [f"oh_L and oh_R belong together by their names, but {asked}."])


def test_a_layout_of_unlike_lengths_is_asked_about(tmp_path: Path) -> None:
    lengths = {"FL": LONG, "FR": LONG, "BL": LONG, "BR": LONG - 2 * RATE + 1_000}
    here = Session(tmp_path, **{f"q_{mark}": mono(n, frames) for n, (mark, frames) in enumerate(lengths.items())})
    found = here.prepared()
    assert ([one.code for one in found.safe], [one.code for one in found.questions]) == ([], ["uneven-pair"])


def test_files_paired_by_hand_are_merged_whatever_their_lengths(tmp_path: Path) -> None:
    here = Session(tmp_path, oh_L=mono(1), oh_R=mono(2, LONG + 2 * RATE))
    paired = Plan(pairings=(Pairing(members=("source:oh_L", "source:oh_R")),))
    assert [one.code for one in here.prepared(paired).questions] == ["uneven-pair"]
    swapped = Plan(pairings=(Pairing(members=("source:oh_R", "source:oh_L")),))
    assert [one.code for one in here.prepared(swapped).safe] == ["pair"]


def test_every_code_that_is_suggested_or_asked_about_can_be_chosen() -> None:
    """Of all that the core's findings offer a turn for, and of what preparation itself goes by."""
    used = set()
    core = Path(wedge_turn.core.__file__).parent
    for name in ("channels", "stereo", "pair", "origin", "preparation"):
        for node in ast.walk(ast.parse((core / "findings" / f"{name}.py").read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
                given = {word.arg: word.value for word in node.keywords}
                codes = {
                    "FileFinding": given.get("code") if "remedy" in given else None,
                    "Suggestion": node.args[0] if node.args else None,
                    "Question": node.args[1] if len(node.args) > 1 else None,
                }.get(node.func.id)
                used |= {one.value for one in ast.walk(codes) if isinstance(one, ast.Constant)} if codes else set()
    assert {one for one in used if isinstance(one, str) and one != "stereo-pair"} - {"mid-side"} <= set(CODES)
    assert {"sound-tracks", "silent-channel", "uneven-pair", "late-and-inverted"} <= used


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
