"""The volume mesh of one part, its named faces, and the checks every mesh must pass."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import MeshError

# Local faces of an 8-node brick (bottom 0-3, top 4-7), outward by the right-hand rule.
BRICK_FACES = np.array([[0, 3, 2, 1], [4, 5, 6, 7], [0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7]])
BRICK_EDGE_NEIGHBOURS = np.array(
    [[1, 3, 4], [2, 0, 5], [3, 1, 6], [0, 2, 7], [7, 5, 0], [4, 6, 1], [5, 7, 2], [6, 4, 3]]
)


@dataclass(frozen=True)
class VolumeMesh:
    """Bricks of one part.

    nodes : (n, 3) mm. bricks : (m, 8). faces : name → (k, 4) outward quads, every free face in
    exactly one. cut_nodes, cut_above : nodes of a fastener's cut plane and the bricks that touch
    it from above (empty without a cut).
    """

    nodes: NDArray[np.float64]
    bricks: NDArray[np.int64]
    faces: dict[str, NDArray[np.int64]]
    cut_nodes: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    cut_above: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))

    def volume(self) -> float:
        """Volume of the bricks (mm³), each split into tetrahedra about its centre."""
        p = self.nodes[self.bricks]
        centre = p.mean(axis=1)
        total = 0.0
        for f in BRICK_FACES:
            q = p[:, f] - centre[:, None]
            middle = q.mean(axis=1)
            for i in range(4):
                total += float(np.sum(np.einsum("ij,ij->i", np.cross(q[:, i], q[:, (i + 1) % 4]), middle))) / 6
        return total

    def scaled_jacobians(self) -> NDArray[np.float64]:
        """Least scaled Jacobian over the corners of each brick, shape (m,)."""
        p = self.nodes[self.bricks]
        worst = np.full(len(p), 2.0)
        for corner, (a, b, c) in enumerate(BRICK_EDGE_NEIGHBOURS):
            u, v, w = (p[:, k] - p[:, corner] for k in (a, b, c))
            det = np.einsum("ij,ij->i", np.cross(u, v), w)
            lengths = np.linalg.norm(u, axis=1) * np.linalg.norm(v, axis=1) * np.linalg.norm(w, axis=1)
            worst = np.minimum(worst, det / np.maximum(lengths, 1e-300))
        return worst


def free_faces(bricks: NDArray[np.int64]) -> NDArray[np.int64]:
    """Outward quads that belong to one brick only, shape (k, 4)."""
    quads = bricks[:, BRICK_FACES].reshape(-1, 4)
    keys = np.sort(quads, axis=1)
    _, first, count = np.unique(keys, axis=0, return_index=True, return_counts=True)
    return np.asarray(quads[first[count == 1]])


def check_mesh(mesh: VolumeMesh) -> None:
    """Positive bricks, every free face named exactly once.

    Raises
    ------
    MeshError : names the first fault and its place.
    """
    jacobians = mesh.scaled_jacobians()
    if jacobians.min() <= 0:
        x, y, z = mesh.nodes[mesh.bricks[jacobians.argmin()]].mean(axis=0)
        raise MeshError(f"an element near ({x:.4g}, {y:.4g}, {z:.4g}) mm is turned inside out.")
    named = np.sort(np.vstack(list(mesh.faces.values())), axis=1)
    free = np.sort(free_faces(mesh.bricks), axis=1)
    unique, count = np.unique(named, axis=0, return_counts=True)
    if count.max() > 1:
        raise MeshError(f"{int((count > 1).sum())} element faces carry two names.")
    if len(unique) != len(free) or np.any(unique != np.unique(free, axis=0)):
        raise MeshError(f"{len(free)} free element faces, {len(unique)} of them named.")
