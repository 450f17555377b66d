"""Free-form solids to second-order tetrahedra: a skin on the true surface, points within, Delaunay, mended."""

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import Delaunay, cKDTree

from ulmek.core.errors import MeshError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Patch, Shape
from ulmek.core.geometry.recognise import face_names
from ulmek.core.geometry.winding import winding
from ulmek.core.mesh.edges import EdgeSizes, no_edge
from ulmek.core.mesh.size import NO_SPOTS
from ulmek.core.mesh.surface import (
    GROWTH,
    Progress,
    SurfaceMesh,
    apart,
    local_size,
    mesh_surface,
    silent,
    steps,
)
from ulmek.core.mesh.tet_quality import Improver
from ulmek.core.mesh.tets import TET_EDGES, with_middles
from ulmek.core.mesh.volume import VolumeMesh, check_mesh
from ulmek.core.mesh.walls import wall_thickness

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Inner points keep this share of the local size from the skin, and lie off their lattice by this share of it.
FROM_SKIN, JITTER = 0.62, 0.03
# Elements below this least dihedral angle (degrees) are worked on; what stays below the second is refused.
WANTED, LEAST = 14.0, 5.0
# Attempts to bring the skin into the tetrahedra, and meshes tried, each finer by the factor.
RECOVERIES, ATTEMPTS, FINER = 8, 3, 0.8
# Points of one lattice want sizes up to so many times its spacing: those of the next begin there.
NEXT = 1.17
MOST_TETS = 2_000_000
# Points of a lattice over the whole box of a solid, at most.
MOST_POINTS = 1_500_000
# Thin walls make elements as small as they are thick, but no smaller than this share of the size.
THINNEST = 8.0
# Least det J of a curved element over that of the straight one.
LEAST_CURVED = 0.2
# Volume (six times) over the cube of the longest edge at which an element is flat.
FLAT_VOLUME = 1e-6
_CORNERS = np.array([[1, 2, 3], [0, 3, 2], [0, 1, 3], [0, 2, 1]])


def mesh_free(
    shape: Shape,
    *,
    size: float,
    per_turn: int = 24,
    face_sizes: dict[str, float] | None = None,
    edge_sizes: EdgeSizes | None = None,
    spots: Array = NO_SPOTS,
    progress: Progress = silent,
) -> VolumeMesh:
    """Ten-node tetrahedra of about ``size`` (mm), finer where the solid is round, where its walls are thin, on
    ``face_sizes`` of named faces and along ``edge_sizes`` between two (mm), and around ``spots`` (k, 4): x, y, z and
    the size wanted there (mm) on the skin, from which the inside grows. Faces are named as the solid's are.
    ``progress`` is told the stage and the share done.

    Raises
    ------
    MeshError : a face or the inside cannot be meshed at this size nor at finer ones; says where.
    InputError : two faces that do not meet in an edge.
    """
    budget = kernel.volume(shape) / (size**3 / 8)
    if budget > MOST_TETS:
        raise MeshError(
            f"a size of {size:g} mm asks for {budget:.2g} elements, more than {MOST_TETS:.0e}.", where="size",
            hint="Enlarge the element size.",
        )  # fmt: skip
    problem = MeshError("no attempt was made.")
    for attempt in range(ATTEMPTS):
        try:
            wanted = _Wanted(size * FINER**attempt, per_turn, face_sizes or {}, edge_sizes or {}, spots)
            return _attempt(shape, wanted, progress)
        except MeshError as error:
            problem = error
    raise problem


@dataclass(frozen=True)
class _Wanted:
    """Sizes wanted; see `mesh_free`."""

    size: float
    per_turn: int
    faces: dict[str, float]
    edges: EdgeSizes
    spots: Array


