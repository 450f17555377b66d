"""Edges of parts: where two named faces meet, as chains of nodes."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.facets import corners_of, sides_of

Array = NDArray[np.float64]
Ids = NDArray[np.int64]


@dataclass(frozen=True)
class Edge:
    """Where two faces meet: their names, and the nodes (n,) one after another, the first again at the end of a ring."""

    faces: tuple[str, str]
    nodes: Ids


def edges_between(faces: dict[str, Ids]) -> list[Edge]:
    """All edges between the named faces of one body, each in one piece; faces: facets in its node numbers."""
    owners: dict[tuple[int, int], list[str]] = {}
    for name, facets in faces.items():
        corners = corners_of(facets)
        sides = sides_of(corners)
        sides, count = np.unique(sides[sides[:, 0] != sides[:, 1]], axis=0, return_counts=True)
        for a, b in sides[count == 1].tolist():
            owners.setdefault((a, b), []).append(name)
    shared: dict[tuple[str, str], list[tuple[int, int]]] = {}
    for side, names in owners.items():
        if len(names) == 2:
            shared.setdefault((names[0], names[1]), []).append(side)
    return [Edge(names, np.array(chain)) for names, sides in shared.items() for chain in chained(sides)]


def edges_of(faces: dict[str, Ids]) -> Ids:
    """The edges (k, 2) of all facets of a body's faces, each once: pairs of its nodes, the lower first."""
    return np.unique(np.vstack([sides_of(corners_of(facets)) for facets in faces.values()]), axis=0)


def chained(links: list[tuple[int, int]]) -> list[list[int]]:
    """Links between nodes as chains: from end to end where there are ends, else round and back to the first."""
    near: dict[int, list[int]] = {}
    for a, b in links:
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    left = {(min(link), max(link)) for link in links}
    out = []
    for start in [*(n for n in sorted(near) if len(near[n]) == 1), *sorted(near)]:
        chain = [start]
        while True:
            at = chain[-1]
            onward = next((n for n in near[at] if (min(at, n), max(at, n)) in left), None)
            if onward is None:
                break
            left.discard((min(at, onward), max(at, onward)))
            chain.append(onward)
        if len(chain) > 1:
            out.append(chain)
    return out


def nearest_edge(edges: list[Edge], nodes: Array, point: Array) -> Edge | None:
    """The edge that runs nearest to a ``point`` (3,) mm; nodes (n, 3) mm. None where there are no edges."""
    return min(edges, key=lambda edge: _distance(nodes[edge.nodes], point), default=None)


def _distance(chain: Array, point: Array) -> float:
    """From a point to a line through the points of a chain (n, 3), mm."""
    first, along = chain[:-1], np.diff(chain, axis=0)
    share = np.einsum("ni,ni->n", point - first, along) / np.maximum(np.einsum("ni,ni->n", along, along), 1e-300)
    foot = first + np.clip(share, 0.0, 1.0)[:, None] * along
    return float(np.linalg.norm(foot - point, axis=1).min())
