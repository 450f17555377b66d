"""Outlines of named line and arc segments, and planar partitions made of them."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.validation import explain_validity

from ulmek.core.errors import GeometryError

Point = tuple[float, float]
Pattern = Literal["paved", "mapped", "ring", "disc"]

# Arcs are compared and validated through this many chords per full turn.
CHORDS_PER_TURN = 64


@dataclass(frozen=True)
class Segment:
    """A straight line or a circular arc from ``start`` to ``end`` (mm).

    ``name`` is the name of the side face that the segment sweeps; several segments may share
    one. ``centre`` makes it an arc, run counter-clockwise when ``ccw``.
    """

    name: str
    start: Point
    end: Point
    centre: Point | None = None
    ccw: bool = True

    @property
    def radius(self) -> float:
        """Radius of the arc, infinite for a line (mm)."""
        if self.centre is None:
            return float("inf")
        return float(np.hypot(self.start[0] - self.centre[0], self.start[1] - self.centre[1]))

    def _angles(self) -> tuple[float, float]:
        """Start angle and signed sweep of the arc (rad)."""
        assert self.centre is not None
        a0 = np.arctan2(self.start[1] - self.centre[1], self.start[0] - self.centre[0])
        a1 = np.arctan2(self.end[1] - self.centre[1], self.end[0] - self.centre[0])
        sweep = (a1 - a0) % (2 * np.pi)
        if sweep < 1e-9:
            sweep = 2 * np.pi
        return float(a0), float(sweep if self.ccw else sweep - 2 * np.pi)

    @property
    def length(self) -> float:
        """Length along the segment (mm)."""
        if self.centre is None:
            return float(np.hypot(self.end[0] - self.start[0], self.end[1] - self.start[1]))
        return abs(self._angles()[1]) * self.radius

    def points(self, t: NDArray[np.float64]) -> NDArray[np.float64]:
        """Points at parameters ``t`` in 0…1, shape (len(t), 2), mm, on the true curve."""
        t = np.asarray(t, float)
        if self.centre is None:
            a, b = np.array(self.start), np.array(self.end)
            return np.asarray(a + t[:, None] * (b - a))
        a0, sweep = self._angles()
        angle = a0 + t * sweep
        out: NDArray[np.float64] = np.array(self.centre) + self.radius * np.column_stack([np.cos(angle), np.sin(angle)])
        out[t == 0.0] = self.start
        out[t == 1.0] = self.end
        return out

    def swept_area(self) -> float:
        """``½ ∫ (x dy − y dx)`` along the segment (mm²)."""
        if self.centre is None:
            return (self.start[0] * self.end[1] - self.end[0] * self.start[1]) / 2
        across = self.centre[0] * (self.end[1] - self.start[1]) - self.centre[1] * (self.end[0] - self.start[0])
        return (self.radius**2 * self._angles()[1] + across) / 2

    def reversed(self) -> "Segment":
        """The same segment run the other way."""
        return Segment(self.name, self.end, self.start, self.centre, not self.ccw)

    def polyline(self) -> NDArray[np.float64]:
        """Chords that follow the segment closely, without its end point, shape (n, 2), mm."""
        if self.centre is None:
            return np.array([self.start])
        # Less a rounding: both runs of an arc have as many chords.
        n = max(2, int(np.ceil(abs(self._angles()[1]) / (2 * np.pi) * CHORDS_PER_TURN - 1e-6)))
        return self.points(np.arange(n) / n)


Loop = tuple[Segment, ...]


def polygon(names: str | Sequence[str], corners: Sequence[Point]) -> Loop:
    """Closed loop of straight segments through ``corners``; one name for all, or one each."""
    labels = [names] * len(corners) if isinstance(names, str) else list(names)
    closed = [*corners, corners[0]]
    return tuple(Segment(n, a, b) for n, a, b in zip(labels, closed[:-1], closed[1:], strict=True))


def rounded(corners: Sequence[tuple[str, Point, float]]) -> Loop:
    """Closed counter-clockwise loop through corners (name of the side that leaves it, point, rounding radius).

    Roundings carry the name of the side that leaves the corner.

    Raises
    ------
    GeometryError : a radius that does not fit between its neighbours, with the place.
    """
    n = len(corners)
    points = [np.array(c[1], float) for c in corners]
    ends: list[tuple[Point, Point, Point | None, bool]] = []
    used = np.zeros(n)
    for i, (_, _, radius) in enumerate(corners):
        here, back, on = points[i], points[i - 1] - points[i], points[(i + 1) % n] - points[i]
        a, b = back / np.hypot(*back), on / np.hypot(*on)
        if radius <= 0:
            ends.append((_point(here), _point(here), None, True))
            continue
        half = np.arccos(np.clip(a @ b, -1, 1)) / 2
        cut = radius / np.tan(half)
        used[i - 1] += cut
        used[i] += cut
        middle = (a + b) / np.hypot(*(a + b)) * radius / np.sin(half)
        turns_left = bool(a[0] * b[1] - a[1] * b[0] < 0)
        ends.append((_point(here + cut * a), _point(here + cut * b), _point(here + middle), turns_left))
    for i in range(n):
        length = float(np.hypot(*(points[(i + 1) % n] - points[i])))
        if used[i] > length * (1 - 1e-6):
            raise GeometryError(
                f"roundings take {used[i]:.4g} mm of the side '{corners[i][0]}', which is {length:.4g} mm long.",
                hint="Reduce the rounding radius, or lengthen the side.",
            )
    loop: list[Segment] = []
    for i, (name, _, _) in enumerate(corners):
        start, end, centre, turns_left = ends[i]
        if centre is not None:
            loop.append(Segment(name, start, end, centre, turns_left))
        loop.append(Segment(name, end, ends[(i + 1) % n][0]))
    return tuple(loop)


def _point(p: NDArray[np.float64]) -> Point:
    return float(p[0]), float(p[1])


def circle(name: str, centre: Point, radius: float, *, arcs: int = 4, start: float = 0.0) -> Loop:
    """Closed counter-clockwise circle made of equal arcs, the first beginning at angle ``start``."""
    angles = start + 2 * np.pi * np.arange(arcs) / arcs
    pts = [(float(centre[0] + radius * np.cos(a)), float(centre[1] + radius * np.sin(a))) for a in angles]
    closed = [*pts, pts[0]]
    return tuple(Segment(name, a, b, centre, True) for a, b in itertools.pairwise(closed))


@dataclass(frozen=True)
class Region:
    """One cell of a partition: an outer loop (counter-clockwise) with holes.

    ``pattern`` says how it is meshed: ``paved`` anywhere, ``mapped`` four sides, ``ring`` two
    loops with as many segments each, ``disc`` a full disc.
    """

    name: str
    outer: Loop
    holes: tuple[Loop, ...] = ()
    pattern: Pattern = "paved"

    def area(self) -> float:
        """Exact area (mm²), arcs as arcs."""
        return sum(s.swept_area() for loop in (self.outer, *self.holes) for s in _turned(loop, loop is self.outer))

    def polygon(self) -> Polygon:
        """The region as a polygon of chords."""
        return polygon_of(self.outer, *self.holes)


def polygon_of(outer: Loop, *holes: Loop) -> Polygon:
    """Loops as a polygon of chords."""
    return Polygon(_chords(outer), [_chords(h) for h in holes])


def _turned(loop: Loop, is_outer: bool) -> Loop:
    """The loop counter-clockwise where it is the outer one, clockwise round a hole."""
    is_ccw = sum(s.swept_area() for s in loop) > 0
    return loop if is_ccw == is_outer else tuple(s.reversed() for s in reversed(loop))


def _chords(loop: Loop) -> NDArray[np.float64]:
    return np.vstack([s.polyline() for s in loop])


@dataclass(frozen=True)
class SegmentUse:
    """A segment of a partition as one region runs it."""

    index: int
    forward: bool


@dataclass(frozen=True)
class Partition:
    """Regions that share segments, each segment stored once."""

    regions: tuple[Region, ...]
    segments: tuple[Segment, ...]
    loops: tuple[tuple[tuple[SegmentUse, ...], ...], ...] = field(repr=False)

    @staticmethod
    def of(regions: Sequence[Region]) -> "Partition":
        """Build from regions whose shared boundaries are drawn with the same segments.

        Raises
        ------
        GeometryError : a loop is open, a segment has no length, a loop crosses itself, a hole
            lies outside its region, or two regions overlap; says which.
        """
        segments: list[Segment] = []
        known: dict[tuple[int, ...], int] = {}
        loops = []
        for region in regions:
            validate(region)
            loops.append(tuple(tuple(_use(s, segments, known) for s in loop) for loop in (region.outer, *region.holes)))
        _check_disjoint(regions)
        return Partition(tuple(regions), tuple(segments), tuple(loops))


def _key(p: Point) -> tuple[int, int]:
    return round(p[0] * 1e6), round(p[1] * 1e6)


def _use(segment: Segment, segments: list[Segment], known: dict[tuple[int, ...], int]) -> SegmentUse:
    mid = segment.points(np.array([0.5]))[0]
    middle = _key((mid[0], mid[1]))
    forward = _key(segment.start) + _key(segment.end) + middle
    backward = _key(segment.end) + _key(segment.start) + middle
    if forward in known:
        return SegmentUse(known[forward], True)
    if backward in known:
        return SegmentUse(known[backward], False)
    known[forward] = len(segments)
    segments.append(segment)
    return SegmentUse(known[forward], True)


def validate(region: Region) -> None:
    """Check one region.

    Raises
    ------
    GeometryError : see `Partition.of`.
    """
    for kind, loop in [("outline", region.outer), *(("hole", h) for h in region.holes)]:
        place = f"{kind} of region '{region.name}'"
        for segment in loop:
            numbers = [*segment.start, *segment.end, *(segment.centre or ())]
            if not np.all(np.isfinite(numbers)):
                raise GeometryError(f"segment '{segment.name}' in the {place} has a coordinate that is not a number.")
            if segment.length < 1e-6:
                raise GeometryError(f"segment '{segment.name}' in the {place} has no length.")
        for a, b in zip(loop, [*loop[1:], loop[0]], strict=True):
            gap = float(np.hypot(a.end[0] - b.start[0], a.end[1] - b.start[1]))
            if gap > 1e-6:
                raise GeometryError(
                    f"the {place} is open by {gap:.4g} mm between '{a.name}' and '{b.name}'.",
                    hint="Make the end of each segment the start of the next.",
                )
    shape = region.polygon()
    if not shape.is_valid:
        raise GeometryError(
            f"the outline of region '{region.name}' crosses itself or a hole leaves it: {explain_validity(shape)}.",
            hint="Make the hole smaller, move it inwards, or enlarge the outline.",
        )
    if shape.area < 1e-9:
        raise GeometryError(f"region '{region.name}' has no area.")
    if not shape.exterior.is_ccw:
        raise GeometryError(f"the outline of region '{region.name}' must run counter-clockwise.")


def _check_disjoint(regions: Sequence[Region]) -> None:
    shapes = [r.polygon() for r in regions]
    for i, a in enumerate(shapes):
        for j in range(i):
            common = a.intersection(shapes[j]).area
            # Chords on both sides of a shared arc cancel; anything above this share is a real overlap.
            if common > 1e-6 * min(a.area, shapes[j].area):
                raise GeometryError(f"regions '{regions[i].name}' and '{regions[j].name}' overlap by {common:.4g} mm².")
