"""Revolved solids to bricks: quads of the outline turned about the axis, and a core of stacked discs on it."""

import itertools

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import MeshError
from ulmek.core.geometry.revolved import CORE, CORE_SIDE, RevolvedSolid, height_of
from ulmek.core.mesh import mapped
from ulmek.core.mesh.quad_quality import smooth
from ulmek.core.mesh.quads import PER_TURN, QuadMesh, mesh_partition
from ulmek.core.mesh.size import NO_SPOTS
from ulmek.core.mesh.sweep import MOST_BRICKS, edge_regions
from ulmek.core.mesh.volume import VolumeMesh, check_mesh

Array = NDArray[np.float64]
Ids = NDArray[np.int64]


def mesh_revolved(
    solid: RevolvedSolid, *, size: float, face_sizes: dict[str, float] | None = None, per_turn: int = PER_TURN
) -> VolumeMesh:
    """Bricks of about ``size`` (mm), ``per_turn`` or more round the axis; ``face_sizes`` of named faces (mm).

    Raises
    ------
    MeshError : from the outline mesher, too many elements, or a check of the result that failed.
    """
    # Chords along the profile and round the axis both cut off a ball: the profile has the finer ones.
    along = round(1.25 * per_turn)
    flat = mesh_partition(solid.partition, size=size, face_sizes=face_sizes or {}, per_turn=along)
    widest = float(flat.nodes[:, 0].max())
    turns = int(np.ceil(max(per_turn, 2 * np.pi * widest / size / 2) / 8)) * 8
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
        points, bricks = _add_core(solid, flat, number, points, bricks, len(used), turns, faces)
    named = {name: np.vstack(quads) for name, quads in faces.items()}
    mesh = VolumeMesh(points, bricks, named, arcs={n: a for n, a in arcs.items() if a[:, 6].any()})
    check_mesh(mesh)
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


def _add_core(
    solid: RevolvedSolid, flat: QuadMesh, number: Ids, points: Array, bricks: Ids, per_ring: int, turns: int,
    faces: dict[str, list[Ids]],
) -> tuple[Array, Ids]:  # fmt: skip
    """Discs stacked along the axis, joined to the nodes at the core's side."""
    core = solid.core
    assert core is not None
    side = next(s for s in core.outer if s.name == CORE_SIDE)
    bottom, top = core.outer[0], core.outer[2]
    index = next(i for i, s in enumerate(solid.partition.segments) if s.name == CORE_SIDE)
    levels = np.unique(flat.edges[flat.edge_segment == index])
    levels = levels[np.argsort(flat.nodes[levels, 1])]
    radius = side.start[0]
    angles = 2 * np.pi * np.arange(turns) / turns
    rim = np.column_stack([np.cos(angles), np.sin(angles)])
    disc, quads = mapped.disc(rim, max(1, turns // 12))
    disc = smooth(disc, quads, np.arange(len(disc)) >= turns)
    inside = disc[turns:] * radius
    away = np.hypot(*inside.T)
    low, high = height_of(bottom, away), height_of(top, away)
    ends = flat.nodes[levels[[0, -1]], 1]
    new: list[Array] = []
    layers: list[Ids] = []
    for level in levels:
        share = (flat.nodes[level, 1] - ends[0]) / (ends[1] - ends[0])
        on_rim = number[level] + per_ring * np.arange(turns)
        first = len(points) + len(new) * len(inside)
        layers.append(np.concatenate([on_rim, first + np.arange(len(inside))])[quads])
        new.append(np.column_stack([inside, low + share * (high - low)]))
    stacked = [np.hstack([a, b]) for a, b in itertools.pairwise(layers)]
    faces.setdefault(bottom.name, []).append(layers[0][:, ::-1])
    faces.setdefault(top.name, []).append(layers[-1])
    return np.vstack([points, *new]), np.vstack([bricks, *stacked])
