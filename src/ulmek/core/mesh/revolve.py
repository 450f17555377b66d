"""Revolved solids to bricks: quads of the outline turned about the axis, and a core of stacked discs on it."""

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import MeshError
from ulmek.core.geometry.clip import CUT_FACES
from ulmek.core.geometry.cut import POSITIVE, Kept
from ulmek.core.geometry.revolved import CORE, CORE_SIDE, RevolvedSolid, height_of
from ulmek.core.mesh import mapped
from ulmek.core.mesh.counts import enough
from ulmek.core.mesh.quad_quality import smooth
from ulmek.core.mesh.quads import PER_TURN, QuadMesh, mesh_partition
from ulmek.core.mesh.size import NO_SPOTS
from ulmek.core.mesh.sweep import MOST_BRICKS, edge_regions
from ulmek.core.mesh.volume import BRICK_FACES, VolumeMesh, check_mesh

Array = NDArray[np.float64]
# Closer to the axis or a plane through it (mm) is on it.
ON_AXIS = 1e-6
# The square in the middle of a disc reaches so far; a finer one as far as makes its elements fine enough.
PLAIN_CORE, FINE_CORE = 0.6, 1.0
# Nodes of a unit disc that belong in a plane of symmetry are closer to it than this over the elements of a turn.
OFF_PLANE = 0.4
Ids = NDArray[np.int64]


def mesh_revolved(
    solid: RevolvedSolid,
    *,
    size: float,
    face_sizes: dict[str, float] | None = None,
    per_turn: int = PER_TURN,
    spots: Array = NO_SPOTS,
    corners: Array = NO_SPOTS[:, :3],
    found: Array = NO_SPOTS,
) -> VolumeMesh:
    """Bricks of about ``size`` (mm), ``per_turn`` or more round the axis; ``face_sizes`` of named faces (mm).

    ``spots`` (k, 4), x, y, z and size, may lie on the axis alone: the mesh is alike all round. ``corners`` (k, 3):
    radius, height and size of finer places of the profile. ``found`` (k, 4): finer places anywhere; the mesh becomes as
    fine all round.

    Raises
    ------
    MeshError : from the outline mesher, too many elements, or a check of the result that failed.
    """
    # Chords along the profile and round the axis both cut off a ball: the profile has the finer ones.
    along = round(1.25 * per_turn)
    spots, off_axis = _by_axis(solid, spots, found)
    flat = mesh_partition(
        solid.partition, size=size, face_sizes=face_sizes or {}, per_turn=along,
        spots=np.vstack([_spots_of_profile(solid, spots), corners, off_axis]),
    )  # fmt: skip
    widest = float(flat.nodes[:, 0].max())
    round_found = float((2 * np.pi * off_axis[:, 0] / off_axis[:, 2]).max(initial=0.0))
    turns = enough(max(per_turn, 2 * np.pi * widest / size / 2, round_found / 2) / 8) * 8
    names = [r.name for r in solid.partition.regions]
    outer = flat.quads[np.array(names)[flat.region] != CORE]
    if len(outer) * turns > MOST_BRICKS:
        raise MeshError(
            f"a size of {size:g} mm asks for {len(outer) * turns:.2g} elements, more than {MOST_BRICKS:.0e}.",
            where="size", hint="Enlarge the element size.",
        )  # fmt: skip
    used = np.unique(outer)
    number = np.full(len(flat.nodes), -1)
    number[used] = np.arange(len(used))
    angles = 2 * np.pi * np.arange(turns) / turns
    r, z = flat.nodes[used].T
    nodes = np.stack([np.outer(np.cos(angles), r), np.outer(np.sin(angles), r), np.tile(z, (turns, 1))], axis=-1)
    rings = len(used) * np.arange(turns)[:, None, None]
    after = np.roll(rings, -1, axis=0)
    # Counter-clockwise in (r, z) looks back along the turn: the other way round it looks ahead.
    back = number[outer][None, :, [0, 3, 2, 1]]
    bricks = np.concatenate([back + rings, back + after], axis=2).reshape(-1, 8)
    faces, arcs = _faces(solid, flat, number, rings, after)
    points = nodes.reshape(-1, 3)
    if solid.core is not None:
        finest = float(spots[:, 3].min(initial=np.inf))
        points, bricks = _add_core(solid, _Rings(flat, number, len(used), turns), points, bricks, faces, finest)
    named = {name: np.vstack(quads) for name, quads in faces.items()}
    mesh = VolumeMesh(points, bricks, named, arcs={n: a for n, a in arcs.items() if a[:, 6].any()})
    mesh = _kept(mesh, solid.kept)
    check_mesh(mesh)
    return mesh


