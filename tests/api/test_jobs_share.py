"""What goes from one job to another, notes, files with the same samples, and what takes room."""

from pathlib import Path

import numpy as np
import soundfile
from fastapi.testclient import TestClient

from support.asking import add, finished, floats, go, send
from support.helpers import Json, noise, quiet, write_wav
from support.waiting import until


def job_called(client: TestClient, name: str) -> Json:
    job: Json = client.post("/api/jobs", json={"name": name}).json()
    return job


def seen(client: TestClient, job: Json) -> Json:
    view: Json = client.get(f"/api/jobs/{job['id']}").json()
    return view


def measured(client: TestClient, job: Json) -> Json:
    def look() -> Json | None:
        view = seen(client, job)
        return view if all(source["measured"] for source in view["sources"]) else None

    return until(look)


def test_lines_go_to_another_job_with_all_they_are_made_from(client: TestClient, tmp_path: Path) -> None:
    one, other = job_called(client, "Lamp"), job_called(client, "Bell")
    left, right, spot = (
        send(client, one, write_wav(tmp_path / f"{name}.wav", noise(n, 500, 1)))
        for n, name in enumerate(("kit_L", "kit_R", "spot"))
    )
    client.patch(f"/api/jobs/{one['id']}/sources/{left['id']}", json={"note": "hum at 50 Hz"})
    merged = add(client, one, "merge", [left["ref"], right["ref"]])
    done = add(client, one, "swap", [merged["steps"][0]["outputs"][0]["ref"]])
    before = floats(client, done, "samples", clip=done["steps"][1]["outputs"][0]["ref"], start=0, frames=500)
    body = {"base": other["head"], "job": one["id"], "revision": done["head"], "steps": [done["steps"][1]["id"]]}
    answer = client.post(f"/api/jobs/{other['id']}/copies", json={**body, "sources": [spot["id"]]})
    assert answer.status_code == 201, answer.text
    view = answer.json()
    assert {source["name"]: source["note"] for source in view["sources"]} == {
        "kit_L": "hum at 50 Hz", "kit_R": "", "spot": "",
    }  # fmt: skip
    assert [step["verb"] for step in view["steps"]] == ["merge", "swap"]
    assert not {step["id"] for step in view["steps"]} & {step["id"] for step in done["steps"]}
    after = floats(client, view, "samples", clip=view["steps"][1]["outputs"][0]["ref"], start=0, frames=500)
    assert np.array_equal(before, after)
    assert client.get(f"/api/jobs/{other['id']}/revisions").json()[0]["label"] == "Copied 2 lines from Lamp"
    assert go(client, other, "undo")["steps"] == []
    # The files stay where the job that they came from is deleted.
    client.delete(f"/api/jobs/{one['id']}")
    again = go(client, other, "redo")
    assert np.array_equal(
        floats(client, again, "samples", clip=again["steps"][1]["outputs"][0]["ref"], start=0, frames=500), before
    )
    same = client.post(f"/api/jobs/{other['id']}/copies", json={**body, "job": other["id"], "base": again["head"]})
    assert same.status_code == 422


def test_a_file_that_is_there_already_is_not_copied_twice(client: TestClient, tmp_path: Path) -> None:
    one, other = job_called(client, "Lamp"), job_called(client, "Bell")
    song = send(client, one, write_wav(tmp_path / "song.wav", noise(1, 500, 2)))
    there = send(client, other, tmp_path / "song.wav")
    add(client, one, "swap", [song["ref"]])
    view = seen(client, one)
    body = {"base": other["head"], "job": one["id"], "revision": view["head"], "steps": [view["steps"][0]["id"]]}
    copied = client.post(f"/api/jobs/{other['id']}/copies", json=body).json()
    assert [source["id"] for source in copied["sources"]] == [there["id"]]
    assert copied["steps"][0]["inputs"] == [there["ref"]]
    stale = client.post(f"/api/jobs/{other['id']}/copies", json=body)
    assert stale.status_code == 409


def test_a_note_is_kept_and_no_note_holds_control_characters(client: TestClient, job: Json, tmp_path: Path) -> None:
    song = send(client, job, write_wav(tmp_path / "song.wav", noise(1, 500, 2)))
    url = f"/api/jobs/{job['id']}/sources/{song['id']}"
    assert client.patch(url, json={"note": "second take\nbetter"}).json()["sources"][0]["note"] == "second take\nbetter"
    assert client.patch(url, json={"note": "\x07"}).status_code == 422
    assert client.patch(url, json={"note": "x" * 4001}).status_code == 422
    assert seen(client, job)["sources"][0]["note"] == "second take\nbetter"
    late = client.patch(url, json={"note": "hum", "was": ""})
    assert (late.status_code, late.json()["code"]) == (409, "conflict")
    assert seen(client, job)["sources"][0]["note"] == "second take\nbetter"
    assert client.patch(url, json={"note": "second take\nbetter", "was": ""}).status_code == 200
    assert client.patch(url, json={"note": "hum", "was": "second take\nbetter"}).json()["sources"][0]["note"] == "hum"


