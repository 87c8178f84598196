"""Delivering over HTTP: downloads that go on, folders, what changed since, settings that are kept, a folder on the
server.
"""

import base64
import io
import zipfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from support.asking import add, finished, go, send
from support.helpers import Json, left_behind, noise, quiet, write_wav
from support.waiting import until
from wedge_turn.api.app import create_app
from wedge_turn.core.delivery import MANIFEST, REPORT
from wedge_turn.store import Store


def deliver(client: TestClient, view: Json, **how: object) -> Json:
    started = client.post(f"/api/jobs/{view['id']}/deliveries", json={"revision": view["head"], **how})
    assert started.status_code == 202, started.text
    return finished(client, started.json())


def planned(client: TestClient, view: Json, **how: object) -> list[Json]:
    answer = client.post(f"/api/jobs/{view['id']}/deliveries/plan", json={"revision": view["head"], **how})
    assert answer.status_code == 200, answer.text
    files: list[Json] = answer.json()
    return files


def send_from(client: TestClient, job: Json, folder: str, path: Path) -> str:
    """Take a file in as it is dropped with its folder; its reference."""
    named = {"filename": path.name, "folder": folder}
    told = ",".join(f"{key} {base64.b64encode(text.encode()).decode()}" for key, text in named.items())
    content = path.read_bytes()
    headers = {"Tus-Resumable": "1.0.0", "Upload-Length": str(len(content)), "Upload-Metadata": told}
    place = client.post(f"/api/jobs/{job['id']}/uploads", headers=headers).headers["location"]
    body = {"Tus-Resumable": "1.0.0", "Upload-Offset": "0", "Content-Type": "application/offset+octet-stream"}
    return f"source:{client.patch(place, content=content, headers=body).headers['wedge-turn-source']}"


@pytest.fixture
def split(client: TestClient, job: Json, tmp_path: Path) -> Json:
    source = send(client, job, write_wav(tmp_path / "bell.wav", noise(1, 5_000, 2)))
    return add(client, job, "split", [source["ref"]])


def test_a_download_goes_on_where_it_broke_off(client: TestClient, split: Json) -> None:
    address = f"/api/deliveries/{deliver(client, split)['id']}/archive"
    whole = client.get(address)
    size, tag = len(whole.content), whole.headers["etag"]
    assert (whole.status_code, whole.headers["accept-ranges"]) == (200, "bytes")
    assert zipfile.ZipFile(io.BytesIO(whole.content)).testzip() is None
    for asked, start, stop in (
        ("bytes=0-0", 0, 1),
        ("bytes=1000-", 1000, size),
        (f"bytes={size - 7}-", size - 7, size),
        ("bytes=17-20000", 17, 20_001),
        ("bytes=-30", size - 30, size),
        (f"bytes=5-{size + 100}", 5, size),
    ):
        part = client.get(address, headers={"Range": asked, "If-Range": tag})
        assert (part.status_code, part.content) == (206, whole.content[start:stop])
        assert part.headers["content-range"] == f"bytes {start}-{stop - 1}/{size}"
    assert client.get(address, headers={"Range": f"bytes={size}-"}).status_code == 416
    other = client.get(address, headers={"Range": "bytes=10-", "If-Range": '"another"'})
    assert (other.status_code, other.content) == (200, whole.content), "it isn't the same any more: all of it again"
    for odd in ("lines=1-2", "bytes=1" + "0" * 5_000 + "-", "bytes=-1" + "0" * 5_000):
        assert client.get(address, headers={"Range": odd}).content == whole.content


def test_files_lie_in_the_folders_they_came_from(client: TestClient, job: Json, tmp_path: Path) -> None:
    spare = write_wav(tmp_path / "spare.wav", noise(3, 100, 1))
    kit = send_from(client, job, "Reel 1/Kit", write_wav(tmp_path / "kit.wav", noise(1, 500, 2)))
    send_from(client, job, "Reel 2", spare)
    view = add(client, job, "split", [kit])
    files = planned(client, view, folders=True)
    assert [file["file"] for file in files] == ["Reel 1/Kit/kit_L.wav", "Reel 1/Kit/kit_R.wav"]
    done = deliver(client, view, folders=True, rest=True)
    address = f"/api/deliveries/{done['id']}"
    archive = zipfile.ZipFile(io.BytesIO(client.get(f"{address}/archive").content))
    assert archive.namelist() == [
        "Lamp/Reel 1/Kit/kit_L.wav", "Lamp/Reel 1/Kit/kit_R.wav", "Lamp/Reel 2/spare.wav", f"Lamp/{MANIFEST}",
        f"Lamp/{REPORT}",
    ]  # fmt: skip
    assert archive.read("Lamp/Reel 2/spare.wav") == spare.read_bytes()
    single = client.get(f"{address}/files/Reel%201%2FKit%2Fkit_R.wav")
    assert np.array_equal(soundfile.read(io.BytesIO(single.content), dtype="int32")[0] >> 8, noise(1, 500, 2)[:, 1])
    assert "kit_R.wav" in single.headers["content-disposition"]
    report = client.get(f"{address}/files/{REPORT}")
    assert report.headers["content-type"] == "text/html; charset=utf-8"
    assert "content-disposition" not in report.headers, "it is shown, not saved"
    assert "Reel 1/Kit/kit_L.wav" in report.text