def _attempt(shape: Shape, wanted: _Wanted, progress: Progress) -> VolumeMesh:
    size = wanted.size
    surfaces = [kernel.surface_of(f) for f in kernel.faces_of(shape)]
    names = face_names(surfaces)
    own_sizes = np.array([wanted.faces.get(n, np.inf) for n in names])
    edges = _edges_by_number(shape, names, wanted.edges)

    def skin_of(sizes: Array) -> SurfaceMesh:
        return mesh_surface(
            shape, size=size, per_turn=wanted.per_turn, face_sizes=list(sizes), edge_sizes=edges, spots=wanted.spots,
            progress=progress,
        )  # fmt: skip

    skin = skin_of(own_sizes)
    thin = np.maximum(wall_thickness(skin, len(names)), size / THINNEST)
    if (thin < np.minimum(own_sizes, size)).any():
        skin = skin_of(np.minimum(own_sizes, thin))
    progress("points inside", 0.45)
    inner = _inner_points(skin, size)
    progress("tetrahedra", 0.55)
    nodes, tets = _recovered(skin, inner)
    faces_of = _faces_of_nodes(skin, len(nodes))
    flat = np.array([s.kind == "plane" for s in surfaces])
    normals = _normals_of_flat(skin, flat, faces_of)
    is_free = (np.arange(len(nodes)) >= len(skin.nodes)) | normals.any(axis=1)
    improver = Improver(nodes, tets, is_free, faces_of, normals)
    progress("shapes of elements", 0.7)
    tets = improver.improve(WANTED)
    worst = improver.worst()
    if worst[0] < LEAST:
        x, y, z = worst[1]
        raise MeshError(
            f"an element near ({x:.4g}, {y:.4g}, {z:.4g}) mm stays flat ({worst[0]:.1f}°).",
            hint="Reduce the mesh size, to less than the thickness of the wall there.",
        )
    named = _named(nodes, tets, skin, faces_of, names)
    used, cells = np.unique(tets, return_inverse=True)
    number = np.full(len(nodes), -1)
    number[used] = np.arange(len(used))
    straight = with_middles(nodes[used], cells.reshape(tets.shape), {n: number[f] for n, f in named.items()})
    progress("round faces", 0.9)
    patches, _ = kernel.patches_of(shape)
    curved = [s.kind != "plane" for s in surfaces]
    return _curved(straight, patches, curved, names, skin, used)


def _edges_by_number(shape: Shape, names: list[str], sizes: EdgeSizes) -> dict[tuple[int, int], float]:
    """Sizes along edges by the numbers of the faces that meet there."""
    patches = kernel.patches_of(shape)[0] if sizes else []
    out = {}
    for (one, other), size in sizes.items():
        pair = (names.index(one), names.index(other)) if one in names and other in names else None
        if pair is None or not set(patches[pair[0]].edges) & set(patches[pair[1]].edges):
            raise no_edge(one, other)
        out[pair] = size
    return out


def _inner_points(skin: SurfaceMesh, size: float) -> Array:
    """Points of body-centred lattices inside the skin, finer towards a fine skin."""
    corners = skin.nodes[skin.triangles]
    middles = corners.mean(axis=1)
    spans = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).mean(axis=1)
    tree, rng = cKDTree(middles), np.random.default_rng(3)
    near_nodes = cKDTree(skin.nodes)
    low, high = skin.nodes.min(axis=0), skin.nodes.max(axis=0)
    kept = []
    for step in steps(size, min(size, float(np.quantile(spans, 0.01)))):
        # Neighbours of a body-centred lattice of period a are 0.87 a apart.
        period = step / 0.87
        begin, end = low + period / 4, high
        if np.prod(end - begin) > MOST_POINTS * period**3:
            # A lattice too large to look all through: nothing is so fine beyond the reach of what is fine enough.
            fine_enough = middles[spans <= NEXT * step]
            if not len(fine_enough):
                continue
            skipped = np.floor((fine_enough.min(axis=0) - NEXT * step / GROWTH - begin) / period)
            begin = begin + period * np.maximum(skipped, 0.0)
            end = np.minimum(high, fine_enough.max(axis=0) + NEXT * step / GROWTH)
        axes = [np.arange(a, b, period) for a, b in zip(begin, end, strict=True)]
        grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
        points = np.vstack([grid, grid + period / 2])
        points += rng.normal(0.0, JITTER * step, points.shape)
        fine, far = local_size(points, tree, spans, size, step)
        fits = (fine <= NEXT * step) & (fine > step / NEXT) & (far > FROM_SKIN * fine)
        points, fine = points[fits], fine[fits]
        apart_from_nodes = near_nodes.query(points)[0] > FROM_SKIN * fine
        points, fine = points[apart_from_nodes], fine[apart_from_nodes]
        inside = winding(points, corners) > 0.5
        kept.append(np.column_stack([points, fine])[inside])
    found = np.vstack(kept)
    return found[apart(found[:, :3], found[:, 3]), :3]


