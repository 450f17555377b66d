"""Separate hot spots: where a field is highest, one place after another and not neighbours of the same one."""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.sparse.csgraph import connected_components

from ulmek.core.review.inside import Cells

Array = NDArray[np.float64]

# A spot reaches as far as the field stays above this share of its height; spots lower than the other share of the
# highest of their body are none; so many are told of each body.
REACH, LEAST, MOST = 0.7, 0.5, 4


@dataclass(frozen=True)
class HotSpot:
    """Node where a field is highest in its surroundings, the value there, and its body."""

    node: int
    value: float
    body: int


def hot_spots(groups: list[Cells], values: Array, *, quiet: float = 0.0) -> list[HotSpot]:
    """Hot spots of ``values`` (n,) at the nodes, by size, the highest first; none where all stay at or below ``quiet``.

    Two peaks are one where the field between them stays above `REACH` of the lower one.
    """
    found = []
    size = np.abs(values)
    links = _links(groups, len(values))
    for body in np.unique(np.concatenate([g.body for g in groups])):
        own = np.unique(np.concatenate([g.nodes[g.body == body].ravel() for g in groups]))
        near = links[own][:, own]
        left = size[own].copy()
        least, tops = max(LEAST * left.max(), quiet), list[int]()
        while len(tops) < MOST:
            top = int(left.argmax())
            if left[top] <= least:
                break
            within = np.flatnonzero(size[own] >= REACH * left[top])
            _, label = connected_components(near[within][:, within], directed=False)
            hill = within[label == label[np.searchsorted(within, top)]]
            left[hill] = 0.0
            # The shoulder of a higher one is none of its own.
            if not np.isin(tops, hill).any():
                tops.append(top)
        found += [HotSpot(int(own[top]), float(values[own[top]]), int(body)) for top in tops]
    return sorted(found, key=lambda spot: -abs(spot.value))


def _links(groups: list[Cells], n_nodes: int) -> sp.csr_matrix:
    """Which nodes share an element."""
    starts = np.cumsum([0, *(c for g in groups for c in [g.nodes.shape[1]] * len(g.nodes))])
    numbers = np.concatenate([g.nodes.ravel() for g in groups])
    cells = sp.csr_matrix((np.ones(len(numbers), bool), numbers, starts), shape=(len(starts) - 1, n_nodes))
    return sp.csr_matrix(cells.T @ cells)
