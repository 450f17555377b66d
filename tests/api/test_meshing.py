"""A mesh that would go on for very long: the server answers meanwhile, the work is watched, stopped, done again."""

import threading
from concurrent.futures import ThreadPoolExecutor

from fastapi.testclient import TestClient

from tests.core.mesh.test_free import SHAPES
from ulmek.study.step_files import use_of_shape


def test_a_mesh_that_takes_too_long_is_stopped(client: TestClient) -> None:
    solid, _ = use_of_shape(SHAPES["fork"](), name="fork.step", digest="0" * 64, index=0)
    parts = [
        {"id": "fork", "name": "Fork", "material": "steel", "mesh": {"size": "0.7 mm", "elements": "tets"},
         "recipe": {"kind": "file", "file": solid.model_dump(mode="json")}},
        {"id": "block", "name": "Block", "material": "steel", "mesh": {"size": "20 mm"}, "recipe": {"kind": "block"},
         "placements": [{"at": ["200 mm", "0 mm", "0 mm"]}]},
    ]  # fmt: skip
    document = {
        "format": "ulmek-study", "version": 2, "name": "free", "title": "Free", "parts": parts,
        "materials": [{"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3}],
    }  # fmt: skip
    study = client.post("/api/studies", json={"document": document}).json()["id"]

    with ThreadPoolExecutor() as waiting:
        scene = waiting.submit(client.get, f"/api/studies/{study}/scene")
        pairs = waiting.submit(client.get, f"/api/studies/{study}/touching")
        job = _until_meshing(client)
        assert job["title"] == "Fork"
        assert 0 <= job["share"] < 1
        assert client.post(f"/api/meshing/{job['id']}/stop").status_code == 204
        assert b"Fork was stopped" in scene.result(90).content
        # The part that has a mesh is drawn, and both that waited are told.
        assert b'"block"' in scene.result().content
        assert "stopped" in pairs.result(90).text
        assert client.get("/api/meshing").json() == []
        # It stays stopped until somebody asks for it.
        assert b"was stopped" in client.get(f"/api/studies/{study}/scene").content
        client.post("/api/meshing/again")
        scene = waiting.submit(client.get, f"/api/studies/{study}/scene")
        client.post(f"/api/meshing/{_until_meshing(client)['id']}/stop")
        scene.result(90)
    size = {"op": "replace", "path": "/parts/0/mesh/size", "value": "9 mm"}
    coarse = {"base_revision": 1, "label": "Coarse", "patch": [size]}
    assert client.patch(f"/api/studies/{study}", json=coarse).status_code == 200
    assert b'"problems":[]' in client.get(f"/api/studies/{study}/scene").content.replace(b" ", b"")


def _until_meshing(client: TestClient) -> dict[str, object]:
    pause = threading.Event()
    for _ in range(400):
        found = [job for job in client.get("/api/meshing").json() if job["stage"].startswith("face")]
        if found:
            return dict(found[0])
        pause.wait(0.05)
    raise AssertionError("nothing is being meshed")
