"""Sparse symmetric factorization that keeps some unknowns: MKL PARDISO, or SuperLU where MKL is missing.

Matrix ``[[A, B], [Bᵀ, D]]`` with A positive definite (eliminated) and the last ``n_kept`` unknowns
kept. Both backends give the Schur complement ``S = D − Bᵀ A⁻¹ B``, condensed right-hand sides and
the interior for given kept values.
"""

import ctypes
import os
import sys
from functools import lru_cache
from pathlib import Path
from typing import Any, Protocol

import numpy as np
import scipy.sparse as sp
from numba import njit
from numpy.typing import NDArray
from scipy.sparse.linalg import splu

from ulmek.core.errors import LooseError, SolveError

Array = NDArray[np.float64]


class SchurFactor(Protocol):
    """A factorization with kept unknowns."""

    backend: str

    def schur(self) -> Array:
        """``S``, shape (n_kept, n_kept), to be asked for once: it is large and not kept."""
        ...

    def forward(self, load: Array) -> tuple[Array, Array]:
        """Loads ``f`` (n, k) half solved, for `backward`, and ``−Bᵀ A⁻¹ f`` (n_kept, k): what they add to kept rows."""
        ...

    def backward(self, half: Array, kept: Array) -> Array:
        """``A⁻¹ (f − B x_kept)`` (n, k) for half-solved ``f`` and ``x_kept`` (n_kept, k)."""
        ...


def factor_with_kept(matrix: sp.csr_matrix, n_kept: int, *, backend: str | None = None) -> SchurFactor:
    """Factor a symmetric matrix (both triangles given), keeping the last ``n_kept`` unknowns.

    Raises
    ------
    LooseError : the eliminated block is singular: something in the assembly is not held.
    SolveError : the backend failed otherwise, for want of memory for instance.
    """
    if backend != "superlu" and _mkl() is not None:
        return _Pardiso(matrix, n_kept)
    return _SuperLu(matrix, n_kept)


@lru_cache(maxsize=1)
def _mkl() -> Any:
    """The library with PARDISO, None where MKL does not run."""
    # Without its place the whole environment would be searched, which takes more than a second in every process.
    for library in sorted(Path(sys.prefix).glob("lib/libmkl_rt.so*"))[:1]:
        os.environ.setdefault("PYPARDISO_MKL_RT", str(library))
    try:
        from pypardiso import PyPardisoSolver

        return PyPardisoSolver().libmkl
    except (ImportError, OSError):
        return None


def _refuse_singular() -> LooseError:
    return LooseError(
        "the assembly is not held even with every pair sticking: the stiffness is singular.",
        hint="Run preflight: it names the parts that can move and how.",
    )


class _Mkl:
    """One matrix in MKL PARDISO, one-based compressed rows; ``kind`` is its mtype."""

    def __init__(self, matrix: sp.csr_matrix, kind: int, options: tuple[tuple[int, int], ...]) -> None:
        self.n, self.kind = matrix.shape[0], kind
        self._perm = np.zeros(self.n, np.int32)
        self._pt = np.zeros(64, np.int64)
        self._iparm = np.zeros(64, np.int32)
        for index, value in options:
            self._iparm[index] = value
        self._lib = _mkl()
        self._set(matrix)

    def _set(self, matrix: sp.csr_matrix) -> None:
        self._a = matrix.data
        self._ia = (matrix.indptr + 1).astype(np.int32)
        self._ja = (matrix.indices + 1).astype(np.int32)

    def _call(self, phase: int, b: Array, x: Array) -> None:
        def integer(value: int) -> Any:
            return ctypes.byref(ctypes.c_int32(value))

        def pointer(array: NDArray[Any], kind: Any) -> Any:
            return array.ctypes.data_as(ctypes.POINTER(kind))

        error = ctypes.c_int32(0)
        self._lib.pardiso(
            pointer(self._pt, ctypes.c_int64),
            integer(1),
            integer(1),
            integer(self.kind),
            integer(phase),
            integer(self.n),
            pointer(self._a, ctypes.c_double),
            pointer(self._ia, ctypes.c_int32),
            pointer(self._ja, ctypes.c_int32),
            pointer(self._perm, ctypes.c_int32),
            integer(b.shape[1] if b.ndim == 2 else 1),
            pointer(self._iparm, ctypes.c_int32),
            integer(0),
            pointer(b, ctypes.c_double),
            pointer(x, ctypes.c_double),
            ctypes.byref(error),
        )
        if error.value == -4:
            raise _refuse_singular()
        if error.value != 0:
            raise SolveError(f"the linear solver gave up with error {error.value}.", hint="Use a smaller model.")

    def __del__(self) -> None:
        # At interpreter exit the modules are gone and the memory goes with the process.
        if hasattr(self, "_lib") and not sys.is_finalizing():
            self._call(-1, np.zeros(1), np.zeros(1))


