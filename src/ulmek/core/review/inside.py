"""Fields inside the parts, by the shape functions of the elements: at points, along paths, and on a plane cut."""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.element.family import FAMILIES
from ulmek.core.mesh.volume import ELEMENTS, Kind

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Edges of solid elements: their two ends, then the node in their middle where they have one.
EDGES: dict[Kind, Ids] = {
    "brick": np.array([[0, 1], [1, 2], [2, 3], [3, 0], [4, 5], [5, 6], [6, 7], [7, 4], [0, 4], [1, 5], [2, 6], [3, 7]]),
    "tet": np.array([[0, 1, 4], [1, 2, 5], [2, 0, 6], [0, 3, 7], [1, 3, 8], [2, 3, 9]]),
}
# Outside of an element by no more than this, in its natural coordinates, a point counts as on its face: points that
# are picked there are rounded.
NEAR = 1e-3
# Nodes nearer to a plane than this share of the model's size lie in it.
IN_PLANE = 1e-9
NEWTON_STEPS = 15
# Points of a path, neighbours of each other, whose elements are looked for together.
TOGETHER = 16


@dataclass(frozen=True)
class Cells:
    """Elements of one kind: node numbers (m, n) over all bodies, and the body (m,) of each."""

    kind: Kind
    nodes: Ids
    body: Ids


def cells_of_vtk(numbers: Ids, offsets: Ids, types: NDArray[np.uint8], node_offsets: Ids) -> list[Cells]:
    """Elements from what VTK files hold: node numbers one after another, where each element begins, and its type.

    node_offsets (b + 1,): first node of each body.
    """
    kinds = {e.vtk: kind for kind, e in ELEMENTS.items()}
    found = []
    for vtk in np.unique(types):
        kind = kinds[int(vtk)]
        here = offsets[:-1][types == vtk]
        nodes = numbers[here[:, None] + np.arange(ELEMENTS[kind].nodes)]
        found.append(Cells(kind, nodes, np.searchsorted(node_offsets, nodes[:, 0], side="right") - 1))
    return found


@dataclass(frozen=True)
class Places:
    """Points in the elements: weights (k, n_nodes), with which nodal values become values at the points; the body (k,)
    that each lies in and the size (k,) mm of the element there, −1 and 0 (and no weights) where there is none."""

    weights: sp.csr_matrix
    body: Ids
    size: Array


def places(nodes: Array, groups: list[Cells], points: Array) -> Places:
    """Where ``points`` (k, 3) mm lie in the elements, whose nodes are at ``nodes`` (n, 3) mm."""
    best = np.full(len(points), np.inf)
    body, size = np.full(len(points), -1), np.zeros(len(points))
    rows: list[tuple[Ids, Array]] = [(np.zeros(0, np.int64), np.zeros(0))] * len(points)
    for group in groups:
        family = FAMILIES[group.kind]
        for p, c in _candidates(nodes, group, points, family.dim):
            at = _natural(group.kind, nodes[group.nodes[c]], points[p])
            outside = family.outside(at)
            shape = family.shape_at(at)
            for k in np.flatnonzero(outside < NEAR):
                if outside[k] >= best[p[k]] - 1e-9:
                    continue
                best[p[k]], body[p[k]] = outside[k], group.body[c[k]]
                rows[p[k]] = group.nodes[c[k]], shape[k]
                corners = nodes[group.nodes[c[k]]]
                size[p[k]] = np.prod(np.ptp(corners, axis=0)[: family.dim]) ** (1 / family.dim)
    index = np.concatenate([r for r, _ in rows])
    weight = np.concatenate([w for _, w in rows])
    starts = np.cumsum([0, *(len(r) for r, _ in rows)])
    return Places(sp.csr_matrix((weight, index, starts), shape=(len(points), len(nodes))), body, size)


