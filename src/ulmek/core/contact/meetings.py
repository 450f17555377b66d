"""Faces that are in no pair and meet while a study runs: nothing keeps them from going through each other."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.contact.interface import wall_distance
from ulmek.core.layout import Layout
from ulmek.core.mesh.facets import corners_of, drawn_triangles, facet_normals, is_edges
from ulmek.core.model import Body, Face, Model, Wall

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# What is behind a facet by more than this share of the facet's size has met it; deeper than half of it, it is behind
# something else.
DEEP, DEEPEST = 0.01, 0.5
# What was drawn behind by more than this share was not met.
DRAWN = 1e-3
# Cosine between the normals of what can meet: it looks at what it comes to, if not squarely.
FACING = -0.3
# Facets that are nearest to a node, of which it may be behind one.
NEAREST = 12
# How far beyond its outline a facet still counts, as a share of it.
BESIDE = 0.02


@dataclass(frozen=True)
class Meeting:
    """Faces that have met and are in no pair, or one and a datum wall: by how much its deepest node is behind (mm),
    where that is, how large the facets of the finer face are (mm), and how many nodes are."""

    a: Face
    b: Face | None
    wall: str | None
    at: tuple[float, float, float]
    depth: float
    size: float
    nodes: int


@dataclass(frozen=True)
class _Skin:
    """Skin of one body in nodes of all: nodes of its faces with their face (n,), and facets (k, 2) or (k, 3) by their
    corners with theirs (k,)."""

    node: Ids
    node_face: Ids
    facets: Ids
    facet_face: Ids

    def normals(self, at: Array) -> tuple[Array, Array]:
        """Unit normals of the facets (k, 3), and at the nodes (n, 3) as the mean of their own face's."""
        # Edges are facets themselves; triangles that draw facets are none.
        own = facet_normals(at, self.facets) if self.facets.shape[1] == 2 else _across(at[self.facets])
        # Numbers of (face, node), so that a node has a normal for each of its faces.
        base = int(self.node.max(initial=0)) + 1
        keys = self.node_face * base + self.node
        order = np.argsort(keys)
        place = order[np.searchsorted(keys[order], self.facet_face[:, None] * base + self.facets)]
        total = np.zeros((len(self.node), 3))
        for column in place.T:
            np.add.at(total, column, own)
        return own, total / np.maximum(np.linalg.norm(total, axis=1, keepdims=True), 1e-300)


