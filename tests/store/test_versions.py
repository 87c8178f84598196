"""What another version stored: brought up to date, or shown as unreadable without taking anything else with it.

`stored/` holds one of each kind for every version so far, as that version wrote it.
"""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from fastapi.testclient import TestClient
from pydantic import ValidationError
from sqlalchemy import create_engine, text

import wedge_turn.store
from support.helpers import Json, noise, take, write_wav
from support.waiting import until
from wedge_turn.api.app import create_app
from wedge_turn.core.delivery import Manifest, read_manifest_of
from wedge_turn.core.errors import DataFolderError
from wedge_turn.core.measure import SURVEY_VERSION
from wedge_turn.core.worksheet import Plan, read_plan
from wedge_turn.store import Store
from wedge_turn.store.database import FILE
from wedge_turn.store.order import StoredOrder, order_of

STORED = Path(__file__).parent / "stored"


def stored(name: str) -> Any:
    return json.loads((STORED / f"{name}.json").read_text("utf-8"))


READERS: dict[str, tuple[Callable[[Any], Any], Any]] = {
    "plan": (read_plan, Plan()),
    "order": (order_of, StoredOrder(refs=("step:x:0",))),
    "manifest": (read_manifest_of, Manifest(made="2026-11-25T00:00:00Z", files=[], proofs=[])),
}


@pytest.mark.parametrize("path", sorted(STORED.glob("*.json")), ids=lambda path: path.stem)
def test_every_version_so_far_is_read(path: Path) -> None:
    kind = path.stem.rpartition("-")[0]
    if kind != "measures":  # which are measured again
        assert READERS[kind][0](stored(path.stem))


@pytest.mark.parametrize("kind", READERS)
def test_the_current_version_is_read_unchanged(kind: str) -> None:
    reader, present = READERS[kind]
    assert reader(present.model_dump(mode="json")) == present


def test_an_old_manifest_says_to_which_files_its_findings_belong() -> None:
    manifest = read_manifest_of(stored("manifest-1"))
    assert [finding.files for finding in manifest.findings] == [("bell.wav",), ("bell.wav", "sea.wav")]
    assert manifest.files[0].read_back is None


def test_a_name_from_before_there_was_a_limit_is_cut() -> None:
    assert len(read_plan(stored("plan-1")).steps[0].names[0]) == 200


@pytest.mark.parametrize("kind", READERS)
@pytest.mark.parametrize("wrong", [{"version": 99}, {"surprise": 1}, {"steps": 7, "refs": 7, "files": 7}])
def test_an_unknown_version_is_an_expected_error(kind: str, wrong: Json) -> None:
    reader, present = READERS[kind]
    if kind != "plan" and "surprise" in wrong:
        return  # what is written for the user may hold more
    with pytest.raises((ValidationError, KeyError, TypeError, AttributeError)):
        reader({**present.model_dump(mode="json"), **wrong})