def _candidates(nodes: Array, group: Cells, points: Array, dim: int) -> list[tuple[Ids, Ids]]:
    """Couples (points, cells) of points within the boxes of cells, for some points after the other."""
    wide = NEAR * max(float(np.ptp(nodes, axis=0).max()), 1e-300)
    low, high = np.full((dim, len(group.nodes)), np.inf), np.full((dim, len(group.nodes)), -np.inf)
    for k in range(dim):
        along = np.ascontiguousarray(nodes[:, k])
        for column in group.nodes.T:
            x = along[column]
            np.minimum(low[k], x, out=low[k])
            np.maximum(high[k], x, out=high[k])
    # Curved edges bulge out of the box of their nodes.
    bulge = 0.2 * (high - low) if ELEMENTS[group.kind].nodes > ELEMENTS[group.kind].corners else 0.0
    low, high = low - wide - bulge, high + wide + bulge
    p = points[:, :dim]
    found = []
    for first in range(0, len(points), TOGETHER):
        these = p[first : first + TOGETHER]
        near = np.flatnonzero((low[0] <= these[:, 0].max()) & (high[0] >= these[:, 0].min()))
        for k in range(1, dim):
            near = near[(low[k, near] <= these[:, k].max()) & (high[k, near] >= these[:, k].min())]
        hit = np.nonzero(((these[:, None] >= low[:, near].T) & (these[:, None] <= high[:, near].T)).all(axis=2))
        found.append((hit[0] + first, near[hit[1]]))
    return found


def _natural(kind: Kind, corners: Array, points: Array) -> Array:
    """Natural coordinates (k, d) of ``points`` (k, 3) in elements with nodes at ``corners`` (k, n, 3), by Newton."""
    family = FAMILIES[kind]
    dim = family.dim
    at = np.full((len(points), dim), 1 / (dim + 1) if family.is_simplex else 0.0)
    for _ in range(NEWTON_STEPS):
        x = np.einsum("kn,knd->kd", family.shape_at(at), corners[..., :dim])
        slope = np.einsum("kne,knd->kde", family.gradient_at(at), corners[..., :dim])
        step = np.einsum("ked,kd->ke", np.linalg.pinv(slope), points[:, :dim] - x)
        at = np.clip(at + step, -3.0, 3.0)
        if np.abs(step).max(initial=0.0) < 1e-12:
            break
    return at


@dataclass(frozen=True)
class PlaneCut:
    """What a plane meets of solid elements: corners of triangles (k, 3) into points whose values are ``weights``
    (p, n_nodes) of those at the nodes; body (k,) of each triangle."""

    weights: sp.csr_matrix
    triangles: Ids
    body: Ids


def plane_cut(nodes: Array, groups: list[Cells], normal: Array, offset: float) -> PlaneCut:
    """Cut elements with nodes at ``nodes`` (n, 3) mm by the plane ``normal`` · x = ``offset``.

    The points lie on edges of elements, where shape functions know two or three nodes. An element that lies against the
    plane from below shows its face.
    """
    normal = normal / np.linalg.norm(normal)
    distance = nodes @ normal - offset
    distance[np.abs(distance) < IN_PLANE * np.ptp(nodes, axis=0).max()] = 0.0
    return _cut(nodes, groups, distance, normal)


def surface_of_value(nodes: Array, groups: list[Cells], values: Array, level: float) -> PlaneCut:
    """Where a field with ``values`` (n,) at the nodes has the value ``level`` inside solid elements; what is no number
    has none. In each element the surface turns about the way in which the field rises."""
    return _cut(nodes, groups, np.where(np.isnan(values), -np.inf, values - level), None)


def _cut(nodes: Array, groups: list[Cells], distance: Array, normal: Array | None) -> PlaneCut:
    """Cut elements where ``distance`` (n,) at the nodes is nothing, across one ``normal`` or the rise in each."""
    weights, triangles, bodies, count = [], [], [], 0
    for group in groups:
        if group.kind not in EDGES:
            continue
        side = distance[group.nodes] >= 0
        met = np.flatnonzero(side.any(axis=1) & ~side.all(axis=1))
        if not len(met):
            continue
        edges = group.nodes[met][:, EDGES[group.kind]]
        crossed = (distance[edges[..., 0]] >= 0) != (distance[edges[..., 1]] >= 0)
        # A middle node alone beyond it makes no outline.
        is_cut = crossed.sum(axis=1) > 2
        met, edges, crossed = met[is_cut], edges[is_cut], crossed[is_cut]
        if not len(met):
            continue
        flat, at = np.unique(_sorted_ends(edges[crossed]), axis=0, return_inverse=True)
        made = _on_edges(flat, distance, len(nodes))
        corner = np.full(crossed.shape, -1)
        corner[crossed] = at.ravel()
        chosen = group.nodes[met]
        rise = np.broadcast_to(normal, (len(met), 3)) if normal is not None else _rise(nodes[chosen], distance[chosen])
        fans, owner = _fans(corner, np.asarray(made @ nodes), rise)
        weights.append(made)
        triangles.append(fans + count)
        bodies.append(group.body[met][owner])
        count += len(flat)
    if not weights:
        return PlaneCut(sp.csr_matrix((0, len(nodes))), np.zeros((0, 3), np.int64), np.zeros(0, np.int64))
    return PlaneCut(sp.csr_matrix(sp.vstack(weights)), np.vstack(triangles), np.concatenate(bodies))


