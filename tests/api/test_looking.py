"""What a run is asked about the inside of its parts: values, places and forces that are known beforehand."""

import gzip
import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.test_api import _wait
from tests.api.test_bad_neighbours import _solved

STORED_BEFORE = Path(__file__).parents[1] / "store" / "data" / "result_0_6_0.h5.gz"


def _block(content: bytes) -> dict[str, np.ndarray]:
    """Arrays of a binary answer by name."""
    (size,) = struct.unpack("<I", content[:4])
    header = json.loads(content[4 : 4 + size])
    kinds = {"float32": "<f4", "uint32": "<u4"}
    return {
        name: np.frombuffer(content, kinds[e["kind"]], e["length"], 4 + size + e["offset"])
        for name, e in header["arrays"].items()
    }


def test_cuts_paths_hot_spots_and_forces_of_a_pressed_block(client: TestClient, two_blocks: dict[str, Any]) -> None:
    _, run = _solved(client, two_blocks)
    last = len(client.get(f"/api/runs/{run}/history").json()) - 1
    at = f"/api/runs/{run}/increments/{last}"
    # 20 MPa on 40 × 40 mm and 2 kN along −x go through every cut of the base.
    for height in (4, 10, 17):
        order = {"plane": {"normal": [0, 0, 2], "offset": height}, "part": "base"}
        through = client.post(f"{at}/resultant", json=order).json()
        assert through["force"] == pytest.approx([-2000, 0, -32000], abs=0.04)
        assert through["about"] == pytest.approx([0, 0, height], abs=1e-3)
    below = client.post(f"{at}/resultant", json={"faces": ["base/bottom"], "about": [0, 0, 0]}).json()
    assert below["force"] == pytest.approx([2000, 0, 32000], abs=0.1)
    assert below["moment"][1] == pytest.approx(2000 * 25, abs=2)

    cut = _block(client.post(f"{at}/cut", json={"normal": [1, 0, 0], "offset": 3, "scale": 0, "part": "base"}).content)
    points = cut["positions"].reshape(-1, 3)
    assert np.allclose(points[:, 0], 3)
    corners = points[cut["triangles"].reshape(-1, 3)]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 0] / 2
    assert across.sum() == pytest.approx(60 * 20, rel=1e-5)
    # The same field along a line of the cut.
    path = {"points": [[3, -30, 11], [3, 30, 11]], "samples": 13, "field": "von_mises", "part": "base"}
    line = client.post(f"{at}/path", json=path).json()
    assert line["distance"] == pytest.approx(np.linspace(0, 60, 13))
    assert set(line["part"]) == {"base"}
    assert max(line["value"]) <= cut["values"].max()
    spots = client.get(f"{at}/hot-spots/von_mises", params={"part": "base"}).json()
    assert spots[0]["value"] >= max(line["value"])
    assert spots[0]["value"] == pytest.approx(
        client.get(f"/api/runs/{run}/history").json()[-1]["parts"]["base"]["max_von_mises"], rel=1e-5
    )
    # Out of the parts there is nothing, and nothing yields.
    above = client.post(f"{at}/path", json={"points": [[0, 0, 40], [0, 0, 50]], "samples": 3}).json()
    assert above["value"] == [None] * 3
    assert client.get(f"{at}/hot-spots/plastic_strain").json() == []


REFUSED: list[tuple[str, dict[str, Any], str]] = [
    ("cut", {"normal": [0, 0, 0], "offset": 1}, "the plane has no direction."),
    ("cut", {"normal": [0, 0, 1], "offset": 1, "part": "lid"}, "there is no part 'lid'."),
    ("cut", {"normal": [0, 0, 1], "offset": 1, "field": "colour"}, "there is no part field 'colour'."),
    ("path", {"points": [[0, 0, 0], [0, 0, 0]]}, "the path has no length."),
    ("path", {"points": [[0, 0, 0]], "part": "lid"}, "there is no body 'lid'."),
    ("resultant", {"plane": {"normal": [0, 0, 1], "offset": 900}}, "the plane does not cut the part."),
    ("resultant", {}, "give a plane or faces."),
    ("resultant", {"faces": ["base/lid"]}, "there is no face 'base/lid'."),
]


def test_what_cannot_be_looked_at_is_told(client: TestClient, two_blocks: dict[str, Any], tmp_path: Path) -> None:
    _, run = _solved(client, two_blocks)
    for route, order, told in REFUSED:
        answer = client.post(f"/api/runs/{run}/increments/0/{route}", json=order)
        assert answer.status_code in (404, 422), order
        assert told in answer.json()["message"]
    # A result of a version that kept no forces at nodes.
    file = next(tmp_path.rglob("result.h5"))
    file.write_bytes(gzip.decompress(STORED_BEFORE.read_bytes()))
    answer = client.post(f"/api/runs/{run}/increments/0/resultant", json={"faces": ["base/bottom"]})
    assert answer.json()["message"] == "this run was made by an earlier version, which did not keep that."


def test_runs_are_named_compared_and_removed(client: TestClient, two_blocks: dict[str, Any], tmp_path: Path) -> None:
    study, first = _solved(client, two_blocks)
    made = client.get(f"/api/studies/{study}").json()
    patch = [{"op": "replace", "path": "/loads/1/values/push", "value": "1 kN"}]
    edit = {"patch": patch, "label": "Push less", "base_revision": made["revision"]}
    assert client.patch(f"/api/studies/{study}", json=edit).status_code == 200
    second = client.post(f"/api/studies/{study}/runs").json()["id"]
    refused = client.delete(f"/api/runs/{second}")
    assert refused.json()["hint"] == "Stop it first."
    assert _wait(client, second, until=("solved",))["status"] == "solved"
    assert client.get(f"/api/runs/{second}/changes", params={"since": first}).json() == [
        "Push, values push 2 kN → 1 kN."
    ]
    named = client.patch(f"/api/runs/{second}", json={"name": " Half the push "}).json()
    assert (named["name"], named["note"]) == ("Half the push", "")
    assert client.patch(f"/api/runs/{second}", json={"note": "Check µ."}).json()["name"] == "Half the push"
    folders = set(tmp_path.rglob("result.h5"))
    assert client.delete(f"/api/runs/{first}").status_code == 204
    assert len(folders - set(tmp_path.rglob("result.h5"))) == 1
    assert [r["id"] for r in client.get(f"/api/studies/{study}/runs").json()] == [second]
