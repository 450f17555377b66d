"""The volume mesh of one part, its named faces, and the checks every mesh must pass."""

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ulmek.core.errors import MeshError
from ulmek.core.mesh.quad_quality import scaled_jacobian

# Local faces of an 8-node brick (bottom 0-3, top 4-7), outward by the right-hand rule.
BRICK_FACES = np.array([[0, 3, 2, 1], [4, 5, 6, 7], [0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7]])
QUAD_EDGES = np.array([[0, 1], [1, 2], [2, 3], [3, 0]])
# Faces of a tetrahedron whose corners 0, 1, 2 turn towards 3: corners, then the middles of their edges.
TET_FACES = np.array([[0, 2, 1, 6, 5, 4], [0, 1, 3, 4, 8, 7], [1, 2, 3, 5, 9, 8], [2, 0, 3, 6, 7, 9]])
BRICK_EDGE_NEIGHBOURS = np.array(
    [[1, 3, 4], [2, 0, 5], [3, 1, 6], [0, 2, 7], [7, 5, 0], [4, 6, 1], [5, 7, 2], [6, 4, 3]]
)
# The same where nodes 2 and 3, 6 and 7 are one.
WEDGE_EDGE_NEIGHBOURS = np.array(
    [[1, 3, 4], [2, 0, 5], [0, 1, 6], [0, 1, 7], [7, 5, 0], [4, 6, 1], [5, 4, 2], [5, 4, 3]]
)


Kind = Literal["brick", "tet", "quad", "quad8", "triangle"]


@dataclass(frozen=True)
class ElementKind:
    """A kind of element. facets: its own in its own numbers, outward; edges with the material on their left, then their
    middle. nodes, corners: how many. is_plane: of a section. vtk: cell type of the VTK file formats. mirror,
    facet_mirror: the order of its nodes, and of a facet's, in a mirror image."""

    nodes: int
    corners: int
    facets: NDArray[np.int64]
    is_plane: bool
    vtk: int
    mirror: list[int]
    facet_mirror: list[int]


ELEMENTS: dict[Kind, ElementKind] = {
    "brick": ElementKind(8, 8, BRICK_FACES, False, 12, [1, 0, 3, 2, 5, 4, 7, 6], [1, 0, 3, 2]),
    "tet": ElementKind(10, 4, TET_FACES, False, 24, [0, 2, 1, 3, 6, 5, 4, 7, 9, 8], [1, 0, 2, 3, 5, 4]),
    "quad": ElementKind(4, 4, QUAD_EDGES, True, 9, [1, 0, 3, 2], [1, 0]),
    "quad8": ElementKind(
        8, 4, np.array([[0, 1, 4], [1, 2, 5], [2, 3, 6], [3, 0, 7]]), True, 23, [1, 0, 3, 2, 4, 7, 6, 5], [1, 0, 2]
    ),
    "triangle": ElementKind(6, 3, np.array([[0, 1, 3], [1, 2, 4], [2, 0, 5]]), True, 22, [1, 0, 2, 3, 5, 4], [1, 0, 2]),
}
# Kinds by nodes of a cell and of a facet.
_KINDS: dict[tuple[int, int], Kind] = {(e.nodes, e.facets.shape[1]): kind for kind, e in ELEMENTS.items()}
PLANE = tuple(kind for kind, e in ELEMENTS.items() if e.is_plane)
SECOND_ORDER = tuple(kind for kind, e in ELEMENTS.items() if e.nodes > e.corners)
FACETS = {kind: e.facets for kind, e in ELEMENTS.items()}


