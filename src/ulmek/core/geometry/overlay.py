"""Overlaid outlines to a planar partition: segments cut where they meet, and the regions that they bound."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Point as ShapelyPoint

from ulmek.core.geometry.outline import Loop, Pattern, Point, Region, Segment, polygon_of

Array = NDArray[np.float64]
# Points closer than this (mm) are one.
SAME = 1e-5
# Angles at a corner closer than this (rad) are told apart by curvature.
TANGENT = 1e-6


def overlay(layers: Sequence[Sequence[Segment]]) -> tuple[list[Region], list[frozenset[str]], dict[str, list[str]]]:
    """Regions that the outlines of all ``layers`` bound together, which of them each layer fills (even-odd), and
    for every segment of the partition the name that it has in each layer ("" where it is no outline there).

    Every segment of the regions has a name of its own.
    """
    corners = _Corners()
    drawn = [(i, _moored(s, corners)) for i, layer in enumerate(layers) for s in layer]
    cuts: list[list[Point]] = [[] for _ in drawn]
    boxes = np.array([_box(s) for _, s in drawn])
    for a, (_, first) in enumerate(drawn):
        near = np.flatnonzero((boxes[:, :2] <= boxes[a, 2:]).all(axis=1) & (boxes[:, 2:] >= boxes[a, :2]).all(axis=1))
        for b in near[near > a]:
            for point in common_points(first, drawn[b][1]):
                cuts[a].append(corners.at(point))
                cuts[b].append(corners.at(point))
    pieces: dict[tuple[Point, Point, Point], Segment] = {}
    names: dict[str, list[str]] = {}
    for (layer, segment), points in zip(drawn, cuts, strict=True):
        for piece in _pieces(segment, points):
            middle = corners.at(_middle(piece))
            key = (min(piece.start, piece.end), max(piece.start, piece.end), middle)
            own = pieces.setdefault(key, replace(piece, name=f"s{len(pieces)}"))
            names.setdefault(own.name, [""] * len(layers))[layer] = segment.name
    regions = _regions(list(pieces.values()))
    inside = [{r.name for r in regions if _is_inside(r, layer)} for layer in layers]
    used = set().union(*inside)
    return [r for r in regions if r.name in used], [frozenset(s) for s in inside], names


class _Corners:
    """Points of the partition: those that are close are one."""

    def __init__(self) -> None:
        self._known: dict[tuple[int, int], Point] = {}

    def at(self, p: Point) -> Point:
        i, j = round(p[0] / SAME), round(p[1] / SAME)
        for a in (i, i - 1, i + 1):
            for b in (j, j - 1, j + 1):
                known = self._known.get((a, b))
                if known is not None and abs(known[0] - p[0]) < SAME and abs(known[1] - p[1]) < SAME:
                    return known
        self._known[i, j] = p
        return p


def _moored(segment: Segment, corners: _Corners) -> Segment:
    return replace(segment, start=corners.at(segment.start), end=corners.at(segment.end))


def _middle(segment: Segment) -> Point:
    x, y = segment.points(np.array([0.5]))[0]
    return float(x), float(y)


def _box(segment: Segment) -> list[float]:
    if segment.centre is None:
        xs, ys = zip(segment.start, segment.end, strict=True)
        return [min(xs) - SAME, min(ys) - SAME, max(xs) + SAME, max(ys) + SAME]
    (x, y), r = segment.centre, segment.radius + SAME
    return [x - r, y - r, x + r, y + r]


def _apart(a: Point, b: Point) -> float:
    return float(np.hypot(a[0] - b[0], a[1] - b[1]))


def _is_on(segment: Segment, p: Point) -> bool:
    """Whether a point lies on a segment, its ends left out."""
    if min(_apart(p, segment.start), _apart(p, segment.end)) < SAME:
        return False
    if segment.centre is None:
        (ax, ay), (bx, by) = segment.start, segment.end
        length = segment.length
        along = ((p[0] - ax) * (bx - ax) + (p[1] - ay) * (by - ay)) / length
        across = ((p[1] - ay) * (bx - ax) - (p[0] - ax) * (by - ay)) / length
        return 0 < along < length and abs(across) < SAME
    return abs(_apart(p, segment.centre) - segment.radius) < SAME and _along(segment, p) < 1


def _along(segment: Segment, p: Point) -> float:
    """How far ``p`` lies along a segment as a share of it; beyond 1 outside an arc."""
    if segment.centre is None:
        return _apart(segment.start, p) / segment.length
    return replace(segment, end=p).length / segment.length


def common_points(a: Segment, b: Segment) -> list[Point]:
    """Points at which two segments cut each other, or one ends on the other."""
    points = [*(p for p in (b.start, b.end) if _is_on(a, p)), *(p for p in (a.start, a.end) if _is_on(b, p))]
    for p in _crossings(a, b):
        if _is_on(a, p) and _is_on(b, p):
            points.append(p)
    return points


def _crossings(a: Segment, b: Segment) -> list[Point]:
    """Where the lines or circles of two segments cut each other."""
    if a.centre is None and b.centre is None:
        d, e = np.subtract(a.end, a.start), np.subtract(b.end, b.start)
        across = d[0] * e[1] - d[1] * e[0]
        if abs(across) < 1e-12 * a.length * b.length:
            return []
        f = np.subtract(b.start, a.start)
        t = (f[0] * e[1] - f[1] * e[0]) / across
        return [(float(a.start[0] + t * d[0]), float(a.start[1] + t * d[1]))]
    if a.centre is None:
        a, b = b, a
    assert a.centre is not None
    middle, r = np.array(a.centre), a.radius
    if b.centre is None:
        start = np.array(b.start)
        along = np.subtract(b.end, b.start) / b.length
        foot = start + along * float((middle - start) @ along)
    else:
        apart = np.subtract(b.centre, middle)
        distance = float(np.hypot(*apart))
        if distance < SAME:
            return []
        toward = apart / distance
        foot = middle + toward * (distance**2 + r**2 - b.radius**2) / (2 * distance)
        along = np.array([-toward[1], toward[0]])
    left = r**2 - float((foot - middle) @ (foot - middle))
    # Touching curves share the point halfway.
    half = float(np.sqrt(left)) if left > 0 else 0.0
    if left < -2 * r * SAME:
        return []
    return [(float(p[0]), float(p[1])) for p in (foot - half * along, foot + half * along)]


def _pieces(segment: Segment, points: Sequence[Point]) -> list[Segment]:
    ordered = sorted(set(points) - {segment.start, segment.end}, key=lambda p: _along(segment, p))
    stops = [segment.start, *ordered, segment.end]
    return [replace(segment, start=a, end=b) for a, b in itertools.pairwise(stops) if a != b]


@dataclass(frozen=True)
class _Way:
    """A segment as it leaves its start: direction there, and how it bends to the left."""

    segment: Segment
    angle: float
    bend: float


def _way(segment: Segment) -> _Way:
    if segment.centre is None:
        dx, dy = np.subtract(segment.end, segment.start)
        return _Way(segment, float(np.arctan2(dy, dx)), 0.0)
    x, y = np.subtract(segment.start, segment.centre)
    sign = 1.0 if segment.ccw else -1.0
    return _Way(segment, float(np.arctan2(sign * x, -sign * y)), sign / segment.radius)


def _regions(segments: Sequence[Segment]) -> list[Region]:
    """Faces of the planar graph of segments that meet at their ends only."""
    ways = [_way(s) for segment in segments for s in (segment, segment.reversed())]
    leaving: dict[Point, list[int]] = {}
    for i, way in enumerate(ways):
        leaving.setdefault(way.segment.start, []).append(i)
    before = np.zeros(len(ways), np.int64)
    for around in leaving.values():
        ordered = _ordered([ways[i] for i in around])
        for k, position in enumerate(ordered):
            # Turning clockwise from a way, the next one bounds the face on the left of its twin.
            before[around[position]] = around[ordered[k - 1]]
    loops: list[Loop] = []
    seen = np.zeros(len(ways), bool)
    for first in range(len(ways)):
        loop = []
        i = first
        while not seen[i]:
            seen[i] = True
            loop.append(ways[i].segment)
            i = int(before[i ^ 1])
        if loop:
            loops.append(tuple(loop))
    areas = [sum(s.swept_area() for s in loop) for loop in loops]
    outers = [loop for loop, area in zip(loops, areas, strict=True) if area > SAME**2]
    inners = [loop for loop, area in zip(loops, areas, strict=True) if area < -(SAME**2)]
    shapes = [polygon_of(loop) for loop in outers]
    holes: list[list[Loop]] = [[] for _ in outers]
    for inner in inners:
        corners = {s.start for s in inner}
        at = ShapelyPoint(inner[0].start)
        about = [
            i for i, (loop, shape) in enumerate(zip(outers, shapes, strict=True))
            if not corners & {s.start for s in loop} and shape.contains(at)
        ]  # fmt: skip
        if about:
            holes[min(about, key=lambda i: shapes[i].area)].append(inner)
    return [
        Region(f"r{i}", loop, tuple(own), _pattern(loop, own))
        for i, (loop, own) in enumerate(zip(outers, holes, strict=True))
    ]


def _ordered(ways: Sequence[_Way]) -> list[int]:
    """Positions of the ways that leave a corner, counter-clockwise."""
    order = sorted(range(len(ways)), key=lambda i: ways[i].angle)
    groups: list[list[int]] = []
    for i in order:
        if groups and ways[i].angle - ways[groups[-1][0]].angle < TANGENT:
            groups[-1].append(i)
        else:
            groups.append([i])
    if len(groups) > 1 and ways[groups[0][0]].angle + 2 * np.pi - ways[groups[-1][0]].angle < TANGENT:
        groups[0] = [*groups.pop(), *groups[0]]
    return [i for group in groups for i in sorted(group, key=lambda i: ways[i].bend)]


def _pattern(outer: Loop, holes: Sequence[Loop]) -> Pattern:
    if not holes and len(outer) == 4 and all(s.centre is None for s in outer):
        return "mapped"
    if _is_circle(outer) and not holes:
        return "disc"
    if len(holes) == 1 and _is_circle(outer) and _is_circle(holes[0]):
        a, b = outer[0].centre, holes[0][0].centre
        return "ring" if a is not None and b is not None and _apart(a, b) < SAME else "paved"
    return "paved"


def _is_circle(loop: Loop) -> bool:
    """Whether a loop is one circle in four equal arcs."""
    first = loop[0]
    return (
        len(loop) == 4
        and first.centre is not None
        and all(
            s.centre is not None and _apart(s.centre, first.centre) < SAME and abs(s.length - first.length) < SAME
            for s in loop
        )
    )


def _is_inside(region: Region, layer: Sequence[Segment]) -> bool:
    """Even-odd: how often a ray from inside the region meets the outline of the layer."""
    at = region.polygon().representative_point()
    crossed = 0
    for segment in layer:
        line = np.vstack([segment.polyline(), segment.end])
        above = line[:, 1] > at.y
        for k in np.flatnonzero(above[:-1] != above[1:]):
            (xa, ya), (xb, yb) = line[k], line[k + 1]
            crossed += xa + (at.y - ya) / (yb - ya) * (xb - xa) > at.x
    return crossed % 2 == 1
