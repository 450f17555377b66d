"""Patches laid flat: places, ways and areas that are known beforehand."""

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.facets import corners_of
from ulmek.core.mesh.plane import with_mid_sides
from ulmek.core.mesh.solid import mesh_flat, mesh_solid
from ulmek.store.flat import along_outline, lay_flat

RING = RECIPES["washer"].solid({})


def _area(points: np.ndarray, triangles: np.ndarray) -> float:
    a, b, c = (points[triangles[:, k]] for k in range(3))
    (u, v) = (b - a, c - a)
    return float(np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]).sum() / 2)


def test_a_flat_face_keeps_its_shape_wherever_it_looks() -> None:
    mesh = mesh_solid(RING, size=3.0)
    top = mesh.faces["top"]
    node = np.unique(corners_of(top))
    radius = np.hypot(*mesh.nodes[:, :2].T)
    whole = np.pi * (radius.max() ** 2 - radius.min() ** 2)
    c, s = np.cos(0.7), np.sin(0.7)
    for turn in (np.eye(3), np.array([[1, 0, 0], [0, c, -s], [0, s, c]])):
        flat = lay_flat(mesh.nodes @ turn.T, top, node)
        assert not flat.is_unrolled
        assert _area(flat.points, flat.triangles) == pytest.approx(whole, rel=0.02)
        assert flat.points.min(axis=0) == pytest.approx([0, 0], abs=1e-9)
        assert np.ptp(flat.points, axis=0) == pytest.approx(2 * radius.max(), rel=0.01)


def test_a_round_face_is_unrolled_about_its_axis_and_cut_once() -> None:
    mesh = mesh_solid(RING, size=3.0)
    rim = mesh.faces["rim"]
    node = np.unique(corners_of(rim))
    outer, height = float(np.hypot(*mesh.nodes[:, :2].T).max()), float(np.ptp(mesh.nodes[:, 2]))
    flat = lay_flat(mesh.nodes, rim, node)
    assert flat.is_unrolled
    assert np.ptp(flat.points[:, 1]) == pytest.approx(height)
    # All around but for the elements at the cut, which would reach from one end to the other.
    turn = 2 * np.pi * outer * height
    assert 0.9 * turn < _area(flat.points, flat.triangles) < turn
    longest = max(np.linalg.norm(np.diff(flat.points[t], axis=0), axis=1).max() for t in flat.triangles)
    assert longest < 0.5 * outer


@pytest.mark.parametrize("second_order", [False, True])
def test_the_way_along_an_outline_is_its_length(second_order: bool) -> None:
    mesh = mesh_flat(RING, size=2.0)
    if second_order:
        mesh = with_mid_sides(mesh)
    facets = mesh.faces["rim"]
    node = np.unique(facets)
    outer = float(np.hypot(*mesh.nodes[:, :2].T).max())
    order, way = along_outline(mesh.nodes, facets, node)
    assert sorted(order) == list(range(len(node)))
    assert (np.diff(way) >= 0).all()
    # Once around, but for the last piece that closes it.
    steps = np.linalg.norm(np.diff(mesh.nodes[node][order], axis=0), axis=1)
    assert np.diff(way) == pytest.approx(steps)
    assert way[-1] + steps.max() == pytest.approx(2 * np.pi * outer, rel=0.02)


def test_pieces_follow_each_other_from_end_to_end() -> None:
    points = np.array([[0.0, 0, 0], [1, 0, 0], [3, 0, 0], [10, 1, 0], [10, 3, 0]])
    order, way = along_outline(points, np.array([[2, 1], [0, 1], [4, 3]]), np.arange(5))
    assert order.tolist() == [0, 1, 2, 3, 4]
    assert way == pytest.approx([0, 1, 3, 3, 5])
