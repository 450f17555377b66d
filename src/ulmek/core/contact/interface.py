"""The interface: relative motion ``w = G u`` of every node of side A of every pair.

Biorthogonal multipliers (Wohlmuth 2000), built facet by facet on the part that B covers, so that
a uniform pressure passes non-matching and partly covered faces exactly. Row signs: the normal row
is positive when the pair opens.
"""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.overlap import Overlap, facet_normals, integrate_overlap
from ulmek.core.errors import InputError
from ulmek.core.model import Model, Pair
from ulmek.core.solve.assembly import surface_forces

Array = NDArray[np.float64]

# Facets covered by less than this use the plain instead of the biorthogonal basis, whose
# coefficients grow without bound as the cover vanishes.
SLIVER = 0.05
# Nodes with a weight below this share of the mean are merged into a neighbour of their facet.
TINY_WEIGHT = 1e-2


@dataclass(frozen=True)
class PairInterface:
    """One pair, discretised. All arrays run over its contact nodes.

    node (n,): global node of side A. area (n,) mm²: weight. gap (n,) mm: weighted gap at the
    start. frame (n, 3, 3): rows t1, t2, normal; the normal points into A, away from B.
    rows : (3n, n_dofs) sparse, per node t1, t2, n. size : mean facet size h of side A (mm).
    least_gap : smallest gap between the faces (mm), inf when they do not face within the search.
    cover : covered share of side A.
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


def build_interface(model: Model, pair: Pair, nodes: Array) -> PairInterface:
    """Integrate one pair and form its rows.

    Raises
    ------
    InputError : the two sides do not face each other anywhere within the search distance.
    """
    quads_a, quads_b = model.quads(pair.side_a), model.quads(pair.side_b)
    overlap = integrate_overlap(nodes, quads_a, quads_b, search=pair.search)
    weights = overlap.mass.sum(axis=(1, 2))
    if not len(overlap.couple) or weights.sum() <= 0:
        raise InputError(
            f"the two sides of pair '{pair.name}' do not face each other within {pair.search:g} mm.",
            where=f"pairs/{pair.name}",
            hint="Check the faces, bring the parts together, or enlarge the search distance.",
        )
    areas_a, _ = surface_forces(nodes, quads_a)
    integrated, area, gap = _integrated_rows(nodes, quads_a, quads_b, overlap)
    active = np.flatnonzero(area > 0)
    merge, kept = _merge_tiny(area, active, quads_a)
    integrated = merge @ integrated
    area, gap = merge @ area, merge @ gap
    frame = _frames(nodes, quads_a, kept)
    scalar = sp.diags(1 / area) @ integrated
    facet = areas_a.sum() / len(quads_a)
    return PairInterface(
        pair=pair,
        node=kept,
        area=area,
        gap=_fitted(pair, gap / area),
        frame=frame,
        rows=_vector_rows(scalar.tocsr(), frame),
        size=float(np.sqrt(facet)),
        # Coordinates carry rounding of about 1e-14 of the model: that is touching, not a gap.
        least_gap=0.0 if abs(overlap.least_gap) < 1e-9 * np.sqrt(facet) else overlap.least_gap,
        cover=float(weights.sum() / areas_a.sum()),
    )


def _fitted(pair: Pair, drawn: Array) -> Array:
    """Gaps as the pair's fit counts them."""
    if pair.fit == "overlap-removed":
        return np.maximum(drawn, 0.0)
    if pair.fit == "closed-up":
        return np.zeros(len(drawn))
    return np.full(len(drawn), -pair.interference) if pair.fit == "value" else drawn


def _integrated_rows(
    nodes: Array, quads_a: NDArray[np.int64], quads_b: NDArray[np.int64], overlap: Overlap
) -> tuple[sp.csr_matrix, Array, Array]:
    """∫ψ (u_A − u_B) as a scalar operator (n_nodes × n_nodes), ∫ψ and ∫ψ g per node of A."""
    n_nodes, mass = len(nodes), overlap.mass
    corner = nodes[quads_a]
    facet = np.linalg.norm(np.cross(corner[:, 2] - corner[:, 0], corner[:, 3] - corner[:, 1]), axis=1) / 2
    weights = mass.sum(axis=2)
    covered = weights.sum(axis=1)
    basis = np.broadcast_to(np.eye(4), mass.shape).copy()
    full = covered > SLIVER * facet
    basis[full] = weights[full][:, :, None] * np.linalg.inv(mass[full])
    a_side = basis @ mass
    b_side = basis[overlap.couple[:, 0]] @ overlap.mixed
    rows_a = quads_a[overlap.couple[:, 0]]
    cols_b = quads_b[overlap.couple[:, 1]]
    used = covered > 0
    entries = [
        (a_side[used], quads_a[used], quads_a[used]),
        (-b_side, rows_a, cols_b),
    ]
    data = np.concatenate([e[0].ravel() for e in entries])
    rows = np.concatenate([np.repeat(e[1], 4, axis=1).ravel() for e in entries])
    columns = np.concatenate([np.tile(e[2], (1, 4)).ravel() for e in entries])
    operator = sp.csr_matrix((data, (rows, columns)), shape=(n_nodes, n_nodes))
    area, gap = np.zeros(n_nodes), np.zeros(n_nodes)
    np.add.at(area, quads_a[used], a_side[used].sum(axis=2))
    np.add.at(gap, quads_a[used], np.einsum("fij,fj->fi", basis[used], overlap.gap[used]))
    return operator, area, gap


def _merge_tiny(
    area: Array, active: NDArray[np.int64], quads: NDArray[np.int64]
) -> tuple[sp.csr_matrix, NDArray[np.int64]]:
    """Operator (n_kept × n_nodes) that adds rows of tiny weight to the heaviest node of their facets."""
    tiny = np.zeros(len(area), bool)
    tiny[active] = area[active] < TINY_WEIGHT * area[active].mean()
    target = np.arange(len(area))
    for quad in quads[tiny[quads].any(axis=1)]:
        heavy = quad[np.argmax(area[quad])]
        for node in quad[tiny[quad]]:
            if area[heavy] > area[target[node]] or target[node] == node:
                target[node] = heavy
    for _ in range(4):
        target = target[target]
    kept = np.unique(target[active])
    position = np.full(len(area), -1)
    position[kept] = np.arange(len(kept))
    return sp.csr_matrix((np.ones(len(active)), (position[target[active]], active)), shape=(len(kept), len(area))), kept


def _frames(nodes: Array, quads: NDArray[np.int64], kept: NDArray[np.int64]) -> Array:
    """Local axes (n, 3, 3) of contact nodes; tangents follow the coordinate axes on flat faces."""
    vector = np.zeros((len(nodes), 3))
    normals = facet_normals(nodes, quads)
    for k in range(4):
        np.add.at(vector, quads[:, k], normals)
    normal = -vector[kept] / np.linalg.norm(vector[kept], axis=1, keepdims=True)
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
