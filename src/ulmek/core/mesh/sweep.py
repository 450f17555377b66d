"""Layered solids to bricks: the partition's quads swept through the layers."""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import MeshError
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.mesh.arcs import face_arcs
from ulmek.core.mesh.counts import nearest_count
from ulmek.core.mesh.facets import facet_normals
from ulmek.core.mesh.quads import PER_TURN, QuadMesh, mesh_partition
from ulmek.core.mesh.size import GROWTH, NO_SPOTS
from ulmek.core.mesh.volume import VolumeMesh, check_mesh

# More bricks in one part than a run on one machine could solve.
MOST_BRICKS = 1_000_000


@dataclass(frozen=True)
class Layering:
    """How many elements stand on each other through the height of a layered solid.

    ``first``: the number through the first layer, and ``ratio``: the height of the last of them over that of the
    first, each growing on the one before by the same factor. ``through``: the number through what a named face bounds,
    along a side, below a top, above a bottom; where several bound one layer, the most hold. They go before ``first``.
    """

    first: int | None = None
    ratio: float = 1.0
    through: Mapping[str, int] = field(default_factory=dict)


BY_SIZE = Layering()


def mesh_layered(
    solid: LayeredSolid,
    *,
    size: float,
    layering: Layering = BY_SIZE,
    face_sizes: dict[str, float] | None = None,
    per_turn: int = PER_TURN,
    spots: NDArray[np.float64] = NO_SPOTS,
) -> VolumeMesh:
    """Bricks of about ``size`` (mm), or as many through the height as ``layering`` says.

    ``face_sizes`` gives wanted sizes of named faces (mm). Side faces refine their segments;
    horizontal faces refine the whole outline, since a sweep repeats it through the height. ``spots``
    (k, 4): x, y, z and the size wanted there (mm); or (k, 5), with the height of layers there.

    Raises
    ------
    MeshError : from the outline mesher, or a check of the result that failed.
    """
    wanted = face_sizes or {}
    _check_budget(solid, min([size, *wanted.values()]), size)
    segments, outline_size = _plan_sizes(solid, size, wanted)
    flat = mesh_partition(
        solid.partition, size=outline_size, face_sizes=segments, per_turn=per_turn, spots=spots[:, [0, 1, 3]]
    )
    counts = {0: layering.first} if layering.first is not None else {}
    counts |= _counts_through(solid, flat, layering.through)
    heights, layer_of = _levels(solid, size, counts, layering.ratio, spots[:, [2, -1]])
    mesh = _sweep(solid, flat, heights, layer_of)
    check_mesh(mesh)
    return mesh


def mesh_section(
    solid: LayeredSolid,
    *,
    size: float,
    face_sizes: dict[str, float] | None = None,
    per_turn: int = PER_TURN,
    spots: NDArray[np.float64] = NO_SPOTS,
) -> VolumeMesh:
    """Quads of the outline of a solid of one layer, for plane and axisymmetric studies.

    Sizes as in `mesh_layered`; the edges carry the names of the solid's side faces.

    Raises
    ------
    MeshError : from the outline mesher; or the solid has several layers.
    """
    if len(solid.layers) > 1:
        raise MeshError(
            "this recipe has several layers along z, so it has no one section.",
            where="recipe",
            hint="Use a recipe of one layer in a plane study, such as a block, a plate or a disc.",
        )
    wanted = face_sizes or {}
    _check_budget(solid, min([size, *wanted.values()]), None)
    segments, _ = _plan_sizes(solid, size, wanted)
    flat = mesh_partition(solid.partition, size=size, face_sizes=segments, per_turn=per_turn, spots=spots[:, [0, 1, 3]])
    neighbours = edge_regions(flat)
    faces: dict[str, list[NDArray[np.int64]]] = {}
    for segment in np.unique(flat.edge_segment):
        for side, step in ((0, 1), (1, -1)):
            here = (flat.edge_segment == segment) & (neighbours[:, side] >= 0) & (neighbours[:, 1 - side] < 0)
            if here.any():
                name = solid.face_name(solid.layers[0].name, "side", solid.partition.segments[segment].name)
                faces.setdefault(name, []).append(flat.edges[here][:, ::step])
    nodes = np.column_stack([flat.nodes, np.zeros(len(flat.nodes))])
    named = {name: np.vstack(edges) for name, edges in faces.items()}
    mesh = VolumeMesh(nodes, flat.quads, named, arcs=face_arcs(solid, nodes, named))
    check_mesh(mesh)
    return mesh