def test_the_worksheet_knows_what_was_delivered_and_what_changed_since(client: TestClient, split: Json) -> None:
    assert split["steps"][0]["delivered"] is None
    delivery = deliver(client, split)
    now = client.get(f"/api/jobs/{split['id']}").json()
    assert now["steps"][0]["delivered"] == {"at": delivery["created"], "changed": False}
    client.delete(f"/api/deliveries/{delivery['id']}")
    assert client.get(f"/api/jobs/{split['id']}").json()["steps"][0]["delivered"] is None


def test_a_changed_setting_shows_and_its_file_alone_is_written_again(client: TestClient, split: Json) -> None:
    left, right = (clip["ref"] for clip in split["steps"][0]["outputs"])
    view = add(client, split, "level", [left], gains_db=[-6])
    view = add(client, split, "level", [right], gains_db=[-6])
    first = deliver(client, view)
    step = view["steps"][1]
    turn = {**step["turn"], "gains_db": [-3]}
    body = {"base": view["head"], "turn": turn}
    view = client.patch(f"/api/jobs/{split['id']}/steps/{step['id']}", json=body).json()
    assert [one["delivered"] and one["delivered"]["changed"] for one in view["steps"]] == [None, True, False]
    second = deliver(client, view)
    assert [file["kept"] for file in second["manifest"]["files"]] == [False, True]
    answer = client.get(f"/api/deliveries/{second['id']}/differences", params={"since": first["id"]})
    assert {one["name"]: one["change"] for one in answer.json()} == {"bell_L.wav": "samples", "bell_R.wav": "same"}
    undone = go(client, split, "undo")
    assert [one["delivered"] and one["delivered"]["changed"] for one in undone["steps"]] == [None, True, False], (
        "it is compared with the last delivery"
    )


def test_settings_are_kept_under_names(client: TestClient) -> None:
    settings = {
        "depth": "16", "dither": False, "rest": True, "container": "flac", "folders": True,
        "naming": {"pattern": "{n:02} {name}", "case": "lower", "spaces": "hyphen"},
    }  # fmt: skip
    kept = client.post("/api/delivery-settings", json={"name": " For  the label ", "settings": settings})
    assert (kept.status_code, kept.json()["name"], kept.json()["settings"]) == (201, "For the label", settings)
    again = client.post("/api/delivery-settings", json={"name": "For the label", "settings": {}})
    listed = client.get("/api/delivery-settings").json()
    assert [one["id"] for one in listed] == [again.json()["id"]] == [kept.json()["id"]]
    assert listed[0]["settings"]["container"] == "wav"
    assert client.delete(f"/api/delivery-settings/{listed[0]['id']}").status_code == 204
    assert client.get("/api/delivery-settings").json() == []
    assert client.delete("/api/delivery-settings/nowhere").status_code == 404


def test_what_would_clip_is_said_before_it_is_written(client: TestClient, job: Json, tmp_path: Path) -> None:
    """Left and right at full scale add up to 6.02 dB over it; once that is lowered, nothing clips."""
    ints = np.zeros((1_000, 2), np.int64)
    ints[500] = 2**23 - 1
    source = send(client, job, write_wav(tmp_path / "loud.wav", ints))
    view = add(client, job, "matrix", [source["ref"]], ll=1, lr=1, rl=1, rr=0)
    view = add(client, job, "split", [view["steps"][0]["outputs"][0]["ref"]])

    def known() -> list[Json] | None:
        files = planned(client, view)
        return None if any(file["over_db"] is None for file in files) else files

    total, left = until(known)
    assert (round(total["over_db"], 2), left["over_db"]) == (6.02, 0.0)
    assert (total["lower_db"], left["lower_db"]) == (6.1, 6.1), "results of one line come down together"
    assert [file["over_db"] for file in planned(client, view, depth="float")] == [0.0, 0.0]
    assert deliver(client, view)["manifest"]["files"][0]["clipped"] == [1]
    for clip in view["steps"][1]["outputs"]:
        view = add(client, job, "level", [clip["ref"]], gains_db=[-6.1])
    assert [file["over_db"] for file in until(known)] == [0.0, 0.0]
    assert [file["clipped"] for file in deliver(client, view)["manifest"]["files"]] == [[0], [0]]


@pytest.fixture
def offering(tmp_path: Path) -> Iterator[TestClient]:
    """An application that may deliver into folders of `Sessions`."""
    served = create_app(Store(tmp_path / "data"), deliver_to=tmp_path / "Sessions")
    with TestClient(served, base_url="http://127.0.0.1") as opened:
        yield opened


