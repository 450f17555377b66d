"""Asking again through the server: variants, what-ifs, series that outlive the server, samples opened and kept."""

import json
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import _create, _wait
from tests.runs.test_series import ASKED
from ulmek.api.app import create_app

ADDRESS = "http://127.0.0.1:8321"
ENDED = ("solved", "failed", "stopped", "not-converged")
MU = {"path": "/pairs/joint/law/mu", "value": 0.3}


def _peak(client: TestClient, run: int) -> float:
    rows = client.get(f"/api/runs/{run}/ledger").json()["rows"]
    return float(next(r for r in rows if r["id"] == "joint")["pressure"]["value"])


def test_variants_are_kept_run_and_follow(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    at, base = f"/api/studies/{study}/variants", {"base_revision": 1}
    refused = client.post(
        at, params=base, json={"naming": {"name": "No"}, "what": {"changes": [{"path": "/pairs/lid/law/mu"}]}}
    )
    assert (refused.status_code, refused.json()["hint"]) == (404, "There: joint.")
    kept = client.post(at, params=base, json={"naming": {"name": "Dry"}, "what": {"changes": [MU]}}).json()
    assert (kept["revision"], kept["undo"]) == (2, "Variant Dry")
    (variant,) = client.get(at).json()
    assert variant["changes"] == ["Slider – base, law mu 0.15 → 0.3."]
    run = client.post(f"{at}/{variant['id']}/run").json()
    assert run["variant"] == "Dry"
    assert _wait(client, run["id"], until=ENDED)["status"] == "solved"
    assert client.get(f"/api/runs/{run['id']}/document").json()["document"]["pairs"][0]["law"]["mu"] == 0.3
    # The study loses the pair: the variant says what it misses.
    gone = [{"op": "remove", "path": "/pairs/0"}]
    edit = {"base_revision": 2, "patch": gone, "label": "No pair"}
    assert client.patch(f"/api/studies/{study}", json=edit).status_code == 200
    assert "there is no 'joint'" in client.get(at).json()[0]["misfit"]


def test_a_what_if_is_answered_as_a_fresh_run_and_stays_aside(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    run = client.post(f"/api/studies/{study}/runs").json()["id"]
    assert _wait(client, run, until=ENDED)["status"] == "solved"
    asked = []
    for value in (0.2, 0.25, 0.3):
        what = {"changes": [{**MU, "value": value}, {"path": "/loads/push/values/push", "value": "3 kN"}]}
        asked.append(client.post(f"/api/runs/{run}/what-if", json=what).json()["id"])
        assert _wait(client, asked[-1], until=ENDED)["status"] == "solved"
    story = client.get(f"/api/runs/{asked[-1]}/story").json()
    assert next(e for e in story if e.get("phase") == "solve")["reused"] is True
    # They do not stand among the runs, and only the last two are still there.
    assert [r["id"] for r in client.get(f"/api/studies/{study}/runs").json()] == [run]
    assert [client.get(f"/api/runs/{i}").status_code for i in asked] == [404, 200, 200]
    told = client.get(f"/api/runs/{asked[-1]}/changes", params={"since": run}).json()
    assert told == ["Slider – base, law mu 0.15 → 0.3.", "Push, values push 2 kN → 3 kN."]
    naming = {"name": "Dry and hard"}
    kept = client.post(f"/api/runs/{asked[-1]}/variant", json=naming, params={"base_revision": 1}).json()
    (variant,) = kept["document"]["variants"]
    fresh = client.post(f"/api/studies/{study}/variants/{variant['id']}/run").json()["id"]
    assert _wait(client, fresh, until=ENDED)["status"] == "solved"
    assert _peak(client, fresh) == pytest.approx(_peak(client, asked[-1]), rel=1e-8)
    nothing = client.post(f"/api/runs/{run}/variant", json=naming, params={"base_revision": 2})
    assert nothing.json()["message"] == "this run solved the study as it stands."


def _until(client: TestClient, series: int, is_so: Any, patience: float = 90.0) -> dict[str, Any]:
    end = time.monotonic() + patience
    while time.monotonic() < end:
        found: dict[str, Any] = client.get(f"/api/series/{series}").json()
        if is_so(found):
            return found
        time.sleep(0.2)
    raise AssertionError(found)


def test_a_series_goes_on_after_the_server_and_its_samples_open_as_runs(
    tmp_path: Path, two_blocks: dict[str, Any]
) -> None:
    document = {**two_blocks, "series": [{**ASKED, "samples": 12}]}
    with TestClient(create_app(tmp_path), base_url=ADDRESS) as client:
        study = _create(client, document)
        wrong = {**ASKED, "inputs": [{**ASKED["inputs"][1], "paths": ["/pairs/lid/law/mu"]}]}
        looked = client.post(f"/api/studies/{study}/inputs", json=wrong)
        assert looked.json()["where"].startswith("series/s/inputs/mu")
        push, mu = client.post(f"/api/studies/{study}/inputs", json=ASKED).json()
        assert (push["unit"], push["now"], push["ends"]) == ("kN", 2, [1, 4])
        assert (mu["unit"], mu["now"], mu["ends"]) == ("", 0.15, [0.1, 0.2])
        series = client.post(f"/api/studies/{study}/series/s/start").json()["id"]
        assert client.post(f"/api/series/{series}/go-on").status_code == 422
        _until(client, series, lambda s: s["progress"] and s["progress"]["done"] >= 2)
        refused = client.delete(f"/api/series/{series}")
        assert refused.json()["hint"] == "Stop it first."
    with TestClient(create_app(tmp_path), base_url=ADDRESS) as client:
        done = _until(client, series, lambda s: s["status"] != "running")
        assert (done["status"], done["progress"]["done"], done["progress"]["of"]) == ("done", 12, 12)
        found = client.get(f"/api/series/{series}/findings").json()
        assert (found["samples"], found["solved"]) == (12, 12)
        sliding = next(v for v in found["verdicts"] if v["row"] == "joint" and v["column"] == "sliding")
        effects = {e["input"]: e for e in sliding["effects"]}
        assert effects["push"]["low"] < effects["push"]["high"]
        assert effects["mu"]["low"] > effects["mu"]["high"]
        rows = client.get(f"/api/series/{series}/samples", params={"row": "joint", "column": "sliding"}).json()
        assert [r["number"] for r in rows] == list(range(12))
        worst = max(rows, key=lambda r: r["value"])
        assert worst["value"] == pytest.approx(sliding["most"])
        assert worst["course"][sliding["step"]] == worst["value"]
        # Opened as a run it is the same.
        run = client.post(f"/api/series/{series}/samples/{worst['number']}/run").json()
        assert run["variant"] == f"Sample {worst['number']} of S"
        assert _wait(client, run["id"], until=ENDED)["status"] == "solved"
        ledger = client.get(f"/api/runs/{run['id']}/ledger").json()["rows"]
        value = next(r for r in ledger if r["id"] == "joint")["sliding"]["value"]
        assert value == pytest.approx(worst["course"][-1], rel=1e-6)
        kept = client.post(
            f"/api/series/{series}/samples/{worst['number']}/variant", json={"name": "Worst"},
            params={"base_revision": 1},
        ).json()  # fmt: skip
        assert kept["document"]["variants"][0]["changes"][0]["value"] == worst["values"]["push"]
        assert client.post(f"/api/series/{series}/samples/99/run").status_code == 404
        # A study that is deleted takes its series along.
        folder = tmp_path / "series"
        assert json.loads(next(folder.glob("*/outcome.json")).read_text())["status"] == "done"
        assert client.delete(f"/api/studies/{study}").status_code == 204
        assert list(folder.iterdir()) == []
        assert client.get(f"/api/series/{series}").status_code == 404
