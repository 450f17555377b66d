"""Contact nodes of all pairs, one after another."""

from dataclasses import dataclass, replace

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface
from ulmek.core.model import Model

Array = NDArray[np.float64]

# Rows of G whose largest entry on what is free is below this are held entirely (entries are of order 1).
NOTHING_FREE = 1e-9


@dataclass(frozen=True)
class ContactNodes:
    """Contact nodes of all pairs one after another.

    pair, node (n,): index of the pair, global node. area (n,) mm², gap (n,) mm. rows (n, 3):
    numbers of the kept rows t1, t2, n, −1 where a row is left out (no friction, nothing free, or
    dependent on others). stiffness (n,): E/h in N/mm³.
    """

    pair: NDArray[np.int64]
    node: NDArray[np.int64]
    area: Array
    gap: Array
    rows: NDArray[np.int64]
    stiffness: Array

    def numbered(self, wanted: NDArray[np.int64]) -> "ContactNodes":
        """The same nodes with only the rows ``wanted`` (numbers 3·node + k) kept, numbered in order."""
        numbers = np.full(self.rows.size, -1)
        numbers[wanted] = np.arange(len(wanted))
        return replace(self, rows=numbers.reshape(-1, 3))


def contact_nodes(
    model: Model, interfaces: tuple[PairInterface, ...], free_motion: sp.csr_matrix
) -> tuple[ContactNodes, NDArray[np.int64]]:
    """All contact nodes, and the rows (3·node + k) that the laws need and that something free can move.

    ``free_motion`` (3·n_total, n_free): displacements per free unknown.
    """
    if not interfaces:
        none = np.zeros(0, np.int64)
        empty = np.zeros(0)
        return ContactNodes(none, none, empty, empty, np.zeros((0, 3), np.int64), empty), none
    needed, stiffness = [], []
    for f in interfaces:
        size = abs(f.rows @ free_motion[: f.rows.shape[1]]).max(axis=1).toarray().ravel()
        row = np.tile([f.pair.law.has_tangents, f.pair.law.has_tangents, True], len(f.node))
        needed.append(row & (size > NOTHING_FREE))
        young = model.bodies[model.body_index(f.pair.side_a[0].body)].material.young
        stiffness.append(np.full(len(f.node), young / f.size))
    pair = np.repeat(np.arange(len(interfaces)), [len(f.node) for f in interfaces])
    nodes = ContactNodes(
        pair=pair,
        node=np.concatenate([f.node for f in interfaces]),
        area=np.concatenate([f.area for f in interfaces]),
        gap=np.concatenate([f.gap for f in interfaces]),
        rows=np.full((len(pair), 3), -1),
        stiffness=np.concatenate(stiffness),
    )
    return nodes, np.flatnonzero(np.concatenate(needed))