@dataclass(frozen=True)
class VolumeMesh:
    """Elements of one part: of a solid, or of a plane or axisymmetric section in z = 0.

    nodes : (n, 3) mm. cells : (m, 8) bricks (wedges where nodes 2 and 3, 6 and 7 are one), (m, 10)
    second-order tetrahedra; counter-clockwise (m, 4) or (m, 8) quads or (m, 6) triangles, corners first, then the
    middles of their sides. faces : name → (k, 4) outward quads (a wedge's triangles name one corner twice), (k, 6)
    triangles (corners, then the middles of their edges), (k, 2) edges with the material on their left or (k, 3)
    with their middle too, every free face in exactly one.
    cut_nodes, cut_above : nodes of a fastener's cut plane and the bricks that touch
    it from above (empty without a cut). arcs : see `face_arcs`; only of faces that are round.
    """

    nodes: NDArray[np.float64]
    cells: NDArray[np.int64]
    faces: dict[str, NDArray[np.int64]]
    cut_nodes: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    cut_above: NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    arcs: dict[str, NDArray[np.float64]] = field(default_factory=dict)

    def placed(self, rotation: NDArray[np.float64], shift: NDArray[np.float64]) -> "VolumeMesh":
        """The same mesh turned by ``rotation`` (3, 3), mirrored where that is a turn of a mirror image, then moved by
        ``shift`` (3,) mm."""
        arcs = {
            name: np.hstack([a[:, :3] @ rotation.T + shift, a[:, 3:6] @ rotation.T, a[:, 6:]])
            for name, a in self.arcs.items()
        }
        placed = replace(self, nodes=self.nodes @ rotation.T + shift, arcs=arcs)
        if np.linalg.det(rotation) > 0:
            return placed
        order = ELEMENTS[self.kind]
        faces = {name: facets[:, order.facet_mirror] for name, facets in self.faces.items()}
        return replace(placed, cells=self.cells[:, order.mirror], faces=faces)

    def __post_init__(self) -> None:
        # Row by row in memory: for another order the kernels would be compiled again.
        for name in ("nodes", "cells"):
            object.__setattr__(self, name, np.ascontiguousarray(getattr(self, name)))
        object.__setattr__(self, "faces", {n: np.ascontiguousarray(f) for n, f in self.faces.items()})

    @property
    def kind(self) -> Kind:
        """What the elements are."""
        return _KINDS[(self.cells.shape[1], next(iter(self.faces.values())).shape[1])]

    @property
    def is_wedge(self) -> NDArray[np.bool_]:
        """Which bricks (m,) are wedges."""
        return np.asarray(self.cells[:, 2] == self.cells[:, 3])

    def volume(self) -> float:
        """Volume of the bricks (mm³), each split into tetrahedra about its centre; area of quads (mm²)."""
        if self.kind == "tet":
            return float(_tet_determinants(self.nodes, self.cells).sum() / 6)
        if self.kind == "triangle":
            return float(_triangle_determinants(self.nodes, self.cells).sum() / 2)
        if self.kind in PLANE:
            d = self.nodes[self.cells[:, 2:4]] - self.nodes[self.cells[:, :2]]
            return float(np.sum(d[:, 0, 0] * d[:, 1, 1] - d[:, 0, 1] * d[:, 1, 0]) / 2)
        return float(_brick_volume(self.nodes, self.cells, BRICK_FACES))

    def scaled_jacobians(self) -> NDArray[np.float64]:
        """Least scaled Jacobian over the corners of each element, shape (m,)."""
        if self.kind == "tet":
            p = self.nodes[self.cells[:, :4]]
            lengths = [np.linalg.norm(p[:, k] - p[:, 0], axis=1) for k in (1, 2, 3)]
            return np.asarray(_tet_determinants(self.nodes, self.cells) / np.prod(lengths, axis=0))
        if self.kind == "triangle":
            p = self.nodes[self.cells[:, :3]]
            sides = np.linalg.norm(p - p[:, [1, 2, 0]], axis=2)
            longest = np.sort(sides, axis=1)[:, 1:].prod(axis=1)
            return np.asarray(_triangle_determinants(self.nodes, self.cells) / longest)
        if self.kind in PLANE:
            return scaled_jacobian(np.ascontiguousarray(self.nodes[:, :2]), np.ascontiguousarray(self.cells[:, :4]))
        tables = np.stack([BRICK_EDGE_NEIGHBOURS, WEDGE_EDGE_NEIGHBOURS])
        return np.asarray(_brick_jacobians(self.nodes, self.cells, tables))


@njit(cache=True)
def _brick_volume(nodes, cells, faces):  # type: ignore[no-untyped-def] # pragma: no cover
    """Volume (mm³) of bricks: tetrahedra from the middle of each to four triangles about the middle of each face."""
    total = 0.0
    p, middle, centre = np.empty((8, 3)), np.empty(3), np.empty(3)
    for cell in cells:
        centre[:] = 0.0
        for k in range(8):
            for d in range(3):
                p[k, d] = nodes[cell[k], d]
                centre[d] += p[k, d] / 8
        for k in range(8):
            for d in range(3):
                p[k, d] -= centre[d]
        for face in faces:
            for d in range(3):
                middle[d] = (p[face[0], d] + p[face[1], d] + p[face[2], d] + p[face[3], d]) / 4
            for i in range(4):
                u, v = p[face[i]], p[face[(i + 1) % 4]]
                total += (
                    (u[1] * v[2] - u[2] * v[1]) * middle[0]
                    + (u[2] * v[0] - u[0] * v[2]) * middle[1]
                    + (u[0] * v[1] - u[1] * v[0]) * middle[2]
                ) / 6
    return total


