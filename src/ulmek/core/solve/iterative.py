"""Coupled systems too large to factor, by GMRES (Saad 1993) with a multigrid of the tied assembly.

What a contact row says is added to equilibrium with its spring W (augmented Lagrangian; Benzi, Golub and Liesen
2005, section 8), which changes no solution:

    [K + GᵀWRG, −Gᵀ(1 − WS); RG, S].

With W about as stiff as the material behind a node, forces see a compliance G(K + GᵀWG)⁻¹Gᵀ between half and all of
1/W whatever the mesh: three by three blocks stand for it, and one multigrid cycle for K + GᵀWG.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.sparse.linalg import LinearOperator, cg

from ulmek.core.coupling.constraints import Constraints
from ulmek.core.errors import LooseError
from ulmek.core.layout import Layout
from ulmek.core.solve.condensed import UNBOUNDED
from ulmek.core.solve.coupled import ContactPart, Coupled
from ulmek.core.solve.multigrid import Multigrid
from ulmek.core.solve.products import product

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Springs of the multigrid at rows that do not hold, as a share of the contact spring: what slides, and what is open,
# must neither be loose in it nor feel tied.
SLIDING, OPEN = 0.1, 1e-3
# Compliance of the tied assembly at the joint, as a share of that of the springs.
COMPLIANCE = 0.6
# What one cycle leaves of a residual at least, the vectors that it keeps at most, and how many cycles may follow each
# other.
LEFT, VECTORS, MOST_CYCLES = 1e-3, 80, 12
# Rows whose spring changes by more than this factor, and what share of them the levels bear.
OTHER, MOST_OTHER = 30.0, 0.2
# Iterations that building the levels anew is worth.
WORTH = 80
# Iterations of the trial that finds out whether anything is loose, and what it leaves of its load.
TRIAL, OF_TRIAL = 300, 1e-2


@dataclass
class _Levels:
    """A multigrid, the masters and tying springs (3m,) for which it was built, and how many iterations were needed
    first, and in excess."""

    multigrid: Multigrid
    kept: Ids
    tie: Array
    first: int | None = None
    excess: int = 0

    def fit(self, coupled: Coupled, tie: Array) -> bool:
        """Whether the same masters move, and most contact rows hold as they did."""
        if len(tie) != len(self.tie) or not np.array_equal(coupled.kept, self.kept):
            return False
        other = (tie > OTHER * self.tie) | (self.tie > OTHER * tie)
        return bool(np.count_nonzero(other) <= MOST_OTHER * np.count_nonzero(tie))


class IterativeSolver:
    """Solves coupled systems one after another; levels are built anew when they no longer serve."""

    backend = "multigrid"

    def __init__(self) -> None:
        self.factorizations, self.iterations = 0, 0
        self._modes = np.zeros((0, 6))
        self._levels: _Levels | None = None

    def follow(self, layout: Layout, constraints: Constraints) -> None:
        """Solve for the masters of ``constraints`` from now on."""
        self._modes, self._levels = rigid_modes(layout, constraints), None

    def solve(self, coupled: Coupled) -> tuple[Array, Array]:
        """See `CoupledSolver`."""
        joint, n = _Joint(coupled.contact, len(coupled.right)), len(coupled.right)
        right, solution = joint.right(coupled.right), joint.start()
        reached, before = False, self._levels
        for _ in range(MOST_CYCLES):
            left = right - joint.product(coupled.stiffness, solution)
            if reached and (not coupled.closely or np.abs(left).max(initial=0.0) < coupled.enough):
                break
            levels = self._serving(coupled, joint)
            change, count, share = flexible_gmres(
                lambda z: joint.product(coupled.stiffness, z),
                lambda y, m=levels.multigrid: joint.guess(m, y),  # type: ignore[misc]
                left,
            )
            solution += change
            self.iterations += count
            reached = share <= LEFT
            levels.first = levels.first or count
            is_in_vain = not reached and levels is before
            levels.excess += WORTH + 1 if is_in_vain else max(count - levels.first, 0)
        return solution[:n], solution[n:]

    def _serving(self, coupled: Coupled, joint: "_Joint") -> _Levels:
        """The levels of the last system where they serve this one, too, or new ones."""
        levels = self._levels
        if levels is None or levels.excess > WORTH or not levels.fit(coupled, joint.tie):
            # Large ones have no room beside each other.
            self._levels = levels = None
            self._levels = levels = self._build(coupled, joint)
        return levels

    def _build(self, coupled: Coupled, joint: "_Joint") -> _Levels:
        self.factorizations += 1
        tied = coupled.stiffness
        if coupled.contact is not None:
            tied = sp.csr_matrix(tied + joint.rows.T @ sp.diags(joint.tie) @ joint.rows)
        if not np.all(tied.diagonal() > 0):
            raise LooseError("the stiffness is singular.")
        multigrid = Multigrid(tied, coupled.kept, self._modes[coupled.kept])
        load = np.cos(np.arange(tied.shape[0]))
        cycle = LinearOperator(tied.shape, matvec=multigrid)
        moved, info = cg(tied, load, rtol=OF_TRIAL, maxiter=TRIAL, M=cycle)
        if info or not np.abs(moved).max(initial=0.0) * tied.diagonal().max() < UNBOUNDED:
            raise LooseError("the stiffness is singular.")
        return _Levels(multigrid, coupled.kept, joint.tie)


class _Joint:
    """The contact part of one system, in 3×3 blocks, with its springs W and those that tie everything (3m,) N/mm."""

    _motion: Array
    _force: Array
    _kept: Array
    _inverse: Array

    def __init__(self, contact: ContactPart | None, size: int) -> None:
        if contact is None:
            self.rows, self.forces, self.known = sp.csr_matrix((0, size)), np.zeros(0), np.zeros(0)
            self.spring = self.tie = self._scale = np.zeros(0)
            self._motion = self._force = self._inverse = self._kept = np.zeros((0, 3, 3))
            return
        self.rows, self.forces, self.known = contact.rows, contact.forces, contact.known
        rules = contact.rules
        scale = np.where(contact.spring > 0, contact.spring, 1.0)[:, None] * np.ones(3)
        spring = np.where(rules.stiff > 0, rules.stiff, np.where(rules.holds, scale, 0.0))
        weak = np.where(rules.slides, SLIDING, OPEN)[:, None] * scale
        self.spring, self._scale = spring.ravel(), scale.ravel()
        self.tie = np.where(contact.acts, np.where(spring > 0, spring, weak), 0.0).ravel()
        self._motion, self._force = contact.equations.motion_blocks, contact.equations.force_blocks
        self._kept = np.eye(3) - spring[:, :, None] * self._force
        self._inverse = np.asarray(
            np.linalg.inv(self._force + COMPLIANCE * (self._motion / scale[:, None, :]) @ self._kept)
        )

    def start(self) -> Array:
        """Nothing moves, and forces are those so far."""
        return np.concatenate([np.zeros(self.rows.shape[1]), self.forces])

    def right(self, load: Array) -> Array:
        """Right-hand side for forces ``load`` (n,) on the masters."""
        return np.concatenate([load + self.rows.T @ (self.spring * self.known), self._scale * self.known])

    def product(self, stiffness: sp.csr_matrix, x: Array) -> Array:
        """The system times ``x`` (n + 3m,); its rows of contact are forces too."""
        moved, forces = x[: self.rows.shape[1]], x[self.rows.shape[1] :]
        said = _times(self._motion, np.asarray(self.rows @ moved)) + _times(self._force, forces)
        return np.concatenate([
            product(stiffness, moved) + self.rows.T @ (self.spring * said - forces), self._scale * said,
        ])  # fmt: skip

    def guess(self, multigrid: Multigrid, y: Array) -> Array:
        """About what the system answers to ``y`` (n + 3m,)."""
        n = self.rows.shape[1]
        forces = _times(self._inverse, y[n:] / self._scale)
        return np.concatenate([multigrid(y[:n] + self.rows.T @ _times(self._kept, forces)), forces])


def _times(blocks: Array, x: Array) -> Array:
    return np.asarray(np.einsum("nij,nj->ni", blocks, x.reshape(-1, 3))).ravel()


def rigid_modes(layout: Layout, constraints: Constraints) -> Array:
    """Motions (n_masters, 6) of all masters when the whole model moves along and turns about the coordinate axes."""
    arm = layout.positions - layout.positions.mean(axis=0)
    size = float(np.abs(arm).max())
    shortenings = np.zeros(constraints.matrix.shape[1] - 3 * layout.n_total)
    modes = []
    for k in range(6):
        moved, turned = (np.eye(3)[k], np.zeros(3)) if k < 3 else (np.zeros(3), np.eye(3)[k - 3] / size)
        triples = np.where(layout.is_turn[:, None], turned, moved + np.cross(turned, arm))
        modes.append(constraints.masters_at(triples.ravel(), shortenings))
    return np.column_stack(modes)


def flexible_gmres(
    product: Callable[[Array], Array], guess: Callable[[Array], Array], right: Array
) -> tuple[Array, int, float]:
    """One cycle from rest: a solution (n,) that leaves `LEFT` of ``right``, or what `VECTORS` iterations give; their
    number; and the share that is left. ``guess`` need not be linear to the last digit."""
    n, size = len(right), float(np.linalg.norm(right))
    if size == 0.0:
        return np.zeros(n), 0, 0.0
    basis = np.zeros((VECTORS + 1, n), np.float32)
    guesses = np.zeros((VECTORS, n), np.float32)
    hessenberg = np.zeros((VECTORS + 1, VECTORS))
    target = np.zeros(VECTORS + 1)
    target[0] = 1.0
    basis[0] = right / size
    for k in range(VECTORS):
        guesses[k] = guess(basis[k].astype(float))
        new = product(guesses[k].astype(float)).astype(np.float32)
        for _ in range(2):
            parts = basis[: k + 1] @ new
            new -= parts @ basis[: k + 1]
            hessenberg[: k + 1, k] += parts
        hessenberg[k + 1, k] = np.linalg.norm(new)
        share, *_ = np.linalg.lstsq(hessenberg[: k + 2, : k + 1], target[: k + 2])
        left = np.linalg.norm(target[: k + 2] - hessenberg[: k + 2, : k + 1] @ share)
        if left < LEFT or hessenberg[k + 1, k] == 0.0:
            break
        basis[k + 1] = new / hessenberg[k + 1, k]
    return size * (share.astype(np.float32) @ guesses[: k + 1]).astype(float), k + 1, float(left)
