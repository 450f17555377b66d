"""The interface: relative motion ``w = G u`` of every node of side A of every pair.

Biorthogonal multipliers (Wohlmuth 2000), built facet by facet on the part that B covers, so that
a uniform pressure passes non-matching and partly covered faces exactly. Row signs: the normal row
is positive when the pair opens.
"""

from dataclasses import dataclass, replace

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.contact.overlap import Overlap, integrate_overlap
from ulmek.core.errors import InputError
from ulmek.core.layout import Layout
from ulmek.core.mesh.facets import corner_count, facet_areas, facet_normals, is_edges
from ulmek.core.model import Model, Pair, Wall

Array = NDArray[np.float64]

# Facets covered by less than this use the plain instead of the biorthogonal basis, whose
# coefficients grow without bound as the cover vanishes.
SLIVER = 0.05
WORST_CONDITION = 1e5
# Nodes with a weight below this share of what is theirs of their facets are merged into a neighbour.
TINY_WEIGHT = 1e-2


@dataclass(frozen=True)
class PairInterface:
    """One pair, discretised. All arrays run over its contact nodes.

    node (n,): global node of side A. area (n,) mm²: weight. gap (n,) mm: weighted gap at the
    start. frame (n, 3, 3): rows t1, t2, normal; the normal points into A, away from B.
    rows : (3n, n_dofs) sparse, per node t1, t2, n. size : mean facet size h of side A (mm).
    least_gap : smallest gap between the faces (mm), inf when they do not face within the search.
    cover : covered share of side A. crossing : nodes that are drawn within the other side.
    """

    pair: Pair
    node: NDArray[np.int64]
    area: Array
    gap: Array
    frame: Array
    rows: sp.csr_matrix
    size: float
    least_gap: float
    cover: float
    crossing: int


def build_interface(
    model: Model,
    pair: Pair,
    nodes: Array,
    *,
    every_node: bool = False,
    wall_motion: Array | None = None,
    true_radii: bool = True,
) -> PairInterface:
    """Integrate one pair with the nodes of the bodies at ``nodes`` (n, 3) and form its rows.

    With ``every_node`` all nodes of side A are listed, those that face nothing with area 0, and
    sides that do not face each other are no error: for pairs that move far. ``wall_motion`` (6,): where
    the handle of a datum wall has moved and turned. ``true_radii``: gaps between round faces are those of
    their curves, not of the facets; not for faces that have been deformed.

    Raises
    ------
    InputError : the two sides do not face each other anywhere within the search distance.
    """
    if pair.wall is not None:
        return build_wall_interface(model, pair, nodes, every_node=every_node, motion=wall_motion)
    quads_a, quads_b = model.quads(pair.side_a), model.quads(pair.side_b)
    turned = model.space == "axisymmetric"
    overlap = integrate_overlap(
        nodes,
        quads_a,
        quads_b,
        search=pair.search,
        thickness=model.thickness,
        turned=turned,
        arcs=(model.arcs_of(pair.side_a), model.arcs_of(pair.side_b)) if true_radii else None,
    )
    weights = overlap.mass.sum(axis=(1, 2))
    if not every_node and (not len(overlap.couple) or weights.sum() <= 0):
        raise InputError(
            f"the two sides of pair '{pair.name}' do not face each other within {pair.search:g} mm.",
            where=f"pairs/{pair.name}",
            hint="Check the faces, bring the parts together, or enlarge the search distance.",
        )
    facet = facet_areas(nodes, quads_a, thickness=model.thickness, turned=turned)
    integrated, area, gap = _integrated_rows(nodes, quads_a, quads_b, overlap, facet)
    active = np.flatnonzero(area > 0)
    corners = quads_a[:, : corner_count(quads_a)]
    merge, kept = _merge_tiny(area, active, np.unique(corners) if every_node else None, corners, facet)
    integrated = merge @ integrated
    area, gap = merge @ area, merge @ gap
    frame = _frames(nodes, quads_a, kept, model, model.arcs_of(pair.side_a) if true_radii else None)
    scalar = sp.diags(1 / np.where(area > 0, area, 1.0)) @ integrated
    edge = np.sqrt(facet.mean()) if not is_edges(quads_a) else _edge_length(nodes, quads_a)
    drawn = gap / np.where(area > 0, area, 1.0)
    return PairInterface(
        pair=pair,
        node=kept,
        area=area,
        gap=_fitted(pair, drawn),
        frame=frame,
        rows=_vector_rows(scalar.tocsr(), frame),
        size=float(edge),
        # Coordinates carry rounding of about 1e-14 of the model: that is touching, not a gap.
        least_gap=0.0 if abs(overlap.least_gap) < 1e-9 * edge else overlap.least_gap,
        cover=float(weights.sum() / facet.sum()),
        crossing=int(np.count_nonzero(drawn < -1e-9 * edge)),
    )


