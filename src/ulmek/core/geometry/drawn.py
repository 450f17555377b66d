"""Drawn parts: outlines of lines and arcs, given height in layers or turned about an axis; faults are told in place."""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from shapely import union_all
from shapely.geometry import MultiPolygon, Polygon

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import FaceTable, Layer, LayeredSolid
from ulmek.core.geometry.outline import Loop, Partition, Point, Region, Segment, circle, polygon_of
from ulmek.core.geometry.overlay import SAME, common_points, overlay
from ulmek.core.geometry.revolved import AXIS, RevolvedSolid, with_core

Array = NDArray[np.float64]
# Directions closer than this (rad) are one; a corner sharper than this (rad) is a cusp that nothing fills.
TANGENT, CUSP = 1e-4, 0.02


@dataclass(frozen=True)
class DrawnEdge:
    """An edge from the end of the one before it, in a ring: straight, or an arc of ``radius`` (mm).

    is_long: the arc of the two that is more than half a turn. corner: radius (mm) by which the corner at its end is
    rounded. ``name`` is that of the face that it sweeps.
    """

    name: str
    to: Point
    radius: float | None = None
    turns_left: bool = True
    is_long: bool = False
    corner: float = 0.0


@dataclass(frozen=True)
class DrawnOutline:
    """A ring of edges, or a circle by its centre and diameter (mm); what it holds is material or taken out."""

    name: str
    edges: tuple[DrawnEdge, ...] = ()
    circle: tuple[Point, float] | None = None
    is_hole: bool = False


@dataclass(frozen=True)
class DrawnLayer:
    """A height (mm) and the names of the outlines that give it its shape."""

    name: str
    height: float
    outlines: tuple[str, ...]


@dataclass(frozen=True)
class Fault:
    """What is wrong with a drawing, at which point (mm), and between which edges (counted from 0) of an outline."""

    message: str
    hint: str
    outline: str
    edges: tuple[int, ...] = ()
    at: Point | None = None

    def error(self) -> GeometryError:
        """The fault as an error."""
        return GeometryError(self.message, where=self.outline, hint=self.hint)


@dataclass(frozen=True)
class Ring:
    """An outline as segments, the edge (counted from 0) that each of them is of, and what is wrong with it."""

    outline: DrawnOutline
    segments: Loop
    edge_of: tuple[int, ...]
    faults: tuple[Fault, ...]

    @property
    def polygon(self) -> Polygon:
        """What it holds, as a polygon of chords."""
        return polygon_of(self.segments)


@dataclass
class _Tracing:
    """Segments of one ring as they are found, and its faults."""

    outline: DrawnOutline
    segments: list[Segment] = field(default_factory=list)
    faults: list[Fault] = field(default_factory=list)

    def fault(self, message: str, hint: str, edges: tuple[int, ...], at: Point | None = None) -> None:
        self.faults.append(Fault(message, hint, self.outline.name, edges, at))


def ring_of(outline: DrawnOutline) -> Ring:
    """The segments of an outline, as far as it can be traced, and what is wrong with it."""
    tracing = _Tracing(outline)
    if outline.circle is not None:
        middle, diameter = outline.circle
        if diameter <= 2 * SAME:
            tracing.fault(f"the circle '{outline.name}' has no size.", "Give it a diameter.", (), middle)
            return Ring(outline, (), (), tuple(tracing.faults))
        round_about = circle(outline.name, middle, diameter / 2)
        return Ring(outline, round_about, (0,) * len(round_about), ())
    edges = outline.edges
    if len(edges) < 2:
        tracing.fault(
            f"the outline '{outline.name}' is open: it has {len(edges)} edge{'s' * (len(edges) != 1)}.",
            "Go on drawing: three straight edges close an outline, or two of which one is an arc.", (),
        )  # fmt: skip
        return Ring(outline, (), (), tuple(tracing.faults))
    for i, edge in enumerate(edges):
        tracing.segments.append(_segment(tracing, i, edges[i - 1].to, edge))
    sharp = list(tracing.segments)
    segments, edge_of = _rounded(tracing)
    if not tracing.faults:
        _check_crossings(tracing, segments, edge_of)
        _check_cusps(tracing, segments, edge_of)
    if not tracing.faults and abs(sum(s.swept_area() for s in segments)) < SAME:
        tracing.fault(f"the outline '{outline.name}' holds no area.", "Move a corner off the line.", (), sharp[0].start)
    return Ring(outline, tuple(segments), tuple(edge_of), tuple(tracing.faults))


