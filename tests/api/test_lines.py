"""Lines of the worksheet edited over HTTP: inserted, removed from the middle, bypassed, and waiting for a lost file."""

from pathlib import Path

import numpy as np
import pytest
from fastapi.testclient import TestClient

from support.asking import add, finished, floats, go, send
from support.helpers import Json, bext, noise, write_wav


def edited(client: TestClient, job: Json, path: str, **body: object) -> Json:
    head = client.get(f"/api/jobs/{job['id']}").json()["head"]
    answer = client.post(f"/api/jobs/{job['id']}/{path}", json={"base": head, **body})
    assert answer.status_code < 300, answer.text
    after: Json = answer.json()
    return after


def samples(client: TestClient, view: Json, ref: str) -> np.ndarray:
    return floats(client, view, "samples", clip=ref, start=0, frames=500).reshape(-1, 2)


@pytest.fixture
def song(client: TestClient, job: Json, tmp_path: Path) -> Json:
    return send(client, job, write_wav(tmp_path / "song.wav", noise(1, 500, 2)))


def test_a_turn_inserted_before_a_line_is_heard_through_it(client: TestClient, job: Json, song: Json) -> None:
    swapped = add(client, job, "swap", [song["ref"]])
    (line,) = swapped["steps"]
    plain = samples(client, swapped, line["outputs"][0]["ref"])
    inserted = {"turn": {"kind": "polarity", "channels": "left"}, "inputs": [song["ref"]]}
    view = edited(client, job, "steps", steps=[inserted], before=line["id"])
    assert [step["turn"]["kind"] for step in view["steps"]] == ["polarity", "swap"]
    assert np.array_equal(samples(client, view, line["outputs"][0]["ref"]), plain * [1, -1])
    bypassed = edited(client, job, "lines", do="bypass", steps=[view["steps"][0]["id"]])
    assert bypassed["steps"][0]["verb"] == "invert left, bypassed"
    assert np.array_equal(samples(client, bypassed, line["outputs"][0]["ref"]), plain)
    removed = edited(client, job, "lines", do="remove", steps=[view["steps"][0]["id"]])
    assert np.array_equal(samples(client, removed, line["outputs"][0]["ref"]), plain)
    assert go(client, job, "undo")["steps"] == bypassed["steps"]