def widened(interface: PairInterface, model: Model, layout: Layout, u: Array | None = None) -> PairInterface:
    """The same pair with rows over all triples, of which the nodes come first; a wall's handle among them.

    ``u`` (n_total, 3): displacements at which the faces stand, none at the start.
    """
    rows, n_total = interface.rows, layout.n_total
    wide = sp.csr_matrix((rows.data, rows.indices, rows.indptr), shape=(rows.shape[0], 3 * n_total))
    wall = next((w for w in model.walls if w.name == interface.pair.wall), None)
    if wall is not None and wall.handle is not None and len(interface.node):
        moved = layout.positions if u is None else layout.positions + u
        handle = layout.handles[wall.handle]
        wide = sp.csr_matrix(wide - _of_handle(interface, moved[interface.node] - moved[handle], handle, n_total))
    return replace(interface, rows=wide)


def _of_handle(interface: PairInterface, arm: Array, handle: int, n_total: int) -> sp.csr_matrix:
    """What the wall gives at the contact nodes for its handle's motion and turn: frame · (u + θ × r)."""
    n = len(arm)
    cross = np.zeros((n, 3, 3))
    for k in range(3):
        cross[:, :, k] = np.cross(np.eye(3)[k], arm)
    both = np.concatenate([interface.frame, interface.frame @ cross], axis=2)
    rows = np.repeat(np.arange(3 * n), 6)
    columns = np.tile(3 * handle + np.arange(6), 3 * n)
    return sp.csr_matrix((both.ravel(), (rows, columns)), shape=(3 * n, 3 * n_total))


def build_wall_interface(
    model: Model, pair: Pair, nodes: Array, *, every_node: bool, motion: Array | None
) -> PairInterface:
    """A pair of faces and a datum wall: gaps and normals are those of the true wall at the nodes.

    Raises
    ------
    InputError : no node of side A lies within the search distance of the wall.
    """
    wall = next(w for w in model.walls if w.name == pair.wall)
    facets = model.quads(pair.side_a)
    turned = model.space == "axisymmetric"
    # The faces against themselves, turned over: integrals over all of side A.
    over = {2: [1, 0], 3: [1, 0, 2], 4: [0, 3, 2, 1], 6: [0, 2, 1, 5, 4, 3]}[facets.shape[1]]
    whole = integrate_overlap(
        nodes, facets, facets[:, over], search=_smallest(nodes, facets), thickness=model.thickness, turned=turned
    )
    facet = facet_areas(nodes, facets, thickness=model.thickness, turned=turned)
    alone = Overlap(whole.mass, whole.own, whole.gap, whole.couple[:0], whole.mixed[:0], 0.0)
    integrated, area, _ = _integrated_rows(nodes, facets, facets, alone, facet)
    corners = np.unique(facets[:, : corner_count(facets)])
    handle = next((h for h in model.handles if h.name == wall.handle), None)
    distance, normal = wall_distance(wall, nodes[corners], None if handle is None else handle.at, motion)
    near = np.abs(distance) <= pair.search
    if not every_node:
        if not near.any():
            raise InputError(
                f"no node of side A of pair '{pair.name}' lies within {pair.search:g} mm of its wall.",
                where=f"pairs/{pair.name}",
                hint="Check which way the wall faces, move it there, or enlarge the search distance.",
            )
        corners, distance, normal = corners[near], distance[near], normal[near]
    used = np.where(near, area[corners], 0.0) if every_node else area[corners]
    frame = _frames_along(normal, in_plane=model.space != "solid")
    scalar = sp.csr_matrix(sp.diags(1 / np.where(used > 0, used, np.inf)) @ integrated[corners])
    edge = np.sqrt(facet.mean()) if not is_edges(facets) else _edge_length(nodes, facets)
    return PairInterface(
        pair=pair,
        node=corners,
        area=used,
        gap=_fitted(pair, distance),
        frame=frame,
        rows=_vector_rows(scalar, frame),
        size=float(edge),
        least_gap=float(distance[near].min()) if near.any() and every_node else float(distance.min(initial=np.inf)),
        cover=float(used.sum() / facet.sum()),
        crossing=int(np.count_nonzero((used > 0) & (distance < -1e-9 * edge))),
    )


