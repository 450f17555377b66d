"""Free-form solids through the server: kept once by their digest, whole where they are needed, told when missing."""

import json
import os
import sqlite3
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import _create, _edit, _wait
from tests.core.mesh.test_free import SHAPES
from ulmek.api.app import create_app
from ulmek.api.context import Context
from ulmek.core.errors import GeometryError
from ulmek.core.geometry import kernel
from ulmek.study.items import FileUse, read_study
from ulmek.study.solids import free_volume, packed
from ulmek.study.step_files import use_of_shape

EMPTY = {"format": "ulmek-study", "version": 2, "name": "free", "title": "Free"}


def _read(client: TestClient, folder: Path) -> dict[str, Any]:
    """The solid of a file as the server reads it."""
    kernel.write_step([("Lofted", SHAPES["lofted"]())], folder / "lofted.step")
    answer = client.post("/api/geometry?name=lofted.step", content=(folder / "lofted.step").read_bytes())
    assert answer.status_code == 200
    (solid,) = answer.json()["solids"]
    return dict(solid)


def _put(client: TestClient, name: str = "lofted") -> dict[str, Any]:
    """A solid as if its file had been read."""
    use, _ = use_of_shape(SHAPES[name](), name=f"{name}.step", digest="0" * 64, index=0)
    return dict(_store(client).shelf.absorbed(use.model_dump(mode="json")))


def _kept(home: Path) -> list[Path]:
    return sorted((home / "geometry").glob("*.step"))


def _texts(home: Path) -> str:
    """All that the database holds, as text."""
    with sqlite3.connect(home / "ulmek.db") as plain:
        return "".join(line for line in plain.iterdump())


def _store(client: TestClient) -> Any:
    context = client.app.state.context  # type: ignore[attr-defined]
    assert isinstance(context, Context)
    return context.store


def test_a_free_form_solid_is_kept_once_and_named_everywhere_else(client: TestClient, tmp_path: Path) -> None:
    solid = _read(client, tmp_path)
    content = solid["part"]["content"]
    (kept,) = _kept(tmp_path)
    assert content == f"sha256:{kept.stem}"
    # When it was written is no part of a solid: read again, it is the same one.
    assert _read(client, tmp_path)["part"]["content"] == content
    assert _kept(tmp_path) == [kept]
    skin = client.get(f"/api/geometry/skins/{solid['skin']}")
    assert skin.headers["content-type"] == "application/octet-stream"
    assert len(skin.content) > 10_000
    study = _create(client, EMPTY)
    added = _edit(client, study, "parts", {"kind": "file", "file": solid["part"], "name": "Lofted"})
    assert added.status_code == 201, added.text
    assert added.json()["document"]["parts"][0]["recipe"]["file"]["content"] == content
    assert _edit(client, study, "undo").json()["document"]["parts"] == []
    again = _edit(client, study, "redo").json()["document"]
    assert again == added.json()["document"]
    step = kept.read_bytes()
    assert packed(step)[:60] not in _texts(tmp_path)
    assert client.get(f"/api/studies/{study}/preflight").status_code == 200
    # A document that carries the solid in itself, by a file or an edit, is taken in like the others.
    whole = client.get(f"/api/studies/{study}/file")
    assert "attachment" in whole.headers["content-disposition"]
    part = read_study(whole.content).parts[0]
    assert part.recipe.file is not None
    assert part.recipe.file.content == packed(step)
    other = client.post("/api/studies", json={"document": whole.json()}).json()
    assert other["document"] == again
    path = "/parts/0/recipe/file/content"
    patch = [{"op": "replace", "path": path, "value": packed(step)}, {"op": "replace", "path": "/title", "value": "T"}]
    edited = client.patch(f"/api/studies/{other['id']}", json={"base_revision": 1, "patch": patch}).json()
    assert edited["document"]["parts"] == again["parts"]
    assert packed(step)[:60] not in _texts(tmp_path)
    assert _kept(tmp_path) == [kept]


def test_a_run_of_a_free_form_solid_stands_alone_in_its_folder(client: TestClient, tmp_path: Path) -> None:
    solid = _put(client)
    study = _create(client, EMPTY)
    _edit(client, study, "parts", {"kind": "file", "file": solid, "name": "Lofted"})
    patch = [
        {"op": "replace", "path": "/parts/0/mesh/size", "value": "14 mm"},
        {"op": "add", "path": "/supports/-", "value": {"id": "floor", "name": "Floor", "faces": ["lofted/plane.1"]}},
        {"op": "add", "path": "/loads/-", "value": {
            "id": "press", "name": "Press", "kind": "pressure", "faces": ["lofted/plane.2"],
            "values": {"press": "1 MPa"}}},
        {"op": "add", "path": "/steps/-", "value": {
            "id": "press", "name": "Press", "increments": {"start": 1, "largest": 1}}},
    ]  # fmt: skip
    answer = client.patch(f"/api/studies/{study}", json={"base_revision": 2, "patch": patch})
    assert answer.status_code == 200, answer.text
    run = client.post(f"/api/studies/{study}/runs").json()["id"]
    end = _wait(client, run, until=("solved", "failed"))
    assert end["status"] == "solved", end["message"]
    alone = read_study((_store(client).run_folder(run) / "study.ulmek.json").read_bytes()).parts[0].recipe.file
    assert isinstance(alone, FileUse)
    assert free_volume(alone) == pytest.approx(kernel.volume(SHAPES["lofted"]()), rel=1e-6)
    solved = client.get(f"/api/runs/{run}/document").json()["document"]
    assert solved["parts"][0]["recipe"]["file"]["content"] == solid["content"]
    cut = _edit(client, study, "cut", {"parts": ["lofted"], "axes": "own", "normal": [0, 0, 1], "at": "10 mm"})
    assert cut.status_code == 200, cut.text
    for piece in cut.json()["study"]["document"]["parts"]:
        use = piece["recipe"]["file"]
        assert use["content"] is None or use["content"].startswith("sha256:")


