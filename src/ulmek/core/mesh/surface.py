"""Triangles on the faces of exact shapes: edges sampled once, faces filled between them, on the true surface."""

import itertools
from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.errors import MeshError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Edge, Patch, Shape
from ulmek.core.mesh.pave import triangulate

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Distance of points inside a face from its edges and from each other, as a share of the size.
FROM_EDGE, FROM_EACH_OTHER = 0.62, 0.72
# Points closer than this share of the size are one, in the parameters of a face.
SAME = 1e-6
# Sweeps of smoothing, each after the flips that the one before made worthwhile.
SWEEPS = 8
FEWEST_ROUND_A_CIRCLE = 8


@dataclass(frozen=True)
class SurfaceMesh:
    """A closed skin: nodes (n, 3) mm, outward triangles (m, 3), and the number of the face of each (m,)."""

    nodes: Array
    triangles: Ids
    face: Ids

    def volume(self) -> float:
        """Volume that the skin encloses (mm³)."""
        a, b, c = (self.nodes[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)

    def angles(self) -> Array:
        """Least angle (degrees) of each triangle (m,)."""
        return np.degrees(_least_angles(self.nodes, self.triangles))


def mesh_surface(shape: Shape, *, size: float, per_turn: int = 24) -> SurfaceMesh:
    """Triangles of about ``size`` (mm), ``per_turn`` or more to the turn of what is round.

    Raises
    ------
    MeshError : a face cannot be filled, or the triangles do not close to a skin; says where.
    """
    patches, edges = kernel.patches_of(shape)
    samples = [e.sampled(_pieces(e, size, per_turn)) for e in edges]
    nodes, of_edge = _numbered([points for _, points in samples], size)
    parameters = [t for t, _ in samples]
    points: list[Array] = [nodes]
    triangles: list[Ids] = []
    owner: list[Ids] = []
    count = len(nodes)
    for index, patch in enumerate(patches):
        fresh, found = _filled(patch, parameters, of_edge, nodes, size, index)
        found = np.where(found >= len(nodes), found - len(nodes) + count, found)
        points.append(fresh)
        count += len(fresh)
        triangles.append(found)
        owner.append(np.full(len(found), index))
    mesh = SurfaceMesh(np.vstack(points), np.vstack(triangles), np.concatenate(owner))
    _require_closed(mesh)
    return mesh


def _pieces(edge: Edge, size: float, per_turn: int) -> int:
    if edge.length == 0:
        return 2
    wanted = min(size, 2 * np.pi * edge.radius / per_turn)
    fewest = FEWEST_ROUND_A_CIRCLE if np.isfinite(edge.radius) and edge.length > 5 * edge.radius else 1
    return max(fewest, int(np.ceil(edge.length / wanted - 1e-9)))


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
    patch: Patch, parameters: list[Array], of_edge: list[Ids], nodes: Array, size: float, index: int
) -> tuple[Array, Ids]:
    """New nodes inside a face, and its triangles; new nodes count on from ``nodes``."""
    borders = patch.borders(parameters)
    scale = patch.scale(np.vstack([uv for _, uv in borders]))
    flat, node, rims = _rim([(of_edge[i], uv * scale) for i, uv in borders], size)
    inner = _inside(patch, flat, nodes[node], rims, scale, size)
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