def _segment(tracing: _Tracing, index: int, start: Point, edge: DrawnEdge) -> Segment:
    """One edge as a segment; a straight one in place of an arc that cannot be."""
    straight = Segment(edge.name, start, edge.to)
    chord = float(np.hypot(edge.to[0] - start[0], edge.to[1] - start[1]))
    if chord < SAME:
        tracing.fault(
            f"the edge '{edge.name}' has no length: it ends where it begins.", "Move its end, or take it out.",
            (index,), start,
        )  # fmt: skip
        return straight
    if edge.radius is None:
        return straight
    if edge.radius < chord / 2 * (1 - 1e-9):
        tracing.fault(
            f"an arc of radius {edge.radius:g} mm cannot span the {chord:.6g} mm of the edge '{edge.name}'.",
            f"Give it {chord / 2:.6g} mm or more, or move its ends together.", (index,), edge.to,
        )  # fmt: skip
        return straight
    away = np.sqrt(max(edge.radius**2 - chord**2 / 4, 0.0)) * (1 if edge.turns_left != edge.is_long else -1)
    dx, dy = (edge.to[0] - start[0]) / chord, (edge.to[1] - start[1]) / chord
    middle = ((start[0] + edge.to[0]) / 2 - away * dy, (start[1] + edge.to[1]) / 2 + away * dx)
    return Segment(edge.name, start, edge.to, (float(middle[0]), float(middle[1])), edge.turns_left)


def _rounded(tracing: _Tracing) -> tuple[list[Segment], list[int]]:
    """The segments with their corners rounded, and the edge that each is of."""
    edges, segments = tracing.outline.edges, list(tracing.segments)
    n = len(edges)
    arcs: dict[int, Segment] = {}
    for i, edge in enumerate(edges):
        here, after = tracing.segments[i], tracing.segments[(i + 1) % n]
        if edge.corner <= 0 or min(here.length, after.length) < SAME:
            continue
        where = f"the corner between '{here.name}' and '{after.name}'"
        if here.centre is not None or after.centre is not None:
            tracing.fault(
                f"{where} is not between straight edges.", "Draw the rounding as an arc.", (i, (i + 1) % n), here.end
            )
            continue
        corner = np.array(here.end)
        back, on = (np.array(here.start) - corner) / here.length, (np.array(after.end) - corner) / after.length
        half = np.arccos(np.clip(back @ on, -1, 1)) / 2
        if half < TANGENT or half > np.pi / 2 - TANGENT:
            tracing.fault(f"{where} is none to round.", "Leave it sharp.", (i, (i + 1) % n), here.end)
            continue
        cut = edge.corner / np.tan(half)
        middle = corner + (back + on) / np.linalg.norm(back + on) * edge.corner / np.sin(half)
        before, beyond = _pair(corner + cut * back), _pair(corner + cut * on)
        arcs[i] = Segment(edge.name, before, beyond, _pair(middle), bool(back[0] * on[1] - back[1] * on[0] < 0))
        segments[i] = replace(segments[i], end=before)
        segments[(i + 1) % n] = replace(segments[(i + 1) % n], start=beyond)
    for i, (now, was) in enumerate(zip(segments, tracing.segments, strict=True)):
        taken = [arcs[j] for j in (i, (i - 1) % n) if j in arcs]
        along = np.subtract(now.end, now.start) @ np.subtract(was.end, was.start)
        if taken and along < -SAME * was.length:
            tracing.fault(
                f"the roundings at both ends of '{was.name}' need more than its {was.length:.6g} mm.",
                "Make them smaller, or the edge longer.", (i,), was.end,
            )  # fmt: skip
    found = [(piece, i) for i in range(n) for piece in (segments[i], arcs.get(i)) if piece is not None]
    kept = [(s, i) for s, i in found if s.length > SAME]
    return [s for s, _ in kept], [i for _, i in kept]