@pytest.mark.parametrize("place", ["end", "before", "after"])
def test_clips_are_resampled_for_one_line_and_no_other(
    client: TestClient, job: Json, tmp_path: Path, place: str
) -> None:
    """Wherever the line goes: what the other lines take stays as it is."""
    ids = [send(client, job, write_wav(tmp_path / f"gull_{side}.wav", noise(n, rate // 100, 1), rate))["ref"]
           for n, (side, rate) in enumerate((("L", 44_100), ("R", 48_000)))]  # fmt: skip
    (line,) = add(client, job, "level", [ids[0]])["steps"]
    merged = {"turn": {"kind": "merge"}, "inputs": ids, "rate": 48_000}
    view = edited(client, job, "steps", steps=[merged], **({} if place == "end" else {place: line["id"]}))
    lines = {step["turn"]["kind"]: step for step in view["steps"]}
    assert [step["turn"]["kind"] for step in view["steps"]] == (
        ["resample", "merge", "level"] if place == "before" else ["level", "resample", "merge"]
    )
    assert lines["level"]["inputs"] == [ids[0]]
    assert lines["merge"]["inputs"] == [lines["resample"]["outputs"][0]["ref"], ids[1]]
    assert lines["merge"]["outputs"][0]["rate"] == 48_000
    assert go(client, job, "undo")["steps"] == [line]


def test_lines_that_wait_keep_nothing_else_from_its_delivery(
    client: TestClient, job: Json, song: Json, tmp_path: Path
) -> None:
    other = send(client, job, write_wav(tmp_path / "sea.wav", noise(2, 500, 2)))
    add(client, job, "swap", [song["ref"]])
    add(client, job, "split", [other["ref"]])
    head = client.get(f"/api/jobs/{job['id']}").json()["head"]
    view = client.delete(f"/api/jobs/{job['id']}/sources/{song['id']}", params={"base": head}).json()
    assert [(step["waits_for"], len(step["outputs"])) for step in view["steps"]] == [("song", 0), (None, 2)]
    assert "Waits for song" in view["steps"][0]["sentence"]
    started = client.post(f"/api/jobs/{job['id']}/deliveries", json={"revision": view["head"]}).json()
    manifest = finished(client, started)["manifest"]
    assert [file["name"] for file in manifest["files"]] == ["sea_L.wav", "sea_R.wav"]
    # Another file in its place, and the line goes on.
    url = f"/api/jobs/{job['id']}/steps/{view['steps'][0]['id']}"
    again = client.patch(url, json={"base": view["head"], "inputs": [other["ref"]]}).json()
    assert (again["steps"][0]["waits_for"], len(again["ends"])) == (None, 3)
    gone = client.patch(url, json={"base": again["head"], "inputs": ["source:gone"]})
    assert (gone.status_code, gone.json()["code"]) == (404, "not-found")


@pytest.mark.parametrize("place", ["end", "before", "after", "draft"])
def test_turns_that_follow_are_added_together(client: TestClient, job: Json, song: Json, place: str) -> None:
    """As where a channel is late and inverted: one click, one undo."""
    new: Json = {
        "turn": {"kind": "align", "delay": [3, 0]},
        "followed_by": [{"kind": "polarity", "channels": "right"}],
        "inputs": [song["ref"]],
        "names": ["mended"],
    }
    view = add(client, job, "swap", [song["ref"]])
    line = view["steps"][0]
    if place == "draft":
        answer = client.post(f"/api/jobs/{job['id']}/drafts", json={"base": view["head"], "step": new})
        after = answer.json()
    elif place == "after":
        new["inputs"] = [line["outputs"][0]["ref"]]
        after = edited(client, job, "steps", steps=[new], after=line["id"])
    else:
        after = edited(client, job, "steps", steps=[new], **({"before": line["id"]} if place == "before" else {}))
    kinds = [step["turn"]["kind"] for step in after["steps"]]
    assert kinds == (["align", "polarity", "swap"] if place == "before" else ["swap", "align", "polarity"])
    made = next(step for step in after["steps"] if step["turn"]["kind"] == "polarity")
    assert made["outputs"][0]["name"] == "mended"
    mended = floats(client, after, "samples", clip=made["outputs"][0]["ref"], start=3, frames=400).reshape(-1, 2)
    plain = samples(client, view, new["inputs"][0])
    assert np.array_equal(mended, np.stack([plain[:400, 0], -plain[3:403, 1]], axis=1))
    if place != "draft":
        assert len(go(client, job, "undo")["steps"]) == 1


def test_an_edit_is_never_refused_for_what_a_later_line_needs(client: TestClient, job: Json, song: Json) -> None:
    both = add(client, job, "centre", [song["ref"]], method="wedge", keep="both")
    line = both["steps"][0]
    add(client, job, "swap", [line["outputs"][1]["ref"]])
    url = f"/api/jobs/{job['id']}/steps/{line['id']}"

    def keep(what: str) -> Json:
        head = client.get(f"/api/jobs/{job['id']}").json()["head"]
        answer = client.patch(url, json={"base": head, "turn": {**line["turn"], "keep": what}})
        assert answer.status_code == 200, answer.text
        below: Json = answer.json()["steps"][1]
        return below

    waiting = keep("sides")
    assert (waiting["waits_for"], waiting["outputs"]) == ("result 2 of line 1", [])
    assert waiting["sentence"] == (
        "Result 2 of line 1 is not there: choose another input, or change the line it comes from."
    )
    assert keep("both")["waits_for"] is None
    fold = {"turn": {"kind": "fold", "take": "left"}, "inputs": [line["outputs"][1]["ref"]]}
    view = edited(client, job, "steps", steps=[fold], before=waiting["id"])
    assert [step["waits_for"] for step in view["steps"]] == [None, None, "one stereo clip"]
    assert view["steps"][2]["sentence"].startswith("Swap takes one stereo clip; ")


@pytest.mark.parametrize("inputs", [["source:gone"], ["step:gone:0"], ["lost:song"]])
def test_a_new_line_takes_only_what_is_there(client: TestClient, job: Json, inputs: list[str]) -> None:
    body = {"base": job["head"], "steps": [{"turn": {"kind": "swap"}, "inputs": inputs}]}
    answer = client.post(f"/api/jobs/{job['id']}/steps", json=body)
    assert (answer.status_code, answer.json()["code"]) == (404, "not-found")


def test_findings_are_dismissed_and_asked_about_again(client: TestClient, job: Json, song: Json) -> None:
    finding = [{"ref": song["ref"], "code": "delay"}]
    view = edited(client, job, "dismissals", findings=finding, dismissed=True)
    plan = client.get(f"/api/jobs/{job['id']}/revisions/{view['head']}/plan").json()
    assert plan["dismissed"] == finding
    back = go(client, job, "undo")
    assert client.get(f"/api/jobs/{job['id']}/revisions/{back['head']}/plan").json()["dismissed"] == []


def test_a_newer_file_takes_the_place_of_another(client: TestClient, job: Json, song: Json, tmp_path: Path) -> None:
    newer = send(client, job, write_wav(tmp_path / "song-2.wav", noise(2, 600, 2)))
    swapped = add(client, job, "swap", [song["ref"]])
    view = edited(client, job, f"sources/{song['id']}/replace", by=newer["id"])
    assert view["steps"][0]["inputs"] == [newer["ref"]]
    assert [one["archived"] for one in view["sources"]] == [True, False]
    heard = samples(client, view, swapped["steps"][0]["outputs"][0]["ref"])
    assert np.array_equal(heard, (noise(2, 600, 2)[:500, ::-1] / 2**23).astype("<f4"))
    (label, *_) = [revision["label"] for revision in client.get(f"/api/jobs/{job['id']}/revisions").json()]
    assert label.startswith("Replaced song by song-2: 100 samples longer")
    assert go(client, job, "undo")["steps"] == swapped["steps"]
    itself = client.post(
        f"/api/jobs/{job['id']}/sources/{song['id']}/replace", json={"base": swapped["head"], "by": song["id"]}
    )
    assert (itself.status_code, itself.json()["code"]) == (422, "bad-request")


def test_what_was_before_files_were_archived_or_deleted_is_a_checkpoint(
    client: TestClient, job: Json, song: Json
) -> None:
    def names() -> list[str | None]:
        return [one["name"] for one in client.get(f"/api/jobs/{job['id']}/revisions").json()]

    edited(client, job, "archive", refs=[song["ref"]], archived=True)
    assert names() == [None, "Before: Archived song"]
    edited(client, job, "archive", refs=[song["ref"]], archived=False)
    head = client.get(f"/api/jobs/{job['id']}").json()["head"]
    client.patch(f"/api/jobs/{job['id']}/revisions/{head}", json={"name": "mine"})
    client.delete(f"/api/jobs/{job['id']}/sources/{song['id']}", params={"base": head})
    assert names() == [None, "mine", None, "Before: Archived song"]


def test_versions_of_the_worksheet_are_compared_in_words(client: TestClient, job: Json, song: Json) -> None:
    first = add(client, job, "width", [song["ref"]], width=1.2)
    url = f"/api/jobs/{job['id']}/steps/{first['steps'][0]['id']}"
    turn = {"kind": "width", "width": 1.5}
    second = client.patch(url, json={"base": first["head"], "turn": turn}).json()

    def changes(revision: str, **query: str) -> list[str]:
        answer = client.get(f"/api/jobs/{job['id']}/revisions/{revision}/changes", params=query)
        assert answer.status_code == 200, answer.text
        return [change["sentence"] for change in answer.json()]

    assert changes(second["head"]) == ["Line 1: width 1.2 → 1.5"]
    assert changes(first["head"], since=second["head"]) == ["Line 1: width 1.5 → 1.2"]
    assert changes(job["head"]) == []
    assert changes(second["head"], since=job["head"]) == ["Line 1 added: song width × 1.5"]


def test_one_line_of_an_earlier_version_is_heard_beside_what_it_is_now_and_restored(
    client: TestClient, job: Json, song: Json
) -> None:
    first = add(client, job, "width", [song["ref"]], width=1.5)
    (line,) = first["steps"]
    then = samples(client, first, line["outputs"][0]["ref"])
    turn = {"kind": "width", "width": 0.5}
    url = f"/api/jobs/{job['id']}/steps/{line['id']}"
    client.patch(url, json={"base": first["head"], "turn": turn})
    now = add(client, job, "swap", [song["ref"]])
    revision = f"/api/jobs/{job['id']}/revisions/{first['head']}"
    (change, added) = client.get(
        f"/api/jobs/{job['id']}/revisions/{now['head']}/changes", params={"since": first["head"]}
    ).json()
    assert change == {"sentence": "Line 1: width 1.5 → 0.5", "step": line["id"], "made_then": True, "made_now": True}
    assert (added["made_then"], added["made_now"]) == (False, True)
    draft = client.post(f"{revision}/lines/{line['id']}/beside", params={"base": now["head"]}).json()
    assert np.array_equal(samples(client, draft, draft["steps"][-1]["outputs"][0]["ref"]), then)
    assert not np.array_equal(samples(client, draft, line["outputs"][0]["ref"]), then)
    assert client.get(f"/api/jobs/{job['id']}").json()["head"] == now["head"]
    restored = client.post(f"{revision}/lines/{line['id']}/restore", params={"base": now["head"]}).json()
    assert [step["verb"] for step in restored["steps"]] == ["width × 1.5", "swap"]
    assert np.array_equal(samples(client, restored, line["outputs"][0]["ref"]), then)
    labels = [one["label"] for one in client.get(f"/api/jobs/{job['id']}/revisions").json()]
    assert labels[0] == "Restored width × 1.5 from version 2"
    assert client.post(f"{revision}/lines/none/restore", params={"base": restored["head"]}).status_code == 404


def test_time_code_is_shown_as_the_samples_that_it_stands_for(client: TestClient, job: Json, tmp_path: Path) -> None:
    """As a recipe or a program has it: the page draws hushes and ranges by their samples."""
    ixml = b"<BWFXML><SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE></SPEED></BWFXML>"
    chunks = (bext(3_600 * 48_000), (b"iXML", ixml))
    take = send(client, job, write_wav(tmp_path / "take.wav", noise(1, 96_000, 1), carried=chunks))
    hush = {"channel": 1, "start": "01:00:00:05", "end": "01:00:01:00"}
    add(client, job, "level", [take["ref"]], hush=[hush])
    add(client, job, "trim", [take["ref"]], start="01:00:00:05", end=1.5)
    over = {"start": "01:00:00:05", "end": "end"}
    view = edited(client, job, "steps", steps=[{"turn": {"kind": "polarity"}, "inputs": [take["ref"]], "over": over}])
    level, trim, polarity = view["steps"]
    assert (level["turn"]["hush"][0]["start"], level["turn"]["hush"][0]["end"]) == ("9600s", "48000s")
    assert (trim["turn"]["start"], trim["turn"]["end"]) == ("9600s", 1.5)
    assert (polarity["over"]["start"], polarity["over"]["end"]) == ("9600s", "end")
    early = {"turn": {"kind": "trim", "start": "00:59:59:00"}, "inputs": [take["ref"]]}
    outside = client.post(f"/api/jobs/{job['id']}/steps", json={"base": view["head"], "steps": [early]})
    assert (outside.status_code, "lies before the start of the clip" in outside.json()["message"]) == (422, True)
