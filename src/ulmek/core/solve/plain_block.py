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
            self._kept[kind] = kept = np.empty(int(1.2 * n * n), kind)
        return kept[: n * n].reshape(n, n)


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
        block = matrix[np.ix_(rows, rows)]
        block[np.diag_indices(len(rows))] += stiff[rows]
        # The transposed view is in Fortran's order: a block in C's order would be copied.
        self.lower, info = la.lapack.dpotrf(block.T, lower=1, overwrite_a=1)
        if info != 0:
            raise np.linalg.LinAlgError("the plain rows are not positive definite")
        self._column_of = np.full(len(matrix), -1)
        self._count = 0
        # Room that grows: columns V of the special rows met so far, and −Γ, with A added where both rows are
        # outside B.
        self._columns = np.zeros((len(rows), 0), order="F")
        self._reach = np.zeros((0, 0))
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
            right = self.matrix[np.ix_(self.rows, new)]
            inside = self.position[new]
            own = np.flatnonzero(inside >= 0)
            right[:, own] = 0.0
            right[inside[own], own] = 1.0
            fresh = la.solve_triangular(self.lower, right, lower=True, overwrite_b=True, check_finite=False)
            have = self._count
            self._count = have + len(new)
            self._make_room(self._count)
            side = self._columns[:, :have].T @ fresh
            here = slice(have, self._count)
            self._special_rows = np.concatenate([self._special_rows, new])
            outside = self.position[self._special_rows] < 0
            reach = -np.vstack([side, fresh.T @ fresh])
            reach[np.ix_(outside, outside[here])] += self.matrix[
                np.ix_(self._special_rows[outside], new[outside[here]])
            ]
            self._reach[: self._count, here] = reach
            self._reach[here, :have] = reach[:have].T
            self._columns[:, here] = fresh
            self._column_of[new] = np.arange(have, self._count)
        return self._column_of[rows]

    def _make_room(self, count: int) -> None:
        have = self._columns.shape[1]
        if count <= have:
            return
        room = count + MOST_CHANGED
        columns, reach = np.zeros((len(self.rows), room), order="F"), np.zeros((room, room))
        columns[:, :have], reach[:have, :have] = self._columns, self._reach
        self._columns, self._reach = columns, reach

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
        y = la.solve_triangular(self.lower, (rest + pull)[self.rows], lower=True, check_finite=False)
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
        _mix(system, self._reach, special.columns[lines.at], carried, special.columns[special.lines])
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
        return np.asarray(la.solve_triangular(self.lower, right, lower=True, trans=1, check_finite=False))


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