def test_a_solid_that_is_missing_is_told_and_spoils_nothing_else(client: TestClient, tmp_path: Path) -> None:
    solid = _put(client)
    sent = {"kind": "file", "file": solid, "name": "Lofted"}
    study, other = _create(client, EMPTY), _create(client, EMPTY)
    _edit(client, study, "parts", sent)
    for block in (study, other):
        assert _edit(client, block, "parts", {"kind": "block"}).status_code == 201
    (kept,) = _kept(tmp_path)
    kept.unlink()
    assert client.get(f"/api/studies/{study}").status_code == 200
    assert [s["problem"] for s in client.get("/api/studies").json()] == [None, None]
    refused = client.get(f"/api/studies/{study}/file")
    assert refused.status_code == 422
    assert "lofted.step" in refused.json()["message"]
    assert "Read its STEP file again" in refused.json()["hint"]
    # The other part is drawn, and what is missing is named beside it.
    scene = client.get(f"/api/studies/{study}/scene")
    assert scene.status_code == 200
    assert b"lofted.step" in scene.content
    answer = _edit(client, other, "parts", sent)
    assert answer.status_code == 422
    patch = [{"op": "replace", "path": "/parts/0/name", "value": "Angle"}]
    base = client.get(f"/api/studies/{study}").json()["revision"]
    assert client.patch(f"/api/studies/{study}", json={"base_revision": base, "patch": patch}).status_code == 200
    # Read again, all is as it was.
    assert _put(client) == solid
    assert client.get(f"/api/studies/{study}/file").status_code == 200
    for key in ("nothing", "a" * 64 + "-0"):
        assert client.get(f"/api/geometry/skins/{key}").status_code in (404, 422)


def test_solids_go_when_nothing_names_them_any_more(client: TestClient, tmp_path: Path) -> None:
    named, loose = _put(client), _put(client, "fork")
    study = _create(client, EMPTY)
    _edit(client, study, "parts", {"kind": "file", "file": named, "name": "Lofted"})
    # Taken out, it can come back by undo.
    _edit(client, study, "undo")
    store = _store(client)
    store.sweep_geometry()
    assert len(_kept(tmp_path)) == 2
    for path in _kept(tmp_path):
        os.utime(path, (0, 0))
    store.sweep_geometry()
    assert [f"sha256:{p.stem}" for p in _kept(tmp_path)] == [named["content"]]
    assert client.delete(f"/api/studies/{study}").status_code == 204
    assert _kept(tmp_path) == []
    assert loose["content"] != named["content"]


def test_documents_of_0_7_0_hand_over_the_solids_that_they_carry(tmp_path: Path) -> None:
    step = b"ISO-10303-21; any text will do here; END-ISO-10303-21;"
    use = {"name": "old.step", "digest": "0" * 64, "solid": 0, "shape": None, "content": packed(step)}
    damaged = {**use, "content": "%%%"}
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8321") as client:
        study = _create(client, {**EMPTY, "title": "Before"})
        _edit(client, study, "parts", {"kind": "block"})
        (record,) = _store(client).studies()
        document = json.loads(record.document)
    part = document["parts"][0] | {"recipe": {"kind": "file", "dimensions": {}, "kept": "whole", "file": use}}
    with sqlite3.connect(tmp_path / "ulmek.db") as old:
        old.execute("UPDATE alembic_version SET version_num = '0002'")
        for table in ("materialrecord", "seriesrecord"):
            old.execute(f"DROP TABLE {table}")
        for column in ("name", "note", "settling", "variant", "asked_of"):
            old.execute(f"ALTER TABLE runrecord DROP COLUMN {column}")
        old.execute("UPDATE studyrecord SET document = ?", [json.dumps({**document, "parts": [part]})])
        old.execute("UPDATE editrecord SET forward = ?", [json.dumps([{"op": "add", "path": "/x", "value": part}])])
        broken = part | {"recipe": part["recipe"] | {"file": damaged}}
        old.execute("UPDATE editrecord SET inverse = ?", [json.dumps([{"op": "add", "path": "/x", "value": broken}])])
    with TestClient(create_app(tmp_path), base_url="http://127.0.0.1:8321") as client:
        (kept,) = _kept(tmp_path)
        assert kept.read_bytes() == step
        held = client.get(f"/api/studies/{study}").json()["document"]["parts"][0]["recipe"]["file"]
        assert held == {**use, "content": f"sha256:{kept.stem}"}
        (whole,) = _store(client).whole_study(_store(client).study(study)).parts
        assert whole.recipe.file.content == packed(step)
        texts = _texts(tmp_path)
        assert packed(step) not in texts
        assert "%%%" in texts
        # Only its name and digest in a file by itself, a solid is not there; that is said.
        with pytest.raises(GeometryError, match="only names"):
            free_volume(FileUse.model_validate(held))