def _recovered(skin: SurfaceMesh, inner: Array) -> tuple[Array, Ids]:
    """Delaunay tetrahedra within the skin; inner points that keep a triangle of it out are taken away."""
    corners = skin.nodes[skin.triangles]
    wanted = np.sort(skin.triangles, axis=1)
    missing = np.zeros(0, np.int64)
    for _ in range(RECOVERIES):
        nodes = np.vstack([skin.nodes, inner])
        tets = Delaunay(nodes).simplices.astype(np.int64)
        facets = _facet_numbers(tets[:, _CORNERS].reshape(-1, 3), len(nodes))
        missing = np.flatnonzero(~np.isin(_facet_numbers(wanted, len(nodes)), facets))
        missing = missing[~_is_turned(skin, missing, facets, len(nodes))]
        if not len(missing):
            break
        centre = corners[missing].mean(axis=1)
        reach = 1.05 * np.linalg.norm(corners[missing] - centre[:, None], axis=2).max(axis=1)
        doomed = np.zeros(len(inner), bool)
        for at, radius in zip(centre, reach, strict=True):
            doomed |= np.linalg.norm(inner - at, axis=1) < radius
        if not doomed.any():
            break
        inner = inner[~doomed]
    if len(missing):
        x, y, z = corners[missing[0]].mean(axis=0)
        raise MeshError(
            f"the surface could not be kept near ({x:.4g}, {y:.4g}, {z:.4g}) mm: walls lie closer than the mesh size.",
            hint="Reduce the mesh size.",
        )
    on_skin = (tets < len(skin.nodes)).all(axis=1)
    inside = np.ones(len(tets), bool)
    inside[on_skin] = winding(nodes[tets[on_skin]].mean(axis=1), corners) > 0.5
    # Four corners on one flat face: neither inside nor outside, and nothing is lost without it.
    e = nodes[tets[:, 1:]] - nodes[tets[:, :1]]
    volume = np.abs(np.einsum("ij,ij->i", np.cross(e[:, 0], e[:, 1]), e[:, 2]))
    flat = on_skin & (volume < FLAT_VOLUME * np.linalg.norm(e, axis=2).max(axis=1) ** 3)
    faces_of = _faces_of_nodes(skin, len(skin.nodes))
    for i in np.flatnonzero(inside & flat):
        inside[i] = not frozenset.intersection(*(faces_of[n] for n in tets[i]))
    tets = tets[inside]
    e = nodes[tets[:, 1:]] - nodes[tets[:, :1]]
    backward = np.einsum("ij,ij->i", np.cross(e[:, 0], e[:, 1]), e[:, 2]) < 0
    tets[backward] = tets[backward][:, [1, 0, 2, 3]]
    return nodes, tets


def _facet_numbers(facets: Ids, count: int) -> Ids:
    """One number for each triangle of ``count`` nodes (`MOST_TETS` keeps it below 2⁶³)."""
    low, middle, high = np.sort(facets, axis=1).T
    return np.asarray((low * count + middle) * count + high)


def _is_turned(skin: SurfaceMesh, missing: Ids, facets: Ids, count: int) -> NDArray[np.bool_]:
    """Which missing triangles are there with their neighbour on the same face, cut along the other diagonal."""
    out = np.zeros(len(missing), bool)
    by_edge: dict[tuple[int, int], list[int]] = {}
    for i in missing:
        t = skin.triangles[i].tolist()
        for a, b in itertools.combinations(sorted(t), 2):
            by_edge.setdefault((a, b), []).append(int(i))
    position = {int(i): k for k, i in enumerate(missing)}
    for (a, b), pair in by_edge.items():
        if len(pair) != 2 or skin.face[pair[0]] != skin.face[pair[1]]:
            continue
        tips = [next(n for n in skin.triangles[i].tolist() if n not in (a, b)) for i in pair]
        turned = np.array([[*tips, a], [*tips, b]])
        if np.isin(_facet_numbers(turned, count), facets).all():
            out[[position[i] for i in pair]] = True
    return out


def _faces_of_nodes(skin: SurfaceMesh, count: int) -> list[frozenset[int]]:
    found: list[set[int]] = [set() for _ in range(count)]
    for t, f in zip(skin.triangles.tolist(), skin.face.tolist(), strict=True):
        for n in t:
            found[n].add(f)
    return [frozenset(f) for f in found]


