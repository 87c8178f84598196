"""`doctor` says what is wrong with a data folder, beside a server that uses it, and changes nothing."""

import json
import logging
from pathlib import Path

import pytest

from support.helpers import Json, noise, take, write_wav
from support.serving import served
from support.shell import run
from wedge_turn.cli.logs import OneLine
from wedge_turn.store import Store


@pytest.fixture
def data(tmp_path: Path) -> Path:
    store = Store(tmp_path / "data")
    job = store.jobs.create("Lamp")
    for name in ("bell", "sea"):
        content = write_wav(tmp_path / "x.wav", noise(len(name), 500, 1)).read_bytes()
        take(store, job.id, content, f"{name}.wav")
    store.close()
    return tmp_path / "data"


def kept(data: Path) -> list[Path]:
    return sorted(path for path in (data / "media").rglob("*") if path.is_file())


def doctor(data: Path) -> tuple[int, dict[str, Json]]:
    done = run("doctor", "--data", data, "--json")
    return done.returncode, {check["name"]: check for check in json.loads(done.stdout)}


def test_all_is_well_also_beside_a_running_server(data: Path) -> None:
    with served(data):
        status, checks = doctor(data)
    assert (status, [name for name, check in checks.items() if not check["well"]]) == (0, [])
    assert list(checks) == ["folder", "space", "database", "media", "kernels", "interface", "movies"]
    assert checks["media"]["found"] == "All 2 files match their checksums."
    words = run("doctor", "--data", data)
    assert "ok      database: 1 job." in words.stdout


def test_a_changed_and_a_missing_file_are_named_with_what_to_do(data: Path) -> None:
    first, second = kept(data)
    first.write_bytes(first.read_bytes()[:-1] + b"x")
    second.unlink()
    status, checks = doctor(data)
    assert (status, checks["media"]["well"]) == (1, False)
    assert "1 missing" in checks["media"]["found"]
    assert "1 changed" in checks["media"]["found"]
    done = run("doctor", "--data", data)
    assert "PROBLEM media" in done.stdout
    assert "Add the same files again" in done.stdout
    assert "problems with media" in done.stderr


def test_a_damaged_database_is_a_sentence(data: Path) -> None:
    path = next(data.glob("*.sqlite3"))
    path.write_bytes(b"not a database at all" * 100)
    status, checks = doctor(data)
    assert (status, checks["database"]["well"]) == (1, False)


def test_where_there_is_no_data_yet_nothing_is_made(tmp_path: Path) -> None:
    status, checks = doctor(tmp_path / "nowhere")
    assert (status, checks["folder"]["well"]) == (0, True)
    assert not (tmp_path / "nowhere").exists()


def test_an_event_is_one_line_of_the_log_with_its_level() -> None:
    try:
        raise ValueError("two\nlines")
    except ValueError as error:
        info = (type(error), error, error.__traceback__)
    record = logging.LogRecord("wedge_turn.tasks", logging.ERROR, "x.py", 1, "delivery %s failed", ("d",), info)
    line = OneLine().format(record)
    assert "\n" not in line
    assert " ERROR wedge_turn.tasks: delivery d failed | Traceback" in line
    assert line.endswith("ValueError: two | lines")