def old_database(folder: Path, revision: str) -> None:
    """A database as an earlier version made it, with a job, two sources, a delivery and measures."""
    folder.mkdir()
    engine = create_engine(f"sqlite:///{folder / FILE}")
    config = Config()
    config.set_main_option("script_location", str(Path(wedge_turn.store.__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, revision)
    with engine.begin() as connection:
        connection.execute(
            text("INSERT INTO job (id, name, created, head_id) VALUES ('j', 'Lamp', '2026-10-01 12:00:00', 'r')")
        )
        connection.execute(
            text("INSERT INTO revision (id, job_id, number, label, plan, created) "
                 "VALUES ('r', 'j', 1, 'Started', :plan, '2026-10-01 12:00:00')"),
            {"plan": json.dumps(stored("plan-1"))},
        )  # fmt: skip
        if revision >= "0004":
            connection.execute(text("UPDATE revision SET turns = 1"))
        for source in ("left", "right"):
            about = (b"iXML", b"<BWFXML><SCENE>P4</SCENE><TRACK_LIST><TRACK><INTERLEAVE_INDEX>1</INTERLEAVE_INDEX>"
                     b"<NAME>boom</NAME></TRACK></TRACK_LIST></BWFXML>")  # fmt: skip
            path = write_wav(folder / "x.wav", noise(1 if source == "left" else 2, 3_000, 1), carried=(about,))
            form = {"channels": 1, "frames": 3_000, "rate": 48_000, "encoding": "s24", "container": "WAV"}
            from wedge_turn.store.uploads import hash_of

            media = hash_of(path)
            (folder / "media" / media[:2]).mkdir(parents=True, exist_ok=True)
            path.rename(folder / "media" / media[:2] / media)
            connection.execute(
                text("INSERT INTO source (id, job_id, name, media, bytes, form, created) "
                     "VALUES (:id, 'j', :name, :media, 9044, :form, '2026-10-01 12:00:00')"),
                {"id": source, "name": f"bell_{source[0].upper()}.wav", "media": media, "form": json.dumps(form)},
            )  # fmt: skip
            if revision != "0001":
                connection.execute(
                    text("INSERT INTO measured (key, measures) VALUES (:key, :measures)"),
                    {"key": media, "measures": json.dumps(stored("measures-1"))},
                )
        connection.execute(
            text("INSERT INTO delivery (id, job_id, revision_id, state, \"order\", manifest, created) "
                 "VALUES ('d', 'j', 'r', 'done', :order, :manifest, '2026-10-01 12:00:00')"),
            {"order": json.dumps(stored("order-1")), "manifest": json.dumps(stored("manifest-1"))},
        )  # fmt: skip
    engine.dispose()


@pytest.mark.parametrize("revision", ["0001", "0002", "0003", "0004", "0005"])
def test_a_data_folder_of_an_earlier_version_is_opened(revision: str, tmp_path: Path) -> None:
    old_database(tmp_path / "data", revision)
    store = Store(tmp_path / "data")
    if revision < "0003":  # proofs were in the manifests then
        assert store.deliveries.proofs("j")["abc"].exact
    with TestClient(create_app(store), base_url="http://127.0.0.1") as client:
        view = until(lambda: _measured(client.get("/api/jobs/j").json()))
        assert [step["outputs"][0]["frames"] for step in view["steps"]] == [3_000]
        assert view["problem"] is None
        # What files say about themselves was not kept then: it is read when the application starts.
        assert [(one["recorded"]["scene"], one["labels"]) for one in view["sources"]] == [("P4", ["boom"])] * 2
        (delivery,) = client.get("/api/jobs/j/deliveries").json()
        assert delivery["manifest"]["version"] == 4
        assert client.get("/api/jobs").json()[0]["turns"] == 1


def _measured(view: Json) -> Json | None:
    return view if all(source["measured"] for source in view["sources"]) else None


@pytest.fixture
def opened(tmp_path: Path) -> tuple[Path, str]:
    """A data folder with a job of two lines, closed again, and the job's id."""
    store = Store(tmp_path / "data")
    job = store.jobs.create("Lamp")
    for seed, name in enumerate(("a.wav", "b.wav")):
        take(store, job.id, write_wav(tmp_path / name, noise(seed, 300, 2)).read_bytes(), name)
    store.close()
    return tmp_path / "data", job.id


def changed(folder: Path, statement: str, **values: object) -> None:
    with create_engine(f"sqlite:///{folder / FILE}").begin() as connection:
        connection.execute(text(statement), values)


def test_a_plan_that_cannot_be_read_affects_its_worksheet_alone(opened: tuple[Path, str]) -> None:
    folder, job = opened
    plan = {"version": 1, "steps": [], "archived": [], "pairings": [], "from_the_future": True}
    changed(folder, "UPDATE revision SET plan = :plan", plan=json.dumps(plan))
    with TestClient(create_app(Store(folder)), base_url="http://127.0.0.1") as client:
        view = client.get(f"/api/jobs/{job}").json()
        assert "cannot be read by this version" in view["problem"]
        assert len(view["sources"]) == 2
        assert client.get("/api/jobs").json()[0]["turns"] == 0
        assert client.get(f"/api/jobs/{job}/revisions").status_code == 200
        source = view["sources"][0]["id"]
        assert client.get(f"/api/jobs/{job}/sources/{source}").status_code == 200
        archiving = {"base": view["head"], "refs": [view["sources"][0]["ref"]], "archived": True}
        answer = client.post(f"/api/jobs/{job}/archive", json=archiving)
        assert (answer.status_code, answer.json()["code"]) == (409, "unreadable")


@pytest.mark.parametrize("measures", ['{"whole": 1}', '{"surprise": 1}', "[]", "null", '{"whole": {"peak_dbfs": 1}}'])
def test_measures_that_cannot_be_read_are_measured_again(opened: tuple[Path, str], measures: str) -> None:
    folder, job = opened
    store = Store(folder)
    keys = [source.media for source in store.sources.for_job(job)]
    store.close()
    for key in keys:
        row = {"key": key, "v": SURVEY_VERSION, "m": measures}
        changed(folder, "INSERT INTO measured (key, version, measures) VALUES (:key, :v, :m)", **row)
    with TestClient(create_app(Store(folder)), base_url="http://127.0.0.1") as client:
        until(lambda: _measured(client.get(f"/api/jobs/{job}").json()))


def test_a_delivery_that_cannot_be_read_affects_itself_alone(opened: tuple[Path, str]) -> None:
    folder, job = opened
    store = Store(folder)
    for _ in range(2):
        store.deliveries.create(job, store.jobs.get(job).head_id, StoredOrder(refs=("source:x",)))
    store.close()
    changed(folder, "UPDATE delivery SET state = 'done', manifest = '{\"version\": 9}' WHERE rowid = 1")
    changed(folder, "UPDATE delivery SET state = 'done', \"order\" = '{\"version\": 9}' WHERE rowid = 2")
    with TestClient(create_app(Store(folder)), base_url="http://127.0.0.1") as client:
        deliveries = client.get(f"/api/jobs/{job}/deliveries").json()
        assert [each["error"]["code"] for each in deliveries] == ["unreadable", "unreadable"]
        assert client.get(f"/api/jobs/{job}").status_code == 200


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        (lambda path: path.write_bytes(b"no database at all" * 100), "is damaged"),
        (lambda path: path.write_bytes(path.read_bytes()[:5_000]), "damaged|cannot be used"),
        (lambda path: path.unlink(), "holds 2 kept files and no"),
        (lambda path: path.write_bytes(b""), "holds 2 kept files and no"),
    ],
)
def test_a_database_that_cannot_be_used_is_said_in_one_line(
    opened: tuple[Path, str], spoil: Callable[[Path], object], says: str
) -> None:
    folder, _ = opened
    for journal in folder.glob(f"{FILE}-*"):
        journal.unlink()
    spoil(folder / FILE)
    with pytest.raises(DataFolderError, match=says):
        Store(folder)


def test_a_database_of_a_later_version_is_left_alone(opened: tuple[Path, str]) -> None:
    folder, _ = opened
    changed(folder, "UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(DataFolderError, match="later version"):
        Store(folder)


def test_a_folder_may_have_any_name(tmp_path: Path) -> None:
    """Names that mean something in an address of a database."""
    for name in ("what?mode=memory", "100%41", "a#b"):
        store = Store(tmp_path / name)
        store.jobs.create("Lamp")
        store.close()
        assert (tmp_path / name / FILE).stat().st_size > 0
