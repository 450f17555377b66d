"""Drawn parts through the server."""

from fastapi.testclient import TestClient

from tests.api.test_api import _create
from tests.study.joints.making import part, study_of


def test_a_part_is_traced_drawn_on_a_face_redrawn_and_told_what_it_comes_to(client: TestClient) -> None:
    study = _create(client, study_of(part("plate", "plate", {})).model_dump(mode="json"))
    corners = {"a": ["w", "0 mm"], "b": ["w", "w/2"], "c": ["0 mm", "0 mm"]}
    ring = {"name": "tab", "edges": [{"name": name, "to": to} for name, to in corners.items()]}
    shape = {"outlines": [ring], "layers": [{"name": "slab", "height": "6 mm", "outlines": ["tab"]}]}
    sketch = {"drawn": shape, "dimensions": {"w": "20 mm", "h": "w/2"}}
    drawing = client.post("/api/drawings", json=sketch).json()
    assert (drawing["area"], drawing["volume"], drawing["dimensions"]["h"]) == (100.0, 600.0, "10 mm")
    crossed = {**sketch, "dimensions": {"w": "0 mm"}}
    assert client.post("/api/drawings", json=crossed).json()["faults"][0]["edges"] == [0]

    plane = client.get(f"/api/studies/{study}/drawing-plane", params={"on": "plate/front"}).json()
    assert len(plane["lines"]) == 1 + len(plane["circles"])
    recipe = {"kind": "drawn", **sketch}
    scene = client.post("/api/parts/preview", json=recipe)
    assert scene.status_code == 200
    new = {"kind": "drawn", "recipe": recipe, "name": "Tab", "on": "plate/front"}
    made = client.post(f"/api/studies/{study}/parts", params={"base_revision": 1}, json=new).json()
    assert made["document"]["parts"][1]["placements"] == [plane["placement"]]
    assert client.get(f"/api/studies/{study}/parts/tab/values").json() == {"h": "10 mm"}

    renamed = {"recipe": {**recipe, "dimensions": {"w": "30 mm"}}, "renamed": {"a": "foot"}}
    route = f"/api/studies/{study}/parts/tab/recipe"
    redrawn = client.post(route, params={"base_revision": 2}, json=renamed)
    assert redrawn.json()["undo"] == "Drawing of Tab"
    lost = client.post(route, params={"base_revision": 3}, json={"recipe": {**recipe, "dimensions": {}}})
    assert (lost.status_code, lost.json()["where"]) == (422, "parts/tab/recipe/drawn/outlines/0/edges/0/to/0")
