"""Regions cut by the planes x = 0 and y = 0: what lies on the positive side, closed along the plane."""

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ulmek.core.geometry.outline import Loop, Point, Region, Segment

# The names of the segments that cuts of x and of y leave.
CUT_FACES = ("cut.x", "cut.y")
# Closer to the plane (mm) is on it.
ON_PLANE = 1e-7


def clipped(region: Region, axis: int) -> list[Region]:
    """The parts of a region in which coordinate ``axis`` is positive."""
    loops = [_run(loop, is_outer=i == 0) for i, loop in enumerate((region.outer, *region.holes))]
    closed: list[Loop] = []
    chains: list[list[Segment]] = []
    for loop in loops:
        pieces = [piece for segment in loop for piece in split_at_plane(segment, axis)]
        inside = [_is_inside(piece, axis) for piece in pieces]
        if all(inside):
            closed.append(tuple(pieces))
            continue
        first = inside.index(False)
        order = [*range(first, len(pieces)), *range(first)]
        chain: list[Segment] = []
        for i in order:
            if inside[i]:
                chain.append(pieces[i])
            elif chain:
                chains.append(chain)
                chain = []
        if chain:
            chains.append(chain)
    if not chains and len(closed) == len(loops):
        return [region]
    closed += _joined(chains, axis)
    areas = [sum(s.swept_area() for s in loop) for loop in closed]
    outers = [loop for loop, area in zip(closed, areas, strict=True) if area > 0]
    holes = [loop for loop, area in zip(closed, areas, strict=True) if area < 0]
    found = []
    for outer in outers:
        own = Region(region.name, outer)
        within = tuple(h for h in holes if own.polygon().covers(Region("hole", _run(h, is_outer=True)).polygon()))
        sides = "mapped" if len(outer) == 4 and not within and region.pattern in ("mapped", "ring") else "paved"
        found.append(Region(region.name, outer, within, sides))  # type: ignore[arg-type]
    return found


def _run(loop: Loop, *, is_outer: bool) -> Loop:
    """The loop with what it bounds on its left."""
    is_ccw = sum(s.swept_area() for s in loop) > 0
    return loop if is_ccw == is_outer else tuple(s.reversed() for s in reversed(loop))


def split_at_plane(segment: Segment, axis: int) -> list[Segment]:
    """Pieces of a segment that lie on one side each of the plane in which coordinate ``axis`` is zero."""
    points = [segment.start, *_crossings(segment, axis), segment.end]
    snapped = [_on_plane(p, axis) if abs(p[axis]) < ON_PLANE else p for p in points]
    return [replace(segment, start=a, end=b) for a, b in itertools.pairwise(snapped)]


def _crossings(segment: Segment, axis: int) -> list[Point]:
    """Where a segment passes through the plane, ends left out, in the order of its run."""
    a, b = segment.start[axis], segment.end[axis]
    if segment.centre is None:
        if min(a, b) > -ON_PLANE or max(a, b) < ON_PLANE:
            return []
        along = segment.start[1 - axis] + a / (a - b) * (segment.end[1 - axis] - segment.start[1 - axis])
        return [_on_plane((along, along), axis)]
    away, radius = segment.centre[axis], segment.radius
    if abs(away) > radius - ON_PLANE:
        return []
    half = float(np.sqrt(radius**2 - away**2))
    found: list[tuple[float, Point]] = []
    for side in (-half, half):
        along = segment.centre[1 - axis] + side
        point = _on_plane((along, along), axis)
        t = _parameter(segment, point)
        if 1e-9 < t < 1 - 1e-9 and min(_apart(point, segment.start), _apart(point, segment.end)) > ON_PLANE:
            found.append((t, point))
    return [p for _, p in sorted(found)]


def _parameter(segment: Segment, point: Point) -> float:
    """Where ``point`` of the circle of an arc lies along it: 0 at its start, 1 at its end, beyond 1 outside."""
    part = replace(segment, end=point)
    return part.length / segment.length if _apart(segment.start, point) > ON_PLANE else 0.0


def _apart(a: Point, b: Point) -> float:
    return float(np.hypot(a[0] - b[0], a[1] - b[1]))


def _on_plane(point: Point, axis: int) -> Point:
    return (0.0, point[1]) if axis == 0 else (point[0], 0.0)


def _is_inside(piece: Segment, axis: int) -> bool:
    middle = float(piece.points(np.array([0.5]))[0, axis])
    if abs(middle) > ON_PLANE:
        return middle > 0
    # On the plane: inside where the region lies on the positive side, left of the run.
    forward = piece.end[1 - axis] - piece.start[1 - axis]
    return forward > 0 if axis == 1 else forward < 0


def _joined(chains: Sequence[Sequence[Segment]], axis: int) -> list[Loop]:
    """Loops from chains that begin and end on the plane, closed along it with the kept side on the left."""
    forward = 1.0 if axis == 1 else -1.0

    def along(point: Point) -> float:
        return forward * point[1 - axis]

    left = sorted(chains, key=lambda c: along(c[0].start))
    loops = []
    while left:
        chain = left.pop(0)
        loop, begin = list(chain), chain[0].start
        while True:
            end = loop[-1].end
            ahead = [c for c in left if along(c[0].start) >= along(end) - ON_PLANE]
            following = min(ahead, key=lambda c: along(c[0].start), default=None)
            back_home = along(begin) >= along(end) - ON_PLANE
            if following is None or (back_home and along(begin) <= along(following[0].start)):
                target = begin
            else:
                left.remove(following)
                target = following[0].start
            if _apart(end, target) > ON_PLANE:
                loop.append(Segment(CUT_FACES[axis], end, target))
            if target is begin or following is None:
                break
            loop += following
        loops.append(tuple(loop))
    return loops