def _check_budget(solid: LayeredSolid, finest: float, size: float | None) -> None:
    """Refuse more elements than `MOST_BRICKS`, before any work is done. ``size`` along z, None for a section."""
    expected = 0.0
    for layer in solid.layers:
        area = sum(r.polygon().area for r in solid.partition.regions if r.name in layer.regions)
        through = 1.0 if size is None else max(2.0, (layer.top - layer.bottom) / size)
        expected += area / finest**2 * through
    if expected > MOST_BRICKS:
        raise MeshError(
            f"a size of {finest:g} mm asks for about {expected:.2g} elements, more than {MOST_BRICKS:.0e}.",
            where="size",
            hint="Enlarge the element size, or refine single faces only.",
        )


def _plan_sizes(solid: LayeredSolid, size: float, wanted: dict[str, float]) -> tuple[dict[str, float], float]:
    segments: dict[str, float] = {}
    outline = size
    for layer in solid.layers:
        for segment in solid.partition.segments:
            name = solid.face_name(layer.name, "side", segment.name)
            if name in wanted:
                segments[segment.name] = min(wanted[name], segments.get(segment.name, np.inf))
        for region in layer.regions:
            for kind in ("top", "bottom"):
                outline = min(outline, wanted.get(solid.face_name(layer.name, kind, region), np.inf))
    return segments, outline


def _counts_through(solid: LayeredSolid, flat: QuadMesh, through: Mapping[str, int]) -> dict[int, int]:
    """Elements through the height of each layer that one of the named faces bounds."""
    counts: dict[int, int] = {}
    if not through:
        return counts
    levels = np.array([solid.layers[0].bottom, *(layer.top for layer in solid.layers)])
    coarse = _sweep(solid, flat, levels, list(range(len(solid.layers))))
    for face, wanted in through.items():
        if face not in coarse.faces:
            continue
        corners = coarse.nodes[coarse.faces[face]]
        # From a top or a bottom a little inwards; the middle of a side is inside already.
        inwards = -1e-6 * np.ptp(levels) * facet_normals(coarse.nodes, coarse.faces[face])[:, 2]
        bounded = np.unique(np.searchsorted(levels, corners[:, :, 2].mean(axis=1) + inwards) - 1)
        heights = np.diff(levels)[bounded]
        for i, share in zip(bounded.tolist(), wanted * heights / heights.sum(), strict=True):
            counts[i] = max(1, nearest_count(share), counts.get(i, 1))
    return counts


def _levels(
    solid: LayeredSolid, size: float, counts: dict[int, int], ratio: float, spots: NDArray[np.float64]
) -> tuple[NDArray[np.float64], list[int]]:
    heights, layer_of = [solid.layers[0].bottom], []
    for index, layer in enumerate(solid.layers):
        at = np.linspace(layer.bottom, layer.top, 513)
        given = counts.get(index)
        wanted = np.full(len(at), size if given is None else (layer.top - layer.bottom) / given)
        for z, fine in spots:
            wanted = np.minimum(wanted, fine + GROWTH * np.abs(at - z))
        walked = np.concatenate([[0.0], np.cumsum((1 / wanted[1:] + 1 / wanted[:-1]) / 2 * np.diff(at))])
        n = max(given or 2, nearest_count(float(walked[-1])))
        shares = np.linspace(0, 1, n + 1)
        if index == 0 and ratio != 1.0 and n > 1:
            # Heights grow as a geometric series from the first to ``ratio`` times the first.
            growth = ratio ** (1 / (n - 1))
            shares = (growth ** np.arange(n + 1) - 1) / (growth**n - 1)
        heights += list(np.interp(shares * walked[-1], walked, at)[1:])
        layer_of += [index] * n
    return np.array(heights), layer_of


