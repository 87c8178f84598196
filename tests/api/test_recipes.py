"""Recipes over HTTP: saved in one job, exported, imported, and applied in another."""

import json
from pathlib import Path

import jsonschema
import numpy as np
from fastapi.testclient import TestClient

from support.asking import add, floats, go, send
from support.helpers import Json, noise, write_wav

SCHEMA = Path(__file__).parents[2] / "docs" / "recipe.schema.json"


def job_with(client: TestClient, folder: Path, name: str, *files: str) -> tuple[Json, dict[str, str]]:
    job = client.post("/api/jobs", json={"name": name}).json()
    refs = {
        stem: send(client, job, write_wav(folder / f"{stem}.wav", noise(n, 500, 1)))["ref"]
        for n, stem in enumerate(files)
    }
    return job, refs


def saved(client: TestClient, folder: Path) -> Json:
    """A pair merged and narrowed, as a recipe."""
    job, refs = job_with(client, folder, "Kit", "kit_L", "kit_R")
    merged = add(client, job, "merge", list(refs.values()))
    done = add(client, job, "width", [merged["steps"][0]["outputs"][0]["ref"]], width=0.5)
    body = {
        "job": job["id"],
        "revision": done["head"],
        "steps": [step["id"] for step in done["steps"]],
        "name": "Narrow pair",
    }
    answer = client.post("/api/recipes", json=body)
    assert answer.status_code == 201, answer.text
    recipe: Json = answer.json()
    return recipe


def test_a_recipe_goes_from_one_job_to_another_by_its_file(client: TestClient, tmp_path: Path) -> None:
    recipe = saved(client, tmp_path)
    assert recipe["roles"] == ["left", "right"]
    assert recipe["lines"] == ["merge", "width × 0.5"]
    exported = client.get(f"/api/recipes/{recipe['id']}")
    assert exported.headers["content-disposition"].endswith("Narrow%20pair.json")
    jsonschema.validate(exported.json(), json.loads(SCHEMA.read_text("utf-8")))
    assert client.delete(f"/api/recipes/{recipe['id']}").status_code == 204
    assert client.get("/api/recipes").json() == []
    again = client.post("/api/recipes/import", json=exported.json()).json()
    assert client.get("/api/recipes").json() == [again]

    other, refs = job_with(client, tmp_path, "Room", "room_R", "bell", "room_L", "oh_L", "oh_R")
    asked = {"base": other["head"], "recipe": again["id"], "refs": list(refs.values())}
    base = client.get(f"/api/jobs/{other['id']}").json()["head"]
    match = client.post(f"/api/jobs/{other['id']}/recipes/match", json=asked | {"base": base}).json()
    assert match["times"] == [[refs["room_L"], refs["room_R"]], [refs["oh_L"], refs["oh_R"]]]
    assert match["left_over"] == [refs["bell"]]
    answer = client.post(f"/api/jobs/{other['id']}/recipes", json=asked | {"base": base})
    assert answer.status_code == 201, answer.text
    view = answer.json()
    assert [step["verb"] for step in view["steps"]] == ["merge", "width × 0.5"] * 2
    left, right = (
        floats(client, view, "samples", clip=refs[name], start=0, frames=500) for name in ("room_L", "room_R")
    )
    narrow = floats(client, view, "samples", clip=view["steps"][1]["outputs"][0]["ref"], start=0, frames=500)
    expected = np.stack([0.75 * left + 0.25 * right, 0.25 * left + 0.75 * right], axis=1)
    assert np.allclose(narrow.reshape(-1, 2), expected, atol=1e-6)
    labels = [one["label"] for one in client.get(f"/api/jobs/{other['id']}/revisions").json()]
    assert labels[0] == "Applied Narrow pair 2 times"
    assert go(client, other, "undo")["steps"] == []


def test_what_is_refused_says_why(client: TestClient, tmp_path: Path) -> None:
    recipe = saved(client, tmp_path)
    assert client.post("/api/recipes/import", json={"format": "else"}).status_code == 422
    assert client.get("/api/recipes/none").status_code == 404
    job, refs = job_with(client, tmp_path, "Bell", "bell")
    base = client.get(f"/api/jobs/{job['id']}").json()["head"]
    asked = {"base": base, "recipe": recipe["id"], "refs": list(refs.values())}
    for path in ("recipes", "recipes/match"):
        refused = client.post(f"/api/jobs/{job['id']}/{path}", json=asked)
        assert refused.status_code == 422, refused.text
        assert "Nothing selected fits “Narrow pair”" in refused.json()["message"]
    stale = client.post(f"/api/jobs/{job['id']}/recipes", json=asked | {"base": job["head"] + "x"})
    assert stale.status_code in (404, 409)


def test_a_recipe_is_renamed(client: TestClient, tmp_path: Path) -> None:
    recipe = saved(client, tmp_path)
    renamed = client.patch(f"/api/recipes/{recipe['id']}", json={"name": "Half width"}).json()
    assert renamed["name"] == "Half width"
    assert client.get(f"/api/recipes/{recipe['id']}").json()["name"] == "Half width"
    assert client.patch(f"/api/recipes/{recipe['id']}", json={"name": ""}).status_code == 422