class Meetings:
    """Watches the faces of a model for what no pair watches."""

    def __init__(self, model: Model, layout: Layout) -> None:
        self.model, self.layout, self.start = model, layout, model.nodes()
        self.faces = [Face(b.name, name) for b in model.bodies for name in b.mesh.faces]
        self._number = {face: n for n, face in enumerate(self.faces)}
        self._skins = [self._skin(b) for b in model.bodies]
        self._first = [s.normals(self.start)[0] for s in self._skins]
        self._least = np.array([_sizes(self.start[s.facets]).min() for s in self._skins])
        # Of each face, the faces that it is in a pair with; of each node, its faces.
        self._paired: dict[int, set[int]] = {}
        for pair in model.pairs:
            sides = [[self._number[f] for f in side] for side in (pair.side_a, pair.side_b)]
            for mine, others in (sides, sides[::-1]):
                for face in mine:
                    self._paired.setdefault(face, set()).update(others)
        self._sizes = [float(np.median(_sizes(self.start[corners_of(model.quads((f,)))]))) for f in self.faces]
        self._faces_at: dict[int, set[int]] = {}
        for skin in self._skins:
            for node, face in zip(skin.node.tolist(), skin.node_face.tolist(), strict=True):
                self._faces_at.setdefault(node, set()).add(face)

    def found(self, u: Array) -> tuple[Meeting, ...]:
        """What has met where nodes and handles have moved by ``u`` (n_points, 3) mm, the deepest first."""
        now = self.start + u[: len(self.start)]
        hits: dict[tuple[int, int], list[_Hit]] = {}
        may = self._may_meet(u, now)
        looks = {k: s.normals(now) for k, s in enumerate(self._skins) if may[k].any() or may[:, k].any()}
        for j in np.flatnonzero(may.any(axis=0)).tolist():
            behind = _Behind(self._skins[j], (self.start, now), (self._first[j], looks[j][0]))
            for i in np.flatnonzero(may[:, j]).tolist():
                for face, facet_face, hit in behind.of(self._skins[i], looks[i][1], is_own=i == j):
                    if not any(facet_face in self._paired.get(f, ()) for f in self._faces_at[hit.node]):
                        key = (min(face, facet_face), max(face, facet_face))
                        hits.setdefault(key, []).append(hit)
        met = [self._meeting(self.faces[a], self.faces[b], None, found, now) for (a, b), found in hits.items()]
        met += [m for wall in self.model.walls for m in self._at_wall(wall, u, now)]
        return tuple(sorted(met, key=lambda m: -m.depth))

    def _skin(self, body: Body) -> _Skin:
        numbers = [self._number[Face(body.name, name)] for name in body.mesh.faces]
        sides = [self.model.quads((self.faces[n],)) for n in numbers]
        facets = [corners_of(s) if is_edges(s) else drawn_triangles(s) for s in sides]
        nodes = [np.unique(f) for f in facets]
        # The triangles of a wedge name a corner twice: of the two that draw them one has no area.
        whole = [f[(f[:, :1] != f[:, 1:]).all(axis=1) & (f[:, 1] != f[:, -1]) | (f.shape[1] == 2)] for f in facets]
        return _Skin(
            np.concatenate(nodes),
            np.repeat(numbers, [len(n) for n in nodes]),
            np.vstack(whole),
            np.repeat(numbers, [len(f) for f in whole]),
        )

    def _may_meet(self, u: Array, now: Array) -> NDArray[np.bool_]:
        """Whether nodes of body i (row) can have come behind facets of body j (column): their boxes overlap, and they
        have moved against each other, or one in itself, by what it takes at least."""
        moved, at = [u[s.node] for s in self._skins], [now[s.node] for s in self._skins]
        low, high = np.array([p.min(axis=0) for p in at]), np.array([p.max(axis=0) for p in at])
        middle = np.array([m.mean(axis=0) for m in moved])
        beside = np.array([np.linalg.norm(m - c, axis=1).max() for m, c in zip(moved, middle, strict=True)])
        apart = np.linalg.norm(middle[:, None] - middle, axis=2) + beside[:, None] + beside
        overlap = (low[:, None] <= high).all(axis=2) & (high[:, None] >= low).all(axis=2)
        return np.asarray(overlap & (apart > (DEEP - DRAWN) * self._least))

    def _at_wall(self, wall: Wall, u: Array, now: Array) -> Iterator[Meeting]:
        """Faces that have met a datum wall, of the bodies that are in a pair with it: for others it may be no wall."""
        meant = [f for p in self.model.pairs if p.wall == wall.name for f in p.side_a]
        bodies = {f.body for f in meant}
        at, motion = None, None
        if wall.handle is not None:
            at = next(h.at for h in self.model.handles if h.name == wall.handle)
            row = self.layout.handles[wall.handle]
            motion = u[row : row + 2].ravel()
        watched = self.model.nodes_of(tuple(meant))
        for body, skin in zip(self.model.bodies, self._skins, strict=True):
            if body.name not in bodies:
                continue
            size = np.array([self._sizes[n] for n in skin.node_face])
            before, _ = wall_distance(wall, self.start[skin.node], at, None)
            gap, away = wall_distance(wall, now[skin.node], at, motion)
            behind = (gap < -DEEP * size) & (before > -DRAWN * size) & ~np.isin(skin.node, watched)
            behind &= np.einsum("ij,ij->i", skin.normals(now)[1], away) < FACING
            for number in np.unique(skin.node_face[behind]).tolist():
                here = behind & (skin.node_face == number)
                found = [_Hit(-g, n) for g, n in zip(gap[here].tolist(), skin.node[here].tolist(), strict=True)]
                yield self._meeting(self.faces[number], None, wall.name, found, now)

    def _meeting(self, a: Face, b: Face | None, wall: str | None, found: list["_Hit"], now: Array) -> Meeting:
        deepest = max(found)
        x, y, z = now[deepest.node].tolist()
        size = min(self._sizes[self._number[face]] for face in (a, b) if face is not None)
        return Meeting(a, b, wall, (x, y, z), deepest.depth, size, len({hit.node for hit in found}))


