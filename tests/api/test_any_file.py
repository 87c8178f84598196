"""Three hundred damaged files of each format are uploaded without an error of the server; here a few of each, with
`--hypothesis-profile searching` all of them.
"""

import pytest
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from support.helpers import Json
from support.mutations import FILES, mutated

EACH = 12 if settings().derandomize else 300


@pytest.mark.parametrize("kind", FILES)
@settings(max_examples=EACH)
@given(data=st.data())
def test_a_damaged_upload_is_taken_in_or_refused(kind: str, data: st.DataObject, client: TestClient, job: Json) -> None:
    content = data.draw(mutated(kind))
    base = f"/api/jobs/{job['id']}"
    taken = client.post(f"{base}/sources", params={"name": "x.wav"}, content=content)
    assert taken.status_code in (201, 413, 415, 422), taken.text
    view = client.get(base)
    assert view.status_code == 200
    if taken.status_code == 201:
        source = taken.json()
        query = {"clip": source["ref"], "start": 0, "frames": min(50, source["frames"])}
        assert client.get(f"{base}/revisions/{view.json()['head']}/samples", params=query).status_code == 200
        gone = client.delete(f"{base}/sources/{source['id']}", params={"base": view.json()["head"]})
        assert gone.status_code == 200
