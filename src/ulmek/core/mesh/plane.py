"""Second-order elements of plane sections, made from a mesh of 4-node quads: 8-node quads and 6-node triangles."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.volume import QUAD_EDGES, VolumeMesh, check_mesh

Ids = NDArray[np.int64]

TRIANGLE_EDGES = np.array([[0, 1], [1, 2], [2, 0]])


def with_mid_sides(section: VolumeMesh) -> VolumeMesh:
    """The same section in 8-node quads: corners, then the middles of the sides 01, 12, 23, 30.

    Raises
    ------
    MeshError : from `check_mesh`.
    """
    return _with_middles(section, section.cells, QUAD_EDGES)


def split_into_triangles(section: VolumeMesh) -> VolumeMesh:
    """The same section in 6-node triangles, two to a quad, cut along its shorter diagonal.

    Raises
    ------
    MeshError : from `check_mesh`.
    """
    p, q = section.nodes[section.cells], section.cells
    first = np.linalg.norm(p[:, 2] - p[:, 0], axis=1) <= np.linalg.norm(p[:, 3] - p[:, 1], axis=1)
    corners = np.where(first[:, None, None], q[:, [[0, 1, 2], [0, 2, 3]]], q[:, [[0, 1, 3], [1, 2, 3]]]).reshape(-1, 3)
    return _with_middles(section, corners, TRIANGLE_EDGES)


def _with_middles(section: VolumeMesh, corners: Ids, sides: Ids) -> VolumeMesh:
    pairs = np.sort(corners[:, sides].reshape(-1, 2), axis=1)
    unique, number = np.unique(pairs, axis=0, return_inverse=True)
    n = len(section.nodes)
    key = unique[:, 0] * n + unique[:, 1]
    faces = {}
    for name, edges in section.faces.items():
        low, high = np.sort(edges, axis=1).T
        faces[name] = np.column_stack([edges, n + np.searchsorted(key, low * n + high)])
    mesh = replace(
        section,
        nodes=np.vstack([section.nodes, section.nodes[unique].mean(axis=1)]),
        cells=np.hstack([corners, n + number.reshape(len(corners), -1)]),
        faces=faces,
    )
    check_mesh(mesh)
    return mesh
