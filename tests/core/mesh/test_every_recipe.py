"""Common checks of every recipe's mesh over a grid of dimensions and sizes."""

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.core.mesh.volume import check_mesh, free_faces

CASES = [
    ("plate", {}, 12.0),
    ("plate", {"hole_columns": 3, "hole_spacing_x": 70.0, "hole_diameter": 30.0}, 9.0),
    ("plate", {"hole_columns": 0}, 20.0),
    ("plate", {"width": 400.0, "hole_diameter": 5.0, "thickness": 3.0}, 15.0),
    ("bracket", {}, 9.0),
    ("bracket", {"arm_height": 120.0, "arm_thickness": 30.0}, 9.0),
    ("bracket", {"arm_thickness": 5.0, "flange_thickness": 40.0}, 14.0),
    ("block", {"length": 100.0, "depth": 7.0}, 5.0),
    ("washer", {}, 3.0),
    ("washer", {"inner_diameter": 10.0, "outer_diameter": 80.0, "thickness": 120.0}, 8.0),
    ("washer", {"sector": 90}, 3.0),
    ("washer", {"sector": 215, "inner_diameter": 40.0, "outer_diameter": 100.0}, 6.0),
    ("bolt", {}, 4.0),
    ("bolt", {"diameter": 8.0, "across_flats": 13.0, "grip": 90.0}, 3.0),
]


@pytest.mark.parametrize(("kind", "values", "size"), CASES)
def test_mesh_is_valid_named_and_fills_the_solid(kind: str, values: dict[str, float], size: float) -> None:
    solid = RECIPES[kind].solid(values)
    mesh = mesh_layered(solid, size=size)
    check_mesh(mesh)
    assert mesh.scaled_jacobians().min() >= 0.3
    named = np.vstack(list(mesh.faces.values()))
    assert len(named) == len(free_faces(mesh.cells, mesh.kind))
    # Chords of 24 to the turn cut an arc's area by 1.1 %; straight outlines are exact.
    assert mesh.volume() == pytest.approx(solid.volume(), rel=1.2e-2)
    closed = np.cross(
        mesh.nodes[named[:, 2]] - mesh.nodes[named[:, 0]], mesh.nodes[named[:, 3]] - mesh.nodes[named[:, 1]]
    )
    # Outward quads of a closed skin: their area vectors cancel.
    assert np.abs(closed.sum(axis=0)).max() < 1e-9 * np.abs(closed).sum()


def test_face_size_refines_that_face_only() -> None:
    solid = RECIPES["plate"].solid({"hole_columns": 0})
    coarse = mesh_layered(solid, size=20.0)
    fine = mesh_layered(solid, size=20.0, face_sizes={"edge.left": 5.0})
    assert len(fine.faces["edge.left"]) >= 3 * len(coarse.faces["edge.left"])


def test_bolt_is_cut_across_its_whole_shank() -> None:
    solid = RECIPES["bolt"].solid({})
    mesh = mesh_layered(solid, size=4.0)
    at = mesh.nodes[mesh.cut_nodes]
    assert np.ptp(at[:, 2]) < 1e-12
    assert np.hypot(at[:, 0], at[:, 1]).max() == pytest.approx(8.0)
    assert np.all(mesh.nodes[mesh.cells[mesh.cut_above]].mean(axis=1)[:, 2] > at[0, 2])
