"""The contact rules as sparse equations ``R w + S F = c`` for the full path.

Three rows a node in the order t1, t2, n, scaled so that all have the unit of a length.
"""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.rules import Rules

Array = NDArray[np.float64]

# Compliance of held rows against their spring: settles rows that depend on others, and is felt only at 1e-12.
COMPLIANCE = 1e-12
# The same between bodies whose sections keep their shape: there more rows are held than they can follow one by one.
RIGID_COMPLIANCE = 1e-6
# Stiffness of open rows against their spring, for parts that hang in the air; too weak to be felt.
LOOSE_SPRING = 1e-12


@dataclass(frozen=True)
class ContactEquations:
    """``motion @ w + force @ F = right`` for all 3n rows."""

    motion: sp.csr_matrix
    force: sp.csr_matrix
    right: Array

    @property
    def motion_blocks(self) -> Array:
        """``motion`` node by node (n, 3, 3)."""
        return self.motion.data.reshape(-1, 3, 3)

    @property
    def force_blocks(self) -> Array:
        """``force`` node by node (n, 3, 3)."""
        return self.force.data.reshape(-1, 3, 3)


def contact_equations(
    rules: Rules, *, spring: Array, acts: NDArray[np.bool_], w_now: Array, is_rigid: NDArray[np.bool_]
) -> ContactEquations:
    """Equations of the rows that ``rules`` ask for.

    spring (n,): contact spring a·E/h in N/mm, by which they are scaled. acts (n, 3): rows with
    something to do. w_now (n, 3) mm: where loose rows are held. is_rigid (n,): nodes of pairs both sides of which
    have sections that keep their shape.
    """
    n = len(spring)
    motion, force, right = np.zeros((n, 3, 3)), np.zeros((n, 3, 3)), np.zeros((n, 3))
    safe = np.where(spring > 0, spring, 1.0)[:, None] * np.ones(3)
    pushes = rules.stiff > 0
    is_free = ~rules.holds & ~pushes
    hangs = is_free & acts
    own = np.arange(3)
    compliance = np.where(is_rigid, RIGID_COMPLIANCE, COMPLIANCE)[:, None]
    motion[:, own, own] = np.where(hangs, LOOSE_SPRING, np.where(is_free, 0.0, 1.0))
    force[:, own, own] = 1 / np.where(is_free, safe, np.where(pushes, rules.stiff, safe / compliance))
    right[rules.holds] = rules.place[rules.holds]
    right[pushes] = rules.pull[pushes] / rules.stiff[pushes]
    right[hangs] = LOOSE_SPRING * w_now[hangs]
    slips = rules.slips
    at, scale = (slips.node, slips.row), safe[slips.node]
    motion[at], force[at], right[at] = slips.motion / scale, slips.force / scale, slips.right / scale[:, 0]
    return ContactEquations(_blocks(motion), _blocks(force), right.ravel())


def _blocks(values: Array) -> sp.csr_matrix:
    """Block-diagonal matrix of (n, 3, 3) blocks, zeros stored so that the pattern stays."""
    n = len(values)
    columns = (3 * np.arange(n)[:, None, None] + np.arange(3)[None, None, :]).repeat(3, axis=1)
    return sp.csr_matrix((values.ravel(), columns.ravel(), 3 * np.arange(3 * n + 1)), shape=(3 * n, 3 * n))