def _pair(p: Array) -> Point:
    return float(p[0]), float(p[1])


def _check_crossings(tracing: _Tracing, segments: Sequence[Segment], edge_of: Sequence[int]) -> None:
    """Tell where a ring meets itself other than from each segment to the next."""
    n = len(segments)
    told: set[tuple[int, int]] = set()
    for i, j in itertools.combinations(range(n), 2):
        ends = {_key(p) for p in (segments[i].start, segments[i].end)} & {
            _key(p) for p in (segments[j].start, segments[j].end)
        }
        joints = {_key(segments[i].end)} if j == i + 1 else {_key(segments[i].start)} if (i, j) == (0, n - 1) else set()
        if n == 2:
            joints = {_key(segments[0].start), _key(segments[0].end)}
        met = [p for p in common_points(segments[i], segments[j]) if _key(p) not in joints]
        touching = [p for p in (segments[j].start, segments[j].end) if _key(p) in ends - joints]
        for at, how in [*((p, "meet") for p in met[:1]), *((p, "touch") for p in touching[:1])]:
            pair = (edge_of[i], edge_of[j])
            if pair in told or _key(at) in told:
                continue
            told |= {pair, _key(at)}
            tracing.fault(
                f"the edges '{segments[i].name}' and '{segments[j].name}' {how} at ({at[0]:.5g}, {at[1]:.5g}) mm.",
                "Move a corner so that the outline goes round once, without meeting itself.", pair, at,
            )  # fmt: skip


def _check_cusps(tracing: _Tracing, segments: Sequence[Segment], edge_of: Sequence[int]) -> None:
    """Tell where a ring turns back on itself."""
    for i, here in enumerate(segments):
        j = (i + 1) % len(segments)
        came, goes = _heading(here, here.end), _heading(segments[j], segments[j].start)
        if came @ goes < -np.cos(CUSP):
            tracing.fault(
                f"'{segments[j].name}' turns back along '{here.name}' at ({here.end[0]:.5g}, {here.end[1]:.5g}) mm.",
                "Open the corner, or give the arc another radius or side.", (edge_of[i], edge_of[j]), here.end,
            )  # fmt: skip


def _heading(segment: Segment, p: Point) -> Array:
    """Unit direction in which a segment runs at one of its points."""
    along = _direction(segment, p)
    return along if segment.centre is None or segment.ccw else -along


def _key(p: Point) -> tuple[int, int]:
    return round(p[0] / SAME), round(p[1] / SAME)


def faults_of(outlines: Sequence[DrawnOutline], layers: Sequence[DrawnLayer] | None) -> list[Fault]:
    """What is wrong with a drawing; nothing where a solid can be made of it. Without layers it turns about x = 0."""
    rings = {o.name: ring_of(o) for o in outlines}
    if len(rings) < len(outlines):
        double = next(o.name for o in outlines if sum(p.name == o.name for p in outlines) > 1)
        return [Fault(f"two outlines are called '{double}'.", "Give each a name of its own.", double)]
    found = [fault for ring in rings.values() for fault in ring.faults]
    if found:
        return found
    if layers is None:
        found = list(_faults_about_axis(rings))
    shapes = []
    for names in [tuple(rings)] if layers is None else [la.outlines for la in layers]:
        unknown = next((n for n in names if n not in rings), None)
        if unknown is not None:
            return [Fault(f"there is no outline '{unknown}'.", f"Name one of {', '.join(rings)}.", unknown)]
        own = [rings[n] for n in names]
        found += _faults_between(own)
        shapes.append(_filled(own))
    for i, layer in enumerate(layers or ()):
        if layer.height <= 0:
            found.append(Fault(f"the layer '{layer.name}' has no height.", "Give it one above 0 mm.", ""))
        if i and not found and shapes[i].intersection(shapes[i - 1]).area < SAME:
            found.append(
                Fault(f"the layer '{layer.name}' does not stand on the one below.", "Let their outlines overlap.", "")
            )
    return found


