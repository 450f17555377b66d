"""Both linear backends agree with dense algebra, and refuse what is singular."""

import numpy as np
import pytest
import scipy.sparse as sp

from ulmek.core.errors import LooseError
from ulmek.core.solve.linear import factor_with_kept


@pytest.mark.parametrize("backend", ["pardiso", "superlu"])
def test_schur_condensed_load_and_interior(backend: str) -> None:
    rng = np.random.default_rng(1)
    half = sp.random(300, 300, 0.02, random_state=1)
    matrix = (half @ half.T + 0.1 * sp.eye(300)).tocsr()
    dense, n, k = matrix.toarray(), 270, 30
    a, b, d = dense[:n, :n], dense[:n, n:], dense[n:, n:]
    factor = factor_with_kept(matrix, k, backend=backend)
    assert factor.backend == backend
    assert np.allclose(factor.schur(), d - b.T @ np.linalg.solve(a, b), atol=1e-11)
    load, kept = rng.normal(size=(n, 2)), rng.normal(size=(k, 2))
    assert np.allclose(factor.forward(load)[1], -b.T @ np.linalg.solve(a, load), atol=1e-11)
    assert np.allclose(factor.backward(factor.forward(load)[0], kept), np.linalg.solve(a, load - b @ kept), atol=1e-11)


@pytest.mark.parametrize("backend", ["pardiso", "superlu"])
def test_nothing_kept_is_a_plain_solve(backend: str) -> None:
    matrix = sp.diags([4.0, 2.0, 8.0]).tocsr()
    factor = factor_with_kept(matrix, 0, backend=backend)
    assert np.allclose(factor.backward(factor.forward(np.ones((3, 1)))[0], np.zeros((0, 1)))[:, 0], [0.25, 0.5, 0.125])


@pytest.mark.parametrize("backend", ["pardiso", "superlu"])
def test_singular_matrix_is_refused(backend: str) -> None:
    free = sp.kron(sp.eye(40), sp.csr_matrix([[1.0, -1.0], [-1.0, 1.0]])).tocsr()
    with pytest.raises(LooseError):
        factor_with_kept(free, 2, backend=backend).schur()