def wall_distance(
    wall: Wall, points: Array, at: tuple[float, float, float] | None, motion: Array | None
) -> tuple[Array, Array]:
    """Gaps (n,) mm of ``points`` (n, 3) to a wall, positive outside it, and unit normals (n, 3) away from it.

    ``at``: the wall's handle, which ``motion`` (6,) has moved and turned.
    """
    origin = np.array(wall.point)
    axis = np.array(wall.direction) / np.linalg.norm(wall.direction)
    if at is not None and motion is not None:
        turn = Rotation.from_rotvec(motion[3:]).as_matrix()
        origin = turn @ (origin - np.array(at)) + np.array(at) + motion[:3]
        axis = turn @ axis
    arm = points - origin
    if wall.kind == "plane":
        return arm @ axis, np.tile(axis, (len(points), 1))
    if wall.kind == "cylinder":
        arm = arm - np.outer(arm @ axis, axis)
    length = np.linalg.norm(arm, axis=1)
    normal = arm / np.maximum(length, 1e-300)[:, None]
    sign = -1.0 if wall.hollow else 1.0
    return sign * (length - wall.radius), sign * normal


def _smallest(nodes: Array, facets: NDArray[np.int64]) -> float:
    return float(np.linalg.norm(nodes[facets[:, 1]] - nodes[facets[:, 0]], axis=1).min()) * 1e-3


def all_rows(interfaces: tuple[PairInterface, ...], n_dofs: int) -> sp.csr_matrix:
    """Rows of all pairs, one below the other (3·n_contact, n_dofs)."""
    return sp.vstack([f.rows for f in interfaces], format="csr") if interfaces else sp.csr_matrix((0, n_dofs))


def _fitted(pair: Pair, drawn: Array) -> Array:
    """Gaps as the pair's fit counts them."""
    if pair.fit == "overlap-removed":
        return np.maximum(drawn, 0.0)
    if pair.fit == "closed-up":
        return np.zeros(len(drawn))
    return np.full(len(drawn), -pair.interference) if pair.fit == "value" else drawn


def _integrated_rows(
    nodes: Array, quads_a: NDArray[np.int64], quads_b: NDArray[np.int64], overlap: Overlap, facet: Array
) -> tuple[sp.csr_matrix, Array, Array]:
    """∫ψ (u_A − u_B) as a scalar operator (n_nodes × n_nodes), ∫ψ and ∫ψ g per node of A; ``facet`` areas."""
    n_nodes, mass, corners = len(nodes), overlap.mass, corner_count(quads_a)
    weights = mass.sum(axis=2)
    covered = weights.sum(axis=1)
    basis = np.broadcast_to(np.eye(mass.shape[1]), mass.shape).copy()
    full = covered > SLIVER * facet
    # Where only a few points lie within the search, the integrals say too little for a basis of their own.
    full[full] = np.linalg.cond(mass[full]) < WORST_CONDITION
    basis[full] = weights[full][:, :, None] * np.linalg.inv(mass[full])
    a_side = basis @ overlap.own
    b_side = basis[overlap.couple[:, 0]] @ overlap.mixed
    at_corners = quads_a[:, :corners]
    rows_a = at_corners[overlap.couple[:, 0]]
    cols_b = quads_b[overlap.couple[:, 1]]
    used = covered > 0
    entries = [
        (a_side[used], at_corners[used], quads_a[used]),
        (-b_side, rows_a, cols_b),
    ]
    data = np.concatenate([e[0].ravel() for e in entries])
    rows = np.concatenate([np.repeat(e[1], e[2].shape[1], axis=1).ravel() for e in entries])
    columns = np.concatenate([np.tile(e[2], (1, corners)).ravel() for e in entries])
    operator = sp.csr_matrix((data, (rows, columns)), shape=(n_nodes, n_nodes))
    area, gap = np.zeros(n_nodes), np.zeros(n_nodes)
    np.add.at(area, at_corners[used], a_side[used].sum(axis=2))
    np.add.at(gap, at_corners[used], np.einsum("fij,fj->fi", basis[used], overlap.gap[used]))
    return operator, area, gap


def _merge_tiny(
    area: Array, active: NDArray[np.int64], listed: NDArray[np.int64] | None, quads: NDArray[np.int64], facet: Array
) -> tuple[sp.csr_matrix, NDArray[np.int64]]:
    """Operator (n_kept × n_nodes) that adds rows of tiny weight to the heaviest node of their facets.

    The ``listed`` nodes are kept, those that give their weight away without one; without a list, what is left. facet
    (k,): areas of the quads, which nodes may be of any size beside.
    """
    tiny = np.zeros(len(area), bool)
    if len(active):
        share = np.broadcast_to((facet / quads.shape[1])[:, None], quads.shape)
        own = np.bincount(quads.ravel(), share.ravel(), minlength=len(area))
        tiny[active] = area[active] < TINY_WEIGHT * own[active]
    target = np.arange(len(area))
    for quad in quads[tiny[quads].any(axis=1)]:
        heavy = quad[np.argmax(area[quad])]
        for node in quad[tiny[quad]]:
            if area[heavy] > area[target[node]] or target[node] == node:
                target[node] = heavy
    for _ in range(4):
        target = target[target]
    kept = np.unique(target[active]) if listed is None else listed
    position = np.full(len(area), -1)
    position[kept] = np.arange(len(kept))
    return sp.csr_matrix((np.ones(len(active)), (position[target[active]], active)), shape=(len(kept), len(area))), kept