def _filled(rings: Sequence[Ring]) -> Polygon | MultiPolygon:
    """The material of outlines together, less what is taken out, as polygons of chords."""
    full = union_all([r.polygon for r in rings if not r.outline.is_hole])
    return full.difference(union_all([r.polygon for r in rings if r.outline.is_hole]))


def _faults_between(rings: Sequence[Ring]) -> Iterator[Fault]:
    """What is wrong with outlines that share a layer."""
    first = rings[0].outline.name if rings else ""
    if all(r.outline.is_hole for r in rings):
        yield Fault("no outline gives the layer material.", "Add an outline that is not taken out.", first)
        return
    for a, b in itertools.combinations(rings, 2):
        at = next((p for s in a.segments for t in b.segments for p in _kisses(s, t)), None)
        if at is not None:
            yield Fault(
                f"'{a.outline.name}' and '{b.outline.name}' only touch at ({at[0]:.5g}, {at[1]:.5g}) mm.",
                "Move one of them, so that they cross or stand clear.", b.outline.name, (), at,
            )  # fmt: skip
    shape = _filled(rings)
    if shape.area < SAME:
        yield Fault("what is taken out leaves nothing.", "Make the hole smaller.", first)
    elif isinstance(shape, MultiPolygon):
        least = min(shape.geoms, key=lambda g: g.area).representative_point()
        yield Fault(
            f"the drawing falls in {len(shape.geoms)} pieces, one of them at ({least.x:.5g}, {least.y:.5g}) mm.",
            "Draw them as parts of their own, or join them.", first, (), (float(least.x), float(least.y)),
        )  # fmt: skip
    else:
        edge = [shape.exterior, *shape.interiors]
        for one, other in itertools.combinations(edge, 2):
            if one.distance(other) < SAME:
                at = one.intersection(other.buffer(SAME)).representative_point()
                yield Fault(
                    f"a hole only touches another line at ({at.x:.5g}, {at.y:.5g}) mm.",
                    "Move it, so that it leaves a wall or cuts through.", first, (), (float(at.x), float(at.y)),
                )  # fmt: skip


def _kisses(a: Segment, b: Segment) -> Iterator[Point]:
    """Points where two segments, one of them an arc, touch without crossing."""
    if a.centre is None and b.centre is None:
        return
    for p in common_points(a, b):
        one, other = _direction(a, p), _direction(b, p)
        same_circle = (
            a.centre is not None and b.centre is not None and np.hypot(*np.subtract(a.centre, b.centre)) < SAME
        )
        if abs(one[0] * other[1] - one[1] * other[0]) < TANGENT and not same_circle:
            yield p


def _direction(segment: Segment, p: Point) -> Array:
    """Unit tangent of a segment at one of its points."""
    if segment.centre is None:
        return np.subtract(segment.end, segment.start) / segment.length
    away = np.subtract(p, segment.centre) / segment.radius
    return np.array([-away[1], away[0]])


def _faults_about_axis(rings: dict[str, Ring]) -> Iterator[Fault]:
    """What is wrong with a profile that is turned about x = 0."""
    for ring in rings.values():
        for segment, edge in zip(ring.segments, ring.edge_of, strict=True):
            x, y = segment.points(np.linspace(0, 1, 65)).T
            if x.min() < -SAME:
                yield Fault(
                    f"the edge '{segment.name}' goes over the axis, to x = {x.min():.5g} mm.",
                    "Keep the profile at x ≥ 0: x is the radius.", ring.outline.name, (edge,),
                    (float(x.min()), float(y[x.argmin()])),
                )  # fmt: skip
                return
        on_axis = [s for s in ring.segments if s.centre is None and abs(s.start[0]) < SAME and abs(s.end[0]) < SAME]
        ends = {_key(p) for s in on_axis for p in (s.start, s.end)}
        for segment, edge in zip(ring.segments, ring.edge_of, strict=True):
            if abs(segment.end[0]) < SAME and _key(segment.end) not in ends:
                yield Fault(
                    f"the profile touches the axis in one point, at y = {segment.end[1]:.5g} mm.",
                    "Let it run along the axis, or stay clear of it.", ring.outline.name, (edge,), segment.end,
                )  # fmt: skip
                return
        heights = sorted(_key(p)[1] for s in on_axis for p in (s.start, s.end))
        if len(heights) - len(set(heights)) < len(on_axis) - 1:
            yield Fault(
                "the profile runs along the axis in two places.", "Let it run along the axis once.", ring.outline.name,
                (), on_axis[0].start,
            )  # fmt: skip


