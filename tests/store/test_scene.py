"""What the browser draws: skins are closed, feature edges are the sharp ones, blocks come apart again."""

import json

import numpy as np
import pytest

from tests.conftest import block_body
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.store.scene import pack, pack_scene, skin_of, skin_of_section
from ulmek.study.items import Part
from ulmek.study.meshes import part_mesh


def test_skin_of_a_block() -> None:
    body = block_body("block", (40, 30, 20), 8)
    skin = skin_of("block", body.mesh.nodes, body.mesh.faces, 100)
    points = body.mesh.nodes[skin.vertices - 100]
    corner = points[skin.triangles]
    areas = np.linalg.norm(np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1) / 2
    assert areas.sum() == pytest.approx(2 * (40 * 30 + 30 * 20 + 20 * 40))
    for i, name in enumerate(skin.faces):
        wanted = {"top": 1200, "bottom": 1200, "left": 600, "right": 600, "near": 800, "far": 800}[name]
        assert areas[skin.triangle_face == i].sum() == pytest.approx(wanted)
    lengths = np.linalg.norm(points[skin.feature_edges[:, 1]] - points[skin.feature_edges[:, 0]], axis=1)
    # The twelve edges of the block, and nothing of the mesh between.
    assert lengths.sum() == pytest.approx(4 * (40 + 30 + 20))
    assert len(skin.mesh_edges) == 2 * len(skin.triangles) / 2


def test_round_faces_have_no_feature_edges_along_them() -> None:
    mesh = mesh_layered(RECIPES["washer"].solid({}), size=3.0, per_turn=24)
    skin = skin_of("washer", mesh.nodes, mesh.faces, 0)
    ends = mesh.nodes[skin.vertices][skin.feature_edges]
    assert np.allclose(ends[:, 0, 2], ends[:, 1, 2])


def test_triangles_turn_outwards() -> None:
    body = block_body("block", (10, 10, 10), 5)
    skin = skin_of("block", body.mesh.nodes, body.mesh.faces, 0)
    corner = body.mesh.nodes[skin.vertices][skin.triangles] - [0, 0, 5.0]
    outward = np.einsum(
        "ij,ij->i", np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), corner.mean(axis=1)
    )
    assert np.all(outward > 0)


def test_a_block_comes_apart_again() -> None:
    arrays = {"a": np.array([1.5, -2.25]), "b": np.array([3, 4_000_000_000], np.int64), "none": np.zeros(0)}
    data = pack({"title": "µ"}, arrays)
    size = int.from_bytes(data[:4], "little")
    assert size % 4 == 0
    header = json.loads(data[4 : 4 + size])
    assert header["title"] == "µ"
    body = data[4 + size :]
    for name, kind in (("a", "<f4"), ("b", "<u4"), ("none", "<f4")):
        entry = header["arrays"][name]
        got = np.frombuffer(body, kind, entry["length"], entry["offset"])
        assert np.array_equal(got, arrays[name].astype(kind))


def test_scene_lists_bodies_in_order() -> None:
    bodies = [block_body("one", (10, 10, 10), 5), block_body("two", (10, 10, 10), 5, at=10)]
    nodes = np.vstack([b.mesh.nodes for b in bodies])
    first = len(bodies[0].mesh.nodes)
    skins = [skin_of(b.name, b.mesh.nodes, b.mesh.faces, i * first) for i, b in enumerate(bodies)]
    data = pack_scene(skins, nodes, {"revision": 3}, {})
    header = json.loads(data[4 : 4 + int.from_bytes(data[:4], "little")])
    assert [b["name"] for b in header["bodies"]] == ["one", "two"]
    assert header["revision"] == 3
    offset = 4 + int.from_bytes(data[:4], "little")
    entry = header["arrays"]["positions1"]
    positions = np.frombuffer(data, "<f4", entry["length"], offset + entry["offset"]).reshape(-1, 3)
    assert positions[:, 2].min() == 10.0


@pytest.mark.parametrize("elements", ["bricks", "tets", "second-order"])
def test_a_plane_section_has_its_named_edges_for_faces(elements: str) -> None:
    """The rims of each name run once round the outline: their lengths are those of the drawing."""
    part = Part.model_validate(
        {
            "id": "plate", "name": "Plate", "material": "steel", "mesh": {"size": "4 mm", "elements": elements},
            "recipe": {"kind": "block", "dimensions": {"length": "40 mm", "depth": "20 mm", "height": "10 mm"}},
        }
    )  # fmt: skip
    mesh = part_mesh(part, section=True)
    skin = skin_of_section("plate", mesh.nodes, mesh, 7)
    at = mesh.nodes[skin.vertices - 7]
    length = np.linalg.norm(at[skin.rims[:, 0]] - at[skin.rims[:, 1]], axis=1)
    along = {name: float(length[skin.rim_face == i].sum()) for i, name in enumerate(skin.faces)}
    assert along == pytest.approx({"near": 40.0, "right": 20.0, "far": 40.0, "left": 20.0})
    assert (skin.triangle_face == len(skin.faces)).all()
