"""The sparse solver of the full path: zero diagonals, values that change, singular matrices."""

import numpy as np
import pytest
import scipy.sparse as sp

from ulmek.core.errors import LooseError
from ulmek.core.solve.linear import GeneralSolver


def _saddle(rng: np.random.Generator, *, factor: float = 1.0) -> sp.csr_matrix:
    """A stiffness with constraint rows: zeros on the diagonal, unsymmetric in the last row."""
    n, m = 40, 6
    a = sp.random(n, n, density=0.1, random_state=3)
    block = a @ a.T + sp.eye(n)
    rows = sp.csr_matrix(rng.standard_normal((m, n)))
    below = rows.copy()
    below[m - 1] *= 0.3
    return sp.csr_matrix(sp.bmat([[factor * block, -rows.T], [below, sp.csr_matrix((m, m))]]))


@pytest.mark.parametrize("backend", ["pardiso", "superlu"])
def test_constraint_rows_are_solved_and_values_may_change_on_one_pattern(backend: str) -> None:
    solver, rng = GeneralSolver(backend=backend), np.random.default_rng(1)
    for factor in (1.0, 1e4, 1e-3):
        matrix = _saddle(np.random.default_rng(2), factor=factor)
        wanted = rng.standard_normal(matrix.shape[0])
        found = solver.solve(matrix, matrix @ wanted, symmetric=False)
        assert np.allclose(found, wanted, rtol=1e-8, atol=1e-8)
    assert solver.factorizations == 3


def test_symmetric_matrices_need_not_be_definite() -> None:
    matrix = sp.csr_matrix(np.array([[2.0, 1.0, 0.0], [1.0, -3.0, 0.5], [0.0, 0.5, 1.0]]))
    found = GeneralSolver().solve(matrix, np.array([1.0, 2.0, 3.0]), symmetric=True)
    assert np.allclose(matrix @ found, [1.0, 2.0, 3.0])


@pytest.mark.parametrize("backend", ["pardiso", "superlu"])
def test_a_singular_matrix_is_refused(backend: str) -> None:
    matrix = sp.csr_matrix(np.array([[1.0, -1.0, 0.0], [-1.0, 1.0, 0.0], [0.0, 0.0, 2.0]]))
    with pytest.raises(LooseError):
        GeneralSolver(backend=backend).solve(matrix, np.array([1.0, 1.0, 1.0]), symmetric=False)