def drawn_solid(outlines: Sequence[DrawnOutline], layers: Sequence[DrawnLayer] | None) -> LayeredSolid | RevolvedSolid:
    """The solid of a drawing: its outlines in layers that stand on each other from z = 0, or turned, x the radius.

    Side faces are called as the edges that sweep them; ``top`` and ``bottom`` those of the first and last layer,
    ``layer.top`` and ``layer.bottom`` those between.

    Raises
    ------
    GeometryError : the first fault of the drawing; ``where`` names the outline.
    """
    for fault in faults_of(outlines, layers):
        raise fault.error()
    rings = [ring_of(o) for o in outlines]
    regions, inside, names = overlay([r.segments for r in rings])
    if layers is None:
        return _turned(rings, regions, inside, names)
    number = {r.outline.name: i for i, r in enumerate(rings)}
    table: dict[tuple[str, str, str], str] = {}
    made: list[Layer] = []
    height = 0.0
    for k, layer in enumerate(layers):
        own = [number[n] for n in layer.outlines]
        filled = _regions_in(own, rings, inside)
        made.append(Layer(layer.name, height, height + layer.height, filled))
        height += layer.height
        for region in filled:
            table[layer.name, "top", region] = "top" if k == len(layers) - 1 else f"{layer.name}.top"
            table[layer.name, "bottom", region] = "bottom" if k == 0 else f"{layer.name}.bottom"
        for item, by_outline in names.items():
            table[layer.name, "side", item] = next((by_outline[i] for i in own if by_outline[i]), "")
    used = frozenset[str]().union(*(la.regions for la in made))
    partition = Partition.of([r for r in regions if r.name in used])
    return LayeredSolid(partition, tuple(made), FaceTable(table))


def _regions_in(own: Sequence[int], rings: Sequence[Ring], inside: Sequence[frozenset[str]]) -> frozenset[str]:
    full = frozenset[str]().union(*(inside[i] for i in own if not rings[i].outline.is_hole))
    return full - frozenset[str]().union(*(inside[i] for i in own if rings[i].outline.is_hole))


def _turned(
    rings: Sequence[Ring], regions: Sequence[Region], inside: Sequence[frozenset[str]], names: dict[str, list[str]]
) -> RevolvedSolid:
    filled = _regions_in(range(len(rings)), rings, inside)
    if len(filled) != 1:
        raise GeometryError(
            "the profile is drawn in pieces that overlap.", where=rings[0].outline.name,
            hint="Draw what is turned as one outline.",
        )  # fmt: skip
    region = next(r for r in regions if r.name in filled)

    def named(s: Segment) -> Segment:
        on_axis = s.centre is None and abs(s.start[0]) < SAME and abs(s.end[0]) < SAME
        return replace(s, name=AXIS if on_axis else next(n for n in names[s.name] if n))

    outer = _joined_on_axis([named(s) for s in region.outer])
    profile = replace(region, name="body", outer=outer, holes=tuple(tuple(map(named, h)) for h in region.holes))
    reaches = any(s.name == AXIS for s in outer)
    return RevolvedSolid(with_core(profile) if reaches else Partition.of([profile]))


def _joined_on_axis(loop: Sequence[Segment]) -> Loop:
    """The loop with what runs along the axis as one segment."""
    if not any(s.name == AXIS for s in loop):
        return tuple(loop)
    first = next(i for i, s in enumerate(loop) if s.name == AXIS and loop[i - 1].name != AXIS)
    turned = [*loop[first:], *loop[:first]]
    on_axis = [s for s in turned if s.name == AXIS]
    return (replace(on_axis[0], end=on_axis[-1].end), *turned[len(on_axis) :])
