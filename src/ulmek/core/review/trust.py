"""How far figures can be trusted on their mesh: bands from what neighbours disagree by, and whether a contact has
enough elements across what presses."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.sparse.csgraph import connected_components

from ulmek.core.contact.meetings import Meetings
from ulmek.core.layout import lay_out
from ulmek.core.mesh.facets import corners_of, is_edges, sides_of
from ulmek.core.model import Model
from ulmek.core.review.singular import SingularPlace, cut_nodes, singular_places
from ulmek.core.solve.state import State

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Nodes that press by this share of the highest belong to its peak.
PEAK = 0.8
# A peak that differs from its neighbours by this share of itself stands alone.
ALONE = 0.95
# Patches that carry less than this share of what the strongest carries are not judged.
MINOR = 0.1
# So many times what the elements at a node disagree by is how far its stress may be off.
OFF = 1.0
# On fewer elements across what presses its peak is not shown at all.
SHOWN = 3
# Contact nodes that are covered by less than this share of their area are read with their neighbours.
COVERED = 0.98
# Gaps that differ by less than this share of a facet are alike.
SEATED = 1e-3


# Between what number it lies, on this mesh; nothing above it where there is no saying how high.
Band = tuple[float, float | None]


@dataclass(frozen=True)
class PairTrust:
    """What is known of a pair before it is loaded: which contact nodes share a facet (n, n), the gap at each (n,) mm,
    how large the facets there are (n,) mm, the rim of the faces that it lies on (n,), −1 inside, and the area (n,) mm²
    that is its own where the facets are covered whole, 0 where that is not known, and whether it lies where an edge
    presses (n,)."""

    neighbours: sp.csr_matrix
    start_gap: Array
    size: Array
    rims: Ids
    whole: Array
    at_edge: NDArray[np.bool_]


@dataclass(frozen=True)
class Known:
    """What is known before anything is loaded: of every pair in their order, where stress is singular, and which faces
    are in no pair."""

    pairs: list[PairTrust]
    singular: list[SingularPlace]
    meetings: Meetings


def known_of(model: Model, start: State) -> Known:
    """What is known of a model from its ``start``."""
    singular = singular_places(model, start)
    return Known(trust_of(model, start, singular), singular, Meetings(model, lay_out(model)))


def trust_of(model: Model, start: State, singular: Sequence[SingularPlace] = ()) -> list[PairTrust]:
    """What is known of every pair of a model at its ``start``; ``singular``: its singular places."""
    out, first, nodes = [], 0, model.nodes()
    cut = cut_nodes(model)
    for interface in start.interfaces:
        last = first + len(interface.node)
        neighbours = facet_neighbours(model.quads(interface.pair.side_a), interface.node)
        row, col = neighbours.nonzero()
        away = np.linalg.norm(nodes[interface.node[row]] - nodes[interface.node[col]], axis=1)
        number = np.bincount(row, minlength=len(interface.node))
        size = np.bincount(row, away, minlength=len(interface.node)) / np.maximum(number, 1)
        rims = rims_of(model.quads(interface.pair.side_a), interface.node, cut)
        facets = model.quads(interface.pair.side_a)
        whole = _tributary(model, facets, interface.node)
        edges = [p.nodes for p in singular if p.kind == "contact-edge" and p.name == interface.pair.name]
        at_edge = np.isin(interface.node, np.concatenate([*edges, np.zeros(0, np.int64)]))
        out.append(PairTrust(neighbours, start.gap[first:last], size, rims, whole, at_edge))
        first = last
    return out


def band_of_stress(stress: Array, error: Array, limit: Array | float = 1.0) -> Band:
    """Band of the highest of ``stress`` (n,) MPa over ``limit`` (n,) or in MPa, by how far the elements at each node
    disagree (see `Recovered`)."""
    low = np.maximum(stress - OFF * error, 0.0) / limit
    return float(low.max(initial=0.0)), float(((stress + OFF * error) / limit).max(initial=0.0))


def _among(node: Ids, facets: Ids) -> Ids:
    """Facets (k, m) in the numbers of their nodes among the contact nodes (n,), −1 for what is none."""
    position = np.full(int(max(facets.max(initial=0), node.max(initial=0))) + 1, -1)
    position[node] = np.arange(len(node))
    return np.asarray(position[facets])


def facet_neighbours(facets: Ids, node: Ids) -> sp.csr_matrix:
    """Which of the contact nodes (n,) share a facet: (n, n), nothing on the diagonal. facets (k, m) in all nodes."""
    own = _among(node, facets)
    row, col = (np.repeat(own, own.shape[1], axis=1).ravel(), np.tile(own, own.shape[1]).ravel())
    is_link = (row >= 0) & (col >= 0) & (row != col)
    links = sp.csr_matrix((np.ones(int(is_link.sum())), (row[is_link], col[is_link])), shape=(len(node), len(node)))
    links.data[:] = 1.0
    return links


def band_of_peak(values: Array, neighbours: sp.csr_matrix, counts: NDArray[np.bool_] | None = None) -> Band:
    """Band of the highest of ``values`` (n,) ≥ 0: by what the nodes of its peak differ from the mean of their
    neighbours, of those only that ``counts`` (n,) where it is given."""
    shown = np.ones(len(values), bool) if counts is None else counts
    peak = float(values[shown].max(initial=0.0))
    if peak <= 0:
        return 0.0, 0.0
    near = neighbours @ sp.diags(shown.astype(float))
    number = np.asarray(near.sum(axis=1)).ravel()
    at = np.flatnonzero(shown & (values >= PEAK * peak) & (number > 0))
    if not len(at):
        return 0.0, None
    apart = np.abs(values[at] - (near @ values)[at] / number[at])
    off = float(apart.max())
    # A peak that stands alone may be any height.
    return max(peak - off, 0.0), peak + off if off < ALONE * peak else None


def rims_of(facets: Ids, node: Ids, cut: Ids) -> Ids:
    """The rim (n,) that each contact node lies on, −1 inside: edges of one facet alone, each connected run of them
    by its number. The two ends of an outline are rims. Edges between nodes of a plane of symmetry, ``cut``, are none:
    there the faces go on."""
    own = _among(node, corners_of(facets))
    out = np.full(len(node), -1)
    if is_edges(facets):
        ends = np.flatnonzero(np.bincount(own[own >= 0].ravel(), minlength=len(node)) == 1)
        out[ends] = np.arange(len(ends))
        return out
    sides = sides_of(own)
    sides = sides[(sides >= 0).all(axis=1)]
    edges, used = np.unique(sides, axis=0, return_counts=True)
    edges = edges[used == 1]
    is_cut = np.isin(node, cut)[edges].all(axis=1)
    edges = edges[~is_cut]
    at = np.unique(edges)
    graph = sp.csr_matrix((np.ones(len(edges)), (edges[:, 0], edges[:, 1])), shape=(len(node), len(node)))
    out[at] = np.unique(connected_components(graph, directed=False)[1][at], return_inverse=True)[1]
    return out


def leak_pressure(pressure: Array, known: PairTrust) -> float | None:
    """The least pressure (MPa) that has to be overcome from one rim of the faces to another, along the easiest way over
    the nodes (a bottleneck path: Pollack 1960, Operations Research 8, 733–736); None where there is but one rim."""
    if known.rims.max(initial=-1) < 1:
        return None

    def is_through(most: float) -> bool:
        here = np.flatnonzero(pressure <= most)
        piece = connected_components(known.neighbours[here][:, here], directed=False)[1]
        met = np.unique(np.column_stack([piece, known.rims[here]])[known.rims[here] >= 0], axis=0)
        return len(met) > len(np.unique(met[:, 0]))

    steps = np.unique(pressure)
    low, high = 0, len(steps) - 1
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if is_through(float(steps[middle])) else (middle + 1, high)
    return float(steps[low])


def _tributary(model: Model, facets: Ids, node: Ids) -> Array:
    """The area (n,) mm² of the facets about each contact node that is its own when they are covered whole: the integral
    of its shape function; 0 for facets with middle nodes, whose dual functions share them out otherwise."""
    corners = corners_of(facets)
    out = np.zeros(model.offsets()[-1])
    if corners.shape[1] < facets.shape[1]:
        return out[node]
    p = model.nodes()[corners]
    if is_edges(facets):
        length = np.linalg.norm(p[:, 1] - p[:, 0], axis=1)
        r = p[:, :, 0]
        if model.space == "axisymmetric":
            shares = np.pi / 3 * length[:, None] * (r + r.sum(axis=1, keepdims=True))
        else:
            shares = np.repeat(length[:, None] * model.thickness / 2, 2, axis=1)
    else:
        shares = np.zeros(corners.shape)
        turns = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
        for xi, eta in turns / np.sqrt(3):
            along, up = 1 + turns[:, 0] * xi, 1 + turns[:, 1] * eta
            first = np.einsum("c,kcx->kx", turns[:, 0] * up / 4, p)
            second = np.einsum("c,kcx->kx", turns[:, 1] * along / 4, p)
            shares += np.linalg.norm(np.cross(first, second), axis=1)[:, None] * along * up / 4
    np.add.at(out, corners.ravel(), shares.ravel())
    return out[node]


def as_read(known: PairTrust, area: Array, traction: Array) -> Array:
    """What is read of tractions (n, 3) MPa at contact nodes that cover ``area`` (n,) mm²: a node with less than
    `COVERED` of its area has the mean over it and its neighbours. Its own is a force over a sliver, which the next
    mesh has otherwise."""
    around = known.neighbours + sp.identity(len(area), format="csr")
    total = around @ area
    is_partly = (area < COVERED * known.whole) & (total > 0)
    mean = (around @ (traction * area[:, None])) / np.where(total > 0, total, 1.0)[:, None]
    return np.where(is_partly[:, None], mean, traction)


def is_seated(pressure: Array, known: PairTrust) -> bool:
    """Whether what presses and what is beside it lay on each other before, as flat faces and fits do; else the faces
    part beside what presses, and how wide that is comes from how they are bent."""
    pressed = pressure > 0
    here = pressed | (np.asarray(known.neighbours @ pressed.astype(float)).ravel() > 0)
    return not here.any() or bool(np.ptp(known.start_gap[here]) < SEATED * float(known.size[here].mean()))


def pressure_band(pressure: Array, area: Array, known: PairTrust) -> tuple[Band, int | None]:
    """Band of the peak of pressure, and the elements across what presses where the bend of the faces makes its width; a
    peak on fewer than `SHOWN` has no upper end. Nor has one where an edge presses: there pressure grows with every
    finer mesh, and no more is known than that it is above the mean over the faces."""
    low, high = band_of_peak(pressure, known.neighbours)
    across = None if is_seated(pressure, known) else elements_across(pressure, area, known.neighbours)
    pressed = pressure > 0
    if pressed.any() and known.at_edge[pressure.argmax()]:
        return (float((pressure * area).sum() / area.sum()), None), across
    if across is not None and across < SHOWN:
        # What is read is the mean about each node, which the peak is no lower than.
        return (float(pressure.max(initial=0.0)), None), across
    return (low, high), across


def elements_across(pressure: Array, area: Array, neighbours: sp.csr_matrix) -> int | None:
    """Elements across the narrowest patch that presses, where its rim lies on the face; None where none does: what
    presses on the whole face is as wide as the face.

    Counted by layers from what is open: a patch whose middle is the second layer is three elements wide.
    """
    pressed = pressure > 0
    if not pressed.any() or pressed.all():
        return None
    layer = np.where(pressed, np.inf, 0.0)
    front, depth = ~pressed, 0
    while front.any():
        depth += 1
        front = (np.asarray(neighbours @ front.astype(float)).ravel() > 0) & np.isinf(layer)
        layer[front] = depth
    inside = np.flatnonzero(pressed)
    count, piece = connected_components(neighbours[inside][:, inside], directed=False)
    force = np.bincount(piece, (pressure * area)[inside], count)
    deepest = np.full(count, -np.inf)
    np.maximum.at(deepest, piece, layer[inside])
    judged = deepest[(force >= MINOR * force.max()) & np.isfinite(deepest)]
    return int(2 * judged.min() - 1) if len(judged) else None
