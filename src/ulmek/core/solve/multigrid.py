"""Smoothed aggregation multigrid for the stiffness of an assembly (Vaněk, Mandel and Brezina 1996).

pyamg builds the levels from the rigid motions; the cycles are ours, in single precision: a forward sweep of
Gauss and Seidel on blocks of three from rest, which leaves the upper triangle as the residual, and a backward sweep.
Unknowns that many others are coupled to, as the shortening of a bolt or the motion of a handle, are bordered: an
aggregate cannot hold them.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy.sparse as sp
from numba import njit
from numpy.typing import NDArray
from scipy.sparse.linalg import LinearOperator, cg, splu

from ulmek.core.errors import LooseError
from ulmek.core.shared_out import share_out
from ulmek.core.solve.products import product

Array = NDArray[np.float64]
Single = NDArray[np.float32]
Ids = NDArray[np.int64]

# Couplings weaker than this share of both diagonals do not aggregate.
STRONG = 0.05
# Rows with more entries are bordered, the longest so many of them.
LONG_ROW, MOST_BORDERED = 1000, 60
COARSEST, MOST_LEVELS = 500, 12
# Bordering unknowns are eliminated this closely, in at most so many iterations.
BORDER, MOST_ITERATIONS = 1e-2, 300


@dataclass(frozen=True)
class _Level:
    """One level: rows of 3×3 blocks in order of columns, where the diagonal stands, its inverse, and the way down."""

    indptr: NDArray[np.int32]
    indices: NDArray[np.int32]
    data: Single
    diagonal: NDArray[np.int64]
    inverse: Single
    prolong: sp.csr_matrix
    restrict: sp.csr_matrix


class Multigrid:
    """An approximate inverse of a symmetric positive definite matrix: one V-cycle."""

    def __init__(self, matrix: sp.csr_matrix, number: Ids, modes: Array) -> None:
        """Build the levels of ``matrix`` (n, n).

        number (n,): of each unknown, of which three and three belong to one place; ``modes`` (n, 6): rigid motions.

        Raises
        ------
        LooseError : the matrix is singular.
        """
        self.size = matrix.shape[0]
        length = np.diff(matrix.indptr)
        longest = np.argsort(length, kind="stable")[self.size - MOST_BORDERED :]
        self._border = np.sort(longest[length[longest] > LONG_ROW])
        inner = np.delete(np.arange(self.size), self._border)
        places = np.unique(number[inner] // 3)
        slot = 3 * np.searchsorted(places, number[inner] // 3) + number[inner] % 3
        self._inner, self._slot, self._padded = inner, slot, 3 * len(places)
        padded = self._in_blocks(matrix)
        self._levels, self._coarsest = _levels(padded, self._spread(modes))
        self._bordered(matrix, padded)

    def _in_blocks(self, matrix: sp.csr_matrix) -> sp.bsr_matrix:
        """The inner part in blocks of three, with ones of its own size where a place has fewer unknowns."""
        stiff = float(matrix.diagonal().mean())
        lone = np.ones(self._padded)
        lone[self._slot] = 0.0
        spread = sp.csr_matrix((np.ones(len(self._inner)), (self._slot, self._inner)), shape=(self._padded, self.size))
        return sp.bsr_matrix(spread @ matrix @ spread.T + sp.diags(stiff * lone), blocksize=(3, 3))

    def _spread(self, values: Array) -> Array:
        out = np.zeros((self._padded, *values.shape[1:]))
        out[self._slot] = values[self._inner]
        return out

    def _bordered(self, matrix: sp.csr_matrix, padded: sp.bsr_matrix) -> None:
        """What bordering unknowns move of the others, and the inverse of what is left of them."""
        columns = self._spread(matrix[:, self._border].toarray())
        self._moved = np.column_stack([np.zeros((self._padded, 0)), *(self._solved(padded, c) for c in columns.T)])
        own = matrix[self._border][:, self._border].toarray() - columns.T @ self._moved
        self._own = np.linalg.inv((own + own.T) / 2)

    def _solved(self, padded: sp.bsr_matrix, load: Array) -> Array:
        cycle = LinearOperator(padded.shape, matvec=self._cycle)
        x, info = cg(padded, load, rtol=BORDER, maxiter=MOST_ITERATIONS, M=cycle)
        if info:
            raise LooseError("the stiffness is singular.")
        return np.asarray(x)

    def __call__(self, load: Array) -> Array:
        """Motions (n,) for loads (n,), about."""
        inner = self._spread(load)
        moved = self._cycle(inner)
        out = np.empty(self.size)
        if len(self._border):
            own = self._own @ (load[self._border] - self._moved.T @ inner)
            moved = moved - self._moved @ own
            out[self._border] = own
        out[self._inner] = moved[self._slot]
        return out

    def _cycle(self, load: Array) -> Array:
        return self._descend(load.astype(np.float32), 0).astype(float)

    def _descend(self, load: Single, depth: int) -> Single:
        if depth == len(self._levels):
            return np.asarray(self._coarsest.solve(load.astype(float)), np.float32)
        level = self._levels[depth]
        matrix = level.indptr, level.indices, level.data, level.diagonal
        x, left = np.zeros_like(load), np.zeros_like(load)
        _sweep_from_rest(*matrix, level.inverse, load, x)
        share_out(_left_above, len(level.diagonal), *matrix, x, left)
        x += product(level.prolong, self._descend(product(level.restrict, left), depth + 1))
        _sweep_back(*matrix, level.inverse, load, x)
        return x


def _levels(matrix: sp.bsr_matrix, modes: Array) -> tuple[list[_Level], Any]:
    """All levels but the coarsest, and the factor of that one."""
    # Costs half a second, and only large models need it.
    from pyamg import smoothed_aggregation_solver

    built = smoothed_aggregation_solver(
        matrix, B=modes, symmetry="symmetric", strength=("symmetric", {"theta": STRONG}), improve_candidates=None,
        presmoother=None, postsmoother=None, max_coarse=COARSEST, max_levels=MOST_LEVELS, coarse_solver=None,
    ).levels  # fmt: skip
    try:
        coarsest = splu(sp.csc_matrix(built[-1].A))
    except RuntimeError as error:
        raise LooseError("the stiffness is singular.") from error
    return [_level(one) for one in built[:-1]], coarsest


def _level(one: Any) -> _Level:
    blocks = sp.bsr_matrix(one.A, blocksize=(3, 3))
    blocks.sort_indices()
    row = np.repeat(np.arange(len(blocks.indptr) - 1), np.diff(blocks.indptr))
    diagonal = np.flatnonzero(blocks.indices == row)
    inverse = np.linalg.pinv(blocks.data[diagonal], hermitian=True)
    return _Level(
        blocks.indptr, blocks.indices, blocks.data.astype(np.float32), diagonal, inverse.astype(np.float32),
        sp.csr_matrix(one.P, dtype=np.float32), sp.csr_matrix(one.R, dtype=np.float32),
    )  # fmt: skip


@njit(cache=True)
def _take_off(indices, data, first, last, x, left):  # type: ignore[no-untyped-def] # pragma: no cover
    """Subtract from ``left`` what some blocks of a row say of ``x``."""
    a, b, c = left[0], left[1], left[2]
    for k in range(first, last):
        j = 3 * indices[k]
        u, v, w = x[j], x[j + 1], x[j + 2]
        a -= data[k, 0, 0] * u + data[k, 0, 1] * v + data[k, 0, 2] * w
        b -= data[k, 1, 0] * u + data[k, 1, 1] * v + data[k, 1, 2] * w
        c -= data[k, 2, 0] * u + data[k, 2, 1] * v + data[k, 2, 2] * w
    return a, b, c


@njit(cache=True)
def _put(inverse, i, left, x):  # type: ignore[no-untyped-def] # pragma: no cover
    for k in range(3):
        x[3 * i + k] = inverse[i, k, 0] * left[0] + inverse[i, k, 1] * left[1] + inverse[i, k, 2] * left[2]


@njit(cache=True, nogil=True)
def _sweep_from_rest(indptr, indices, data, diagonal, inverse, load, x):  # type: ignore[no-untyped-def] # pragma: no cover
    for i in range(len(diagonal)):
        own = load[3 * i], load[3 * i + 1], load[3 * i + 2]
        _put(inverse, i, _take_off(indices, data, indptr[i], diagonal[i], x, own), x)


@njit(cache=True, nogil=True)
def _left_above(first, last, indptr, indices, data, diagonal, x, left):  # type: ignore[no-untyped-def] # pragma: no cover
    zero = np.float32(0.0)
    for i in range(first, last):
        a, b, c = _take_off(indices, data, diagonal[i] + 1, indptr[i + 1], x, (zero, zero, zero))
        left[3 * i], left[3 * i + 1], left[3 * i + 2] = a, b, c


@njit(cache=True, nogil=True)
def _sweep_back(indptr, indices, data, diagonal, inverse, load, x):  # type: ignore[no-untyped-def] # pragma: no cover
    for i in range(len(diagonal) - 1, -1, -1):
        own = load[3 * i], load[3 * i + 1], load[3 * i + 2]
        own = _take_off(indices, data, indptr[i], diagonal[i], x, own)
        _put(inverse, i, _take_off(indices, data, diagonal[i] + 1, indptr[i + 1], x, own), x)
