"""The server: edits, undo, hostile requests, runs with live events, and a worker that is killed."""

import json
import os
import signal
import sqlite3
import threading
from contextlib import closing
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from ulmek.api.errors import STATUS
from ulmek.core import errors
from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES


def _create(client: TestClient, document: dict[str, Any]) -> int:
    answer = client.post("/api/studies", json={"document": document})
    assert answer.status_code == 201, answer.text
    return int(answer.json()["id"])


def _edit(client: TestClient, study: int, what: str, body: Any = None) -> Any:
    """An edit that the server makes, on the study as it stands."""
    base = client.get(f"/api/studies/{study}").json()["revision"]
    return client.post(f"/api/studies/{study}/{what}", params={"base_revision": base}, json=body)


def _wait(client: TestClient, run: int, *, until: tuple[str, ...], increments: int = 0) -> dict[str, Any]:
    pause = threading.Event()
    for _ in range(900):
        info = client.get(f"/api/runs/{run}").json()
        if info["status"] in until and info["increments"] >= increments:
            return dict(info)
        pause.wait(0.1)
    raise AssertionError(f"run {run} is still {info}")


def test_every_error_has_a_status() -> None:
    def tree(kind: type) -> set[type]:
        return {kind}.union(*(tree(k) for k in kind.__subclasses__()))

    assert tree(errors.UlmekError) == set(STATUS)


