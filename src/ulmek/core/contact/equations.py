"""Equations of contact nodes for the full path: ``R w + S F = c`` in motions w and forces F.

Three rows a node in the order t1, t2, n, each divided by the contact spring a·E/h so that all have
the unit of a length.
"""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.laws import NodeLaws, Status, Trial

Array = NDArray[np.float64]

# Compliance of closed rows against their spring: settles rows that depend on others, and is felt only at 1e-12.
COMPLIANCE = 1e-12
# Stiffness of open rows against their spring, for parts that hang in the air; too weak to be felt.
LOOSE_SPRING = 1e-12


@dataclass(frozen=True)
class ContactEquations:
    """``motion @ w + force @ F = right`` for all 3n rows."""

    motion: sp.csr_matrix
    force: sp.csr_matrix
    right: Array


def contact_equations(
    laws: NodeLaws,
    trial: Trial,
    *,
    area: Array,
    spring: Array,
    acts: NDArray[np.bool_],
    w_old: Array,
    traction_old: Array,
    w_now: Array,
) -> ContactEquations:
    """Equations for a trial status of each node.

    area, spring (n,): mm², N/mm; acts (n, 3): rows that the law and the supports leave to do.
    w_old, traction_old (n, 3): start of the increment; w_now (n, 3): where loose rows are held.
    """
    n = len(area)
    motion, force = np.zeros((n, 3, 3)), np.zeros((n, 3, 3))
    right = np.zeros((n, 3))
    safe = np.where(spring > 0, spring, 1.0)
    is_open = trial.status == Status.OPEN
    slides = trial.status == Status.SLIDING
    # Open, or nothing to do: F + tiny spring · (w − w_now) = 0.
    for k in range(3):
        idle = is_open | ~acts[:, k]
        force[idle, k, k] = 1 / safe[idle]
        hangs = idle & acts[:, k]
        motion[hangs, k, k] = LOOSE_SPRING
        right[hangs, k] = LOOSE_SPRING * w_now[hangs, k]
    stiffness = np.where(laws.is_penalty, laws.penalty * area, safe / COMPLIANCE)
    closed = ~is_open & acts[:, 2]
    motion[closed, 2, 2] = 1.0
    force[closed, 2, 2] = 1 / stiffness[closed]
    right[closed, 2] = -laws.gap[closed]
    for k in (0, 1):
        stuck = ~is_open & ~slides & acts[:, k]
        motion[stuck, k, k] = 1.0
        force[stuck, k, k] = 1 / stiffness[stuck]
        right[stuck, k] = w_old[stuck, k] + np.where(
            laws.is_penalty[stuck], area[stuck] * traction_old[stuck, k] / stiffness[stuck], 0.0
        )
    _slide(laws, trial, np.flatnonzero(slides), area, safe, acts, w_old, traction_old, motion, force, right)
    return ContactEquations(_blocks(motion), _blocks(force), right.ravel())


def _slide(
    laws: NodeLaws, trial: Trial, at: NDArray[np.int64], area: Array, spring: Array, acts: NDArray[np.bool_],
    w_old: Array, traction_old: Array, motion: Array, force: Array, right: Array,
) -> None:  # fmt: skip
    """Along s: ``s·F − µFn = 0``; across q: ``(1−e) q·F + e c a q·(w − w_old) = 0``, e = µp/|τ| of the trial.

    Penalty across: ``q·F + e ε a q·(w − w_old) = e a q·λ_old``. With one tangential row: ``±F − µFn = 0``.
    """
    both = at[acts[at, 0] & acts[at, 1]]
    s, e, a, k = trial.direction[both], trial.ratio[both], area[both], spring[both]
    q = np.column_stack([-s[:, 1], s[:, 0]])
    is_penalty = laws.is_penalty[both]
    c = e * np.where(is_penalty, laws.penalty[both], laws.trial[both]) * a / k
    share = np.where(is_penalty, 1.0, 1 - e) / k
    for i in (0, 1):
        force[both, 0, i] = s[:, i] / k
        force[both, 1, i] = share * q[:, i]
        motion[both, 1, i] = c * q[:, i]
    force[both, 0, 2] = -laws.mu[both] / k
    carried = np.where(is_penalty, e * a / k * np.einsum("ij,ij->i", q, traction_old[both, :2]), 0.0)
    right[both, 1] = c * np.einsum("ij,ij->i", q, w_old[both, :2]) + carried
    for i in (0, 1):
        alone = at[acts[at, i] & ~acts[at, 1 - i]]
        force[alone, i, i] = np.sign(trial.direction[alone, i]) / spring[alone]
        force[alone, i, 2] = -laws.mu[alone] / spring[alone]


def _blocks(values: Array) -> sp.csr_matrix:
    """Block-diagonal matrix of (n, 3, 3) blocks, zeros stored so that the pattern stays."""
    n = len(values)
    columns = (3 * np.arange(n)[:, None, None] + np.arange(3)[None, None, :]).repeat(3, axis=1)
    return sp.csr_matrix((values.ravel(), columns.ravel(), 3 * np.arange(3 * n + 1)), shape=(3 * n, 3 * n))
