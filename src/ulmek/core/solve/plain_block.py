"""One Cholesky factor of the plain rows, reused while few of them change.

Rows with the plain equation ``(A z − f) + k z = p`` (open nodes, tightened bolts, penalty springs k)
make most of the unknowns and change little from one iteration to the next. Their block
``A_BB + k = L Lᵀ`` is factored for the set B and the k of one moment. Later, rows new to the set and
sliding rows (E) are bordered to it, and rows that have left it or changed their k (R) get a force of
their own, μ:

    (A_BB + k) x_B + A_BE x_E + E_R μ = f_B + p_B − A_BK z_K

With ``V = L⁻¹ [A_BX, E_R]`` for the special rows X and their Gram matrix ``Γ = VᵀV``, forces and
motions of the special rows are linear in ``s = (x_E, μ)``, and only a system in s is left. Each of its
lines is a sum of forces and motions of at most three special rows (`Lines`), formed in one pass.
"""

import mmap
from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy.linalg as la
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]
Rows = NDArray[np.int64]

# Above this many changed rows (or this share of B) a new factor is cheaper than a long border.
MOST_CHANGED, MOST_CHANGED_SHARE = 500, 0.25
# Residual of a refined solution over its right-hand side, and the gain below which refinement gives up.
REFINED, SLOWEST = 1e-13, 0.1


@dataclass(frozen=True)
class Special:
    """The special rows of one solve: extra, then watched, then removed ones.

    Their forces ``A z − f`` are linear in ``s = (x_extra, μ_removed)`` with ``force_constant`` at s = 0,
    their motions with ``motion_constant``. columns: where the block keeps each row's column.
    """

    rows: Rows
    columns: Rows
    n_extra: int
    n_watched: int
    force_constant: Array
    motion_constant: Array

    @property
    def lines(self) -> Rows:
        """Special rows that have an equation: all but the watched ones."""
        watched = np.arange(self.n_extra, self.n_extra + self.n_watched)
        return np.delete(np.arange(len(self.rows)), watched)


@dataclass(frozen=True)
class Lines:
    """Equations ``Σ_k force_k·F(at_k) + motion_k·M(at_k) = right``, one for each unknown s.

    at (n, 3): positions among the special rows. force, motion (n, 3): factors of their forces and
    motions, zero where less than three count. right (n,).
    """

    at: Rows
    force: Array
    motion: Array
    right: Array


class Scratch:
    """Square arrays for systems, kept because fresh memory costs as much as filling it."""

    def __init__(self) -> None:
        self._kept: dict[type, NDArray[Any]] = {}

    def square(self, n: int, kind: type) -> NDArray[Any]:
        """An (n, n) array of any content, the same memory each time."""
        kept = self._kept.get(kind)
        if kept is None or kept.size < n * n:
            self._kept[kind] = kept = _room(int(1.2 * n * n), kind)
        return kept[: n * n].reshape(n, n)


def _room(size: int, kind: type) -> NDArray[Any]:
    """Zeros that take memory only where they are written, page by page (NumPy's own take it in large pieces)."""
    length = max(size * np.dtype(kind).itemsize, 1)
    return np.frombuffer(mmap.mmap(-1, length, mmap.MAP_PRIVATE | mmap.MAP_ANONYMOUS), kind, size)


