"""Facets: what the faces of elements are made of. What a facet is follows from the number of its nodes.

Edges bound plane sections, with the material on their left; quads and triangles bound solids, outward by the right-hand
rule. Corners come first, then the middles of the sides.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Ids = NDArray[np.int64]


@dataclass(frozen=True)
class FacetShape:
    """corners: how many of the nodes. is_edge: of a plane section. triangles: how its corners are drawn."""

    corners: int
    is_edge: bool
    triangles: tuple[tuple[int, int, int], ...] = ()


# By the number of nodes of a facet.
SHAPES = {
    2: FacetShape(2, True),
    3: FacetShape(2, True),
    4: FacetShape(4, False, ((0, 1, 2), (0, 2, 3))),
    6: FacetShape(3, False, ((0, 1, 2),)),
}


def shape_of(facets: Ids) -> FacetShape:
    """What facets (k, n) are."""
    return SHAPES[facets.shape[1]]


def corner_count(facets: Ids) -> int:
    """Corners of facets by their number of nodes."""
    return shape_of(facets).corners


def is_edges(facets: Ids) -> bool:
    """Whether facets are edges of a plane section, with or without a middle node."""
    return shape_of(facets).is_edge


def corners_of(facets: Ids) -> Ids:
    """The corners (k, c) of facets."""
    return facets[:, : corner_count(facets)]


def sides_of(corners: Ids) -> Ids:
    """The sides (k·c, 2) of facets by their corners (k, c), facet by facet: their two ends, the lower number first."""
    return np.sort(np.stack([corners, np.roll(corners, -1, axis=1)], axis=2).reshape(-1, 2), axis=1)


def drawn_triangles(facets: Ids) -> Ids:
    """The triangles (t, 3) that draw facets of a solid: all first triangles, then all second ones."""
    return np.vstack([facets[:, list(cut)] for cut in shape_of(facets).triangles])


def facet_normals(nodes: Array, facets: Ids) -> Array:
    """Outward unit normals (k, 3): of quads from their diagonals, of edges away from the material on their left."""
    p = nodes[corners_of(facets)]
    if is_edges(facets):
        along = p[:, 1] - p[:, 0]
        n = np.column_stack([along[:, 1], -along[:, 0], np.zeros(len(along))])
    else:
        n = _across(p)
    return np.asarray(n / np.linalg.norm(n, axis=1, keepdims=True))


def facet_areas(nodes: Array, facets: Ids, *, thickness: float, turned: bool) -> Array:
    """Area (k,) of each facet, mm²; edges count with ``thickness`` (mm), or with the full turn when ``turned``."""
    p = nodes[corners_of(facets)]
    if not is_edges(facets):
        return np.asarray(np.linalg.norm(_across(p), axis=1) / 2)
    width = np.pi * p[:, :, 0].sum(axis=1) if turned else thickness
    return np.asarray(np.linalg.norm(p[:, 1] - p[:, 0], axis=1) * width)


def _across(p: Array) -> Array:
    """Twice the vector area (k, 3) of triangles or quads with corners p (k, c, 3)."""
    if p.shape[1] == 3:
        return np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    return np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1])