def test_a_delivery_goes_to_a_folder_on_the_server(offering: TestClient, tmp_path: Path) -> None:
    client, sessions = offering, tmp_path / "Sessions"
    job: Json = client.post("/api/jobs", json={"name": "Lamp"}).json()
    source = send(client, job, write_wav(tmp_path / "bell.wav", quiet(1, 500, 2)))
    view = add(client, job, "split", [source["ref"]])
    done = deliver(client, view, to="Kettle Island")
    assert (done["state"], done["to"]) == ("done", "Kettle Island")
    assert left_behind(sessions) == [f"Kettle Island/{name}" for name in ("bell_L.wav", "bell_R.wav", MANIFEST, REPORT)]
    assert left_behind(tmp_path / "data" / "deliveries") == []
    assert client.get("/api/delivery-folder").json() == {"name": "Sessions", "folders": ["Kettle Island"]}
    assert client.get(f"/api/deliveries/{done['id']}/archive").status_code == 200
    again = deliver(client, view, to="Kettle Island")
    assert [file["kept"] for file in again["manifest"]["files"]] == [True, True]
    (sessions / "Kettle Island" / "bell_L.wav").write_text("mine")
    refused = deliver(client, view, to="Kettle Island")
    assert (refused["state"], "bell_L.wav has been changed" in refused["error"]["message"]) == ("failed", True)
    client.delete(f"/api/deliveries/{done['id']}")
    assert (sessions / "Kettle Island" / "bell_R.wav").exists(), "a folder of the user's stays as it is"


@pytest.mark.parametrize("to", ["..", "a/../..", ".hidden", "~", "CON", "a:b", "", "\0"])
def test_no_folder_leads_out_of_the_one_that_is_offered(offering: TestClient, tmp_path: Path, to: str) -> None:
    job: Json = offering.post("/api/jobs", json={"name": "Lamp"}).json()
    source = send(offering, job, write_wav(tmp_path / "bell.wav", quiet(1, 500, 2)))
    view = add(offering, job, "swap", [source["ref"]])
    answer = offering.post(f"/api/jobs/{view['id']}/deliveries", json={"revision": view["head"], "to": to})
    assert (answer.status_code, "A folder can't be called" in answer.json()["message"]) == (422, True)
    assert not (tmp_path / "Sessions").exists()


def test_a_link_in_the_offered_folder_leads_nowhere(offering: TestClient, tmp_path: Path) -> None:
    (tmp_path / "elsewhere").mkdir()
    (tmp_path / "Sessions").mkdir()
    (tmp_path / "Sessions" / "Reel").symlink_to(tmp_path / "elsewhere")
    job: Json = offering.post("/api/jobs", json={"name": "Lamp"}).json()
    source = send(offering, job, write_wav(tmp_path / "bell.wav", quiet(1, 500, 2)))
    view = add(offering, job, "swap", [source["ref"]])
    assert offering.get("/api/delivery-folder").json()["folders"] == []
    answer = offering.post(f"/api/jobs/{view['id']}/deliveries", json={"revision": view["head"], "to": "Reel"})
    assert (answer.status_code, answer.json()["message"]) == (422, "Reel is a link to another folder")
    assert left_behind(tmp_path / "elsewhere") == []


def test_a_clip_is_planned_and_delivered_once(client: TestClient, split: Json) -> None:
    twice = {"revision": split["head"], "refs": [split["steps"][0]["outputs"][0]["ref"]] * 2}
    for path in ("deliveries/plan", "deliveries"):
        answer = client.post(f"/api/jobs/{split['id']}/{path}", json=twice)
        assert (answer.status_code, answer.json()["message"]) == (422, "The same clip is selected twice")


def test_a_server_that_offers_no_folder_says_so(client: TestClient, split: Json) -> None:
    assert client.get("/api/delivery-folder").json() == {"name": None, "folders": []}
    answer = client.post(f"/api/jobs/{split['id']}/deliveries", json={"revision": split["head"], "to": "Out"})
    assert (answer.status_code, "--deliver-to" in answer.json()["help"]) == (422, True)


def test_single_files_go_along_as_they_are(client: TestClient, job: Json, tmp_path: Path) -> None:
    paths = [write_wav(tmp_path / f"{name}.wav", noise(n, 100, 1)) for n, name in enumerate(("lamp", "bell"))]
    lamp, bell = (send(client, job, path) for path in paths)
    view = add(client, job, "polarity", [lamp["ref"]])
    result = view["steps"][0]["outputs"][0]["ref"]
    done = deliver(client, view, refs=[result], copies=[bell["ref"]])
    files = [(file["name"], file["copied"]) for file in done["manifest"]["files"]]
    assert files == [("lamp.wav", False), ("bell.wav", True)]
    content = client.get(f"/api/deliveries/{done['id']}/files/bell.wav").content
    assert content == paths[1].read_bytes()
    alone = deliver(client, view, copies=[bell["ref"], lamp["ref"]])
    assert [file["name"] for file in alone["manifest"]["files"]] == ["lamp.wav", "bell.wav"]
    wrong = client.post(f"/api/jobs/{job['id']}/deliveries", json={"revision": view["head"], "copies": [result]})
    assert (wrong.status_code, wrong.json()["message"]) == (422, "Only files of the job can be copied")