def _inside(patch: Patch, flat: Array, space: Array, rims: Ids, scale: Array, size: float) -> Array:
    """Points of a lattice within the rim, apart from it and from each other in space."""
    spans = np.linalg.norm(space[rims[:, 0]] - space[rims[:, 1]], axis=1)
    step = float(np.clip(np.median(spans[spans > 0]) if (spans > 0).any() else size, 0.2 * size, size))
    low, high = flat.min(axis=0), flat.max(axis=0)
    rows = np.arange(low[1] + step / 2, high[1], step * np.sqrt(3) / 2)
    columns = np.arange(low[0] + step / 4, high[0], step)
    if not len(rows) or not len(columns):
        return np.zeros((0, 2))
    x, y = np.meshgrid(columns, rows)
    x[1::2] += step / 2
    lattice = np.column_stack([x.ravel(), y.ravel()])
    lattice = lattice[_within(lattice, flat, rims)]
    if not len(lattice):
        return lattice
    points = patch.points(lattice / scale)
    middles = (space[rims[:, 0]] + space[rims[:, 1]]) / 2
    free = cKDTree(np.vstack([space, middles])).query(points)[0] > FROM_EDGE * step
    lattice, points = lattice[free], points[free]
    if not len(lattice):
        return lattice
    taken = np.ones(len(points), bool)
    for a, b in cKDTree(points).query_pairs(FROM_EACH_OTHER * step, output_type="ndarray"):
        if taken[a] and taken[b]:
            taken[b] = False
    return lattice[taken]


def _within(at: Array, points: Array, edges: Ids) -> NDArray[np.bool_]:
    a, b = points[edges[:, 0]], points[edges[:, 1]]
    inside = np.zeros(len(at), bool)
    for start in range(0, len(at), 4096):
        x, y = at[start : start + 4096, :1], at[start : start + 4096, 1:]
        straddles = (a[:, 1] > y) != (b[:, 1] > y)
        with np.errstate(divide="ignore", invalid="ignore"):
            crossing = a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
        inside[start : start + 4096] = np.sum(straddles & (x < crossing), axis=1) % 2 == 1
    return inside


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
    order = np.argsort(-np.linalg.norm(new - space, axis=1))
    star: dict[int, list[int]] = {}
    for t, triangle in enumerate(triangles.tolist()):
        for n in triangle:
            star.setdefault(n, []).append(t)
    blocked, better = np.zeros(len(at), bool), np.zeros(len(at), bool)
    for n in order[is_free[order]]:
        own = triangles[star.get(int(n), [])]
        if not len(own) or blocked[own].any():
            continue
        kept_at, kept = at[n].copy(), space[n].copy()
        before = float(_least_angles(space, own).min())
        at[n], space[n] = moved[n], new[n]
        fine = bool((_areas(at, own) > 0).all()) and float(_least_angles(space, own).min()) > before + 1e-4
        at[n], space[n] = kept_at, kept
        if fine:
            better[n] = True
            blocked[own] = True
    return better


@njit(cache=True)
def _angle_at(p, a, b):  # type: ignore[no-untyped-def] # pragma: no cover
    u, v = a - p, b - p
    cosine = np.dot(u, v) / np.sqrt(max(np.dot(u, u) * np.dot(v, v), 1e-300))
    return np.arccos(min(max(cosine, -1.0), 1.0))


def _flip(at: Array, space: Array, triangles: Ids, fixed: Ids) -> None:
    """Flip edges whose opposite angles in space add up to more than half a turn (Lawson 1977), in place."""
    keep = {(int(a), int(b)) for a, b in fixed}
    for _ in range(10):
        owner: dict[tuple[int, int], list[tuple[int, int]]] = {}
        for t, (a, b, c) in enumerate(triangles.tolist()):
            for x, y, z in ((a, b, c), (b, c, a), (c, a, b)):
                owner.setdefault((min(x, y), max(x, y)), []).append((t, z))
        touched: set[int] = set()
        for edge, sides in owner.items():
            if len(sides) != 2 or edge in keep:
                continue
            (t, p), (s, q) = sides
            if t in touched or s in touched:
                continue
            a, b = edge
            if _angle_at(space[p], space[a], space[b]) + _angle_at(space[q], space[a], space[b]) <= np.pi + 1e-6:
                continue
            if a not in triangles[t] or b not in triangles[t]:
                continue
            i = triangles[t].tolist().index(a)
            a, b = (a, b) if triangles[t][(i + 1) % 3] == b else (b, a)
            new = np.array([[a, q, p], [q, b, p]])
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