def _edge_length(nodes: Array, edges: NDArray[np.int64]) -> float:
    return float(np.linalg.norm(nodes[edges[:, 1]] - nodes[edges[:, 0]], axis=1).mean())


def _frames(nodes: Array, quads: NDArray[np.int64], kept: NDArray[np.int64], model: Model, arcs: Array | None) -> Array:
    """Local axes (n, 3, 3) of contact nodes; tangents follow the coordinate axes on flat faces, and on any what holds
    the node askew to these: a node that is held one way slides along the other alone."""
    across = model.across_symmetry
    vector = np.zeros((len(nodes), 3))
    normals = facet_normals(nodes, quads)
    for k in range(corner_count(quads)):
        own = normals if arcs is None else _true_normals(nodes[quads[:, k]], normals, arcs)
        np.add.at(vector, quads[:, k], own)
    for node in np.intersect1d(kept, list(across)).tolist():
        mirrored = vector[node] - across[node].T @ (across[node] @ vector[node])
        # A face that lies in the plane of symmetry itself keeps its normal.
        vector[node] = mirrored if np.abs(mirrored).max() > 1e-6 else vector[node]
    normal = -vector[kept] / np.linalg.norm(vector[kept], axis=1, keepdims=True)
    frame = _frames_along(normal, in_plane=is_edges(quads))
    askew = model.held_askew
    for at in np.flatnonzero(np.isin(kept, list(askew))).tolist() if not is_edges(quads) else []:
        along = askew[int(kept[at])] - (askew[int(kept[at])] @ normal[at]) * normal[at]
        if np.linalg.norm(along) > 1e-6:
            frame[at, 0] = along / np.linalg.norm(along)
            frame[at, 1] = np.cross(normal[at], frame[at, 0])
    return frame


def _true_normals(corner: Array, normals: Array, arcs: Array) -> Array:
    """Normals (n, 3) of facets at one corner (n, 3) of each: those of the curve that a facet of a round face stands for
    (see `face_arcs`)."""
    away = corner - arcs[:, :3]
    away = away - np.einsum("ni,ni->n", away, arcs[:, 3:6])[:, None] * arcs[:, 3:6]
    length = np.linalg.norm(away, axis=1)
    is_round = (arcs[:, 6] != 0) & (length > 0)
    out = normals.copy()
    out[is_round] = (np.sign(arcs[:, 6]) / np.maximum(length, 1e-300))[is_round, None] * away[is_round]
    return out


def _frames_along(normal: Array, *, in_plane: bool) -> Array:
    """Local axes (n, 3, 3) with these normals; tangents follow the plane, or the coordinate axes on flat faces."""
    if in_plane:
        t1 = np.column_stack([-normal[:, 1], normal[:, 0], np.zeros(len(normal))])
        return np.stack([t1, np.cross(normal, t1), normal], axis=1)
    axis = np.eye(3)[np.argmin(np.abs(normal.round(9)), axis=1)]
    t1 = axis - np.einsum("ij,ij->i", axis, normal)[:, None] * normal
    t1 /= np.linalg.norm(t1, axis=1, keepdims=True)
    t2 = np.cross(normal, t1)
    return np.stack([t1, t2, normal], axis=1)


def _vector_rows(scalar: sp.csr_matrix, frame: Array) -> sp.csr_matrix:
    """Rows for t1, t2 and n of each node from the scalar operator."""
    coo = scalar.tocoo()
    n = scalar.shape[0]
    rows = 3 * coo.row[:, None, None] + np.arange(3)[None, :, None]
    columns = 3 * coo.col[:, None, None] + np.arange(3)[None, None, :]
    data = coo.data[:, None, None] * frame[coo.row]
    shape = (len(coo.data), 3, 3)
    return sp.csr_matrix(
        (data.ravel(), (np.broadcast_to(rows, shape).ravel(), np.broadcast_to(columns, shape).ravel())),
        shape=(3 * n, 3 * scalar.shape[1]),
    )
