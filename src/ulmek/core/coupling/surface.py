"""Integrals over faces: nodal areas and outward area vectors of quads and of edges of plane sections."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.model import Face, Model

Array = NDArray[np.float64]


def face_sums(model: Model, faces: tuple[Face, ...], nodes: Array | None = None) -> tuple[Array, Array]:
    """`facet_sums` over named faces, whatever their elements."""
    parts = [facet_sums(model, model.quads((face,)), nodes) for face in faces]
    return np.sum([a for a, _ in parts], axis=0), np.sum([v for _, v in parts], axis=0)


def facet_sums(model: Model, facets: NDArray[np.int64], nodes: Array | None = None) -> tuple[Array, Array]:
    """Nodal areas (n,) mm² and nodal area vectors (n, 3) mm², outward, of facets by Gauss points.

    Edges of plane studies count with the thickness, those of axisymmetric ones with the full turn.
    """
    at = model.nodes() if nodes is None else nodes
    if facets.shape[1] == 4:
        return _quads(at, facets)
    if facets.shape[1] == 6:
        return _triangles(at, facets)
    return _edges(at, facets, thickness=model.thickness, turned=model.space == "axisymmetric")


def _quads(nodes: Array, quads: NDArray[np.int64]) -> tuple[Array, Array]:
    area, vector = np.zeros(len(nodes)), np.zeros((len(nodes), 3))
    p = nodes[quads]
    g = 1 / np.sqrt(3)
    for xi, eta in ((-g, -g), (g, -g), (g, g), (-g, g)):
        shape = np.array([(1 - xi) * (1 - eta), (1 + xi) * (1 - eta), (1 + xi) * (1 + eta), (1 - xi) * (1 + eta)]) / 4
        d_xi = np.array([-(1 - eta), 1 - eta, 1 + eta, -(1 + eta)]) / 4
        d_eta = np.array([-(1 - xi), -(1 + xi), 1 + xi, 1 - xi]) / 4
        normal = np.cross(np.einsum("n,mnx->mx", d_xi, p), np.einsum("n,mnx->mx", d_eta, p))
        size = np.linalg.norm(normal, axis=1)
        for k in range(4):
            np.add.at(area, quads[:, k], shape[k] * size)
            np.add.at(vector, quads[:, k], shape[k] * normal)
    return area, vector


def _triangles(nodes: Array, triangles: NDArray[np.int64]) -> tuple[Array, Array]:
    """Second-order triangles by three points: even traction loads each mid-side with a third, corners with none."""
    area, vector = np.zeros(len(nodes)), np.zeros((len(nodes), 3))
    p = nodes[triangles]
    for at in ((2 / 3, 1 / 6, 1 / 6), (1 / 6, 2 / 3, 1 / 6), (1 / 6, 1 / 6, 2 / 3)):
        first, second, third = at
        shape = np.array([v * (2 * v - 1) for v in at] + [4 * first * second, 4 * second * third, 4 * third * first])
        d_2 = np.array([1 - 4 * first, 4 * second - 1, 0, 4 * (first - second), 4 * third, -4 * third])
        d_3 = np.array([1 - 4 * first, 0, 4 * third - 1, -4 * second, 4 * second, 4 * (first - third)])
        normal = np.cross(np.einsum("n,mnx->mx", d_2, p), np.einsum("n,mnx->mx", d_3, p)) / 6
        size = np.linalg.norm(normal, axis=1)
        for k in range(6):
            np.add.at(area, triangles[:, k], shape[k] * size)
            np.add.at(vector, triangles[:, k], shape[k] * normal)
    area[np.abs(area) < 1e-12 * area.max(initial=0.0)] = 0.0
    return area, vector


def _edges(nodes: Array, edges: NDArray[np.int64], *, thickness: float, turned: bool) -> tuple[Array, Array]:
    """Edges with 2 nodes, or with 3 (ends, then middle), by three Gauss points."""
    area, vector = np.zeros(len(nodes)), np.zeros((len(nodes), 3))
    p = nodes[edges]
    for xi, weight in zip(*np.polynomial.legendre.leggauss(3), strict=True):
        if edges.shape[1] == 2:
            shape, slope = np.array([1 - xi, 1 + xi]) / 2, np.array([-0.5, 0.5])
        else:
            shape = np.array([xi * (xi - 1) / 2, xi * (xi + 1) / 2, 1 - xi**2])
            slope = np.array([xi - 0.5, xi + 0.5, -2 * xi])
        along = np.einsum("n,mnx->mx", slope, p)
        # The material lies left of an edge, so outward is to its right.
        outward = weight * np.column_stack([along[:, 1], -along[:, 0], np.zeros(len(edges))])
        width = 2 * np.pi * (p[:, :, 0] @ shape) if turned else np.full(len(edges), thickness)
        for k, share in enumerate(shape):
            np.add.at(area, edges[:, k], share * np.linalg.norm(outward, axis=1) * width)
            np.add.at(vector, edges[:, k], (share * width)[:, None] * outward)
    return area, vector
