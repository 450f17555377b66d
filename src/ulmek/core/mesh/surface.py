"""Triangles on the faces of exact shapes: edges sampled once, faces filled between them, on the true surface."""

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.errors import MeshError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Edge, Patch, Shape
from ulmek.core.mesh.pave import inside, triangulate
from ulmek.core.mesh.size import NO_SPOTS, SizeField

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Distance of points inside a face from its edges and from each other, as a share of the size.
FROM_EDGE, FROM_EACH_OTHER = 0.62, 0.72
# Points closer than this share of the size are one, in the parameters of a face.
SAME = 1e-6
# Sweeps of smoothing, each after the flips that the one before made worthwhile.
SWEEPS = 8
FEWEST_ROUND_A_CIRCLE = 8
# Lattices of one face are shifted from those of the one before by these shares of a step: of a golden section, so that
# no two faces have theirs alike.
SHIFT = np.array([0.6180339887, 0.3819660113])
# Points along an edge, and along the sides of a face's box, at which sizes are looked up.
GRADING, LOOKS = 400, 120
# Round faces are at most so many times finer than wanted; sizes grow by this share of the way from what is fine, in
# steps of this factor.
FINEST, GROWTH, STEP = 12.0, 0.35, 1.35


@dataclass(frozen=True)
class SurfaceMesh:
    """A closed skin: nodes (n, 3) mm, outward triangles (m, 3), and the number of the face of each (m,).

    middles: where the edges of the solid lie halfway between two neighbouring nodes on them (lower node first).
    """

    nodes: Array
    triangles: Ids
    face: Ids
    middles: dict[tuple[int, int], Array]

    def volume(self) -> float:
        """Volume that the skin encloses (mm³)."""
        a, b, c = (self.nodes[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)

    def angles(self) -> Array:
        """Least angle (degrees) of each triangle (m,)."""
        return np.degrees(_least_angles(self.nodes, self.triangles))


# Told the stage of the work and the share of it that is done.
Progress = Callable[[str, float], None]


def silent(_: str, __: float) -> None:
    """Progress that nobody hears."""


def mesh_surface(
    shape: Shape,
    *,
    size: float,
    per_turn: int = 24,
    face_sizes: Sequence[float] | None = None,
    edge_sizes: dict[tuple[int, int], float] | None = None,
    spots: Array = NO_SPOTS,
    progress: Progress = silent,
) -> SurfaceMesh:
    """Triangles of about ``size`` (mm), ``per_turn`` or more to the turn of what is round, on each face no larger than
    its one of ``face_sizes``, along edges between two faces (by number) than ``edge_sizes``, and finer around ``spots``
    (k, 4): x, y, z and the size wanted there (mm).

    Raises
    ------
    MeshError : a face cannot be filled, or the triangles do not close to a skin; says where.
    """
    patches, edges = kernel.patches_of(shape)
    most = face_sizes or [size] * len(patches)
    wanted = [min(_size_on(patch, size, per_turn), own) for patch, own in zip(patches, most, strict=True)]
    finest = np.full(len(edges), size)
    for patch, own in zip(patches, wanted, strict=True):
        for index in patch.edges:
            finest[index] = min(finest[index], own)
    for (one, other), own in (edge_sizes or {}).items():
        for index in set(patches[one].edges) & set(patches[other].edges):
            finest[index] = min(finest[index], own)
    around = SizeField(size, spots[:, :3], spots[:, 3])
    along = [_size_along(e, float(h), per_turn) for e, h in zip(edges, finest, strict=True)]
    shares = _graded(edges, along, around)
    samples = [e.sampled(own) for e, own in zip(edges, shares, strict=True)]
    nodes, of_edge = _numbered([points for _, points in samples], size)
    parameters = [t for t, _ in samples]
    middles = {}
    for edge, numbers, cuts in zip(edges, of_edge, shares, strict=True):
        _, half = edge.sampled(np.concatenate([[0.0], (cuts[1:] + cuts[:-1]) / 2, [1.0]]))
        for (a, b), point in zip(itertools.pairwise(numbers.tolist()), half[1:-1], strict=True):
            middles[min(a, b), max(a, b)] = point
    points: list[Array] = [nodes]
    triangles: list[Ids] = []
    owner: list[Ids] = []
    count = len(nodes)
    for index, patch in enumerate(patches):
        progress(f"face {index + 1} of {len(patches)}", 0.4 * index / len(patches))
        fresh, found = _filled(patch, parameters, of_edge, nodes, wanted[index], index, around)
        found = np.where(found >= len(nodes), found - len(nodes) + count, found)
        points.append(fresh)
        count += len(fresh)
        triangles.append(found)
        owner.append(np.full(len(found), index))
    mesh = SurfaceMesh(np.vstack(points), np.vstack(triangles), np.concatenate(owner), middles)
    _require_closed(mesh)
    return mesh


def _size_on(patch: Patch, size: float, per_turn: int) -> float:
    """Size (mm) on a face: as wanted, or finer where it is round."""
    return float(np.clip(2 * np.pi * patch.least_radius() / per_turn, size / FINEST, size))


def _size_along(edge: Edge, size: float, per_turn: int) -> float:
    return max(min(size, 2 * np.pi * edge.radius / per_turn), size / FINEST) if edge.length else size


def _graded(edges: list[Edge], sizes: list[float], around: SizeField) -> list[Array]:
    """Shares of the length at which each edge is cut: as fine as wanted, also ``around`` places, and growing from finer
    edges that it meets."""
    ends = [e.sampled(np.array([0.0, 1.0]))[1] for e in edges]
    every = np.array(ends).reshape(-1, 3)
    own = np.repeat([h if e.length else np.inf for e, h in zip(edges, sizes, strict=True)], 2)
    finest = own.copy()
    for a, b in cKDTree(every).query_pairs(SAME * max(sizes), output_type="ndarray"):
        finest[a], finest[b] = min(finest[a], own[b]), min(finest[b], own[a])
    out = []
    for i, (edge, size) in enumerate(zip(edges, sizes, strict=True)):
        if edge.length == 0:
            out.append(np.array([0.0, 0.5, 1.0]))
            continue
        along = np.linspace(0, 1, GRADING) * edge.length
        first, last = np.minimum(finest[2 * i : 2 * i + 2], size)
        wanted = np.minimum(size, np.minimum(first + GROWTH * along, last + GROWTH * (edge.length - along)))
        wanted = np.minimum(wanted, around(edge.sampled(along / edge.length)[1]))
        steps_so_far = np.concatenate([[0.0], np.cumsum((1 / wanted[1:] + 1 / wanted[:-1]) / 2 * np.diff(along))])
        is_turn = np.isfinite(edge.radius) and edge.length > 5 * edge.radius
        count = max(FEWEST_ROUND_A_CIRCLE if is_turn else 1, int(np.ceil(steps_so_far[-1] - 1e-9)))
        cuts = np.interp(np.linspace(0, steps_so_far[-1], count + 1), steps_so_far, along) / edge.length
        cuts[0], cuts[-1] = 0.0, 1.0
        out.append(cuts)
    return out


def _numbered(lines: list[Array], size: float) -> tuple[Array, list[Ids]]:
    """All sampled points once, and their numbers along each edge."""
    every = np.vstack(lines)
    near = cKDTree(every).query_pairs(SAME * size, output_type="ndarray")
    first = np.arange(len(every))
    for a, b in near:
        root = min(first[a], first[b])
        first[first == first[a]] = root
        first[first == first[b]] = root
    kept, number = np.unique(first, return_inverse=True)
    ends = np.cumsum([len(line) for line in lines])
    return every[kept], np.split(number.ravel(), ends[:-1])


def _filled(
    patch: Patch,
    parameters: list[Array],
    of_edge: list[Ids],
    nodes: Array,
    size: float,
    index: int,
    around: SizeField,
) -> tuple[Array, Ids]:
    """New nodes inside a face, and its triangles; new nodes count on from ``nodes``."""
    borders = patch.borders(parameters)
    scale = patch.scale(np.vstack([uv for _, uv in borders]))
    flat, node, rims = _rim([(of_edge[i], uv * scale) for i, uv in borders], size)
    inner = _inside(patch, flat, nodes[node], rims, scale, size, index, around)
    at, n_rim = np.vstack([flat, inner]), len(flat)
    found, at = triangulate(at, n_rim, rims, f"face {index + 1}")
    space = np.vstack([nodes[node], patch.points(at[n_rim:] / scale)])
    is_free = np.arange(len(at)) >= n_rim
    rim_edges = {(min(a, b), max(a, b)) for a, b in rims.tolist()}
    fixed = np.array(sorted(rim_edges), np.int64).reshape(-1, 2)
    for _ in range(SWEEPS):
        _flip(at, space, found, fixed)
        moved = _smoothed(at, found, is_free)
        new = space.copy()
        new[is_free] = patch.points(moved[is_free] / scale)
        better = _improves(at, moved, space, new, found, is_free)
        if not better.any():
            break
        at[better], space[better] = moved[better], new[better]
    number = np.concatenate([node, len(nodes) + np.arange(len(at) - n_rim)])
    triangles = number[found]
    # At a pole several points of the parameters are one.
    triangles = triangles[(triangles != np.roll(triangles, 1, axis=1)).all(axis=1)]
    return space[n_rim:], triangles[:, ::-1] if patch.is_reversed else triangles


def _rim(borders: list[tuple[Ids, Array]], size: float) -> tuple[Array, Ids, Ids]:
    """Points of a face's rim (n, 2), the node of each, and the edges between them (k, 2)."""
    known: dict[tuple[int, int, int], int] = {}
    points: list[Array] = []
    node: list[int] = []
    rims: list[tuple[int, int]] = []

    def at(n: int, p: Array) -> int:
        i, j = (round(float(c) / (100 * SAME * size)) for c in p)
        for a in (i, i - 1, i + 1):
            for b in (j, j - 1, j + 1):
                if (n, a, b) in known:
                    return known[n, a, b]
        known[n, i, j] = len(points)
        points.append(p)
        node.append(n)
        return len(points) - 1

    for numbers, uv in borders:
        line = [at(int(n), p) for n, p in zip(numbers, uv, strict=True)]
        rims += [(a, b) for a, b in itertools.pairwise(line) if a != b]
    return np.array(points), np.array(node), np.array(rims)


def _inside(
    patch: Patch, flat: Array, space: Array, rims: Ids, scale: Array, size: float, index: int, around: SizeField
) -> Array:
    """Points of lattices within the rim, apart from it and from each other in space, finer towards a fine rim and
    ``around`` places.

    Every face has its lattices elsewhere: alike on both sides of a wall they would make flat tetrahedra across it.
    """
    off = np.array([0.25, 0.5]) + index * SHIFT
    off -= np.floor(off)
    spans = np.linalg.norm(space[rims[:, 0]] - space[rims[:, 1]], axis=1)
    middles = (space[rims[:, 0]] + space[rims[:, 1]]) / 2
    real = spans > 0
    if not real.any():
        return np.zeros((0, 2))
    tree, spans = cKDTree(middles[real]), spans[real]
    low, high = flat.min(axis=0), flat.max(axis=0)
    kept: list[Array] = []
    finest = max(float(spans.min()), size / FINEST)
    for step in steps(size, min(finest, float(around(patch.points(_spread(flat) / scale)).min()))):
        rows = np.arange(low[1] + off[1] * step * np.sqrt(3) / 2, high[1], step * np.sqrt(3) / 2)
        columns = np.arange(low[0] - step + off[0] * step, high[0], step)
        if not len(rows) or not len(columns):
            continue
        x, y = np.meshgrid(columns, rows)
        x[1::2] += step / 2
        lattice = np.column_stack([x.ravel(), y.ravel()])
        lattice = lattice[inside(lattice, flat, rims)]
        if not len(lattice):
            continue
        points = patch.points(lattice / scale)
        fine, far = local_size(points, tree, spans, size, step)
        fine = np.minimum(fine, around(points))
        fits = (fine <= step * np.sqrt(STEP)) & (fine > step / np.sqrt(STEP)) & (far > FROM_EDGE * fine)
        kept.append(np.column_stack([lattice, points, fine])[fits])
    if not kept:
        return np.zeros((0, 2))
    found = np.vstack(kept)
    return found[apart(found[:, 2:5], found[:, 5]), :2]


def _spread(flat: Array) -> Array:
    """Points all over the box of a face's rim, `LOOKS` by `LOOKS`."""
    axes = [np.linspace(a, b, LOOKS) for a, b in zip(flat.min(axis=0), flat.max(axis=0), strict=True)]
    return np.stack(np.meshgrid(*axes), axis=-1).reshape(-1, 2)


def steps(size: float, finest: float) -> list[float]:
    """Spacings of lattices from ``size`` down to the finest, the finest first."""
    count = max(0, int(np.ceil(np.log(size / finest) / np.log(STEP))))
    return [size / STEP**k for k in range(count, -1, -1)]


def local_size(points: Array, tree: cKDTree, spans: Array, size: float, step: float) -> tuple[Array, Array]:
    """Wanted size (n,) at points near edges of length ``spans`` with their middles in ``tree``, and their distance.

    Points so far off that they want more than ``step`` and a half are not told from each other: size and infinity.
    """
    k = min(8, len(spans))
    reach = 1.5 * step / GROWTH if 1.5 * step < size else np.inf
    found = tree.query(points, k=k, distance_upper_bound=reach)
    far, nearest = (np.asarray(f).reshape(len(points), k) for f in found)
    wanted = np.append(spans, np.inf)[nearest] + GROWTH * far
    return np.minimum(size, wanted.min(axis=1)), far[:, 0]


def apart(points: Array, fine: Array) -> NDArray[np.bool_]:
    """Which of the points to keep so that none is closer to another than their sizes allow; earlier ones win."""
    taken = np.ones(len(points), bool)
    pairs = cKDTree(points).query_pairs(FROM_EACH_OTHER * float(fine.max(initial=1e-12)), output_type="ndarray")
    if not len(pairs):
        return taken
    gap = np.linalg.norm(points[pairs[:, 0]] - points[pairs[:, 1]], axis=1)
    close = pairs[gap < FROM_EACH_OTHER * np.minimum(fine[pairs[:, 0]], fine[pairs[:, 1]])]
    for a, b in close[np.lexsort((close[:, 1], close[:, 0]))]:
        if taken[a] and taken[b]:
            taken[b] = False
    return taken


def _least_angles(nodes: Array, triangles: Ids) -> Array:
    p = nodes[triangles]
    least = np.full(len(triangles), np.pi)
    for i in range(3):
        a, b = p[:, (i + 1) % 3] - p[:, i], p[:, (i + 2) % 3] - p[:, i]
        size = np.maximum(np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1), 1e-300)
        least = np.minimum(least, np.arccos(np.clip(np.einsum("ij,ij->i", a, b) / size, -1, 1)))
    return least