def _by_axis(solid: RevolvedSolid, spots: Array, found: Array) -> tuple[Array, Array]:
    """Spots on the axis, with those found within the core, and the others found (m, 3): radius, height and size."""
    radius = np.hypot(found[:, 0], found[:, 1])
    core = 0.0 if solid.core is None else next(s for s in solid.core.outer if s.name == CORE_SIDE).start[0]
    inside = radius < core
    on_axis = np.column_stack([np.zeros((int(inside.sum()), 2)), found[inside, 2:]])
    return np.vstack([spots, on_axis]), np.column_stack([radius, found[:, 2:]])[~inside]


def _spots_of_profile(solid: RevolvedSolid, spots: Array) -> Array:
    """Spots (k, 3) of the profile that make it as fine as ``spots`` on the axis: where the core ends beside them."""
    if not len(spots):
        return NO_SPOTS[:, :3]
    if solid.core is None or np.hypot(*spots[:, :2].T).max() > ON_AXIS:
        raise MeshError(
            "a revolved part has finer spots on its axis only: its mesh is alike all round.", where="spots",
            hint="Refine a face, or give the spot x = 0 and y = 0 and a height in the part.",
        )  # fmt: skip
    side = next(s for s in solid.core.outer if s.name == CORE_SIDE)
    ends = np.array([side.start, side.end])
    nearest = np.abs(spots[:, 2, None] - ends[:, 1]).argmin(axis=1)
    return np.column_stack([ends[nearest], spots[:, 3]])


def _kept(mesh: VolumeMesh, kept: Kept) -> VolumeMesh:
    """The bricks of a half or quarter; cut faces lie where the mesh has its planes x = 0 and y = 0."""
    for axis in POSITIVE[kept]:
        inside = mesh.nodes[mesh.cells][:, :, axis].mean(axis=1) > 0
        cut = mesh.cells[inside]
        quads = cut[:, BRICK_FACES].reshape(-1, 4)
        _, first, count = np.unique(np.sort(quads, axis=1), axis=0, return_index=True, return_counts=True)
        alone = quads[first[count == 1]]
        used, cells = np.unique(cut, return_inverse=True)
        number = np.full(len(mesh.nodes), -1)
        number[used] = np.arange(len(used))
        keep = {n: (number[f] >= 0).all(axis=1) for n, f in mesh.faces.items()}
        faces = {n: number[f[keep[n]]] for n, f in mesh.faces.items()}
        on_plane = number[alone[np.abs(mesh.nodes[alone][:, :, axis]).max(axis=1) < ON_AXIS]]
        faces[CUT_FACES[axis]] = on_plane
        arcs = {n: a[keep[n]] for n, a in mesh.arcs.items()}
        mesh = VolumeMesh(mesh.nodes[used], cells.reshape(cut.shape), faces, arcs=arcs)
    return mesh


def mesh_profile(
    solid: RevolvedSolid,
    *,
    size: float,
    face_sizes: dict[str, float] | None = None,
    per_turn: int = PER_TURN,
    spots: Array = NO_SPOTS,
) -> VolumeMesh:
    """Quads of the profile, x the radius and y the axis, for axisymmetric studies; raises as `mesh_revolved`."""
    flat = mesh_partition(
        solid.partition, size=size, face_sizes=face_sizes or {}, per_turn=per_turn, spots=spots[:, [0, 1, 3]]
    )
    neighbours = edge_regions(flat) >= 0
    faces: dict[str, list[Ids]] = {}
    for side, step in ((0, 1), (1, -1)):
        for segment in np.unique(flat.edge_segment):
            here = (flat.edge_segment == segment) & neighbours[:, side] & ~neighbours[:, 1 - side]
            if here.any():
                name = solid.partition.segments[segment].name
                faces.setdefault(name, []).append(flat.edges[here][:, ::step])
    nodes = np.column_stack([flat.nodes, np.zeros(len(flat.nodes))])
    mesh = VolumeMesh(nodes, flat.quads, {name: np.vstack(edges) for name, edges in faces.items()})
    check_mesh(mesh)
    return mesh


