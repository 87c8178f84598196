"""The API over HTTP: stories from upload to download, compact binary, and every error as its answer."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from support.asking import add, finished, floats, go, send
from support.helpers import Json, bext, kept_files, left_behind, noise, write_wav
from support.waiting import until
from wedge_turn.api.app import openapi
from wedge_turn.api.errors import STATUS
from wedge_turn.core.delivery import MANIFEST, REPORT
from wedge_turn.core.errors import all_errors


def pair(client: TestClient, job: Json, tmp_path: Path) -> list[Json]:
    return [
        send(client, job, write_wav(tmp_path / f"lamp_{side}.wav", noise(n, 5_000, 1), carried=(bext(960),)))
        for n, side in enumerate("LR")
    ]


def test_two_files_become_one_and_are_delivered_with_proof(client: TestClient, job: Json, tmp_path: Path) -> None:
    left, right = pair(client, job, tmp_path)
    assert client.get(f"/api/jobs/{job['id']}").json()["groups"][0]["members"] == [left["ref"], right["ref"]]
    view = add(client, job, "merge", [right["ref"], left["ref"]])
    (step,) = view["steps"]
    assert step["carries"] == [[["lamp_L"], ["lamp_R"]]]
    assert (step["exact"], step["comes_back"], step["proof"]) == (True, True, None)
    (planned,) = client.post(f"/api/jobs/{job['id']}/deliveries/plan", json={"revision": view["head"]}).json()
    started = client.post(f"/api/jobs/{job['id']}/deliveries", json={"revision": view["head"]})
    assert started.status_code == 202
    delivery = finished(client, started.json())
    assert delivery["state"] == "done"
    archive = zipfile.ZipFile(io.BytesIO(client.get(f"/api/deliveries/{delivery['id']}/archive").content))
    assert archive.testzip() is None
    assert archive.namelist() == ["Lamp/lamp.wav", f"Lamp/{MANIFEST}", f"Lamp/{REPORT}"]
    data, _ = soundfile.read(io.BytesIO(archive.read("Lamp/lamp.wav")), dtype="int32")
    assert np.array_equal(data >> 8, np.hstack([noise(0, 5_000, 1), noise(1, 5_000, 1)]))
    single = client.get(f"/api/deliveries/{delivery['id']}/files/{planned['file']}")
    assert single.content == archive.read("Lamp/lamp.wav")
    assert client.get(f"/api/jobs/{job['id']}").json()["steps"][0]["proof"]["exact"] is True
    assert client.get(f"/api/deliveries/{delivery['id']}/files/..%2Fx").status_code == 404
    assert client.delete(f"/api/deliveries/{delivery['id']}").status_code == 204
    assert left_behind(tmp_path / "data" / "deliveries") == []


def test_samples_and_pictures_of_any_clip_at_any_revision(client: TestClient, job: Json, tmp_path: Path) -> None:
    left, right = pair(client, job, tmp_path)
    view = add(client, job, "merge", [left["ref"], right["ref"]])
    merged = view["steps"][0]["outputs"][0]["ref"]
    samples = floats(client, view, "samples", clip=merged, start=4_990, frames=20).reshape(-1, 2)
    expected = np.hstack([noise(0, 5_000, 1), noise(1, 5_000, 1)])[4_990:] / 2**23
    assert np.array_equal(samples, np.vstack([expected, np.zeros((10, 2))]).astype("<f4"))
    together = floats(client, view, "samples", clip=[left["ref"], right["ref"]], start=4_990, frames=20)
    assert np.array_equal(together, samples.ravel())
    shown = floats(client, view, "waveform", clip=merged, start=0, per=4096, bins=10).reshape(-1, 6)
    assert shown[0, 1] == np.float32(noise(0, 5_000, 1)[:4096].max() / 2**23)
    assert len(shown) == 2
    assert abs(floats(client, view, "correlation", clip=merged, start=0, per=4096, bins=1)[0]) < 0.1
    undone = go(client, job, "undo")
    assert undone["steps"] == []
    assert floats(client, view, "samples", clip=merged, start=0, frames=1).size == 2
    gone = client.get(f"/api/jobs/{job['id']}/revisions/{undone['head']}/samples?clip={merged}&start=0&frames=1")
    assert (gone.status_code, gone.json()["code"]) == (404, "not-found")
    assert go(client, job, "redo")["steps"] == view["steps"]


def test_steps_are_changed_and_removed_and_a_stale_base_is_refused(
    client: TestClient, job: Json, tmp_path: Path
) -> None:
    left, right = pair(client, job, tmp_path)
    first = add(client, job, "merge", [left["ref"], right["ref"]])
    step = first["steps"][0]
    url = f"/api/jobs/{job['id']}/steps/{step['id']}"
    turn = {**step["turn"], "order": "given"}
    inputs = [right["ref"], left["ref"]]
    changed = client.patch(url, json={"base": first["head"], "turn": turn, "inputs": inputs, "names": ["bell"]}).json()
    assert changed["steps"][0]["carries"] == [[["lamp_R"], ["lamp_L"]]]
    assert changed["steps"][0]["outputs"][0]["name"] == "bell"
    assert [f["code"] for f in changed["steps"][0]["findings"]] == ["side-against-name"]
    lines, removal = f"/api/jobs/{job['id']}/lines", {"do": "remove", "steps": [step["id"]]}
    stale = client.post(lines, json={"base": first["head"], **removal})
    assert (stale.status_code, stale.json()["code"]) == (409, "stale")
    assert client.post(lines, json={"base": changed["head"], **removal}).json()["steps"] == []
    revisions = client.get(f"/api/jobs/{job['id']}/revisions").json()
    assert [r["label"] for r in revisions] == ["Removed merge", "Changed settings of merge", "Added merge", "Started"]
    named = client.patch(f"/api/jobs/{job['id']}/revisions/{first['head']}", json={"name": "safe"}).json()
    assert named["name"] == "safe"
    back = go(client, job, f"revisions/{first['head']}/restore")
    assert back["steps"] == first["steps"]
    plan = client.get(f"/api/jobs/{job['id']}/revisions/{first['head']}/plan").json()
    assert plan["steps"][0]["inputs"] == [left["ref"], right["ref"]]


@pytest.mark.parametrize(
    ("name", "content", "status", "code"),
    [
        ("a.wav", b"<html>", 415, "not-audio"),
        ("a.wav", b"", 415, "not-audio"),
        ("..", b"x", 422, "bad-name"),
        ("\0\n", b"x", 422, "bad-name"),
        ("a.vox", b"<html>" * 100, 415, "not-audio"),
    ],
)
def test_bad_uploads_are_answered_and_leave_nothing(
    client: TestClient, job: Json, tmp_path: Path, name: str, content: bytes, status: int, code: str
) -> None:
    answer = client.post(f"/api/jobs/{job['id']}/sources", params={"name": name}, content=content)
    assert (answer.status_code, answer.json()["code"]) == (status, code)
    assert str(tmp_path) not in answer.text
    assert client.get(f"/api/jobs/{job['id']}").json()["sources"] == []
    assert kept_files(tmp_path / "data") == []


@pytest.mark.parametrize("name", ["../../x.wav", "x\r\n.wav", "y" * 400 + ".wav", "evil\u202egpj.wav", "a/b\\c.wav"])
def test_odd_names_are_shown_safely(client: TestClient, job: Json, tmp_path: Path, name: str) -> None:
    source = send(client, job, write_wav(tmp_path / "x.wav", noise(1, 10, 2)), name)
    assert source["file"].isprintable()
    assert not set(source["file"]) & set("/\\\u202e")
    assert len(source["file"].encode()) <= 255
    view = add(client, job, "split", [source["ref"]])
    started = client.post(f"/api/jobs/{job['id']}/deliveries", json={"revision": view["head"]}).json()
    assert finished(client, started)["state"] == "done"


@pytest.mark.parametrize(
    ("path", "status"),
    [
        ("/api/nothing", 404),
        ("/api/jobs/none", 404),
        ("/api/jobs/none/revisions/x/samples?clip=a&start=0&frames=1", 422),
    ],
)
def test_unknown_ids_and_paths_are_problems(client: TestClient, path: str, status: int) -> None:
    answer = client.get(path)
    assert answer.status_code == status
    assert set(answer.json()) == {"code", "message", "help", "usable"}


def test_limits_of_requests(client: TestClient, job: Json, tmp_path: Path) -> None:
    source = send(client, job, write_wav(tmp_path / "x.wav", noise(1, 10, 2)))
    base = f"/api/jobs/{job['id']}/revisions/{job['head']}"
    for query in (
        "samples?start=0&frames=999999999", "samples?start=-1&frames=0", "waveform?start=0&per=3&bins=4",
        "waveform?start=0&per=4&bins=100000", "correlation?start=0&per=256&bins=4",
    ):  # fmt: skip
        answer = client.get(f"{base}/{query}&clip={source['ref']}")
        assert (answer.status_code, answer.json()["code"]) == (422, "bad-request"), query
    nothing = client.post(f"/api/jobs/{job['id']}/deliveries", json={"revision": job["head"]})
    assert nothing.status_code == 422
    merge = {"base": job["head"], "steps": [{"turn": {"kind": "merge"}, "inputs": [source["ref"]]}]}
    assert client.post(f"/api/jobs/{job['id']}/steps", json=merge).json()["code"] == "turn-input"


def test_pages_of_other_sites_cannot_write(client: TestClient) -> None:
    foreign = client.post("/api/jobs", json={"name": "x"}, headers={"Origin": "https://elsewhere.example"})
    assert (foreign.status_code, foreign.json()["code"]) == (403, "other-site")
    same = client.post("/api/jobs", json={"name": "x"}, headers={"Origin": "http://127.0.0.1"})
    assert same.status_code == 201


def test_jobs_are_renamed_and_deleted(client: TestClient, job: Json) -> None:
    assert client.patch(f"/api/jobs/{job['id']}", json={"name": "Stairs"}).json()["name"] == "Stairs"
    assert [j["name"] for j in client.get("/api/jobs").json()] == ["Stairs"]
    assert client.delete(f"/api/jobs/{job['id']}").status_code == 204
    assert client.get("/api/jobs").json() == []


def settled(client: TestClient, job: Json) -> Json:
    """The job when everything in it has been measured."""

    def look() -> Json | None:
        now: Json = client.get(f"/api/jobs/{job['id']}").json()
        return now if all(source["measured"] for source in now["sources"]) else None

    return until(look)


def test_many_turns_are_one_revision(client: TestClient, job: Json, tmp_path: Path) -> None:
    for name in ("sea", "wind"):
        pair_ = [write_wav(tmp_path / f"{name}_{side}.wav", noise(n, 900, 1)) for n, side in enumerate("LR")]
        for path in pair_:
            send(client, job, path)
    view = client.get(f"/api/jobs/{job['id']}").json()
    steps = [{"turn": group["turn"], "inputs": group["members"]} for group in view["groups"]]
    after = client.post(f"/api/jobs/{job['id']}/steps", json={"base": view["head"], "steps": steps}).json()
    assert [step["outputs"][0]["name"] for step in after["steps"]] == ["sea", "wind"]
    assert [group["done"] for group in after["groups"]] == [True, True]
    assert go(client, job, "undo")["steps"] == []
    # One that cannot be added takes none of the others with it into the worksheet.
    bad = [*steps, {"turn": {"kind": "swap"}, "inputs": steps[0]["inputs"][:1]}]
    refused = client.post(f"/api/jobs/{job['id']}/steps", json={"base": view["head"], "steps": bad})
    assert (refused.status_code, refused.json()["code"]) == (422, "turn-input")
    assert client.get(f"/api/jobs/{job['id']}").json()["steps"] == []


def test_pairs_are_swapped_split_up_and_restored(client: TestClient, job: Json, tmp_path: Path) -> None:
    left, right = pair(client, job, tmp_path)

    def say(members: list[str], together: bool = True) -> Json:
        head = client.get(f"/api/jobs/{job['id']}").json()["head"]
        body = {"base": head, "members": members, "together": together}
        after: Json = client.post(f"/api/jobs/{job['id']}/pairings", json=body).json()
        return after

    (group,) = say([right["ref"], left["ref"]])["groups"]
    assert (group["members"], group["by_hand"], group["turn"]["order"]) == ([right["ref"], left["ref"]], True, "given")
    merged = client.post(
        f"/api/jobs/{job['id']}/steps",
        json={"base": client.get(f"/api/jobs/{job['id']}").json()["head"],
              "steps": [{"turn": group["turn"], "inputs": group["members"]}]},
    ).json()  # fmt: skip
    assert merged["steps"][0]["carries"] == [[["lamp_R"], ["lamp_L"]]]
    go(client, job, "undo")
    assert say([left["ref"], right["ref"]], together=False)["groups"] == []
    go(client, job, "undo")
    assert client.get(f"/api/jobs/{job['id']}").json()["groups"][0]["by_hand"] is True


def test_sources_are_archived_and_brought_back(client: TestClient, job: Json, tmp_path: Path) -> None:
    left, _ = pair(client, job, tmp_path)
    body = {"base": job["head"], "refs": [left["ref"]], "archived": True}
    after = client.post(f"/api/jobs/{job['id']}/archive", json=body).json()
    assert [source["archived"] for source in after["sources"]] == [True, False]
    assert after["groups"] == []
    again = client.post(
        f"/api/jobs/{job['id']}/archive", json={**body, "base": after["head"], "archived": False}
    ).json()
    assert len(again["groups"]) == 1
    unknown = {"base": again["head"], "refs": ["source:none"], "archived": True}
    assert client.post(f"/api/jobs/{job['id']}/archive", json=unknown).status_code == 404


def test_files_are_measured_as_they_come_and_pairs_with_them(client: TestClient, job: Json, tmp_path: Path) -> None:
    tone = np.cumsum(np.random.default_rng(1).integers(-9_000, 9_000, (60_000, 1)), axis=0) % 2**22
    write_wav(tmp_path / "a_L.wav", tone)
    write_wav(tmp_path / "a_R.wav", np.roll(tone, 30, axis=0))
    wide = write_wav(tmp_path / "mono.wav", np.hstack([tone, tone]))
    sources = [send(client, job, path) for path in (tmp_path / "a_L.wav", tmp_path / "a_R.wav", wide)]
    view = settled(client, job)
    assert [f["code"] for f in view["sources"][2]["findings"]] == ["dual-mono"]
    assert view["sources"][2]["findings"][0]["remedy"]["turn"]["kind"] == "fold"
    findings = until(lambda: client.get(f"/api/jobs/{job['id']}").json()["groups"][0]["findings"])
    assert [f["code"] for f in findings] == ["delay"]
    details = client.get(f"/api/jobs/{job['id']}/sources/{sources[0]['id']}").json()
    assert details["measures"]["whole"]["peak_dbfs"] == pytest.approx(20 * np.log10(tone.max() / 2**23), abs=0.01)
    merged = add(client, job, "merge", [sources[0]["ref"], sources[1]["ref"]])
    assert [f["code"] for f in merged["steps"][0]["findings"]] == ["delay"]
    query = {"clip": merged["steps"][0]["outputs"][0]["ref"]}
    base = f"/api/jobs/{job['id']}/revisions/{merged['head']}"
    assert client.get(f"{base}/measures", params=query).json()["measures"]["sides"]["delay"]["samples"] == 30


def test_a_slider_that_moves_is_one_step_of_the_history(client: TestClient, job: Json, tmp_path: Path) -> None:
    source = send(client, job, write_wav(tmp_path / "x.wav", noise(1, 100, 2)))
    before = add(client, job, "width", [source["ref"]])
    amends = None
    step = before["steps"][0]["id"]
    heads = []
    for width in (1.1, 1.2, 1.3):
        head = client.get(f"/api/jobs/{job['id']}").json()["head"]
        change = {"base": head, "turn": {"kind": "width", "width": width}, "amends": amends}
        after = client.patch(f"/api/jobs/{job['id']}/steps/{step}", json=change).json()
        amends = after["head"]
        heads.append(amends)
    assert after["steps"][0]["turn"]["width"] == 1.3
    assert len(client.get(f"/api/jobs/{job['id']}/revisions").json()) == 3
    # Who still listens to an earlier place of the slider goes on hearing it.
    query = f"clip=step:{step}:0&start=0&frames=10"
    assert client.get(f"/api/jobs/{job['id']}/revisions/{heads[0]}/samples?{query}").status_code == 200
    assert go(client, job, "undo")["head"] == before["head"]
    assert go(client, job, "redo")["head"] == heads[-1]


def test_every_error_has_one_status_and_a_line_of_help() -> None:
    codes = [error.code for error in all_errors()]
    assert len(codes) == len(set(codes))
    assert set(codes) == set(STATUS)
    assert all(len(error.help) > 10 and "\n" not in error.help for error in all_errors())


def test_every_route_is_documented() -> None:
    for path, methods in openapi()["paths"].items():
        for method, operation in methods.items():
            assert operation.get("description"), f"{method} {path}"


@pytest.mark.parametrize("where", ["undo", "redo", "revisions/{first}/restore"])
def test_undo_redo_and_restore_are_refused_where_another_window_was_faster(
    client: TestClient, job: Json, tmp_path: Path, where: str
) -> None:
    """What the other has just done is never taken back unasked."""
    ref = send(client, job, write_wav(tmp_path / "st.wav", noise(1, 500, 2)))["ref"]
    seen = add(client, job, "swap", [ref])
    first = go(client, job, "undo")
    theirs = go(client, job, "redo") if where == "redo" else add(client, job, "width", [ref])
    base = first["head"] if where == "redo" else seen["head"]
    path = where.format(first=first["head"])
    refused = client.post(f"/api/jobs/{job['id']}/{path}", params={"base": base})
    assert (refused.status_code, refused.json()["code"]) == (409, "stale")
    assert client.get(f"/api/jobs/{job['id']}").json()["head"] == theirs["head"]
    assert client.post(f"/api/jobs/{job['id']}/{path}").status_code == 422
