"""Settling and hand checks through the server: queued, watched, kept, resumed."""

from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import _create, _wait
from ulmek.verify.coarse import coarse_contacts
from ulmek.verify.hertz_line import Line


def _coarse() -> dict[str, Any]:
    return coarse_contacts()["roller"][0].model_dump(mode="json")


def test_a_study_is_settled_and_keeps_what_was_found(client: TestClient) -> None:
    study = _create(client, _coarse())
    assert client.post(f"/api/studies/{study}/settle", json={"within": 2}).status_code == 422
    run = client.post(f"/api/studies/{study}/settle", json={"within": 0.05, "budget": 50_000}).json()
    assert run["settling"] == {"within": 0.05, "budget": 50_000}
    end = _wait(client, run["id"], until=("solved", "failed"))
    assert end["status"] == "solved"
    settled = client.get(f"/api/runs/{run['id']}/settled").json()
    assert settled["ended"] == end["message"] == "Every measure is settled, or singular."
    pressure = next(m for m in settled["measures"] if m["column"] == "pressure")
    assert pressure["values"][-1]["value"] == pytest.approx(Line().peak, rel=0.05)
    story = client.get(f"/api/runs/{run['id']}/story").json()
    assert [e["mesh"] for e in story if e["kind"] == "settling"] == list(range(1, len(settled["meshes"]) + 1))
    # What is reviewed is the last mesh: its ledger and its hand check.
    ledger = client.get(f"/api/runs/{run['id']}/ledger").json()
    assert ledger["rows"][0]["pressure"]["value"] == pressure["values"][-1]["value"]
    last = len(client.get(f"/api/runs/{run['id']}/history").json()) - 1
    (check,) = client.get(f"/api/runs/{run['id']}/checks", params={"increment": last}).json()
    assert check["holds"] is True
    assert check["values"][0]["difference"] == pytest.approx(0, abs=0.05)

    kept = client.post(f"/api/studies/{study}/sizes", json={"run_id": run["id"]}, params={"base_revision": 1}).json()
    assert kept["undo"] == f"Sizes found by run {run['id']}"
    found = np.array(kept["document"]["parts"][0]["mesh"]["found"])
    assert found[:, 3].min() < 1
    plain = client.post(f"/api/studies/{study}/runs").json()["id"]
    assert _wait(client, plain, until=("solved", "failed"))["status"] == "solved"
    again = client.get(f"/api/runs/{plain}/ledger").json()["rows"][0]["pressure"]["value"]
    assert again == pytest.approx(pressure["values"][-1]["value"], rel=1e-6)
    assert client.get(f"/api/runs/{plain}/settled").json() is None
    told = client.get(f"/api/runs/{plain}/changes", params={"since": run["id"]}).json()
    assert any("mesh found none → " in line and line.endswith(" points.") for line in told)
    refused = client.post(f"/api/studies/{study}/sizes", json={"run_id": plain}, params={"base_revision": 2})
    assert (refused.status_code, refused.json()["hint"]) == (422, "Settle the study first.")


def test_settling_is_stopped_and_goes_on(client: TestClient) -> None:
    document = _coarse()
    document["steps"][0]["increments"] = {"start": 0.04, "largest": 0.04}
    study = _create(client, document)
    run = client.post(f"/api/studies/{study}/settle", json={}).json()["id"]
    while not any(e.get("mesh") == 2 for e in client.get(f"/api/runs/{run}/story").json()):
        assert client.get(f"/api/runs/{run}").json()["status"] in ("queued", "running")
    client.post(f"/api/runs/{run}/stop")
    stopped = _wait(client, run, until=("stopped", "solved", "failed"))
    assert (stopped["status"], stopped["may_resume"]) == ("stopped", True)
    on = client.post(f"/api/runs/{run}/resume").json()
    assert on["settling"] is not None
    assert _wait(client, on["id"], until=("solved", "failed"))["status"] == "solved"
    meshes = [e["mesh"] for e in client.get(f"/api/runs/{on['id']}/story").json() if e["kind"] == "settling"]
    assert meshes[0] == 2
    assert len(client.get(f"/api/runs/{on['id']}/settled").json()["meshes"]) == meshes[-1]
