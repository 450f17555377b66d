"""All-quadrilateral mesh of any region: rows from the boundary, triangles, merging, splitting.

Points are set in rows that follow the boundary (each accepted point offers four neighbours along
the direction of the nearest boundary), triangulated at twice the wanted size, merged in pairs,
and every quad is split in 4, every triangle in 3, which leaves quads only.
"""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.spatial import Delaunay

from ulmek.core.errors import MeshError
from ulmek.core.mesh.counts import snapped
from ulmek.core.mesh.size import GROWTH, SizeField

# No merged corner beyond this: 126° keeps the split quads at a scaled Jacobian near 0.8.
WIDEST_CORNER = np.deg2rad(126.0)
# Rows keep this share of the local spacing from the boundary and from each other.
CLEAR_OF_BOUNDARY = 0.62
CLEAR_OF_POINTS = 0.72
# Points looked up at once: keeps tables of points and edges small.
CHUNK = 4096


@dataclass(frozen=True)
class CoarseMesh:
    """Triangles and quads at twice the wanted size; points begin with the given boundary."""

    points: NDArray[np.float64]
    triangles: NDArray[np.int64]
    quads: NDArray[np.int64]


class _Outline(NamedTuple):
    """Points of all loops, edges between them, and at each the direction along the loop and the distance of its
    neighbours."""

    points: NDArray[np.float64]
    edges: NDArray[np.int64]
    angles: NDArray[np.float64]
    spacing: NDArray[np.float64]


class _Sizes(NamedTuple):
    """A size field as the kernel wants it: sizes ``h`` at places, growing from there to the ``largest``."""

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    h: NDArray[np.float64]
    largest: float


@njit(cache=True)
def _set_rows(outline, sizes, limit):  # type: ignore[no-untyped-def] # pragma: no cover
    """Points of the outline with rows set from it inwards, and their number, −1 when above ``limit``."""
    boundary, edges, angles, spacing = outline
    points = np.empty((limit, 2))
    n = len(boundary)
    points[:n] = boundary
    head = 0
    while head < n:
        p0, p1 = points[head, 0], points[head, 1]
        if head < len(boundary):
            h, angle = spacing[head], angles[head]
        else:
            h = sizes.largest
            for k in range(len(sizes.h)):
                h = min(h, sizes.h[k] + GROWTH * np.hypot(p0 - sizes.x[k], p1 - sizes.y[k]))
            h *= 2.0
            best, angle = 1e300, 0.0
            for e in range(len(edges)):
                d = _distance(p0, p1, boundary, edges[e])
                if d < best:
                    best = d
                    a, b = edges[e]
                    angle = np.arctan2(boundary[b, 1] - boundary[a, 1], boundary[b, 0] - boundary[a, 0])
        head += 1
        for turn in range(4):
            x = p0 + h * np.cos(angle + turn * np.pi / 2)
            y = p1 + h * np.sin(angle + turn * np.pi / 2)
            inside = False
            clear = True
            for e in range(len(edges)):
                a, b = edges[e]
                if (boundary[a, 1] > y) != (boundary[b, 1] > y):
                    cross = boundary[a, 0] + (y - boundary[a, 1]) / (boundary[b, 1] - boundary[a, 1]) * (
                        boundary[b, 0] - boundary[a, 0]
                    )
                    if x < cross:
                        inside = not inside
                if _distance(x, y, boundary, edges[e]) < CLEAR_OF_BOUNDARY * h:
                    clear = False
                    break
            if not (clear and inside):
                continue
            for k in range(n):
                if np.hypot(points[k, 0] - x, points[k, 1] - y) < CLEAR_OF_POINTS * h:
                    clear = False
                    break
            if clear:
                if n == limit:
                    return points, -1
                points[n, 0], points[n, 1] = x, y
                n += 1
    return points, n


@njit(cache=True)
def _distance(x, y, points, edge):  # type: ignore[no-untyped-def] # pragma: no cover
    ax, ay = points[edge[0], 0], points[edge[0], 1]
    bx, by = points[edge[1], 0] - ax, points[edge[1], 1] - ay
    t = min(1.0, max(0.0, ((x - ax) * bx + (y - ay) * by) / (bx * bx + by * by)))
    return np.hypot(x - ax - t * bx, y - ay - t * by)


def pave(
    points: NDArray[np.float64], loops: list[NDArray[np.int64]], size: SizeField, *, place: str, limit: int = 60000
) -> CoarseMesh:
    """Coarse mesh of a region bounded by ``loops`` of numbers into ``points`` (holes after the outer loop).

    The first ``len(points)`` points of the result are ``points``.

    Raises
    ------
    MeshError : more than ``limit`` points, or a boundary edge that cannot be recovered.
    """
    extent = float(np.ptp(points, axis=0).max())
    given, points = points, snapped(points, extent)
    edges = np.vstack([np.column_stack([loop, np.roll(loop, -1)]) for loop in reversed(loops)])
    angles = np.zeros(len(points))
    spacing = np.ones(len(points))
    for loop in loops:
        step = points[np.roll(loop, -1)] - points[loop]
        lengths = np.hypot(*step.T)
        mean = step / lengths[:, None] + np.roll(step / lengths[:, None], 1, axis=0)
        angles[loop] = np.arctan2(mean[:, 1], mean[:, 0])
        spacing[loop] = (lengths + np.roll(lengths, 1)) / 2
    order = np.concatenate(list(reversed(loops)))
    renumber = np.empty(len(points), np.int64)
    renumber[order] = np.arange(len(order))
    outline = _Outline(points[order], renumber[edges], angles[order], spacing[order])
    x, y = snapped(size.places, extent).T.copy()
    sizes, largest = snapped(size.sizes, extent), snapped(np.array([size.largest]), extent)
    rows, n = _set_rows(outline, _Sizes(x, y, sizes, float(largest[0])), limit)
    if n < 0:
        raise MeshError(f"more than {limit} points are needed.", where=place, hint="Enlarge the mesh size.")
    everything = np.vstack([points, rows[len(points) : n]])
    triangles, everything = triangulate(everything, len(points), edges, place)
    kept, quads = _merge(everything, triangles)
    everything[: len(points)] = given
    return CoarseMesh(everything, kept, quads)