def _faces(
    solid: RevolvedSolid, flat: QuadMesh, number: Ids, rings: Ids, after: Ids
) -> tuple[dict[str, list[Ids]], dict[str, Array]]:
    """Faces that segments sweep, and true radii of those that are cylinders."""
    names = np.array([r.name for r in solid.partition.regions] + [CORE])
    neighbours = names[edge_regions(flat)] != CORE
    faces: dict[str, list[Ids]] = {}
    radii: dict[str, list[Array]] = {}
    for segment in np.unique(flat.edge_segment):
        drawn = solid.partition.segments[segment]
        for side, step in ((0, 1), (1, -1)):
            here = (flat.edge_segment == segment) & neighbours[:, side] & ~neighbours[:, 1 - side]
            if drawn.name == CORE_SIDE or not here.any():
                continue
            edges = number[flat.edges[here][:, ::step]][None]
            quads = np.concatenate([edges + rings, (edges + after)[:, :, ::-1]], axis=2)[:, :, [0, 3, 2, 1]]
            faces.setdefault(drawn.name, []).append(quads.reshape(-1, 4))
            upright = drawn.centre is None and abs(drawn.end[0] - drawn.start[0]) < 1e-9
            # Outward lies right of an edge: away from the axis for those that run up.
            ends = flat.nodes[flat.edges[here][:, ::step], 1]
            up = np.sign(ends[:, 1] - ends[:, 0])
            arc = np.zeros((quads.shape[0], quads.shape[1], 7))
            arc[..., 5] = 1.0
            arc[..., 6] = drawn.start[0] * up if upright else 0.0
            radii.setdefault(drawn.name, []).append(arc.reshape(-1, 7))
    return faces, {name: np.vstack(parts) for name, parts in radii.items()}


@dataclass(frozen=True)
class _Rings:
    """How the profile was turned: its mesh, which of its nodes are nodes of a ring, how many, how often."""

    flat: QuadMesh
    number: Ids
    per_ring: int
    turns: int


def _add_core(
    solid: RevolvedSolid, rings: _Rings, points: Array, bricks: Ids, faces: dict[str, list[Ids]], finest: float
) -> tuple[Array, Ids]:
    """Discs stacked along the axis, joined to the nodes at the core's side."""
    flat, number, per_ring, turns = rings.flat, rings.number, rings.per_ring, rings.turns
    core = solid.core
    assert core is not None
    side = next(s for s in core.outer if s.name == CORE_SIDE)
    bottom, top = core.outer[0], core.outer[2]
    index = next(i for i, s in enumerate(solid.partition.segments) if s.name == CORE_SIDE)
    levels = np.unique(flat.edges[flat.edge_segment == index])
    levels = levels[np.argsort(flat.nodes[levels, 1])]
    radius = side.start[0]
    angles = 2 * np.pi * np.arange(turns) / turns
    # Beginning between the axes, a corner of the core's square, the planes x = 0 and y = 0 are lines of the mesh.
    rim = np.roll(np.column_stack([np.cos(angles), np.sin(angles)]), turns // 8, axis=0)
    disc, quads = _disc(rim, radius, finest)
    inside = disc[turns:] * radius
    away = np.hypot(*inside.T)
    low, high = height_of(bottom, away), height_of(top, away)
    ends = flat.nodes[levels[[0, -1]], 1]
    new: list[Array] = []
    layers: list[Ids] = []
    for level in levels:
        share = (flat.nodes[level, 1] - ends[0]) / (ends[1] - ends[0])
        on_rim = number[level] + per_ring * np.roll(np.arange(turns), turns // 8)
        first = len(points) + len(new) * len(inside)
        layers.append(np.concatenate([on_rim, first + np.arange(len(inside))])[quads])
        new.append(np.column_stack([inside, low + share * (high - low)]))
    stacked = [np.hstack([a, b]) for a, b in itertools.pairwise(layers)]
    faces.setdefault(bottom.name, []).append(layers[0][:, ::-1])
    faces.setdefault(top.name, []).append(layers[-1])
    return np.vstack([points, *new]), np.vstack([bricks, *stacked])


def _disc(rim: Array, radius: float, finest: float) -> mapped.Grid:
    """Unit disc with its ``rim`` first; elements in its middle no larger than ``finest`` (mm) for ``radius`` (mm)."""
    turns = len(rim)
    core = FINE_CORE * turns / (2 * np.pi) * finest / radius
    if core < PLAIN_CORE:
        # From the square's elements to those at the rim, each ring wider than the one inside it.
        growth = 1.3
        rows = enough(np.log(1 + (1 - core) / (finest / radius) * (growth - 1)) / np.log(growth))
        return mapped.disc(rim, max(1, rows), reach=core, growth=growth)
    disc, quads = mapped.disc(rim, max(1, turns // 12), reach=PLAIN_CORE)
    disc = smooth(disc, quads, np.arange(len(disc)) >= turns)
    # Smoothing goes node by node: what it moved off the planes of symmetry goes back.
    disc[np.abs(disc) < OFF_PLANE / turns] = 0.0
    return disc, quads
