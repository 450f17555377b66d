"""One Cholesky factor of the plain rows, reused while few of them change.

Rows with the plain equation ``(A z − f) + k z = p`` (open nodes, tightened bolts, penalty springs k)
make most of the unknowns and change little from one iteration to the next. Their block
``A_BB + k = L Lᵀ`` is factored for the set B and the k of one moment. Later, rows new to the set and
sliding rows (E) are bordered to it, and rows that have left it or changed their k (R) get a force of
their own, μ:

    (A_BB + k) x_B + A_BE x_E + E_R μ = f_B + p_B − A_BK z_K

With ``V = L⁻¹ [A_BX, E_R]`` for the special rows X and their Gram matrix ``Γ = VᵀV``, forces and
motions of the special rows are linear in ``s = (x_E, μ)``, and only a system in s is left.
"""

from dataclasses import dataclass

import numpy as np
import scipy.linalg as la
from numpy.typing import NDArray

Array = NDArray[np.float64]
Rows = NDArray[np.int64]

# Above this many changed rows (or this share of B) a new factor is cheaper than a long border.
MOST_CHANGED, MOST_CHANGED_SHARE = 150, 0.08


@dataclass(frozen=True)
class Special:
    """Forces ``A z − f`` and motions z of the special rows as ``matrix @ s + constant``; ``rows``: their order."""

    rows: Rows
    force: Array
    force_constant: Array
    motion: Array
    motion_constant: Array


class PlainBlock:
    """The factor for one set B, and the columns computed for it so far.

    Raises numpy.linalg.LinAlgError when the block is not positive definite.
    """

    def __init__(self, matrix: Array, rows: Rows, stiff: Array) -> None:
        self.matrix, self.rows, self.stiff = matrix, rows, stiff
        self.position = np.full(len(matrix), -1)
        self.position[rows] = np.arange(len(rows))
        block = matrix[np.ix_(rows, rows)]
        block[np.diag_indices(len(rows))] += stiff[rows]
        self.lower, info = la.lapack.dpotrf(block, lower=1, overwrite_a=1)
        if info != 0:
            raise np.linalg.LinAlgError("the plain rows are not positive definite")
        self._known: dict[int, int] = {}
        # Room that grows by doubling: columns and Gram matrix of the special rows met so far.
        self._columns = np.zeros((len(rows), 0), order="F")
        self._gram = np.zeros((0, 0))

    def suits(self, plain: Rows, stiff: Array) -> bool:
        """Whether few enough rows differ from ``plain`` with its ``stiff`` for this factor to be worth keeping."""
        here = self.position[plain] >= 0
        changed = int((~here).sum() + len(self.rows) - here.sum() + self.is_altered(plain[here], stiff).sum())
        return changed <= max(MOST_CHANGED, MOST_CHANGED_SHARE * len(self.rows))

    def is_altered(self, rows: Rows, stiff: Array) -> NDArray[np.bool_]:
        """Which of ``rows``, all in B, have another stiffness now."""
        return np.asarray(np.abs(stiff[rows] - self.stiff[rows]) > 1e-9 * np.abs(stiff[rows]))

    def columns_for(self, rows: Rows) -> Rows:
        """Positions of the columns of special ``rows``, computing those that are new."""
        new = np.array([r for r in rows.tolist() if r not in self._known], np.int64)
        if len(new):
            right = self.matrix[np.ix_(self.rows, new)]
            inside = self.position[new]
            own = np.flatnonzero(inside >= 0)
            right[:, own] = 0.0
            right[inside[own], own] = 1.0
            fresh = la.solve_triangular(self.lower, right, lower=True, overwrite_b=True, check_finite=False)
            have = len(self._known)
            self._make_room(have + len(new))
            side = self._columns[:, :have].T @ fresh
            here = slice(have, have + len(new))
            self._gram[:have, here], self._gram[here, :have] = side, side.T
            self._gram[here, here] = fresh.T @ fresh
            self._columns[:, here] = fresh
            for row in new.tolist():
                self._known[row] = len(self._known)
        return np.array([self._known[r] for r in rows.tolist()], np.int64)

    def _make_room(self, count: int) -> None:
        if count <= self._columns.shape[1]:
            return
        have, room = len(self._known), max(2 * self._columns.shape[1], count + MOST_CHANGED)
        columns, gram = np.zeros((len(self.rows), room), order="F"), np.zeros((room, room))
        columns[:, :have], gram[:have, :have] = self._columns[:, :have], self._gram[:have, :have]
        self._columns, self._gram = columns, gram

    def special(
        self, extra: Rows, removed: Rows, watched: Rows, rest: Array, pull: Array, known: Array
    ) -> tuple[Special, Array]:
        """Special rows for the state ``known`` (zero where unknown), ``rest = f − A known₀`` and ``pull`` p,
        known₀ being zero also at the rows of B.

        extra: rows with unknown motion outside B. removed: rows of B that are plain no longer, or
        otherwise. watched: other rows whose force is needed. Also returns ``y = L⁻¹ b_B``.
        """
        outside = np.concatenate([extra, watched])
        at = self.columns_for(np.concatenate([outside, removed]))
        n_e, n_o, n_r = len(extra), len(outside), len(removed)
        gram = self._gram[np.ix_(at, np.concatenate([at[:n_e], at[n_o:]]))]
        y = la.solve_triangular(self.lower, (rest + pull)[self.rows], lower=True, check_finite=False)
        carried = (self._columns[:, : len(self._known)].T @ y)[at]
        motion = np.zeros((n_o + n_r, n_e + n_r))
        motion[np.arange(n_e), np.arange(n_e)] = 1.0
        motion[n_o:] = -gram[n_o:]
        motion_constant = np.concatenate([known[outside], carried[n_o:]])
        force = np.zeros_like(motion)
        force[:n_o] = -gram[:n_o]
        force[:n_o, :n_e] += self.matrix[np.ix_(outside, extra)]
        springs = self.stiff[removed]
        force[n_o:] = -springs[:, None] * motion[n_o:]
        force[n_o + np.arange(n_r), n_e + np.arange(n_r)] -= 1.0
        constant = np.empty(n_o + n_r)
        constant[:n_o] = carried[:n_o] - rest[outside]
        constant[n_o:] = pull[removed] - springs * motion_constant[n_o:]
        return Special(np.concatenate([outside, removed]), force, constant, motion, motion_constant), y

    def finish(self, y: Array, extra: Rows, removed: Rows, solution: Array) -> Array:
        """Motions of the rows of B for ``s = solution``."""
        spread = np.zeros(len(self._known))
        spread[self.columns_for(np.concatenate([extra, removed]))] = solution
        right = y - self._columns[:, : len(spread)] @ spread
        return np.asarray(la.solve_triangular(self.lower, right, lower=True, trans=1, check_finite=False))