def triangulate(
    points: NDArray[np.float64], n_fixed: int, edges: NDArray[np.int64], place: str
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Delaunay triangles inside the loops; interior points that hide a boundary edge are removed."""
    for _ in range(8):
        triangles = Delaunay(points).simplices.astype(np.int64)
        a, b, c = (points[triangles[:, i]] for i in range(3))
        area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
        triangles[area < 0] = triangles[area < 0][:, ::-1]
        reach = np.max([np.hypot(*(b - a).T), np.hypot(*(c - b).T), np.hypot(*(a - c).T)], axis=0)
        triangles = triangles[np.abs(area) > 1e-6 * reach**2]
        triangles = triangles[inside(points[triangles].mean(axis=1), points, edges)]
        have = {tuple(e) for t in triangles for e in ((t[0], t[1]), (t[1], t[2]), (t[2], t[0]))}
        missing = [e for e in edges if tuple(e) not in have and (e[1], e[0]) not in have]
        if not missing:
            return triangles, points
        doomed = np.zeros(len(points), bool)
        for e in missing:
            middle, radius = points[e].mean(axis=0), np.hypot(*(points[e[1]] - points[e[0]])) / 2
            doomed |= np.hypot(*(points - middle).T) < 1.05 * radius
        doomed[:n_fixed] = False
        if not doomed.any():
            break
        points = points[~doomed]
    x, y = points[missing[0]].mean(axis=0)
    raise MeshError(
        f"the boundary could not be kept near ({x:.4g}, {y:.4g}) mm: two boundaries lie closer than the mesh size.",
        where=place,
        hint="Reduce the mesh size there or widen the gap.",
    )


def inside(at: NDArray[np.float64], points: NDArray[np.float64], edges: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Whether each of ``at`` (n, 2) lies within the loops of ``edges`` (k, 2), by even-odd counting."""
    a, b = points[edges[:, 0]], points[edges[:, 1]]
    out = np.zeros(len(at), bool)
    for start in range(0, len(at), CHUNK):
        x, y = at[start : start + CHUNK, :1], at[start : start + CHUNK, 1:]
        straddles = (a[:, 1] > y) != (b[:, 1] > y)
        with np.errstate(divide="ignore", invalid="ignore"):
            crossing = a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
        out[start : start + CHUNK] = np.sum(straddles & (x < crossing), axis=1) % 2 == 1
    return out


def _merge(points: NDArray[np.float64], triangles: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pair triangles into quads: best first, then along alternating paths."""
    owner: dict[tuple[int, int], tuple[int, int]] = {}
    candidates: list[tuple[float, int, int, tuple[int, int, int, int]]] = []
    for t, tri in enumerate(triangles.tolist()):
        for i in range(3):
            a, b, c = tri[i], tri[(i + 1) % 3], tri[(i + 2) % 3]
            if (b, a) in owner:
                other, d = owner[(b, a)]
                quad = (a, d, b, c)
                candidates.append((_widest(points, quad), other, t, quad))
            owner[(a, b)] = (t, c)
    usable = [c for c in candidates if c[0] < WIDEST_CORNER]
    usable.sort(key=lambda c: c[0])
    mate = np.full(len(triangles), -1)
    near: dict[int, list[int]] = {}
    quad_of = {}
    for _, t, s, quad in usable:
        near.setdefault(t, []).append(s)
        near.setdefault(s, []).append(t)
        quad_of[(min(t, s), max(t, s))] = quad
        if mate[t] < 0 and mate[s] < 0:
            mate[t], mate[s] = s, t
    for t in range(len(triangles)):
        if mate[t] < 0:
            _augment(t, mate, near)
    quads = [quad_of[(t, int(mate[t]))] for t in range(len(triangles)) if mate[t] > t]
    return triangles[mate < 0], np.array(quads, np.int64).reshape(-1, 4)


def _widest(points: NDArray[np.float64], quad: tuple[int, int, int, int]) -> float:
    p = points[list(quad)]
    u, v = np.roll(p, -1, axis=0) - p, np.roll(p, 1, axis=0) - p
    angle = np.arctan2(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0], np.sum(u * v, axis=1)) % (2 * np.pi)
    return float(angle.max())


def _augment(start: int, mate: NDArray[np.int64], near: dict[int, list[int]], longest: int = 400) -> None:
    """Match ``start`` along an alternating path to another free triangle, breadth first."""
    came: dict[int, int] = {start: -1}
    queue = [start]
    while queue and len(came) < longest:
        t = queue.pop(0)
        for s in near.get(t, []):
            if s in came:
                continue
            came[s] = t
            if mate[s] < 0:
                while s != -1:
                    t = came[s]
                    after = int(mate[t])
                    mate[s], mate[t] = t, s
                    s = after if t != start else -1
                return
            if int(mate[s]) not in came:
                came[int(mate[s])] = s
                queue.append(int(mate[s]))
