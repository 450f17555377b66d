"""Ten-node tetrahedra from bricks: 24 to a brick, about its middle and the middles of its faces.

Every face is cut the same way from both sides, so that neighbours fit whatever their numbering.
"""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.volume import BRICK_FACES, VolumeMesh, check_mesh

Ids = NDArray[np.int64]
# Edges that carry the mid-side nodes 4 … 9 of a tetrahedron, and 3 … 5 of its faces.
TET_EDGES = np.array([[0, 1], [1, 2], [2, 0], [0, 3], [1, 3], [2, 3]])
FACE_EDGES = np.array([[0, 1], [1, 2], [2, 0]])


def split_bricks(mesh: VolumeMesh) -> VolumeMesh:
    """The same solid in second-order tetrahedra, faces with their names; fasteners keep no cut.

    Raises
    ------
    MeshError : a tetrahedron turned inside out, where a brick is badly warped.
    """
    bricks = mesh.cells
    face_nodes = np.sort(bricks[:, BRICK_FACES].reshape(-1, 4), axis=1)
    unique, number = np.unique(face_nodes, axis=0, return_inverse=True)
    n, n_faces = len(mesh.nodes), len(unique)
    corners = [mesh.nodes, mesh.nodes[unique].mean(axis=1), mesh.nodes[bricks].mean(axis=1)]
    of_face = n + number.reshape(len(bricks), 6)
    centre = n + n_faces + np.arange(len(bricks))
    tets = []
    for k, face in enumerate(BRICK_FACES):
        for i in range(4):
            a, b = bricks[:, face[i]], bricks[:, face[(i + 1) % 4]]
            # Faces run outward: their triangle seen from the middle of the brick runs the other way.
            tets.append(np.column_stack([b, a, of_face[:, k], centre]))
    four = np.vstack(tets)
    faces = {}
    for name, quads in mesh.faces.items():
        at = n + np.array([_row_of(unique, row) for row in np.sort(quads, axis=1)])
        faces[name] = np.vstack([np.column_stack([quads[:, i], quads[:, (i + 1) % 4], at]) for i in range(4)])
    # Four triangles of each quad stand for the same round face.
    arcs = {name: np.tile(a, (4, 1)) for name, a in mesh.arcs.items()}
    return with_middles(np.vstack(corners), four, faces, arcs)


def _row_of(table: Ids, row: Ids) -> int:
    low, high = 0, len(table)
    wanted = tuple(row.tolist())
    while low < high:
        middle = (low + high) // 2
        if tuple(table[middle].tolist()) < wanted:
            low = middle + 1
        else:
            high = middle
    return low


def with_middles(
    nodes: NDArray[np.float64], four: Ids, faces: dict[str, Ids], arcs: dict[str, NDArray[np.float64]] | None = None
) -> VolumeMesh:
    """Add a node in the middle of every edge; ``arcs``: see `VolumeMesh`."""
    pairs = np.sort(four[:, TET_EDGES].reshape(-1, 2), axis=1)
    unique, number = np.unique(pairs, axis=0, return_inverse=True)
    place = {(int(a), int(b)): len(nodes) + k for k, (a, b) in enumerate(unique)}
    cells = np.hstack([four, len(nodes) + number.reshape(len(four), 6)])
    whole = {}
    for name, triangles in faces.items():
        edges = np.sort(triangles[:, FACE_EDGES], axis=2)
        middles = np.array([[place[(int(a), int(b))] for a, b in row] for row in edges])
        whole[name] = np.hstack([triangles, middles])
    mesh = VolumeMesh(np.vstack([nodes, nodes[unique].mean(axis=1)]), cells, whole, arcs=arcs or {})
    check_mesh(mesh)
    return mesh
