"""Kernels that others stand on, against plain algebra: packed factors, elastic stiffness, flat elements."""

import numpy as np
import pytest

from ulmek.core.element.family import FAMILIES
from ulmek.core.element.linear import linear_stiffness
from ulmek.core.element.response import Manner, respond
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.tet_quality import Improver, dihedrals
from ulmek.core.solve.condensed import _remove_springs, _without_first
from ulmek.core.solve.plain_block import PackedCholesky


@pytest.mark.parametrize("n", [1, 2, 5, 8, 37, 64])
def test_a_packed_factor_solves_its_rows(n: int) -> None:
    rng = np.random.default_rng(n)
    root = rng.normal(size=(n + 6, n + 6))
    matrix = root @ root.T + np.eye(n + 6)
    rows, stiff = rng.permutation(n + 6)[:n], rng.uniform(1, 2, n + 6)
    block = matrix[np.ix_(rows, rows)] + np.diag(stiff[rows])
    right = rng.normal(size=(n, 3))
    factor = PackedCholesky(matrix, rows, stiff)
    assert factor.backward(factor.forward(right)) == pytest.approx(np.linalg.solve(block, right), rel=1e-9)
    assert factor.forward(right) == pytest.approx(np.linalg.solve(np.linalg.cholesky(block), right), rel=1e-9)
    with pytest.raises(np.linalg.LinAlgError):
        PackedCholesky(-matrix, rows, stiff * 0)


@pytest.mark.parametrize("bolts", [0, 2])
def test_springs_come_off_in_the_memory_of_one_matrix(bolts: int) -> None:
    rng = np.random.default_rng(5)
    n = 9
    root = rng.normal(size=(n + bolts, n + bolts))
    stiff = root @ root.T + 3 * np.eye(n + bolts)
    # Springs ρ in series with the stiffness of w, as the condensed path has them.
    spring = rng.uniform(5, 9, n)
    a, b = stiff[bolts:, bolts:], stiff[bolts:, :bolts]
    held = np.linalg.inv(a + np.diag(spring))
    t = np.zeros_like(stiff)
    t[bolts:, bolts:] = np.diag(spring) - np.diag(spring) @ held @ np.diag(spring)
    t[bolts:, :bolts] = np.diag(spring) @ held @ b
    t[:bolts, bolts:] = t[bolts:, :bolts].T
    t[:bolts, :bolts] = stiff[:bolts, :bolts] - b.T @ held @ b
    t_d, room = t[:, :bolts].copy(), t.copy()
    q = _without_first(room, bolts)
    assert np.array_equal(q, t[bolts:, bolts:])
    inverse = np.linalg.inv(np.diag(spring) - q)
    matrix, _ = _remove_springs(t_d, inverse, spring, np.zeros((n + bolts, 1)), room)
    expected = np.block([[a, b], [b.T, stiff[:bolts, :bolts]]])
    assert matrix == pytest.approx(expected, rel=1e-9, abs=1e-9)


@pytest.mark.parametrize("kind", ["brick", "tet"])
def test_elastic_stiffness_is_that_of_the_general_kernel(kind: str) -> None:
    family, law = FAMILIES[kind], Elastic(210e3, 0.3).law()
    rng = np.random.default_rng(2)
    if kind == "brick":
        xyz = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]], float)
    else:
        corners = np.vstack([np.zeros(3), np.eye(3)])
        pairs = [(0, 1), (1, 2), (2, 0), (0, 3), (1, 3), (2, 3)]
        xyz = np.vstack([corners, [(corners[a] + corners[b]) / 2 for a, b in pairs]])
    xyz = xyz + rng.uniform(-0.06, 0.06, (5, *xyz.shape))
    tangent, faulty = linear_stiffness(family, law.hooke, xyz)
    other = respond(family, law, xyz, np.zeros_like(xyz), Manner("solid"))
    assert faulty == other.faulty == -1
    assert tangent == pytest.approx(other.tangent, rel=1e-9, abs=1e-6)
    _, faulty = linear_stiffness(family, law.hooke, xyz * np.array([1, 1, -1]))
    assert faulty == 0


def test_flat_elements_are_mended_and_fill_the_same_space() -> None:
    rng = np.random.default_rng(4)
    from scipy.spatial import Delaunay

    points = np.stack(np.meshgrid(*[np.arange(5.0)] * 3, indexing="ij"), axis=-1).reshape(-1, 3)
    on_skin = ((points == 0) | (points == 4)).any(axis=1)
    points[~on_skin] += rng.uniform(-0.2, 0.2, (int((~on_skin).sum()), 3))
    tets = Delaunay(points).simplices.astype(np.int64)
    e = points[tets[:, 1:]] - points[tets[:, :1]]
    volume = np.einsum("ij,ij->i", np.cross(e[:, 0], e[:, 1]), e[:, 2])
    tets[volume < 0] = tets[volume < 0][:, [1, 0, 2, 3]]
    tets = tets[np.abs(volume) > 1e-9]
    before = dihedrals(points, tets).min()
    improver = Improver(points, tets, ~on_skin, [frozenset()] * len(points), np.zeros_like(points))
    better = improver.improve(12.0)
    assert dihedrals(points, better).min() > max(before, 8)
    e = points[better[:, 1:]] - points[better[:, :1]]
    assert np.einsum("ij,ij->i", np.cross(e[:, 0], e[:, 1]), e[:, 2]).sum() / 6 == pytest.approx(64, rel=1e-12)