@njit(cache=True)
def _symmetric(a, lift):  # type: ignore[no-untyped-def] # pragma: no cover
    """Replace ``a`` by its symmetric part less ``lift`` on the diagonal, block by block for the cache's sake."""
    n = len(a)
    for i in range(n):
        a[i, i] -= lift
    for first in range(0, n, 64):
        for other in range(first, n, 64):
            for i in range(first, min(first + 64, n)):
                for j in range(max(other, i + 1), min(other + 64, n)):
                    a[i, j] = a[j, i] = 0.5 * (a[i, j] + a[j, i])


class _Pardiso(_Mkl):
    """MKL PARDISO, mtype 2, with ``iparm[35] = 1`` (Schur complement)."""

    backend = "pardiso"

    def __init__(self, matrix: sp.csr_matrix, n_kept: int) -> None:
        n = matrix.shape[0]
        self.n_kept = n_kept
        # A row without stiffness is no error code of PARDISO: it crashes.
        if not np.all(matrix.diagonal()[: n - n_kept] > 0):
            raise _refuse_singular()
        # PARDISO stops at the zero pivots of a kept block that floats: lift it, and lower S after.
        lift = float(matrix.diagonal().max())
        shift = np.concatenate([np.zeros(n - n_kept), np.full(n_kept, lift)])
        upper = sp.triu(matrix + sp.diags(shift), format="csr")
        upper.sort_indices()
        super().__init__(upper, 2, ((0, 1), (1, 2), (9, 8), (17, -1), (34, 0), (35, int(n_kept > 0))))
        self._perm[n - n_kept :] = 1
        schur = np.zeros((max(n_kept, 1), max(n_kept, 1)))
        self._call(12, np.zeros(n), schur)
        _symmetric(schur, lift)
        self._schur: Array | None = schur[:n_kept, :n_kept]
        self.entries = int(self._iparm[17])

    def schur(self) -> Array:
        assert self._schur is not None
        found, self._schur = self._schur, None
        return found

    def forward(self, load: Array) -> tuple[Array, Array]:
        if self.n_kept == 0:
            return load, np.zeros((0, load.shape[1]))
        half = self._solve(331, np.vstack([load, np.zeros((self.n_kept, load.shape[1]))]))
        return half, half[self.n - self.n_kept :]

    def backward(self, half: Array, kept: Array) -> Array:
        if self.n_kept == 0:
            return self._solve(33, half)
        right = half.copy()
        right[self.n - self.n_kept :] = kept
        return self._solve(333, right)[: self.n - self.n_kept]

    def _solve(self, phase: int, right: Array) -> Array:
        b = np.asfortranarray(right)
        x = np.zeros_like(b, order="F")
        self._call(phase, b, x)
        return x


class _SuperLu:
    """SciPy's SuperLU: an order slower, for machines on which MKL does not run."""

    backend = "superlu"

    def __init__(self, matrix: sp.csr_matrix, n_kept: int) -> None:
        n = matrix.shape[0] - n_kept
        csc = matrix.tocsc()
        try:
            self._lu = splu(csc[:n, :n], permc_spec="MMD_AT_PLUS_A", options={"SymmetricMode": True})
        except RuntimeError as error:
            raise _refuse_singular() from error
        pivots = np.abs(self._lu.U.diagonal())
        if pivots.min() < 1e-14 * pivots.max():
            raise _refuse_singular()
        self._coupling = csc[:n, n:]
        self._kept = csc[n:, n:].toarray()
        self.entries = int(self._lu.nnz)

    def schur(self) -> Array:
        out = self._kept.copy()
        for start in range(0, out.shape[0], 64):
            block = self._coupling[:, start : start + 64].toarray()
            out[:, start : start + 64] -= self._coupling.T @ self._lu.solve(block)
        return np.asarray((out + out.T) / 2)

    def forward(self, load: Array) -> tuple[Array, Array]:
        return load, np.asarray(-(self._coupling.T @ self._lu.solve(load)))

    def backward(self, half: Array, kept: Array) -> Array:
        return np.asarray(self._lu.solve(half - self._coupling @ kept))