def test_files_with_the_same_samples_are_told(client: TestClient, job: Json, tmp_path: Path) -> None:
    """As 16 and as 24 bit, as WAV and as FLAC; not of another rate, and not silence."""
    samples = quiet(1, 2_000, 2, bits=16)
    write_wav(tmp_path / "one.wav", samples, encoding="s16")
    write_wav(tmp_path / "two.wav", samples << 8)
    soundfile.write(tmp_path / "three.flac", samples.astype(np.int16), 48_000, "PCM_16")
    write_wav(tmp_path / "slow.wav", samples << 8, rate=44_100)
    changed = samples << 8
    changed[-1, 0] ^= 1
    write_wav(tmp_path / "changed.wav", changed)
    write_wav(tmp_path / "still.wav", 0 * samples)
    write_wav(tmp_path / "quiet.wav", 0 * samples, encoding="s16")
    for name in ("one.wav", "two.wav", "three.flac", "slow.wav", "changed.wav", "still.wav", "quiet.wav"):
        send(client, job, tmp_path / name)
    view = measured(client, job)
    names = {source["ref"]: source["name"] for source in view["sources"]}
    same = {source["name"]: {names[ref] for ref in source["same_as"]} for source in view["sources"]}
    assert same == {
        "one": {"two", "three"}, "two": {"one", "three"}, "three": {"one", "two"},
        "slow": set(), "changed": set(), "still": set(), "quiet": set(),
    }  # fmt: skip
    details = client.get(f"/api/jobs/{job['id']}/sources/{view['sources'][0]['id']}").json()
    assert {names[ref] for ref in details["source"]["same_as"]} == {"two", "three"}


def test_what_takes_room_is_told_by_job_and_cleared(client: TestClient, tmp_path: Path) -> None:
    one, other = job_called(client, "Lamp"), job_called(client, "Bell")
    soundfile.write(tmp_path / "song.flac", noise(1, 30_000, 2).astype(np.int32) << 8, 48_000, "PCM_24")
    song = send(client, one, tmp_path / "song.flac")
    shared = send(client, one, write_wav(tmp_path / "sea.wav", noise(2, 30_000, 1)))
    send(client, other, tmp_path / "sea.wav")
    add(client, one, "swap", [song["ref"]])
    view = measured(client, one)
    started = client.post(f"/api/jobs/{one['id']}/deliveries", json={"revision": view["head"]}).json()
    delivered = finished(client, started)
    heard = floats(client, view, "samples", clip=song["ref"], start=0, frames=100)
    sizes = (tmp_path / "song.flac").stat().st_size, (tmp_path / "sea.wav").stat().st_size

    def use(job: Json) -> Json:
        return next(one for one in client.get("/api/storage").json()["jobs"] if one["id"] == job["id"])

    before = use(one)
    assert before["files"] == sum(sizes)
    assert before["working"] > 30_000 * 6
    assert before["deliveries"] > 30_000 * 6
    assert use(other) | {"pictures": 0} == {
        "id": other["id"], "name": "Bell", "files": sizes[1], "working": 0, "pictures": 0, "deliveries": 0, "freed": 0,
    }  # fmt: skip
    assert before["freed"] >= sizes[0] + before["working"] + before["deliveries"]
    whole = client.get("/api/storage").json()
    assert whole["files"] == sum(sizes)
    assert whole["free"] > 0

    # Delivered again, the same sound takes no room again: only what is said about it does.
    finished(client, client.post(f"/api/jobs/{one['id']}/deliveries", json={"revision": view["head"]}).json())
    twice = use(one)
    assert before["deliveries"] < twice["deliveries"] < before["deliveries"] + 30_000 * 6
    assert client.get("/api/storage").json()["deliveries"] == twice["deliveries"]

    client.post(f"/api/jobs/{one['id']}/clear", json={"what": "derived"})
    assert (use(one)["working"], use(one)["files"], use(one)["deliveries"]) == (0, sum(sizes), twice["deliveries"])
    again = floats(client, view, "samples", clip=song["ref"], start=0, frames=100)
    assert np.array_equal(again, heard)
    assert use(one)["working"] == before["working"]
    client.post(f"/api/jobs/{one['id']}/clear", json={"what": "deliveries"})
    assert use(one)["deliveries"] == 0
    assert client.get(f"/api/deliveries/{delivered['id']}").status_code == 404
    client.delete(f"/api/jobs/{one['id']}")
    assert client.get("/api/storage").json()["files"] == sizes[1]
    assert client.get(f"/api/jobs/{other['id']}").json()["sources"][0]["ref"] != shared["ref"]
    assert client.post(f"/api/jobs/{one['id']}/clear", json={"what": "deliveries"}).status_code == 404