def _areas(at: Array, triangles: Ids) -> Array:
    a, b, c = (at[triangles[:, i]] for i in range(3))
    return np.asarray((b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0]))


def _smoothed(at: Array, triangles: Ids, is_free: NDArray[np.bool_]) -> Array:
    """Free points at the mean of their triangles' middles."""
    middles = at[triangles].mean(axis=1)
    total, count = np.zeros_like(at), np.zeros(len(at))
    for i in range(3):
        np.add.at(total, triangles[:, i], middles)
        np.add.at(count, triangles[:, i], 1)
    out = at.copy()
    out[is_free] = total[is_free] / np.maximum(count[is_free], 1)[:, None]
    return out


def _improves(
    at: Array, moved: Array, space: Array, new: Array, triangles: Ids, is_free: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Free points of an independent set whose move folds nothing and does not lower the least angle about them."""
    order = np.argsort(-np.linalg.norm(new - space, axis=1), kind="stable")
    flat = triangles.ravel()
    by_point = np.argsort(flat, kind="stable")
    start = np.searchsorted(flat[by_point], np.arange(len(at) + 1))
    return np.asarray(_chosen(at, moved, space, new, triangles, order[is_free[order]], start, by_point // 3))


@njit(cache=True)
def _chosen(at, moved, space, new, triangles, order, start, star):  # type: ignore[no-untyped-def] # pragma: no cover
    blocked, better = np.zeros(len(at), np.bool_), np.zeros(len(at), np.bool_)
    for n in order:
        own = star[start[n] : start[n + 1]]
        is_blocked = False
        for t in own:
            for k in range(3):
                is_blocked = is_blocked or blocked[triangles[t, k]]
        if is_blocked or len(own) == 0:
            continue
        before, after = np.pi, np.pi
        folds = False
        for t in own:
            flat, old, now = np.empty((3, 2)), np.empty((3, 3)), np.empty((3, 3))
            for k in range(3):
                m = triangles[t, k]
                flat[k] = moved[m] if m == n else at[m]
                old[k] = space[m]
                now[k] = new[m] if m == n else space[m]
            area = (flat[1, 0] - flat[0, 0]) * (flat[2, 1] - flat[0, 1])
            area -= (flat[1, 1] - flat[0, 1]) * (flat[2, 0] - flat[0, 0])
            folds = folds or area <= 0
            for k in range(3):
                before = min(before, _angle_at(old[k], old[(k + 1) % 3], old[(k + 2) % 3]))
                after = min(after, _angle_at(now[k], now[(k + 1) % 3], now[(k + 2) % 3]))
        if not folds and after > before + 1e-4:
            better[n] = True
            for t in own:
                for k in range(3):
                    blocked[triangles[t, k]] = True
    return better


@njit(cache=True)
def _angle_at(p, a, b):  # type: ignore[no-untyped-def] # pragma: no cover
    uv, uu, vv = 0.0, 0.0, 0.0
    for k in range(len(p)):
        u, v = a[k] - p[k], b[k] - p[k]
        uv, uu, vv = uv + u * v, uu + u * u, vv + v * v
    cosine = uv / np.sqrt(max(uu * vv, 1e-300))
    return np.arccos(min(max(cosine, -1.0), 1.0))


def _angles(space: Array, at: Ids, edges: Ids) -> Array:
    """Angles (n,) at points ``at`` (n,) between the ends of ``edges`` (n, 2)."""
    u, v = space[edges[:, 0]] - space[at], space[edges[:, 1]] - space[at]
    size = np.maximum(np.einsum("ni,ni->n", u, u) * np.einsum("ni,ni->n", v, v), 1e-300)
    return np.asarray(np.arccos(np.clip(np.einsum("ni,ni->n", u, v) / np.sqrt(size), -1, 1)))


def _flip(at: Array, space: Array, triangles: Ids, fixed: Ids) -> None:
    """Flip edges whose opposite angles in space add up to more than half a turn (Lawson 1977), in place."""
    keep = np.sort(fixed, axis=1)
    for _ in range(10):
        # Edges in the order in which triangles name them, with both corners across.
        named = np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=-1).reshape(-1, 2)
        across = np.roll(triangles, -2, axis=1).ravel()
        every, number = np.unique(np.vstack([np.sort(named, axis=1), keep]), axis=0, return_inverse=True)
        of_named = number.ravel()[: len(named)]
        order = np.argsort(of_named, kind="stable")
        count = np.bincount(of_named, minlength=len(every))
        start = np.cumsum(count) - count
        is_free = count == 2
        is_free[number.ravel()[len(named) :]] = False
        one, two = order[start[is_free]], order[start[is_free] + 1]
        edge, p, q = every[is_free], across[one], across[two]
        turned = _angles(space, p, edge) + _angles(space, q, edge) > np.pi + 1e-6
        todo = np.flatnonzero(turned)[np.argsort(one[turned], kind="stable")]
        touched: set[int] = set()
        for k in todo.tolist():
            t, s = int(one[k]) // 3, int(two[k]) // 3
            if t in touched or s in touched:
                continue
            a, b = edge[k].tolist()
            i = triangles[t].tolist().index(a)
            a, b = (a, b) if triangles[t][(i + 1) % 3] == b else (b, a)
            new = np.array([[a, q[k], p[k]], [q[k], b, p[k]]])
            if (_areas(at, new) > 0).all():
                triangles[t], triangles[s] = new
                touched |= {t, s}
        if not touched:
            return


def _require_closed(mesh: SurfaceMesh) -> None:
    sides = np.vstack([mesh.triangles[:, [0, 1]], mesh.triangles[:, [1, 2]], mesh.triangles[:, [2, 0]]])
    forward = {tuple(e) for e in sides.tolist()}
    alone = next((e for e in sides.tolist() if (e[1], e[0]) not in forward), None)
    if alone is not None or len(forward) != len(sides):
        at = mesh.nodes[alone if alone is not None else sides[0]].mean(axis=0)
        raise MeshError(
            f"the skin is not closed near ({at[0]:.4g}, {at[1]:.4g}, {at[2]:.4g}) mm.",
            hint="Reduce the mesh size, or mend the faces there.",
        )