# Residual, relative to the right-hand side, above which a solution is not believed; and what rounding of the
# products of matrix and solution leaves after refinement. A perturbed pivot leaves far more.
WRONG, ROUNDED = 1e-6, 20 * np.finfo(float).eps
# Pivots below ten to this minus are lifted at a second try.
CAREFUL = 8


class GeneralSolver:
    """Solves sparse systems one after another, unsymmetric or indefinite; analyses a new pattern only."""

    def __init__(self, *, backend: str | None = None) -> None:
        self.backend = "pardiso" if backend != "superlu" and _mkl() is not None else "superlu"
        self.factorizations = 0
        self._engine: _MklGeneral | None = None

    def solve(self, matrix: sp.csr_matrix, right: Array, *, symmetric: bool, again: bool = False) -> Array:
        """Solution of ``matrix x = right`` (n,). again: one that could not be divided by is tried once more with care,
        as small pivots come from rows of contact too, not only from what is loose or gives way.

        Raises
        ------
        LooseError : the matrix is singular.
        """
        self.factorizations += 1
        if self.backend == "superlu":
            try:
                return np.asarray(splu(sp.csc_matrix(matrix)).solve(right))
            except RuntimeError as error:
                raise _refuse_singular() from error
        matrix.sort_indices()
        kept = self._engine
        if kept is None or not kept.fits(matrix, symmetric=symmetric):
            self._engine = kept = _MklGeneral(matrix, symmetric=symmetric)
            fresh = True
        else:
            kept.refill(matrix)
            fresh = False
        x = kept.solve(right)
        if _is_wrong(matrix, x, right) and not fresh:
            # Pivots chosen for other values: choose them anew.
            self._engine = kept = _MklGeneral(matrix, symmetric=symmetric)
            x = kept.solve(right)
        if again and _is_wrong(matrix, x, right):
            # Small pivots were lifted by too little to be divided by, in a matrix that may be sound.
            x = _MklGeneral(matrix, symmetric=symmetric, lift=CAREFUL).solve(right)
        if _is_wrong(matrix, x, right):
            raise _refuse_singular()
        return x


def _is_wrong(matrix: sp.csr_matrix, x: Array, right: Array) -> bool:
    if not np.all(np.isfinite(x)):
        return True
    left = np.abs(matrix @ x - right).max(initial=0.0)
    rounding = ROUNDED * np.abs(matrix.data).max() * np.abs(x).max(initial=0.0)
    return bool(left > WRONG * np.abs(right).max(initial=0.0) + rounding)


class _MklGeneral(_Mkl):
    """PARDISO with scaling and weighted matching, which zero diagonals of contact rows need."""

    def __init__(self, matrix: sp.csr_matrix, *, symmetric: bool, lift: int | None = None) -> None:
        self.symmetric = symmetric
        self._pattern = matrix.indptr, matrix.indices
        lifted = lift if lift is not None else 8 if symmetric else 13
        options = ((0, 1), (1, 2), (7, 2 if lift is None else 10), (9, lifted), (10, 1), (12, 1), (34, 0))
        super().__init__(self._stored(matrix), -2 if symmetric else 11, options)
        self._call(11, np.zeros(self.n), np.zeros(self.n))
        self._call(22, np.zeros(self.n), np.zeros(self.n))

    def _stored(self, matrix: sp.csr_matrix) -> sp.csr_matrix:
        if not self.symmetric:
            return matrix
        upper = sp.csr_matrix(sp.triu(matrix, format="csr"))
        upper.sort_indices()
        return upper

    def fits(self, matrix: sp.csr_matrix, *, symmetric: bool) -> bool:
        """Whether the analysis made for this pattern serves ``matrix``."""
        indptr, indices = self._pattern
        same_size = symmetric == self.symmetric and len(indices) == len(matrix.indices)
        return same_size and np.array_equal(indptr, matrix.indptr) and np.array_equal(indices, matrix.indices)

    def refill(self, matrix: sp.csr_matrix) -> None:
        """Factor other values of the same pattern."""
        self._a = self._stored(matrix).data
        self._call(22, np.zeros(self.n), np.zeros(self.n))

    def solve(self, right: Array) -> Array:
        """Back-substitution for one right-hand side (n,)."""
        x = np.zeros(self.n)
        self._call(33, np.array(right, float), x)
        return x
