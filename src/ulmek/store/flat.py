"""Patches of pairs laid flat: flat ones seen along their normal, round ones unrolled about their axis, of sections the
way along the outline."""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.sparse.csgraph import connected_components

from ulmek.core.mesh.facets import corners_of, drawn_triangles, is_edges

Array = NDArray[np.float64]
# Normals closer than this to their mean make a flat patch; pieces of round ones lie side by side, this share apart; a
# triangle so many times longer than in space is torn by the cut of the roll.
FLAT_COSINE, GAP, TORN = 0.98, 0.12, 2.0


@dataclass(frozen=True)
class Flat:
    """Points (n, 2) in mm, triangles (t, 3) into them; ``is_unrolled``: about an axis."""

    points: Array
    triangles: NDArray[np.int64]
    is_unrolled: bool


def along_outline(points: Array, facets: NDArray[np.int64], node: NDArray[np.int64]) -> tuple[NDArray[np.int64], Array]:
    """Of a section's patch: the order of its contact nodes along the outline, and the way (n,) mm from the first.

    points (m, 3): of all nodes; facets (k, 2 or 3) in them, corners first; node (n,): the contact nodes. Separate
    pieces follow each other, their ways counted on.
    """
    position = np.full(len(points), -1)
    position[node] = np.arange(len(node))
    chains = position[facets[:, [0, 2, 1]] if facets.shape[1] == 3 else facets]
    links = np.vstack([chains[:, [i, i + 1]] for i in range(chains.shape[1] - 1)])
    links = links[(links >= 0).all(axis=1)]
    ends = np.bincount(links.ravel(), minlength=len(node))
    near: dict[int, list[int]] = {i: [] for i in range(len(node))}
    for a, b in links.tolist():
        near[a].append(b)
        near[b].append(a)
    order: list[int] = []
    way: list[float] = []
    left = set(range(len(node)))
    here = points[node]
    while left:
        at = min((i for i in left if ends[i] <= 1), default=min(left), key=lambda i: (here[i, 0], here[i, 1]))
        length = way[-1] if way else 0.0
        while True:
            order.append(at)
            way.append(length)
            left.discard(at)
            onward = next((j for j in near[at] if j in left), None)
            if onward is None:
                break
            length += float(np.linalg.norm(here[onward] - here[at]))
            at = onward
    return np.array(order), np.array(way)


def lay_flat(points: Array, facets: NDArray[np.int64], node: NDArray[np.int64]) -> Flat:
    """A patch of contact nodes (n,) of a solid, whose ``facets`` (k, 4 or more) are in all ``points`` (m, 3)."""
    assert not is_edges(facets)
    position = np.full(len(points), -1)
    position[node] = np.arange(len(node))
    local = position[facets]
    triangles = drawn_triangles(local[(position[corners_of(facets)] >= 0).all(axis=1)])
    at = points[node]
    a, b, c = (at[triangles[:, k]] for k in range(3))
    normals = np.cross(b - a, c - a)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    mean = normals.sum(axis=0)
    mean /= max(float(np.linalg.norm(mean)), 1e-300)
    if (normals @ mean > FLAT_COSINE).all():
        upright = np.array([0.0, 1.0, 0.0]) if abs(mean[1]) < 0.9 else np.array([0.0, 0.0, 1.0])
        right = np.cross(upright, mean)
        right /= np.linalg.norm(right)
        out = np.column_stack([at @ right, at @ np.cross(mean, right)])
        return Flat(out - out.min(axis=0), triangles, is_unrolled=False)
    # The axis is the direction in which normals have least to say.
    axis = np.linalg.eigh(normals.T @ normals)[1][:, 0]
    return _unrolled(at, triangles, axis)


def _unrolled(at: Array, triangles: NDArray[np.int64], axis: Array) -> Flat:
    helper = np.array([1.0, 0.0, 0.0]) if abs(axis[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    e1 = np.cross(axis, helper)
    e1 /= np.linalg.norm(e1)
    e2 = np.cross(axis, e1)
    ones = np.ones(2 * len(triangles))
    links = sp.csr_matrix(
        (ones, (triangles[:, [0, 1]].ravel(), triangles[:, [1, 2]].ravel())), shape=(len(at), len(at))
    )
    count, piece = connected_components(links, directed=False)
    out, start = np.zeros((len(at), 2)), 0.0
    for p in range(count):
        own = piece == p
        d = at[own] - at[own].mean(axis=0)
        angle, radius = np.arctan2(d @ e2, d @ e1), float(np.hypot(d @ e1, d @ e2).mean())
        out[own] = np.column_stack([start + (angle - angle.min()) * radius, at[own] @ axis])
        start += float(np.ptp(angle)) * radius * (1 + GAP)
    flat, space = (p[triangles] - p[np.roll(triangles, 1, axis=1)] for p in (out, at))
    torn = (np.linalg.norm(flat, axis=2) > TORN * np.linalg.norm(space, axis=2)).any(axis=1)
    return Flat(out - out.min(axis=0), triangles[~torn], is_unrolled=True)