@njit(cache=True)
def _brick_jacobians(nodes, cells, tables):  # type: ignore[no-untyped-def] # pragma: no cover
    """Least scaled Jacobian (m,) of bricks, and of wedges by the second of ``tables`` of edge neighbours."""
    worst = np.full(len(cells), 2.0)
    edges = np.empty((3, 3))
    for m in range(len(cells)):
        cell = cells[m]
        table = tables[1 if cell[2] == cell[3] else 0]
        for corner in range(8):
            lengths = 1.0
            for k in range(3):
                square = 0.0
                for d in range(3):
                    edges[k, d] = nodes[cell[table[corner, k]], d] - nodes[cell[corner], d]
                    square += edges[k, d] ** 2
                lengths *= np.sqrt(square)
            u, v, w = edges
            det = (
                (u[1] * v[2] - u[2] * v[1]) * w[0]
                + (u[2] * v[0] - u[0] * v[2]) * w[1]
                + (u[0] * v[1] - u[1] * v[0]) * w[2]
            )
            worst[m] = min(worst[m], det / max(lengths, 1e-300))
    return worst


def _tet_determinants(nodes: NDArray[np.float64], cells: NDArray[np.int64]) -> NDArray[np.float64]:
    """Six times the volume of each tetrahedron, by its corners."""
    p = nodes[cells[:, :4]]
    return np.asarray(np.linalg.det(p[:, 1:] - p[:, :1]))


def _triangle_determinants(nodes: NDArray[np.float64], cells: NDArray[np.int64]) -> NDArray[np.float64]:
    """Twice the area of each triangle, by its corners."""
    d = nodes[cells[:, 1:3], :2] - nodes[cells[:, :1], :2]
    return np.asarray(d[:, 0, 0] * d[:, 1, 1] - d[:, 0, 1] * d[:, 1, 0])


def free_faces(cells: NDArray[np.int64], kind: Kind) -> NDArray[np.int64]:
    """Facets of one element only, in the form that `VolumeMesh` gives them for the kind."""
    local = FACETS[kind]
    quads = cells[:, local].reshape(-1, local.shape[1])
    keys, has_area = _facet_keys(quads)
    quads, keys = quads[has_area], keys[has_area]
    _, first, count = np.unique(_numbered(keys), return_index=True, return_counts=True)
    return np.asarray(quads[first[count == 1]])


def _numbered(keys: NDArray[np.int64]) -> NDArray[np.int64]:
    """One number for each facet: facets that share their last three nodes are one. Three times faster to sort than
    rows; `MOST_BRICKS` keeps the numbers below 2⁶³."""
    base = int(keys.max(initial=0)) + 1
    low = keys[:, -3] if keys.shape[1] > 2 else 0
    return np.asarray((low * base + keys[:, -2]) * base + keys[:, -1])


def _facet_keys(facets: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Node numbers that tell facets apart, repeated ones as −1; and whether a facet is more than an edge."""
    # Corners of second-order triangles: neighbours share an edge with its middle, three nodes.
    keys = np.sort(facets[:, :3] if facets.shape[1] == 6 else facets, axis=1)
    again = keys[:, 1:] == keys[:, :-1]
    keys[:, 1:][again] = -1
    return np.sort(keys, axis=1), again.sum(axis=1) < 2


def check_mesh(mesh: VolumeMesh) -> None:
    """Positive bricks, every free face named exactly once.

    Raises
    ------
    MeshError : names the first fault and its place.
    """
    jacobians = mesh.scaled_jacobians()
    if jacobians.min() <= 0:
        x, y, z = mesh.nodes[mesh.cells[jacobians.argmin()]].mean(axis=0)
        raise MeshError(f"an element near ({x:.4g}, {y:.4g}, {z:.4g}) mm is turned inside out.")
    named, _ = _facet_keys(np.vstack(list(mesh.faces.values())))
    free, _ = _facet_keys(free_faces(mesh.cells, mesh.kind))
    both = _numbered(np.vstack([named, free]))
    unique, count = np.unique(both[: len(named)], return_counts=True)
    if count.max() > 1:
        raise MeshError(f"{int((count > 1).sum())} element faces carry two names.")
    if len(unique) != len(free) or np.any(unique != np.unique(both[len(named) :])):
        raise MeshError(f"{len(free)} free element faces, {len(unique)} of them named.")
