"""Films and recorders' files over HTTP: what they say, and what is seen."""

from pathlib import Path

import av
import pytest
from fastapi.testclient import TestClient

from support.asking import add, send
from support.helpers import Json, bext, quiet, write_wav
from support.movies import rising, write_movie
from support.waiting import until


@pytest.fixture
def film(client: TestClient, job: Json, tmp_path: Path) -> Json:
    path = write_movie(tmp_path / "pier.mov", "mov", "pcm_s16le", [rising(96_000)], pictures=50, timecode="10:00:00:00")
    return send(client, job, path)


def seen(answer: bytes, folder: Path) -> float:
    """The brightness of a JPEG."""
    path = folder / "seen.jpg"
    path.write_bytes(answer)
    with av.open(path) as opened:
        (frame,) = opened.decode(video=0)
    return float(frame.to_ndarray(format="gray").mean())


def test_a_film_shows_its_picture_and_time_code(client: TestClient, job: Json, film: Json, tmp_path: Path) -> None:
    assert (film["container"], film["recorded"]["picture"]) == ("MOV PCM", True)
    assert (film["time_code"], film["frame_rate"]) == ("10:00:00:00", "25")
    address = f"/api/jobs/{job['id']}/sources/{film['id']}/picture"
    first, later = (client.get(address, params={"at": at}) for at in (0, 1.5))
    assert first.headers["content-type"] == "image/jpeg"
    assert seen(later.content, tmp_path) > seen(first.content, tmp_path) + 50
    for wrong in (-1, "nan", "inf", "later"):
        assert client.get(address, params={"at": wrong}).status_code == 422


def test_sound_alone_has_no_picture(client: TestClient, job: Json, tmp_path: Path) -> None:
    sea = send(client, job, write_wav(tmp_path / "sea.wav", quiet(1, 500, 1)))
    answer = client.get(f"/api/jobs/{job['id']}/sources/{sea['id']}/picture", params={"at": 0})
    assert (answer.status_code, answer.json()["message"]) == (404, "sea.wav has no picture")


def test_results_are_called_and_labelled_as_the_file_says(client: TestClient, job: Json, tmp_path: Path) -> None:
    tracks = "".join(
        f"<TRACK><INTERLEAVE_INDEX>{n}</INTERLEAVE_INDEX><NAME>{name}</NAME></TRACK>"
        for n, name in enumerate(("boom", "bell", "radio"), 1)
    )
    about = f"<BWFXML><TAKE>7</TAKE><TRACK_LIST>{tracks}</TRACK_LIST></BWFXML>".encode()
    poly = send(client, job, write_wav(tmp_path / "poly.wav", quiet(1, 500, 3), carried=((b"iXML", about),)))
    assert (poly["labels"], poly["recorded"]["take"]) == (["boom", "bell", "radio"], "7")
    view = add(client, job, "split", [poly["ref"]])
    assert [(one["name"], one["labels"]) for one in view["steps"][0]["outputs"]] == [
        ("poly_boom", ["boom"]), ("poly_bell", ["bell"]), ("poly_radio", ["radio"]),
    ]  # fmt: skip
    by_two = add(client, job, "split", [poly["ref"]], parts=[2, 1])
    assert [one["name"] for one in by_two["steps"][1]["outputs"]] == ["poly_1-2", "poly_3"]
    wrong = {"base": by_two["head"], "steps": [{"turn": {"kind": "split", "parts": [2, 2]}, "inputs": [poly["ref"]]}]}
    answer = client.post(f"/api/jobs/{job['id']}/steps", json=wrong)
    assert answer.json()["message"] == "poly has 3 channels; the parts take 4"


def test_what_files_say_about_each_other_is_among_their_findings(client: TestClient, job: Json, tmp_path: Path) -> None:
    for n, name in enumerate(("boom", "bell", "radio", "rail")):
        start = 48_000 * (7_200 if name == "rail" else 3_600)
        send(client, job, write_wav(tmp_path / f"{name}.wav", quiet(n, 4_800, 1), carried=(bext(start),)))

    def codes() -> dict[str, list[str]] | None:
        view = client.get(f"/api/jobs/{job['id']}").json()
        found = {one["name"]: [finding["code"] for finding in one["findings"]] for one in view["sources"]}
        return found if all(one["measured"] for one in view["sources"]) else None

    assert until(codes) == {"boom": [], "bell": [], "radio": [], "rail": ["other-start"]}
    view = client.get(f"/api/jobs/{job['id']}").json()
    rail = next(one for one in view["sources"] if one["name"] == "rail")
    details = client.get(f"/api/jobs/{job['id']}/sources/{rail['id']}").json()
    assert [finding["code"] for finding in details["source"]["findings"]] == ["other-start"]
    # What is archived says nothing of the others.
    client.post(f"/api/jobs/{job['id']}/archive", json={"base": view["head"], "refs": [rail["ref"]], "archived": True})
    assert until(codes) == {"boom": [], "bell": [], "radio": [], "rail": []}
