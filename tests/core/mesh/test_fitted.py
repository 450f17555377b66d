"""What faces of meshes are: planes, cylinders and balls wherever they stand, and nothing else."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from ulmek.core.errors import InputError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.fitted import face_shape
from ulmek.core.mesh.solid import mesh_flat, mesh_solid

TURN = Rotation.from_rotvec([0.3, -0.7, 1.1]).as_matrix()
SHIFT = np.array([120.0, -40.0, 7.0])


def test_planes_and_cylinders_are_found_wherever_they_stand() -> None:
    plain = mesh_solid(RECIPES["plate"].solid({"hole_columns": 1, "hole_rows": 1, "hole_diameter": 18}), size=12.0)
    mesh = plain.placed(TURN, SHIFT)
    front = face_shape(mesh, "front")
    assert front.kind == "flat"
    assert front.direction == pytest.approx(TURN @ [0, 0, 1], abs=1e-9)
    hole = face_shape(mesh, "hole.1")
    assert (hole.kind, hole.is_hollow) == ("round", True)
    assert hole.radius == pytest.approx(9.0, abs=1e-6)
    assert abs(hole.direction @ TURN[:, 2]) == pytest.approx(1.0, abs=1e-9)
    # The axis goes through the middle of the plate, which is its origin.
    away = hole.point - SHIFT
    assert away - (away @ hole.direction) * hole.direction == pytest.approx(np.zeros(3), abs=1e-6)


def test_balls_shafts_and_edges_of_sections() -> None:
    ball = face_shape(mesh_solid(RECIPES["ball"].solid({"diameter": 16}), size=4.0).placed(TURN, SHIFT), "surface")
    assert (ball.kind, ball.is_hollow) == ("ball", False)
    assert ball.point == pytest.approx(SHIFT, abs=1e-6)
    assert ball.radius == pytest.approx(8.0, abs=1e-6)
    shank = face_shape(mesh_solid(RECIPES["pin"].solid({"shank_diameter": 12}), size=4.0), "shank")
    assert (shank.kind, shank.is_hollow) == ("round", False)
    assert shank.radius == pytest.approx(6.0)
    section = mesh_flat(RECIPES["block"].solid({"length": 40, "depth": 20}), size=5.0)
    side = face_shape(section, "right")
    assert (side.kind, *side.direction) == ("flat", 1.0, 0.0, 0.0)
    assert side.point[0] == pytest.approx(20.0)


def test_the_middle_of_a_face_is_that_of_its_area_however_fine_it_is_meshed_where() -> None:
    plain = mesh_solid(RECIPES["block"].solid({"length": 40, "depth": 20, "height": 10}), size=5.0)
    x = plain.nodes[:, 0]
    finer = replace(plain, nodes=plain.nodes + np.column_stack([0.02 * (x**2 - 400.0), 0 * x, 0 * x]))
    top, side = face_shape(finer, "top"), face_shape(finer, "near")
    assert top.point == pytest.approx([0, 0, 10], abs=1e-9)
    assert side.point == pytest.approx([0, -10, 5], abs=1e-9)
    shank = mesh_solid(RECIPES["pin"].solid({"shank_diameter": 12}), size=4.0)
    z = shank.nodes[:, 2]
    squeezed = 0.3 * (z - z.min()) * (z - z.max()) / np.ptp(z)
    finer = replace(shank, nodes=shank.nodes + np.column_stack([0 * z, 0 * z, squeezed]))
    ends = finer.nodes[np.unique(finer.faces["shank"]), 2]
    assert face_shape(finer, "shank").point == pytest.approx([0, 0, (ends.min() + ends.max()) / 2], abs=1e-6)


def test_flanks_and_cones_are_none_of_them() -> None:
    gear = mesh_solid(RECIPES["gear"].solid({"teeth": 20}), size=3.0)
    with pytest.raises(InputError, match="neither flat, nor round"):
        face_shape(gear, "tooth.1.left")
    taper = mesh_solid(RECIPES["taper-pin"].solid({}), size=3.0)
    cone = max(taper.faces, key=lambda n: len(taper.faces[n]))
    with pytest.raises(InputError, match="neither flat, nor round"):
        face_shape(taper, cone)