def _normals_of_flat(skin: SurfaceMesh, flat: NDArray[np.bool_], faces_of: list[frozenset[int]]) -> Array:
    """Normals (n, 3) of the flat face on which a node lies inside; zero for all others."""
    a, b, c = (skin.nodes[skin.triangles[:, i]] for i in range(3))
    across = np.cross(b - a, c - a)
    normals = np.zeros((len(flat), 3))
    np.add.at(normals, skin.face, across)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    out = np.zeros((len(faces_of), 3))
    for n, own in enumerate(faces_of):
        if len(own) == 1 and flat[next(iter(own))]:
            out[n] = normals[next(iter(own))]
    return out


def _named(
    nodes: Array, tets: Ids, skin: SurfaceMesh, faces_of: list[frozenset[int]], names: list[str]
) -> dict[str, Ids]:
    """The free facets, outward, under the name of the face of the solid on which they lie."""
    facets = tets[:, _CORNERS].reshape(-1, 3)
    keys = np.sort(facets, axis=1)
    _, first, count = np.unique(keys, axis=0, return_index=True, return_counts=True)
    own = {tuple(sorted(t)): f for t, f in zip(skin.triangles.tolist(), skin.face.tolist(), strict=True)}
    out: dict[str, list[list[int]]] = {}
    for i in first[count == 1]:
        facet = facets[i].tolist()
        face = own.get(tuple(sorted(facet)))
        if face is None:
            common = frozenset.intersection(*(faces_of[n] for n in facet))
            if len(common) != 1:
                x, y, z = nodes[facet].mean(axis=0)
                raise MeshError(f"the surface near ({x:.4g}, {y:.4g}, {z:.4g}) mm is of no face.", hint="Mesh finer.")
            face = next(iter(common))
        out.setdefault(names[face], []).append(facet)
    return {name: np.array(found, np.int64) for name, found in out.items()}


def _curved(
    mesh: VolumeMesh, patches: list[Patch], curved: list[bool], names: list[str], skin: SurfaceMesh, used: Ids
) -> VolumeMesh:
    """The mesh with the middles of its surface edges on the true surface, as far as no element folds."""
    nodes, straight = mesh.nodes.copy(), mesh.nodes
    on_edge: dict[int, Array] = {}
    number = {int(n): i for i, n in enumerate(used)}
    halves = {(number[a], number[b]): p for (a, b), p in skin.middles.items() if a in number and b in number}
    for index, patch in enumerate(patches):
        facets = mesh.faces.get(names[index])
        if facets is None:
            continue
        inner = set()
        for facet in facets.tolist():
            for k in range(3):
                a, b = sorted((facet[k], facet[(k + 1) % 3]))
                if (a, b) in halves:
                    on_edge[facet[3 + k]] = halves[a, b]
                else:
                    inner.add(facet[3 + k])
        if curved[index] and inner:
            chosen = np.array(sorted(inner))
            nodes[chosen] = patch.nearest(nodes[chosen])
    for n, p in on_edge.items():
        nodes[n] = p
    while True:
        bad = _least_jacobian(nodes, mesh.cells) < LEAST_CURVED * _least_jacobian(straight, mesh.cells)
        back = np.unique(mesh.cells[bad, 4:])
        back = back[np.abs(nodes[back] - straight[back]).max(axis=1) > 0]
        if not len(back):
            break
        nodes[back] = straight[back]
    found = VolumeMesh(nodes, mesh.cells, mesh.faces)
    check_mesh(found)
    return found


def _least_jacobian(nodes: Array, cells: Ids) -> Array:
    """Least det J (m,) over the ten nodes of each element."""
    corners = np.eye(4)
    at = np.vstack([corners, (corners[TET_EDGES[:, 0]] + corners[TET_EDGES[:, 1]]) / 2])
    least = np.full(len(cells), np.inf)
    for share in at:
        slope = np.zeros((10, 4))
        slope[np.arange(4), np.arange(4)] = 4 * share - 1
        for k, (i, j) in enumerate(TET_EDGES):
            slope[4 + k, i], slope[4 + k, j] = 4 * share[j], 4 * share[i]
        local = slope[:, 1:] - slope[:, :1]
        jacobian = np.einsum("mna,nb->mab", nodes[cells], local)
        least = np.minimum(least, np.linalg.det(jacobian))
    return least