def _sorted_ends(edges: Ids) -> Ids:
    """Edges with their lower end first, so that neighbours name them alike."""
    ends = np.sort(edges[:, :2], axis=1)
    return np.hstack([ends, edges[:, 2:]])


def _on_edges(edges: Ids, distance: Array, n_nodes: int) -> sp.csr_matrix:
    """Weights (k, n_nodes) of the points where edges (k, 2 or 3) meet the plane, given distances of the nodes."""
    a, b = distance[edges[:, 0]], distance[edges[:, 1]]
    t = a / (a - b)
    if edges.shape[1] == 2:
        weight = np.column_stack([1 - t, t])
    else:
        # Along a second-order edge the distance is d(t) = ½ second t² + first t + a.
        middle = distance[edges[:, 2]]
        second, first = 4 * (a - 2 * middle + b), -3 * a + 4 * middle - b
        for _ in range(NEWTON_STEPS):
            slope = second * t + first
            t = np.clip(t - (second * t**2 / 2 + first * t + a) / np.where(slope == 0, 1.0, slope), 0.0, 1.0)
        weight = np.column_stack([(1 - t) * (1 - 2 * t), t * (2 * t - 1), 4 * t * (1 - t)])
    rows = np.repeat(np.arange(len(edges)), edges.shape[1])
    return sp.csr_matrix((weight.ravel(), (rows, edges.ravel())), shape=(len(edges), n_nodes))


def _rise(corners: Array, values: Array) -> Array:
    """Unit vectors (m, 3) along which values (m, k) rise over the nodes (m, k, 3) of elements."""
    arm = corners - corners.mean(axis=1, keepdims=True)
    spread = np.einsum("mki,mkj->mij", arm, arm)
    known = np.where(np.isfinite(values), values, 0.0)
    way = np.einsum("mij,mkj,mk->mi", np.linalg.pinv(spread), arm, known - known.mean(axis=1, keepdims=True))
    size = np.linalg.norm(way, axis=1, keepdims=True)
    return np.where(size > 0, way / np.where(size > 0, size, 1.0), [0.0, 0.0, 1.0])


def _fans(corner: Ids, points: Array, normals: Array) -> tuple[Ids, Ids]:
    """Triangles (t, 3) that fill the convex outline of each row of ``corner`` (m, e) into ``points``, −1 for none, and
    the row (t,) of each; they turn about its normal (m, 3)."""
    aside = np.eye(3)[np.abs(normals).argmin(axis=1)]
    first = np.cross(aside, normals)
    first /= np.linalg.norm(first, axis=1, keepdims=True)
    across = np.stack([first, np.cross(normals, first)], axis=1)
    is_there = corner >= 0
    x = np.where(is_there[..., None], np.einsum("mei,mki->mek", points[corner], across), 0.0)
    middle = x.sum(axis=1) / is_there.sum(axis=1)[:, None]
    arm = x - middle[:, None]
    angle = np.where(is_there, np.arctan2(arm[..., 1], arm[..., 0]), np.inf)
    order = np.argsort(angle, axis=1)
    turned = np.take_along_axis(corner, order, axis=1)
    fans, owner = [], []
    for k in range(1, corner.shape[1] - 1):
        here = np.flatnonzero(turned[:, k + 1] >= 0)
        fans.append(turned[here][:, [0, k, k + 1]])
        owner.append(here)
    return np.vstack(fans), np.concatenate(owner)