def _sweep(solid: LayeredSolid, flat: QuadMesh, heights: NDArray[np.float64], layer_of: list[int]) -> VolumeMesh:
    n_flat, n_slabs = len(flat.nodes), len(layer_of)
    names = [r.name for r in solid.partition.regions]
    present = np.array([[name in solid.layers[k].regions for name in names] for k in layer_of])
    here = present[:, flat.region]
    bricks = []
    for k in range(n_slabs):
        q = flat.quads[here[k]]
        bricks.append(np.hstack([q + k * n_flat, q + (k + 1) * n_flat]))
    faces: dict[str, list[NDArray[np.int64]]] = {}
    _name_horizontal(solid, flat, here, layer_of, faces)
    _name_sides(solid, flat, present, layer_of, faces)
    all_bricks = np.vstack(bricks)
    used, compact = np.unique(all_bricks, return_inverse=True)
    nodes = np.column_stack([flat.nodes[used % n_flat], heights[used // n_flat]])
    numbers = np.full((n_slabs + 1) * n_flat, -1)
    numbers[used] = np.arange(len(used))
    cut_nodes, cut_above = _cut(solid, heights, all_bricks, nodes, numbers)
    named = {name: numbers[np.vstack(quads)] for name, quads in faces.items()}
    arcs = face_arcs(solid, nodes, named)
    return VolumeMesh(nodes, compact.reshape(all_bricks.shape), named, cut_nodes, cut_above, arcs)


def _name_horizontal(solid, flat, here, layer_of, faces) -> None:  # type: ignore[no-untyped-def]
    n_flat, n_slabs = len(flat.nodes), len(layer_of)
    names = [r.name for r in solid.partition.regions]
    for level in range(n_slabs + 1):
        below = here[level - 1] if level > 0 else np.zeros(len(flat.quads), bool)
        above = here[level] if level < n_slabs else np.zeros(len(flat.quads), bool)
        for kind, free, slab in (("top", below & ~above, level - 1), ("bottom", above & ~below, level)):
            for region in np.unique(flat.region[free]):
                quads = flat.quads[free & (flat.region == region)] + level * n_flat
                name = solid.face_name(solid.layers[layer_of[slab]].name, kind, names[region])
                faces.setdefault(name, []).append(quads if kind == "top" else quads[:, ::-1])


def _name_sides(solid, flat, present, layer_of, faces) -> None:  # type: ignore[no-untyped-def]
    n_flat = len(flat.nodes)
    neighbours = edge_regions(flat)
    for k, layer in enumerate(layer_of):
        left = np.array([r >= 0 and present[k, r] for r in range(present.shape[1])] + [False])
        on_left, on_right = left[neighbours[:, 0]], left[neighbours[:, 1]]
        for segment in np.unique(flat.edge_segment[on_left != on_right]):
            for has, swap in ((on_left & ~on_right, False), (on_right & ~on_left, True)):
                edges = flat.edges[has & (flat.edge_segment == segment)]
                if not len(edges):
                    continue
                a, b = (edges[:, 1], edges[:, 0]) if swap else (edges[:, 0], edges[:, 1])
                quads = np.column_stack([a, b, b + n_flat, a + n_flat]) + k * n_flat
                name = solid.face_name(solid.layers[layer].name, "side", solid.partition.segments[segment].name)
                faces.setdefault(name, []).append(quads)


def edge_regions(flat: QuadMesh) -> NDArray[np.int64]:
    """Region left and right of every boundary edge, −1 where there is none."""
    owner = {}
    for quad, region in zip(flat.quads.tolist(), flat.region.tolist(), strict=True):
        for i in range(4):
            owner[(quad[i], quad[(i + 1) % 4])] = region
    return np.array([[owner.get((a, b), -1), owner.get((b, a), -1)] for a, b in flat.edges.tolist()])


def _cut(
    solid: LayeredSolid,
    heights: NDArray[np.float64],
    all_bricks: NDArray[np.int64],
    nodes: NDArray[np.float64],
    numbers: NDArray[np.int64],
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    cuts = [layer for layer in solid.layers if layer.cut]
    if not cuts:
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    plane = cuts[0].bottom
    at = np.flatnonzero(np.abs(nodes[:, 2] - plane) < 1e-9 * max(1.0, float(np.ptp(heights))))
    bricks = numbers[all_bricks]
    touching = np.isin(bricks, at).any(axis=1)
    above = nodes[bricks].mean(axis=1)[:, 2] > plane
    return at, np.flatnonzero(touching & above)
