"""Fields inside the parts: at points, on cuts, at hot spots, and forces over cuts."""

from dataclasses import replace

import numpy as np
import pytest

from tests.conftest import Recorder, block_body
from ulmek.core.element.family import FAMILIES
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.plane import split_into_triangles, with_mid_sides
from ulmek.core.mesh.solid import mesh_flat, mesh_solid
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.mesh.wedges import split_into_wedges
from ulmek.core.model import Face, Load, Model, Pair, PairLaw, Step, Support
from ulmek.core.review.hot_spots import hot_spots
from ulmek.core.review.inside import Cells, places, plane_cut
from ulmek.core.review.recover import StressRecovery
from ulmek.core.review.resultant import resultant
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.history import solve_history

RING = RECIPES["washer"].solid({})
MESHES = {
    "bricks": mesh_solid(RING, size=3.0),
    "tets": split_bricks(mesh_solid(RING, size=3.0)),
    "wedges": split_into_wedges(mesh_solid(RING, size=3.0)),
    "quads": mesh_flat(RING, size=2.0),
    "quad8": with_mid_sides(mesh_flat(RING, size=2.0)),
    "triangles": split_into_triangles(mesh_flat(RING, size=2.0)),
}


def _cells(mesh: VolumeMesh) -> list[Cells]:
    return [Cells(mesh.kind, mesh.cells, np.zeros(len(mesh.cells), np.int64))]


@pytest.mark.parametrize("name", MESHES)
def test_points_in_elements_get_what_shape_functions_give(name: str) -> None:
    mesh, rng = MESHES[name], np.random.default_rng(4)
    family = FAMILIES[mesh.kind]
    cells = rng.choice(len(mesh.cells), 60)
    low = 0.0 if family.is_simplex else -0.95
    natural = rng.uniform(low, 0.95 / (family.dim if family.is_simplex else 1), (60, family.dim))
    shape = family.shape_at(natural)
    values = rng.normal(size=len(mesh.nodes))
    points = np.einsum("kn,knd->kd", shape, mesh.nodes[mesh.cells[cells]])
    found = places(mesh.nodes, _cells(mesh), points)
    assert np.allclose(found.weights @ values, np.einsum("kn,kn->k", shape, values[mesh.cells[cells]]), atol=1e-8)
    assert (found.body == 0).all()
    assert (found.size > 0.1).all()
    # In the hole there is nothing.
    hole = places(mesh.nodes, _cells(mesh), np.zeros((1, 3)))
    assert hole.body.tolist() == [-1]
    assert hole.weights.nnz == 0


def _straightened(mesh: VolumeMesh) -> VolumeMesh:
    """Tetrahedra whose edges do not bulge: a cut draws straight lines between them."""
    nodes, ends = mesh.nodes.copy(), np.array([[0, 1], [1, 2], [2, 0], [0, 3], [1, 3], [2, 3]])
    nodes[mesh.cells[:, 4:]] = nodes[mesh.cells[:, ends]].mean(axis=2)
    return replace(mesh, nodes=nodes)


@pytest.mark.parametrize("name", ["bricks", "tets", "wedges"])
def test_a_cut_lies_in_its_plane_fills_the_section_and_carries_the_field(name: str) -> None:
    mesh = _straightened(MESHES[name]) if name == "tets" else MESHES[name]
    low, high = mesh.nodes[:, 2].min(), mesh.nodes[:, 2].max()
    radius = np.hypot(*MESHES["bricks"].nodes[:, :2].T)
    slope = np.array([2.0, -3.0, 5.0])
    field = mesh.nodes @ slope + 7
    for normal, offset, area in (
        (np.array([0, 0, 1.0]), (low + high) / 2 + 0.01, None),
        (np.array([1.0, 0, 0]), 0.0, 2 * (radius.max() - radius.min()) * (high - low)),
        (np.array([0, 0, 1.0]), high, None),
    ):
        cut = plane_cut(mesh.nodes, _cells(mesh), normal, offset)
        points = cut.weights @ mesh.nodes
        assert np.allclose(points @ normal, offset, atol=1e-9)
        assert np.allclose(cut.weights @ field, points @ slope + 7, atol=1e-9)
        corners = points[cut.triangles]
        across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2 @ normal
        assert across.min() > -1e-9
        assert across.sum() == pytest.approx(area if area is not None else mesh.volume() / (high - low), rel=1e-9)
    assert not len(plane_cut(mesh.nodes, _cells(mesh), np.array([0, 0, 1.0]), high + 1).triangles)


def test_hot_spots_are_separate_and_a_shoulder_is_none() -> None:
    body = block_body("plate", (100, 20, 4), 2)
    x = body.mesh.nodes[:, 0]

    def bump(at: float, height: float) -> np.ndarray:
        return height * np.exp(-(((x - at) / 4) ** 2))

    # Two peaks, one beneath the level of any, and a shoulder of the first.
    field = bump(-30, -100.0) + bump(20, 80.0) + bump(40, 30.0) + bump(-25, -60.0)
    found = hot_spots(_cells(body.mesh), field)
    assert [round(float(x[s.node])) for s in found] == pytest.approx([-29, 20], abs=1.5)
    assert found[0].value < -100 < 79 < found[1].value
    assert hot_spots(_cells(body.mesh), 1e-9 * field, quiet=1e-6) == []


def test_forces_over_a_cut_balance_what_acts_beyond_it_and_over_faces_too() -> None:
    """Two blocks tied on each other, bent by a force on top: through any cut passes that force with its lever."""
    lower, upper = block_body("lower", (30, 20, 40), 5), block_body("upper", (30, 20, 40), 4, at=40)
    tie = Pair("tie", (Face("upper", "bottom"),), (Face("lower", "top"),), PairLaw(False, "no"), 1.0)
    model = Model(
        (lower, upper), (tie,), (), (Support("floor", (Face("lower", "bottom"),), (True, True, True)),),
        (Load("push", "force", (Face("upper", "top"),), (1.0, 0.0, 0.0)),), (Step("load", {"push": 600.0}),),
    )  # fmt: skip
    path, heard = CondensedPath(model), Recorder()
    solve_history(path, heard)
    force = StressRecovery(Structure(model, path.system.layout)).recover(heard.increments[-1]).force
    nodes = model.nodes()
    for height in (11.0, 31.0, 47.0, 73.0):
        about = np.array([0.0, 0.0, height])
        through, moment = resultant(nodes, force, np.flatnonzero(nodes[:, 2] > height), about)
        assert through == pytest.approx([600, 0, 0], abs=600 * 1e-6)
        assert moment == pytest.approx([0, 600 * (80 - height), 0], abs=600 * 80 * 1e-6)
        # About another point the force has its lever to there too.
        _, about_the_foot = resultant(nodes, force, np.flatnonzero(nodes[:, 2] > height), np.zeros(3))
        assert about_the_foot == pytest.approx([0, 600 * 80, 0], abs=600 * 80 * 1e-6)
    floor = np.unique(lower.mesh.faces["bottom"])
    held, turned = resultant(nodes, force, floor, np.zeros(3))
    assert held == pytest.approx([-600, 0, 0], abs=600 * 1e-6)
    assert turned == pytest.approx([0, -600 * 80, 0], abs=600 * 80 * 1e-6)