class _Hit(NamedTuple):
    """A node that is behind a facet by ``depth`` (mm)."""

    depth: float
    node: int


class _Behind:
    """Looks for nodes that are behind the facets of one body, and were not at the start."""

    def __init__(self, skin: _Skin, at: tuple[Array, Array], normals: tuple[Array, Array]) -> None:
        """``at``, ``normals``: all nodes (n, 3) mm, and unit normals (k, 3) of the facets, at the start and now."""
        self.skin, (self.start, self.now), (self.first, self.normal) = skin, at, normals
        self.before, self.corners = self.start[skin.facets], self.now[skin.facets]
        self.size = _sizes(self.corners)
        self.tree = cKDTree(self.corners.mean(axis=1))
        self.low, self.high = self.corners.min(axis=(0, 1)), self.corners.max(axis=(0, 1))

    def of(self, other: _Skin, looks: Array, *, is_own: bool) -> Iterator[tuple[int, int, _Hit]]:
        """Nodes of another skin or of its own, ``looks`` (n, 3) being their normals: their face, the facet's face, and
        how deep they are."""
        at = self.now[other.node]
        inside = np.flatnonzero(((at >= self.low) & (at <= self.high)).all(axis=1))
        if not len(inside):
            return
        at = at[inside]
        looks = looks[inside]
        number = min(NEAREST, len(self.skin.facets))
        _, near = self.tree.query(at, k=number, distance_upper_bound=2 * float(self.size.max()))
        which, facet = np.divmod(np.flatnonzero((near < len(self.size)).ravel()), number)
        facet = near.reshape(len(at), number)[which, facet]
        keep = np.einsum("ij,ij->i", looks[which], self.normal[facet]) < FACING
        which, facet = which[keep], facet[keep]
        depth, within = _against(at[which], self.corners[facet], self.normal[facet])
        keep = within & (depth > DEEP * self.size[facet]) & (depth < DEEPEST * self.size[facet])
        which, facet, depth = which[keep], facet[keep], depth[keep]
        node = other.node[inside[which]]
        drawn, within = _against(self.start[node], self.before[facet], self.first[facet])
        was = drawn > DRAWN * self.size[facet]
        if not is_own:
            was &= within & (drawn < self.size[facet])
        faces = other.node_face[inside[which]], self.skin.facet_face[facet]
        for k in np.flatnonzero(~was).tolist():
            yield int(faces[0][k]), int(faces[1][k]), _Hit(float(depth[k]), int(node[k]))


def _across(corners: Array) -> Array:
    """Unit normals (k, 3) of triangles by their corners (k, 3, 3)."""
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.asarray(normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300))


def _sizes(corners: Array) -> Array:
    """Longest side (k,) of facets by their corners (k, c, 3)."""
    return np.asarray(np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1))


def _against(points: Array, corners: Array, normal: Array) -> tuple[Array, NDArray[np.bool_]]:
    """How far points (n, 3) are behind facets with these corners (n, c, 3) and normals, and whether within them."""
    arm = points - corners[:, 0]
    depth = -np.einsum("ij,ij->i", arm, normal)
    sides = corners[:, 1:] - corners[:, :1]
    if sides.shape[1] == 1:
        along = np.einsum("ij,ij->i", arm, sides[:, 0]) / np.einsum("ij,ij->i", sides[:, 0], sides[:, 0])
        return depth, (along > -BESIDE) & (along < 1 + BESIDE)
    gram = np.einsum("nij,nkj->nik", sides, sides)
    right = np.einsum("nij,nj->ni", sides, arm)
    det = gram[:, 0, 0] * gram[:, 1, 1] - gram[:, 0, 1] ** 2
    s = (gram[:, 1, 1] * right[:, 0] - gram[:, 0, 1] * right[:, 1]) / det
    t = (gram[:, 0, 0] * right[:, 1] - gram[:, 0, 1] * right[:, 0]) / det
    return depth, (s > -BESIDE) & (t > -BESIDE) & (s + t < 1 + BESIDE)
