"""Overlap integrals against a slow plain reference: polygons from shapely, integrals by a fine grid."""

from itertools import pairwise

import numpy as np
import pytest
from shapely.geometry import Polygon

from ulmek.core.contact.overlap import RULE, integrate_overlap
from ulmek.core.mesh.facets import facet_normals

A = np.array([[0.0, 0, 0], [2.0, 0.2, 0], [2.3, 1.9, 0], [-0.2, 1.6, 0]])


def _case(turn: float, shift: tuple[float, float], gap: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Facet A facing +z, facet B above it facing −z."""
    c, s = np.cos(turn), np.sin(turn)
    b = np.array([[0.0, 0, 0], [0, 2.0, 0], [2.2, 2.1, 0], [1.9, 0, 0]]) @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
    return np.vstack([A, b + np.array([*shift, gap])]), np.array([[0, 1, 2, 3]]), np.array([[4, 5, 6, 7]])


CASES = [(0.0, (0.0, 0.0)), (0.5, (0.3, -0.4)), (1.2, (1.5, 0.5)), (-0.7, (-0.8, 0.9)), (2.9, (2.0, 1.5))]


@pytest.mark.parametrize(("turn", "shift"), CASES)
def test_area_of_overlap(turn: float, shift: tuple[float, float]) -> None:
    nodes, qa, qb = _case(turn, shift, 0.0)
    overlap = integrate_overlap(nodes, qa, qb, search=1.0)
    expected = Polygon(nodes[:4, :2]).intersection(Polygon(nodes[4:, :2])).area
    assert overlap.mass.sum() == pytest.approx(expected, rel=1e-12, abs=1e-12)
    assert overlap.mixed.sum() == pytest.approx(expected, rel=1e-12, abs=1e-12)


def _bilinear(flat: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Shape values of a flat quad at ``points`` by Newton on each, shape (n, 4)."""
    local = np.zeros_like(points)
    sign = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
    for _ in range(40):
        shape = np.prod(1 + local[:, None] * sign, axis=2) / 4
        d0 = sign[:, 0] * (1 + local[:, 1:] * sign[:, 1]) / 4
        d1 = sign[:, 1] * (1 + local[:, :1] * sign[:, 0]) / 4
        jacobian = np.stack([d0 @ flat, d1 @ flat], axis=2)
        local -= np.linalg.solve(jacobian, (shape @ flat - points)[..., None])[..., 0]
    return np.asarray(np.prod(1 + local[:, None] * sign, axis=2) / 4)


@pytest.mark.parametrize(("turn", "shift"), CASES[1:3])
def test_products_of_shapes_against_a_fine_grid(turn: float, shift: tuple[float, float]) -> None:
    nodes, qa, qb = _case(turn, shift, 0.0)
    overlap = integrate_overlap(nodes, qa, qb, search=1.0)
    common = Polygon(nodes[:4, :2]).intersection(Polygon(nodes[4:, :2]))
    ring = np.array(common.exterior.coords)[:-1]
    # Reference: the polygon fanned into triangles, each cut into 60² equal ones.
    n, points, weights = 60, [], []
    for b, c in pairwise(ring[1:]):
        a = ring[0]
        area = abs((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) / 2
        for i in range(n):
            for j in range(n - i):
                for third in (1 / 3, 2 / 3) if i + j < n - 1 else (1 / 3,):
                    points.append(a + (i + third) / n * (b - a) + (j + third) / n * (c - a))
                    weights.append(area / n**2)
    at, w = np.array(points), np.array(weights)
    shape_a, shape_b = _bilinear(nodes[:4, :2], at), _bilinear(nodes[4:, :2], at)
    assert np.allclose(overlap.mass[0], np.einsum("p,pi,pj->ij", w, shape_a, shape_a), atol=2e-4)
    assert np.allclose(overlap.mixed[0], np.einsum("p,pi,pj->ij", w, shape_a, shape_b), atol=2e-4)


def test_gap_is_positive_when_open_and_measured_along_the_normal_of_a() -> None:
    nodes, qa, qb = _case(0.3, (0.1, 0.1), 0.2)
    overlap = integrate_overlap(nodes, qa, qb, search=1.0)
    assert overlap.gap.sum() == pytest.approx(0.2 * overlap.mass.sum())
    assert overlap.least_gap == pytest.approx(0.2)
    nodes[4:, 2] = -0.05
    assert integrate_overlap(nodes, qa, qb, search=1.0).least_gap == pytest.approx(-0.05)


def test_what_is_too_far_or_faces_away_does_not_count() -> None:
    nodes, qa, qb = _case(0.3, (0.1, 0.1), 0.2)
    assert not integrate_overlap(nodes, qa, qb, search=0.1).mass.any()
    assert not integrate_overlap(nodes, qa, qb[:, ::-1], search=1.0).mass.any()
    away, qa, qb = _case(0.0, (50.0, 0.0), 0.0)
    assert not integrate_overlap(away, qa, qb, search=1.0).mass.any()


def test_rule_is_exact_to_degree_four() -> None:
    """∫ x^i y^j over the unit triangle = i! j! / (i + j + 2)!."""
    factorial = [1, 1, 2, 6, 24, 120, 720]
    for i in range(5):
        for j in range(5 - i):
            exact = factorial[i] * factorial[j] / factorial[i + j + 2]
            assert np.sum(RULE[:, 2] / 2 * RULE[:, 0] ** i * RULE[:, 1] ** j) == pytest.approx(exact, rel=1e-12)


def test_normals_point_out_by_the_right_hand_rule() -> None:
    assert np.allclose(facet_normals(A, np.array([[0, 1, 2, 3], [3, 2, 1, 0]])), [[0, 0, 1], [0, 0, -1]])