def test_a_study_is_duplicated_under_a_title_of_its_own(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    twice = [client.post(f"/api/studies/{study}/duplicate").json() for _ in range(2)]
    title = two_blocks["title"]
    assert [t["document"].pop("title") for t in twice] == [f"{title}, copy", f"{title}, copy 2"]
    original = client.get(f"/api/studies/{study}").json()["document"]
    assert original.pop("title") == title
    assert [t["document"] for t in twice] == [original, original]
    # It goes its own way from here, and begins without a way back.
    _edit(client, twice[0]["id"], "take-out", {"kind": "pair", "id": original["pairs"][0]["id"]})
    assert client.get(f"/api/studies/{study}").json()["document"]["pairs"] == original["pairs"]
    assert twice[1]["undo"] is None
    assert client.post("/api/studies/999/duplicate").status_code == 404


def test_what_sleeps_is_told_with_a_study(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    edit = [{"op": "replace", "path": "/parts/1/in_analysis", "value": False}]
    told = client.patch(f"/api/studies/{study}", json={"base_revision": 1, "patch": edit}).json()["asleep"]
    assert told["part"] == [two_blocks["parts"][1]["id"]]
    assert told["pair"] == [two_blocks["pairs"][0]["id"]]
    # The part is still drawn.
    header = client.get(f"/api/studies/{study}/scene").content
    names = json.loads(header[4 : 4 + int.from_bytes(header[:4], "little")])["bodies"]
    assert [b["name"] for b in names] == [p["id"] for p in two_blocks["parts"]]
    # A run is of what is awake.
    run = client.post(f"/api/studies/{study}/runs").json()["id"]
    solved = client.get(f"/api/runs/{run}/document").json()["document"]
    assert ([p["id"] for p in solved["parts"]], solved["pairs"]) == ([two_blocks["parts"][0]["id"]], [])


def test_edit_undo_redo_and_who_won(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    patch = [{"op": "add", "path": "/pairs/0/law", "value": {"mu": 0.4}}]
    edited = client.patch(f"/api/studies/{study}", json={"base_revision": 1, "label": "µ", "patch": patch}).json()
    assert (edited["revision"], edited["undo"], edited["redo"]) == (2, "µ", None)
    late = client.patch(f"/api/studies/{study}", json={"base_revision": 1, "patch": patch})
    assert late.status_code == 409
    assert late.json()["code"] == "conflict"
    undone = _edit(client, study, "undo").json()
    assert undone["document"]["pairs"][0]["law"]["mu"] == 0.15
    assert (undone["revision"], undone["undo"], undone["redo"]) == (3, None, "µ")
    assert _edit(client, study, "undo").status_code == 422
    redone = _edit(client, study, "redo").json()
    assert redone["document"]["pairs"][0]["law"]["mu"] == 0.4


HEIGHT = "parts/base/recipe/dimensions/height"
BAD = [
    ({"op": "replace", "path": "/parts/0/recipe/dimensions/height", "value": "-3 mm"}, HEIGHT),
    ({"op": "replace", "path": "/parts/0/recipe/dimensions/height", "value": "3 wobbles"}, HEIGHT),
    ({"op": "replace", "path": "/loads/0/values/press", "value": "20"}, "loads/press"),
    ({"op": "replace", "path": "/parts/0/material", "value": "wood"}, "parts/base/material"),
]  # fmt: skip


def test_refused_edits_say_where_and_change_nothing(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    before = client.get(f"/api/studies/{study}").json()
    for step, where in BAD:
        answer = client.patch(f"/api/studies/{study}", json={"base_revision": 1, "patch": [step]})
        assert answer.status_code in (404, 422)
        assert answer.json()["where"].startswith(where)
        assert answer.json()["message"]
    assert client.get(f"/api/studies/{study}").json() == before


@pytest.mark.parametrize(
    ("method", "path", "body", "headers", "status"),
    [
        ("GET", "/api/studies", None, {"host": "evil.example"}, 403),
        ("POST", "/api/studies", b"{}", {"origin": "http://evil.example"}, 403),
        ("POST", "/api/studies", b'{"document": ', {"content-type": "application/json"}, 422),
        ("POST", "/api/studies", b"x" * 9_000_000, {"content-type": "application/json"}, 413),
        ("POST", "/api/studies", b'{"demo": "moon-base"}', {"content-type": "application/json"}, 404),
        ("POST", "/api/studies", b'{"document": {"format": "other"}}', {"content-type": "application/json"}, 422),
        ("GET", "/api/studies/999", None, {}, 404),
        ("GET", "/api/studies/one", None, {}, 422),
        ("GET", "/api/runs/999/events", None, {}, 404),
        ("GET", "/api/runs/999/scene", None, {}, 404),
        ("GET", "/../../etc/passwd", None, {}, 404),
    ],
)
def test_hostile_requests_are_refused_and_the_server_goes_on(
    client: TestClient, method: str, path: str, body: bytes | None, headers: dict[str, str], status: int
) -> None:
    answer = client.request(method, path, content=body, headers=headers)
    # Paths outside the API lead to the page itself where it has been built.
    assert answer.status_code == status or "<title>Ulmek</title>" in answer.text
    assert "root:" not in answer.text
    assert client.get("/api/demos").status_code == 200


def test_preflight_over_http_names_a_face_that_is_not_there(client: TestClient, two_blocks: dict[str, Any]) -> None:
    two_blocks["pairs"][0]["a"] = ["slider/belly"]
    answer = client.get(f"/api/studies/{_create(client, two_blocks)}/preflight").json()
    assert not answer["may_run"]
    assert answer["findings"][0]["where"] == "pairs/joint/a/0"


def test_documents_with_impossible_parts_are_refused_and_loose_ones_do_not_run(
    client: TestClient, two_blocks: dict[str, Any]
) -> None:
    thin = json.loads(json.dumps(two_blocks))
    thin["parts"][0]["recipe"]["dimensions"]["height"] = "-1 mm"
    answer = client.post("/api/studies", json={"document": thin})
    assert (answer.status_code, answer.json()["where"]) == (422, HEIGHT)
    study = _create(client, {**two_blocks, "supports": []})
    run = client.post(f"/api/studies/{study}/runs").json()["id"]
    failed = _wait(client, run, until=("failed", "solved"))
    assert failed["status"] == "failed"
    assert failed["where"] == "parts/base"
    assert "Base is loose: it can move along x" in failed["message"]
    assert "Slider is loose" in failed["message"]


def test_run_with_events_fields_and_ledger(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    run = client.post(f"/api/studies/{study}/runs").json()["id"]
    story = client.get(f"/api/runs/{run}/events").text
    events = [json.loads(line[6:]) for line in story.splitlines() if line.startswith("data: {") and "kind" in line]
    assert events[-1]["kind"] == "end"
    assert events[-1]["status"] == "solved"
    info = _wait(client, run, until=("solved",))
    assert info["increments"] == sum(e["kind"] == "increment" for e in events) == 8
    replayed = client.get(f"/api/runs/{run}/events", headers={"last-event-id": str(len(events) - 2)}).text
    assert replayed.count('"kind"') == 1
    assert client.get(f"/api/runs/{run}/story").json() == events
    ledger = client.get(f"/api/runs/{run}/ledger").json()
    assert ledger["rows"][0]["pressure"]["value"] > 20
    scene = client.get(f"/api/runs/{run}/scene").content
    header = json.loads(scene[4 : 4 + int.from_bytes(scene[:4], "little")])
    skin = sum(a["length"] for n, a in header["arrays"].items() if n.startswith("positions")) // 3
    assert len(client.get(f"/api/runs/{run}/increments/7/parts/von_mises").content) == 4 * skin
    assert len(client.get(f"/api/runs/{run}/increments/7/parts/motion").content) == 12 * skin

    def field(name: str) -> np.ndarray:
        return np.frombuffer(client.get(f"/api/runs/{run}/increments/7/parts/{name}").content, "<f4").astype(float)

    largest, middle, smallest = (field(f"principal_{n}") for n in ("largest", "middle", "smallest"))
    assert np.all(largest >= middle)
    assert np.all(middle >= smallest)
    mises = np.sqrt(((largest - middle) ** 2 + (middle - smallest) ** 2 + (smallest - largest) ** 2) / 2)
    assert np.allclose(mises, field("von_mises"), atol=1e-3)
    # The trace is the same in all axes; both blocks' own axis is z.
    trace = largest + middle + smallest
    assert np.allclose(sum(field(f"stress_{n}") for n in ("radial", "hoop", "axial")), trace, atol=1e-3)
    assert np.allclose(field("stress_axial"), field("stress_zz"), atol=1e-3)
    patch = header["arrays"]["pair0_positions"]["length"] // 3
    assert len(client.get(f"/api/runs/{run}/increments/7/pairs/joint/pressure").content) == 4 * patch
    # Every field of the table can be fetched.
    for row in client.get("/api/vocabulary").json()["fields"]:
        own = f"parts/{row['name']}" if row["where"] == "part" else f"pairs/joint/{row['name']}"
        values = np.frombuffer(client.get(f"/api/runs/{run}/increments/7/{own}").content, "<f4")
        assert len(values) == (skin if row["where"] == "part" else patch), own
        assert np.isfinite(values).all()
        assert row["is_signed"] or values.min() >= 0 or row["name"] == "gap", own
    for wrong in ("8/parts/von_mises", "7/parts/taste", "7/pairs/joint/taste", "7/pairs/none/pressure"):
        assert client.get(f"/api/runs/{run}/increments/{wrong}").status_code in (404, 422)
    shelf = client.get("/api/studies").json()[0]
    assert shelf["run"]["status"] == "solved"
    assert shelf["is_current"]


def test_a_second_run_finds_the_factors_of_the_first(client: TestClient, two_blocks: dict[str, Any]) -> None:
    study = _create(client, two_blocks)
    first = client.post(f"/api/studies/{study}/runs").json()["id"]
    one = _wait(client, first, until=("solved", "failed"))
    grip = [{"op": "replace", "path": "/pairs/0/law/mu", "value": 0.6}]
    client.patch(f"/api/studies/{study}", json={"base_revision": 1, "label": "more friction", "patch": grip})
    second = client.post(f"/api/studies/{study}/runs").json()["id"]
    other = _wait(client, second, until=("solved", "failed"))
    assert (one["status"], other["status"], other["pid"]) == ("solved", "solved", one["pid"])
    events = [client.get(f"/api/runs/{run}/events").text for run in (first, second)]
    assert ['"reused":true' in e for e in events] == [False, True]
    # Another study gets the process, and nothing of what it kept.
    fresh = client.post(f"/api/studies/{_create(client, two_blocks)}/runs").json()["id"]
    assert _wait(client, fresh, until=("solved", "failed"))["pid"] == one["pid"]
    assert '"reused":true' not in client.get(f"/api/runs/{fresh}/events").text


def test_a_killed_worker_leaves_the_server_its_increments_and_the_next_run(
    client: TestClient, two_blocks: dict[str, Any]
) -> None:
    many = {"increments": {"start": 0.002, "least": 0.001, "largest": 0.002, "most": 1000}}
    slow = {**two_blocks, "steps": [{**s, **many} for s in two_blocks["steps"]]}
    study = _create(client, slow)
    run = client.post(f"/api/studies/{study}/runs").json()["id"]
    info = _wait(client, run, until=("running",), increments=2)
    os.kill(info["pid"], signal.SIGKILL)
    failed = _wait(client, run, until=("failed",))
    assert "signal 9" in failed["message"]
    assert failed["increments"] >= 2
    last = failed["increments"] - 1
    assert client.get(f"/api/runs/{run}/ledger", params={"increment": last}).status_code == 200
    assert len(client.get(f"/api/runs/{run}/increments/{last}/parts/von_mises").content) > 0
    assert '"status":"failed"' in client.get(f"/api/runs/{run}/events").text
    quicker = [{"op": "replace", "path": f"/steps/{i}/increments", "value": {}} for i in range(len(slow["steps"]))]
    edit = {"base_revision": 1, "label": "larger increments", "patch": quicker}
    assert client.patch(f"/api/studies/{study}", json=edit).status_code == 200
    resumed = client.post(f"/api/runs/{run}/resume").json()
    ended = _wait(client, resumed["id"], until=("solved", "failed"))
    assert (ended["status"], ended["resumed_from"]) == ("solved", run)
    assert ended["increments"] > failed["increments"]
    refused = client.post(f"/api/runs/{resumed['id']}/resume")
    assert refused.status_code == 422
    assert "is solved" in refused.json()["message"]
    stopped = client.post(f"/api/studies/{_create(client, slow)}/runs").json()["id"]
    _wait(client, stopped, until=("running",), increments=1)
    client.post(f"/api/runs/{stopped}/stop")
    assert _wait(client, stopped, until=("stopped",))["increments"] >= 1
    following = client.post(f"/api/studies/{_create(client, two_blocks)}/runs").json()["id"]
    assert _wait(client, following, until=("solved", "failed"))["status"] == "solved"


def test_parts_are_previewed_added_mated_and_searched(client: TestClient) -> None:
    empty = {"format": "ulmek-study", "version": 2, "name": "new", "title": "New"}
    study = _create(client, empty)
    assert client.get(f"/api/studies/{study}/scene").status_code == 200
    assert client.get(f"/api/studies/{study}/preflight").json()["may_run"] is False
    shown = client.get(
        "/api/recipes/gear/preview", params={"dimensions": json.dumps({"module": "2 mm", "bore_diameter": "20 mm"})}
    )
    assert shown.status_code == 200
    for kind, dimensions, status in (
        ("gear", "{", 422),
        ("gear", "[1]", 422),
        ("gear", '{"module": "2 kN"}', 422),
        ("cog", "{}", 404),
    ):
        refused = client.get(f"/api/recipes/{kind}/preview", params={"dimensions": dimensions})
        assert refused.status_code == status
        assert refused.json()["message"]
    for kind in ("block", "pin"):
        added = _edit(client, study, "parts", {"kind": kind})
        assert added.status_code == 201
    assert [m["id"] for m in added.json()["document"]["materials"]] == ["steel"]
    assert client.get(f"/api/studies/{study}/touching").json() == []
    mated = _edit(client, study, "mate", {"own": "pin/bottom", "other": "block/top"})
    assert mated.json()["undo"].startswith("Mate Pin")
    found = client.get(f"/api/studies/{study}/touching", params={"distance": "0.5 mm"}).json()
    # Flush, but still beside the block; moved over it, it touches.
    assert found == []
    over = [{"op": "replace", "path": "/parts/1/placements/0/at/0", "value": "0 mm"}]
    assert client.patch(f"/api/studies/{study}", json={"base_revision": 4, "patch": over}).status_code == 200
    found = client.get(f"/api/studies/{study}/touching").json()
    assert [(s["a"], s["b"], s["gap"]) for s in found] == [(["pin/bottom"], ["block/top"], 0.0)]
    assert client.get(f"/api/studies/{study}/touching", params={"distance": "-1 mm"}).status_code == 422
    assert _edit(client, study, "mate", {"own": "pin/nose", "other": "block/top"}).status_code in (
        404,
        422,
    )


def test_a_fit_is_looked_up_or_refused(client: TestClient) -> None:
    found = client.get("/api/fits", params={"fit": "H7/s6", "diameter": "60 mm"}).json()
    assert (found["least"], found["most"]) == pytest.approx((0.0115, 0.036))
    for fit, diameter in (("H7", "60 mm"), ("H7/s6", "60"), ("H7/s6", "3 m")):
        refused = client.get("/api/fits", params={"fit": fit, "diameter": diameter})
        assert refused.status_code == 422
        assert refused.json()["hint"]


def test_threads_grades_faces_and_cuts_over_http(client: TestClient, two_blocks: dict[str, Any]) -> None:
    thread = client.get("/api/threads", params={"diameter": "16 mm", "strength": "8.8"}).json()
    # ISO 898-1, table 5: an M16 of class 8.8 has a stress area of 157 mm² and a proof load of 91.0 kN.
    assert thread["stress_area"] == pytest.approx(157, abs=0.5)
    assert thread["proof_load"] == pytest.approx(91_000, rel=0.002)
    assert client.get("/api/threads", params={"diameter": "17 mm"}).json()["hint"].startswith("Give the pitch")
    grades = {g["id"]: g for g in client.get("/api/grades").json()}
    assert grades["bronze"]["young"] == "105 GPa"
    study = client.post("/api/studies", json={"document": two_blocks}).json()["id"]
    face = client.get(f"/api/studies/{study}/face", params={"face": "slider/top"}).json()
    assert (face["kind"], face["at"], face["direction"]) == ("flat", pytest.approx([0, 0, 30]), [0, 0, 1])
    plane = {"parts": ["slider"], "axes": "own", "normal": [1, 0, 0], "at": "5 mm"}
    split = _edit(client, study, "cut", plane)
    assert [p["id"] for p in split.json()["study"]["document"]["parts"]] == ["base", "slider-1", "slider-2"]
    assert _edit(client, study, "undo").json()["document"]["parts"][1]["id"] == "slider"
    for wrong in ({"at": "5"}, {"normal": [0, 0, 0]}, {"at": "50 mm"}):
        assert _edit(client, study, "cut", {**plane, **wrong}).status_code == 422


def test_materials_are_kept_across_studies_by_their_names(client: TestClient, tmp_path: Path) -> None:
    grade = next(g for g in client.get("/api/grades").json() if g["id"] == "bronze")
    for name, young in (("Bronze / ours", "101 GPa"), ("Alloy", "70 GPa"), ("Bronze / ours", "102 GPa")):
        assert client.put("/api/materials", json={**grade, "name": name, "young": young}).status_code == 204
    assert [(m["name"], m["young"]) for m in client.get("/api/materials").json()] == [
        ("Alloy", "70 GPa"), ("Bronze / ours", "102 GPa")
    ]  # fmt: skip
    assert client.put("/api/materials", json={**grade, "young": "102"}).status_code == 422
    with closing(sqlite3.connect(tmp_path / "ulmek.db")) as database, database:
        database.execute("UPDATE materialrecord SET content = '{' WHERE name = 'Alloy'")
    assert [m["name"] for m in client.get("/api/materials").json()] == ["Bronze / ours"]
    assert client.delete("/api/materials/Bronze%20%2F%20ours").status_code == 204
    assert client.delete("/api/materials/Bronze%20%2F%20ours").status_code == 404


def test_a_step_file_becomes_parts_and_the_assembly_a_step_file(client: TestClient, tmp_path: Path) -> None:
    lug, pin = (kernel.shape_of(RECIPES[kind].solid({})) for kind in ("lug", "pin"))
    kernel.write_step([("Lug", lug), ("Pin", pin)], tmp_path / "joint.step")
    found = client.post("/api/geometry?name=joint.step", content=(tmp_path / "joint.step").read_bytes()).json()
    assert [(s["name"], s["kind"]) for s in found["solids"]] == [("Lug", "extruded"), ("Pin", "revolved")]
    document = {"format": "ulmek-study", "version": 2, "name": "joint", "title": "Joint"}
    study = client.post("/api/studies", json={"document": document}).json()["id"]
    for solid in found["solids"]:
        assert client.post("/api/geometry/preview", json=solid["part"]).status_code == 200
        sent = {"kind": "file", "file": solid["part"], "name": solid["name"]}
        assert _edit(client, study, "parts", sent).status_code == 201
    again, _ = kernel.read_step(client.get(f"/api/studies/{study}/assembly.step").content)
    assert [s.name for s in again] == ["Lug", "Pin"]
    for solid, shape in zip(again, (lug, pin), strict=True):
        assert solid.volume == pytest.approx(kernel.volume(shape), rel=1e-6)
        assert solid.box == pytest.approx(kernel.box(shape), abs=1e-4)
    # Whatever is sent, the server says what is wrong and goes on.
    shape = dict(found["solids"][0]["part"]["shape"])
    for wrong in (
        {**shape, "rotation": [[1, 0, 0], [0, 2, 0], [0, 0, 1]]},
        {**shape, "regions": [{**shape["regions"][0], "outer": shape["regions"][0]["outer"][:2]}]},
        {**shape, "layers": [{"name": "a", "bottom": 0, "top": 1, "regions": ["nowhere"]}]},
    ):
        sent = {"kind": "file", "name": "Lug", "file": {**found["solids"][0]["part"], "shape": wrong}}
        answer = _edit(client, study, "parts", sent)
        assert answer.status_code == 422
        assert answer.json()["message"]
    assert client.post("/api/geometry", content=b"x" * 65_000_000).status_code == 413
    assert client.post("/api/geometry", content=b"x").json()["hint"]
    assert len(client.get(f"/api/studies/{study}").json()["document"]["parts"]) == 2
