"""Places where stress grows with every finer mesh: sharp inner corners, edges of what presses, ends of what is held.

There the elastic stress has no value (Williams 1952, J. Appl. Mech. 19, 526–528; at the edge of a flat punch Nadai
1963): what is read is that of the mesh. They are found from the geometry, before anything is loaded.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.mesh.facets import corners_of, facet_normals, is_edges, sides_of
from ulmek.core.model import Face, Model, Support
from ulmek.core.solve.state import State

Array = NDArray[np.float64]
Ids = NDArray[np.int64]
SingularKind = Literal["inner-corner", "contact-edge", "support-end"]

# Facets that meet by more than this make a sharp edge, inside or outside (cosine of 50°).
SHARP = float(np.cos(np.radians(50.0)))
# Edges of two sides of a pair that lie nearer to each other than this share of a facet are flush.
FLUSH = 0.6


@dataclass(frozen=True)
class SingularPlace:
    """Nodes (k,) where stress grows without limit, of all bodies' nodes, and why; name: of the body, pair, support or
    handle. around (m,): with all nodes of the elements there, whose stress follows."""

    kind: SingularKind
    name: str
    nodes: Ids
    around: Ids

    @property
    def key(self) -> str:
        """What tells it from the others of a model, on any mesh."""
        return f"{self.kind} {self.name}"


@dataclass(frozen=True)
class _Skin:
    """The outside of a body: normals and middles (k, 3) of its facets, which of them (k,) lie in planes of symmetry,
    the pairs of them (m, 2) that meet in its edges, and the two ends (m, 2) of each: of a plane section the one node in
    which edges meet, twice."""

    normals: Array
    middles: Array
    is_cut: NDArray[np.bool_]
    meet: Ids
    ends: Ids

    def sharp(self, *, inner: bool) -> Ids:
        """Nodes of edges where facets meet sharply, of inner ones or of outer ones; in a plane of symmetry a facet
        meets its own mirror image."""
        first, second = self.meet.T
        alike = np.einsum("ni,ni->n", self.normals[first], self.normals[second])
        ahead = np.einsum("ni,ni->n", self.middles[second] - self.middles[first], self.normals[first])
        cuts = self.is_cut[first].astype(int) + self.is_cut[second]
        # n' = n - 2 (n·s) s of the image, which lies along s, the normal of the plane.
        ahead = np.where(cuts == 1, alike, ahead)
        alike = np.select([cuts == 1, cuts == 2], [1 - 2 * alike**2, 1.0], alike)
        return np.unique(self.ends[(alike < SHARP) & ((ahead > 0) == inner)])


def singular_places(model: Model, start: State) -> list[SingularPlace]:
    """All singular places of a model, its pairs as they are at the ``start``; beams have none."""
    nodes = model.nodes()
    skins = {b.name: _skin(model, i, nodes) for i, b in enumerate(model.bodies) if b.name not in model.beam_bodies}
    found: list[tuple[SingularKind, str, Ids]] = [
        ("inner-corner", name, skin.sharp(inner=True)) for name, skin in skins.items()
    ]
    outer = [skin.sharp(inner=False) for skin in skins.values()]
    is_sharp = np.zeros(len(nodes), bool)
    is_sharp[np.concatenate([*outer, np.zeros(0, np.int64)])] = True
    for interface in start.interfaces:
        pair = interface.pair
        if pair.side_b and not {f.body for f in (*pair.side_a, *pair.side_b)} & model.beam_bodies:
            amid = _edges_within(model, nodes, is_sharp, interface.node, pair.side_b)
            found.append(("contact-edge", pair.name, amid))
    held: list[Support] = [s for s in model.supports if s.faces and not s.is_symmetry and sum(s.components) > 1]
    cut = cut_nodes(model)
    found += [("support-end", s.name, _rim(model, s.faces, cut)) for s in held]
    found += [("support-end", h.name, _rim(model, h.faces, cut)) for h in model.handles if h.kind == "rigid"]
    cells = [b.mesh.cells + offset for b, offset in zip(model.bodies, model.offsets(), strict=False)]
    return [SingularPlace(kind, name, at, _around(cells, at, len(nodes))) for kind, name, at in found if len(at)]


def _around(cells: list[Ids], at: Ids, count: int) -> Ids:
    """The nodes of all elements that have one of the nodes ``at``."""
    is_met, out = np.zeros(count, bool), np.zeros(count, bool)
    is_met[at] = True
    for own in cells:
        out[own[is_met[own].any(axis=1)]] = True
    return np.flatnonzero(out)


def _skin(model: Model, index: int, nodes: Array) -> _Skin:
    body, offset = model.bodies[index], int(model.offsets()[index])
    cuts = {f.name for s in model.supports if s.is_symmetry for f in s.faces if f.body == body.name}
    by_width: dict[int, list[str]] = {}
    for name, facets in body.mesh.faces.items():
        by_width.setdefault(facets.shape[1], []).append(name)
    # A body has facets of one shape, but for wedges, whose ends are triangles.
    parts = [np.vstack([body.mesh.faces[name] + offset for name in group]) for group in by_width.values()]
    is_cut = np.concatenate([np.full(len(body.mesh.faces[n]), n in cuts) for group in by_width.values() for n in group])
    corners = [corners_of(p) for p in parts]
    widest = max((c.shape[1] for c in corners), default=2)
    flat = np.vstack([np.hstack([c, np.repeat(c[:, :1], widest - c.shape[1], axis=1)]) for c in corners])
    normals = np.vstack([facet_normals(nodes, p) for p in parts])
    middles = np.vstack([nodes[c].mean(axis=1) for c in corners])
    if parts and is_edges(parts[0]):
        sides = np.repeat(flat.reshape(-1, 1), 2, axis=1)
        owner = np.repeat(np.arange(len(flat)), flat.shape[1])
    else:
        sides = sides_of(flat)
        owner = np.repeat(np.arange(len(flat)), widest)
    is_side = (sides[:, 0] != sides[:, 1]) | bool(parts and is_edges(parts[0]))
    sides, owner = sides[is_side], owner[is_side]
    order = np.lexsort(sides.T)
    sides, owner = sides[order], owner[order]
    twin = np.flatnonzero((sides[1:] == sides[:-1]).all(axis=1))
    return _Skin(normals, middles, is_cut, np.column_stack([owner[twin], owner[twin + 1]]), sides[twin])


def cut_nodes(model: Model) -> Ids:
    """Nodes in planes of symmetry, where the machine goes on."""
    cuts = [model.nodes_of(s.faces) for s in model.supports if s.is_symmetry]
    return np.unique(np.concatenate([*cuts, np.zeros(0, np.int64)]))


def _rim(model: Model, faces: tuple[Face, ...], cut: Ids | None = None) -> Ids:
    """Nodes where the faces of each body end; not along the nodes ``cut``, beyond which they go on."""
    is_cut = np.zeros(len(model.nodes()), bool)
    is_cut[[] if cut is None else cut] = True
    out = [np.zeros(0, np.int64)]
    for body in {f.body for f in faces} - model.beam_bodies:
        facets = model.quads(tuple(f for f in faces if f.body == body))
        corners = corners_of(facets)
        if is_edges(facets):
            number, used = np.unique(corners, return_counts=True)
            out.append(number[(used == 1) & ~is_cut[number]])
            continue
        sides = sides_of(corners)
        edges, used = np.unique(sides, axis=0, return_counts=True)
        out.append(np.unique(edges[(used == 1) & ~is_cut[edges].all(axis=1)]))
    return np.concatenate(out)


def _edges_within(
    model: Model, nodes: Array, is_sharp: NDArray[np.bool_], facing: Ids, side_b: tuple[Face, ...]
) -> Ids:
    """Nodes of both sides where a sharp rim of one lies amid the other. facing (n,): nodes of side A that face B."""
    out = [np.zeros(0, np.int64)]
    on_a, on_b = facing, model.nodes_of(side_b)
    size_a, size_b = (_spacing(nodes[on]) for on in (on_a, on_b))
    rim_b = _rim(model, side_b)
    for own_rim, own_size, other, other_rim, other_size in (
        (on_a[is_sharp[on_a]], size_a, on_b, rim_b[is_sharp[rim_b]], size_b),
        (rim_b[is_sharp[rim_b]], size_b, on_a, on_a[is_sharp[on_a]], size_a),
    ):
        if not len(own_rim) or not len(other):
            continue
        away, _ = cKDTree(nodes[other]).query(nodes[own_rim])
        amid = own_rim[away < max(own_size, other_size)]
        if len(other_rim) and len(amid):
            to_rim, _ = cKDTree(nodes[other_rim]).query(nodes[amid])
            amid = amid[to_rim > FLUSH * max(own_size, other_size)]
        if not len(amid):
            continue
        below, _ = cKDTree(nodes[amid]).query(nodes[other])
        out += [amid, other[below < other_size]]
    return np.unique(np.concatenate(out))


def _spacing(points: Array) -> float:
    """How far (mm) neighbours are from each other: the median to the nearest."""
    if len(points) < 2:
        return 0.0
    away, _ = cKDTree(points).query(points, k=2)
    return float(np.median(np.asarray(away)[:, 1]))
