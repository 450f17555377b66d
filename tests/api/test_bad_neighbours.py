"""One study, run or file that is broken shows itself as such, and hides none of the others."""

import gzip
import json
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import _create, _edit, _wait
from ulmek.api.app import create_app
from ulmek.store.results import open_result

DATA = Path(__file__).parents[1] / "store/data"


def _solved(client: TestClient, document: dict[str, Any]) -> tuple[int, int]:
    study = _create(client, document)
    run = client.post(f"/api/studies/{study}/runs").json()["id"]
    assert _wait(client, run, until=("solved", "failed"))["status"] == "solved"
    return study, run


def _sql(home: Path, statement: str, *values: Any) -> None:
    with closing(sqlite3.connect(home / "ulmek.db")) as database, database:
        database.execute(statement, values)


def _folder(home: Path, run: int) -> Path:
    with closing(sqlite3.connect(home / "ulmek.db")) as database:
        (name,) = database.execute("SELECT folder FROM runrecord WHERE id = ?", (run,)).fetchone()
    return home / "runs" / str(name)


def _cut_off(result: Path) -> None:
    result.write_bytes(result.read_bytes()[: result.stat().st_size // 3])


SPOILED: list[Callable[[Path], None]] = [_cut_off, Path.unlink, lambda p: p.write_text("no result") and None]


def test_what_cannot_be_read_stands_on_the_shelf_beside_what_can(
    client: TestClient, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    studies = [_solved(client, {**two_blocks, "title": f"Spoiled {i}"}) for i in range(len(SPOILED))]
    for spoil, (_, run) in zip(SPOILED, studies, strict=True):
        spoil(_folder(tmp_path, run) / "result.h5")
    unreadable = [_create(client, two_blocks) for _ in range(3)]
    for study, text in zip(unreadable, ("{ no json", '{"format": "other"}', "null"), strict=True):
        _sql(tmp_path, "UPDATE studyrecord SET document = ? WHERE id = ?", text, study)
    good, run = _solved(client, {**two_blocks, "title": "Good"})
    shelf = {s["id"]: s for s in client.get("/api/studies").json()}
    assert len(shelf) == len(studies) + len(unreadable) + 1
    assert shelf[good]["problem"] is None
    for study in (*(s for s, _ in studies), *unreadable):
        assert shelf[study]["problem"]["message"]
        assert shelf[study]["problem"]["hint"]
    for number, (study, run) in enumerate(studies):
        for part in ("ledger", "history", "scene"):
            answer = client.get(f"/api/runs/{run}/{part}")
            assert answer.status_code == 404
            assert answer.json()["hint"]
        # Running again mends it, or taking it off the shelf.
        if number > 0:
            assert client.delete(f"/api/studies/{study}").status_code == 204
            continue
        again = client.post(f"/api/studies/{study}/runs").json()["id"]
        assert _wait(client, again, until=("solved", "failed"))["status"] == "solved"
    assert client.get(f"/api/studies/{unreadable[0]}").status_code == 422
    for study in unreadable:
        assert client.delete(f"/api/studies/{study}").status_code == 204
    assert all(s["problem"] is None for s in client.get("/api/studies").json())


def test_a_study_with_a_line_bolt_is_listed(client: TestClient, two_blocks: dict[str, Any]) -> None:
    line = {"head": "grip", "direction": [0, 0, 1], "stiffness": "10 kN/mm"}
    bolted = {
        **two_blocks,
        "handles": [{"id": "grip", "name": "Grip", "faces": ["slider/top"]}],
        "bolts": [{"id": "line", "name": "Line", "line": line, "preload": {"press": "1 kN"}}],
    }
    _create(client, bolted)
    (listed,) = client.get("/api/studies").json()
    assert (listed["bolts"], listed["bolt_parts"]) == (1, [])


@pytest.mark.parametrize(
    ("path", "value"), [("", None), ("", []), ("/notes", "half a pair \\ud800"), ("/machine", "\\udfff")]
)
def test_edits_that_cannot_be_stored_are_refused_and_change_nothing(
    client: TestClient, two_blocks: dict[str, Any], path: str, value: Any
) -> None:
    study = _create(client, two_blocks)
    body = json.dumps({"base_revision": 1, "patch": [{"op": "replace", "path": path, "value": value}]})
    answer = client.patch(
        f"/api/studies/{study}", content=body.replace("\\\\u", "\\u"), headers={"content-type": "application/json"}
    )
    assert answer.status_code == 422
    assert answer.json()["hint"]
    assert client.get(f"/api/studies/{study}").json()["revision"] == 1
    assert len(client.get("/api/studies").json()) == 1


def test_an_item_is_taken_out_with_what_hangs_on_it_and_comes_back_at_once(
    client: TestClient, two_blocks: dict[str, Any]
) -> None:
    study = _create(client, two_blocks)
    before = client.get(f"/api/studies/{study}").json()["document"]
    taken = _edit(client, study, "take-out", {"kind": "part", "id": "slider"}).json()
    assert taken["told"] == "Also takes out pair Slider – base, load Press and load Push."
    assert [p["id"] for p in taken["study"]["document"]["parts"]] == ["base"]
    assert _edit(client, study, "undo").json()["document"] == before
    stale = client.post(
        f"/api/studies/{study}/take-out", params={"base_revision": 1}, json={"kind": "pair", "id": "joint"}
    )
    assert stale.status_code == 409
    needed = _edit(client, study, "take-out", {"kind": "material", "id": "steel"})
    assert (needed.status_code, needed.json()["hint"]) == (422, "Choose another for Base first.")


def test_written_values_amount_to_the_same_in_any_unit(client: TestClient, two_blocks: dict[str, Any]) -> None:
    push = {**two_blocks["loads"][1], "values": {"press": "500 N", "push": "1 kN"}}
    study = _create(client, {**two_blocks, "loads": [two_blocks["loads"][0], push]})
    amounts = client.get(f"/api/studies/{study}").json()["amounts"]
    assert amounts["loads"] == {"press": {"press": 20.0}, "push": {"press": 500.0, "push": 1000.0}}
    words = client.get("/api/vocabulary").json()
    assert {k["name"]: k["list"] for k in words["kinds"]}["left-out"] == "left_out"
    degree = words["systems"][0]["units"]["angle"][0]
    assert (degree["unit"], degree["factor"]) == ("°", pytest.approx(57.29577951))
    assert next(s["quantity"] for s in words["loads"] if s["kind"] == "rotation") == "angle"


def test_a_database_that_another_program_holds_is_told_as_such(
    tmp_path: Path, two_blocks: dict[str, Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("ulmek.store.database.PATIENCE", 0.2)
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8321") as client:
        study = _create(client, two_blocks)
        with closing(sqlite3.connect(tmp_path / "ulmek.db", isolation_level=None)) as other:
            other.execute("BEGIN EXCLUSIVE")
            refused = client.post("/api/studies", json={"document": two_blocks})
        assert (refused.status_code, refused.json()["code"]) == (503, "database")
        assert "try again" in refused.json()["hint"]
        assert client.get(f"/api/studies/{study}").status_code == 200


def test_the_server_tells_how_it_is(client: TestClient) -> None:
    health = client.get("/api/health").json()
    assert (health["queue_works"], health["running"], health["unrecorded"]) == (True, None, [])
    assert health["free_mb"] > 0


def test_a_result_of_0_6_0_is_read(tmp_path: Path) -> None:
    result = tmp_path / "result.h5"
    result.write_bytes(gzip.decompress((DATA / "result_0_6_0.h5.gz").read_bytes()))
    with open_result(result) as reader:
        first, last = reader.summaries()
        assert reader.bodies()[0] == ["base", "slider"]
        assert reader.pair_field("joint", "pressure", 1).max() > 0
    # 20 MPa on 20 × 20 mm².
    assert last.carrier("floor").force[2] == pytest.approx(8000.0)
    assert last.pairs["joint"].normal_force == pytest.approx(8000.0)
    assert first.pairs["joint"].normal_force == pytest.approx(4000.0)


def test_a_run_keeps_what_values_amounted_to_when_it_was_solved(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study, run = _solved(client, two_blocks)
    edit = [{"op": "replace", "path": "/loads/1/values/push", "value": "1 kN"}]
    edited = client.patch(f"/api/studies/{study}", json={"base_revision": 1, "patch": edit}).json()
    solved = client.get(f"/api/runs/{run}/document").json()
    assert edited["amounts"]["loads"]["push"] == {"push": 1000.0}
    assert solved["amounts"]["loads"]["push"] == {"push": 2000.0}
    assert solved["document"]["loads"][1]["values"] == {"push": "2 kN"}
