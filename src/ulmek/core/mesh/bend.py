"""Bent bars to bricks: quads of the section carried along the path."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import MeshError
from ulmek.core.geometry.bent import BentSolid, Frame
from ulmek.core.mesh.counts import enough, nearest_count
from ulmek.core.mesh.quads import PER_TURN, QuadMesh, mesh_partition
from ulmek.core.mesh.size import GROWTH, NO_SPOTS
from ulmek.core.mesh.sweep import MOST_BRICKS, edge_regions
from ulmek.core.mesh.volume import VolumeMesh, check_mesh

Array = NDArray[np.float64]
Ids = NDArray[np.int64]
# Points along a run at which wanted sizes are looked up.
LOOKS = 257


def mesh_bar(
    solid: BentSolid,
    *,
    size: float,
    face_sizes: dict[str, float] | None = None,
    per_turn: int = PER_TURN,
    spots: Array = NO_SPOTS,
) -> VolumeMesh:
    """Bricks of about ``size`` (mm), ``per_turn`` or more in a full turn of a bend or of the section.

    ``face_sizes``: of named faces (mm); a face of one run makes that run finer, and the section all along.
    ``spots`` (k, 4): x, y, z and the size wanted there; they make the bar finer along its path.

    Raises
    ------
    MeshError : from the outline mesher, too many elements, or a check of the result that failed.
    """
    wanted = face_sizes or {}
    segments: dict[str, float] = {}
    for run in solid.runs:
        for segment in solid.partition.segments:
            own = wanted.get(solid.side_name(run.name, segment.name), np.inf)
            segments[segment.name] = min(own, segments.get(segment.name, np.inf))
    finest = {name: value for name, value in segments.items() if np.isfinite(value)}
    ends = [wanted[e] for e in solid.ends if e in wanted]
    flat = mesh_partition(
        solid.partition, size=min([size, *ends]), face_sizes=finest, per_turn=per_turn, spots=NO_SPOTS[:, :3]
    )
    stations, run_of = _stations(solid, size, wanted, per_turn, spots)
    count = len(flat.quads) * len(run_of)
    if count > MOST_BRICKS:
        raise MeshError(
            f"a size of {size:g} mm asks for {count:.2g} elements, more than {MOST_BRICKS:.0e}.", where="size",
            hint="Enlarge the element size.",
        )  # fmt: skip
    n, closed = len(flat.nodes), solid.is_closed
    planes = stations[:-1] if closed else stations
    nodes = np.vstack([frame.place(flat.nodes) for frame in planes])
    first = n * np.arange(len(run_of))
    after = np.roll(first, -1) if closed else first + n
    bricks = np.concatenate(
        [np.hstack([flat.quads + low, flat.quads + high]) for low, high in zip(first, after, strict=True)]
    )
    faces = _sides(solid, flat, run_of, first, after)
    if not closed:
        for end, quads in zip(solid.ends, (flat.quads[:, ::-1], flat.quads + n * len(run_of)), strict=True):
            faces.setdefault(end, []).append(quads)
    named = {name: np.vstack(quads) for name, quads in faces.items()}
    mesh = VolumeMesh(nodes, bricks, named, arcs=_arcs(solid, nodes, named))
    check_mesh(mesh)
    return mesh


def _stations(
    solid: BentSolid, size: float, wanted: dict[str, float], per_turn: int, spots: Array
) -> tuple[list[Frame], Ids]:
    """Frames between which the elements stand, and the run that each element is in."""
    reach = float(np.hypot(*solid.outline().T).max())
    frames, run_of = [solid.start], []
    for i, (run, begin) in enumerate(solid.placed_runs()):
        names = {solid.side_name(run.name, s.name) for s in solid.partition.segments} - solid.flats
        here = min([size, *(wanted[n] for n in names if n in wanted)])
        shares = np.linspace(0, 1, LOOKS)
        sizes = np.full(LOOKS, here)
        places = np.array([run.at(begin, float(t)).origin for t in shares])
        for x, y, z, fine in spots:
            away = np.maximum(np.linalg.norm(places - [x, y, z], axis=1) - reach, 0.0)
            sizes = np.minimum(sizes, fine + GROWTH * away)
        walked = np.concatenate([[0.0], np.cumsum((1 / sizes[1:] + 1 / sizes[:-1]) / 2 * run.path / (LOOKS - 1))])
        least = enough(per_turn * run.angle / (2 * np.pi)) if run.is_bend else 1
        count = max(1, least, nearest_count(float(walked[-1])))
        at = np.interp(np.arange(1, count + 1) / count * walked[-1], walked, shares)
        frames += [run.at(begin, float(t)) for t in at]
        run_of += [i] * count
    return frames, np.array(run_of)


def _sides(solid: BentSolid, flat: QuadMesh, run_of: Ids, first: Ids, after: Ids) -> dict[str, list[Ids]]:
    neighbours = edge_regions(flat) >= 0
    faces: dict[str, list[Ids]] = {}
    for segment in np.unique(flat.edge_segment):
        for side, step in ((0, 1), (1, -1)):
            here = (flat.edge_segment == segment) & neighbours[:, side] & ~neighbours[:, 1 - side]
            if not here.any():
                continue
            a, b = flat.edges[here][:, ::step].T
            for i, run in enumerate(solid.runs):
                low, high = first[run_of == i], after[run_of == i]
                quads = np.stack(
                    [a + low[:, None], b + low[:, None], b + high[:, None], a + high[:, None]], axis=-1
                ).reshape(-1, 4)
                name = solid.side_name(run.name, solid.partition.segments[segment].name)
                faces.setdefault(name, []).append(quads)
    return faces


def _arcs(solid: BentSolid, nodes: Array, faces: dict[str, Ids]) -> dict[str, Array]:
    """True radii of the round faces of straight runs, as `face_arcs` gives them; bends are left to their facets."""
    found: dict[str, Array] = {}
    for run, frame in solid.placed_runs():
        for segment in solid.partition.segments:
            name = solid.side_name(run.name, segment.name)
            if run.is_bend or segment.centre is None or name in solid.flats:
                continue
            arcs = found.setdefault(name, _flat_arcs(len(faces[name]), frame))
            _add_arc(arcs, frame, segment.centre, segment.radius, nodes[faces[name]])
    return {name: arcs for name, arcs in found.items() if arcs[:, 6].any()}


def _flat_arcs(count: int, frame: Frame) -> Array:
    arcs = np.zeros((count, 7))
    arcs[:, 3:6] = frame.axes[2]
    return arcs


def _add_arc(arcs: Array, frame: Frame, centre: tuple[float, float], radius: float, corners: Array) -> None:
    """Enter the facets that lie on the cylinder of one arc of the section along a straight run."""
    local = (corners - frame.origin) @ frame.axes[:2].T
    away = local - centre
    on = np.abs(np.hypot(away[..., 0], away[..., 1]) - radius).max(axis=1) < 1e-7 * max(radius, 1.0)
    along = local[:, 1] - local[:, 0]
    outward = np.column_stack([along[:, 1], -along[:, 0]])
    side = np.sign(np.einsum("nd,nd->n", away.mean(axis=1), outward))
    arcs[on, :3] = frame.place(np.array([centre]))
    arcs[on, 6] = side[on] * radius