class PackedCholesky:
    """``L Lᵀ`` of some rows and columns of a symmetric matrix, ``stiff`` added on its diagonal, in half of a square.

    The layout is LAPACK's rectangular full packed format (Gustavson, Waśniewski, Dongarra, Langou 2010).

    Raises numpy.linalg.LinAlgError when the block is not positive definite.
    """

    def __init__(self, matrix: Array, rows: Rows, stiff: Array) -> None:
        n = len(rows)
        packed = np.empty(((n + 1) // 2, n + 1 - n % 2))
        _pack(packed, matrix, rows, stiff[rows])
        self._factor = packed.ravel()
        if n:
            self._factor, info = la.lapack.dpftrf(n, self._factor, uplo="L", overwrite_a=1)
            if info != 0:
                raise np.linalg.LinAlgError("the plain rows are not positive definite")

    def forward(self, right: Array, *, in_place: bool = False) -> Array:
        """``L⁻¹ right`` for (n, k) values, ``in_place`` of those in Fortran's order."""
        return self._solved(right, "N", in_place=in_place)

    def backward(self, right: Array) -> Array:
        """``L⁻ᵀ right`` for (n, k) values."""
        return self._solved(right, "T")

    def _solved(self, right: Array, trans: str, *, in_place: bool = False) -> Array:
        if not right.size:
            return right
        return np.asarray(la.lapack.dtfsm(1.0, self._factor, right, uplo="L", trans=trans, overwrite_b=in_place))


class PlainBlock:
    """The factor for one set B, and the columns computed for it so far.

    Raises numpy.linalg.LinAlgError when the block is not positive definite.
    """

    def __init__(
        self, matrix: Array, rows: Rows, stiff: Array, *, scratch: Scratch, needs_double: bool = False
    ) -> None:
        self.matrix, self.rows, self.stiff = matrix, rows, stiff
        self.position = np.full(len(matrix), -1)
        self.position[rows] = np.arange(len(rows))
        self.lower = PackedCholesky(matrix, rows, stiff)
        self._column_of = np.full(len(matrix), -1)
        self._count = 0
        # Columns V of the special rows met so far, and −Γ, with A added where both rows are outside B.
        m = len(matrix)
        self._columns = _room(m * len(rows), float).reshape(m, len(rows)).T
        self._reach = _room(m * m, float).reshape(m, m)
        self._special_rows = np.zeros(0, np.int64)
        self.needs_double = needs_double
        self.scratch = scratch

    def changes(self, plain: Rows, stiff: Array) -> int:
        """How many rows differ from ``plain`` with its ``stiff``."""
        here = self.position[plain] >= 0
        return int((~here).sum() + len(self.rows) - here.sum() + self.is_altered(plain[here], stiff).sum())

    def suits(self, plain: Rows, stiff: Array) -> bool:
        """Whether few enough rows have changed for this factor to be worth keeping."""
        return self.changes(plain, stiff) <= max(MOST_CHANGED, MOST_CHANGED_SHARE * len(self.rows))

    def is_altered(self, rows: Rows, stiff: Array) -> NDArray[np.bool_]:
        """Which of ``rows``, all in B, have another stiffness now."""
        return np.asarray(np.abs(stiff[rows] - self.stiff[rows]) > 1e-9 * np.abs(stiff[rows]))

    def columns_for(self, rows: Rows) -> Rows:
        """Positions of the columns of special ``rows``, computing those that are new."""
        new = rows[self._column_of[rows] < 0]
        if len(new):
            have = self._count
            self._count = have + len(new)
            here = slice(have, self._count)
            fresh = self._columns[:, here]
            _right_sides(fresh.T, self.matrix, self.rows, new, self.position)
            self.lower.forward(fresh, in_place=True)
            self._special_rows = np.concatenate([self._special_rows, new])
            self._column_of[new] = np.arange(have, self._count)
            reach = self._reach[here, : self._count]
            np.matmul(fresh.T, self._columns[:, : self._count], out=reach)
            _reach(reach, self.matrix, new, self._special_rows, self.position)
            self._reach[:have, here] = reach[:, :have].T
        return self._column_of[rows]

    def special(
        self, extra: Rows, removed: Rows, watched: Rows, rest: Array, pull: Array, known: Array
    ) -> tuple[Special, Array]:
        """Special rows for the state ``known`` (zero where unknown), ``rest = f − A known₀`` and ``pull`` p,
        known₀ being zero also at the rows of B.

        extra: rows with unknown motion outside B. removed: rows of B that are plain no longer, or
        otherwise. watched: other rows whose force is needed. Also returns ``y = L⁻¹ b_B``.
        """
        outside = np.concatenate([extra, watched])
        rows = np.concatenate([outside, removed])
        at = self.columns_for(rows)
        y = self.lower.forward((rest + pull)[self.rows, None])[:, 0]
        carried = (self._columns[:, : self._count].T @ y)[at]
        inner = carried[len(outside) :]
        return Special(
            rows,
            at,
            len(extra),
            len(watched),
            np.concatenate([carried[: len(outside)] - rest[outside], pull[removed] - self.stiff[removed] * inner]),
            np.concatenate([known[outside], inner]),
        ), y

    def solve(self, special: Special, lines: Lines) -> Array:
        """``s`` that satisfies the equations."""
        n, n_outside = len(lines.right), special.n_extra + special.n_watched
        is_outside = lines.at < n_outside
        # Outside B: F = H s, M = x; in B: M = H s, F = −k M − μ, with the rows H of `_reach`.
        springs = np.where(is_outside, 0.0, self.stiff[special.rows[lines.at]])
        carried = np.where(is_outside, lines.force, lines.motion - lines.force * springs)
        system = self.scratch.square(n, float)
        _mix(system, self._reach[:, : self._count], special.columns[lines.at], carried, special.columns[special.lines])
        line, k = np.nonzero(lines.at < special.n_extra)
        np.add.at(system, (line, lines.at[line, k]), lines.motion[line, k])
        line, k = np.nonzero(~is_outside)
        np.add.at(system, (line, lines.at[line, k] - special.n_watched), -lines.force[line, k])
        constant = lines.force * special.force_constant[lines.at] + lines.motion * special.motion_constant[lines.at]
        return self._solved(system, lines.right - constant.sum(1))

    def _solved(self, system: Array, right: Array) -> Array:
        """Solution of a dense system: factored in single precision and refined to double where that converges."""
        if not self.needs_double:
            single = self.scratch.square(len(right), np.float32)
            single[...] = system
            factors = la.lu_factor(single.T, overwrite_a=True, check_finite=False)
            size = max(float(np.abs(right).max(initial=0.0)), 1e-300)
            x, left, before = np.zeros_like(right), right, np.inf
            while True:
                correction = la.lu_solve(factors, (left / size).astype(np.float32), trans=1, check_finite=False)
                x += size * correction
                left = right - system @ x
                now = float(np.abs(left).max(initial=0.0)) / size
                if now <= REFINED:
                    return x
                if not now < SLOWEST * before:
                    break
                before = now
            self.needs_double = True
        factors = la.lu_factor(system.T, overwrite_a=True, check_finite=False)
        return np.asarray(la.lu_solve(factors, right, trans=1, check_finite=False))

    def finish(self, y: Array, special: Special, solution: Array) -> Array:
        """Motions of the rows of B for ``s = solution``."""
        spread = np.zeros(self._count)
        spread[special.columns[special.lines]] = solution
        right = y - self._columns[:, : self._count] @ spread
        return self.lower.backward(right[:, None])[:, 0]


@njit(cache=True)
def _pack(out, matrix, rows, stiff):  # type: ignore[no-untyped-def] # pragma: no cover
    """Lower triangle of the rows and columns ``rows``; lines of ``out`` are columns of the packed format."""
    n = len(rows)
    first, even = (n + 1) // 2, 1 - n % 2
    for j in range(n):
        line = matrix[rows[j]]
        if j < first:
            for i in range(j, n):
                out[j, i + even] = line[rows[i]]
            out[j, j + even] += stiff[j]
        else:
            for i in range(first, j + 1):
                out[j - first + 1 - even, i - first] = line[rows[i]]
            out[j - first + 1 - even, j - first] += stiff[j]


@njit(cache=True)
def _right_sides(out, matrix, rows, new, position):  # type: ignore[no-untyped-def] # pragma: no cover
    """Lines of ``out`` become A_BX for each ``new`` row X outside the block B of ``rows``, a unit vector inside."""
    for j in range(len(new)):
        inside = position[new[j]]
        if inside >= 0:
            out[j] = 0.0
            out[j, inside] = 1.0
        else:
            line = matrix[new[j]]
            for i in range(len(rows)):
                out[j, i] = line[rows[i]]


@njit(cache=True)
def _reach(gram, matrix, new, rows, position):  # type: ignore[no-untyped-def] # pragma: no cover
    """−Γ in place of Γ for the lines of ``new`` rows and all ``rows``, A added where both are outside the block."""
    for i in range(len(new)):
        line = matrix[new[i]]
        is_outside = position[new[i]] < 0
        for j in range(len(rows)):
            gram[i, j] = -gram[i, j]
            if is_outside and position[rows[j]] < 0:
                gram[i, j] += line[rows[j]]


@njit(cache=True)
def _mix(out, reach, columns, carried, picked):  # type: ignore[no-untyped-def] # pragma: no cover
    """``out[l, j] = Σ_k carried[l, k] reach[columns[l, k], picked[j]]``."""
    line = np.empty(reach.shape[1])
    for i in range(len(out)):
        line[:] = 0.0
        for k in range(columns.shape[1]):
            factor = carried[i, k]
            if factor != 0.0:
                row = reach[columns[i, k]]
                for j in range(len(line)):
                    line[j] += factor * row[j]
        for j in range(len(picked)):
            out[i, j] = line[picked[j]]
