"""Drawn parts and bent bars of a document as solids, and drawings told as far as they go while they are drawn."""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from ulmek.core.errors import InputError, UlmekError, located
from ulmek.core.geometry import drawn as core
from ulmek.core.geometry.bent import BentSolid, Run, bent_solid, cut_bar
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes import Solid
from ulmek.study.expressions import Dimensions, Kind, Written
from ulmek.study.items.drawn import BarRun, BentShape, DrawnEdge, DrawnOutline, DrawnShape
from ulmek.study.units import value_of

Point = tuple[float, float]
# The place of the dimensions of a part within its recipe.
DIMENSIONS = "dimensions"


def named_dimensions(written: Written) -> Dimensions:
    """Dimensions that people gave names to.

    Raises
    ------
    InputError, UnitError : a name that cannot be spoken of, or a dimension that cannot be read.
    """
    for name in written:
        if not name.isidentifier() or not name.isascii():
            raise InputError(
                f"'{name[:40]}' cannot be spoken of.", where=f"{DIMENSIONS}/{name[:40]}",
                hint="Name a dimension by letters, digits and _, such as wall or d_1.",
            )  # fmt: skip
        if _is_unit(name):
            raise InputError(
                f"'{name}' is a unit.", where=f"{DIMENSIONS}/{name}", hint="Give the dimension another name."
            )
    dimensions = Dimensions(written)
    for name in written:
        located(DIMENSIONS, dimensions.value, name)
    return dimensions


def _is_unit(name: str) -> bool:
    for kind in ("length", "angle"):
        try:
            value_of(f"1 {name}", kind)
        except UlmekError:
            continue
        return True
    return False


def drawn_solid(shape: DrawnShape, written: Written) -> Solid:
    """The solid of a drawn part.

    Raises
    ------
    UlmekError : a dimension or entry that cannot be read, or the first fault of the drawing; ``where`` is its place in
        the recipe.
    """
    dimensions = named_dimensions(written)
    outlines = [located(f"drawn/outlines/{i}", _outline, o, dimensions) for i, o in enumerate(shape.outlines)]
    layers = _layers(shape, dimensions)
    return located("drawn/outlines", core.drawn_solid, outlines, layers)


def _layers(shape: DrawnShape, dimensions: Dimensions) -> list[core.DrawnLayer] | None:
    """The layers, None where the drawing is turned."""
    return [
        core.DrawnLayer(
            la.name, located(f"drawn/layers/{i}/height", dimensions.read, la.height, "length"), tuple(la.outlines)
        )
        for i, la in enumerate(shape.layers)
    ] or None


def _outline(outline: DrawnOutline, dimensions: Dimensions) -> core.DrawnOutline:
    if outline.circle is not None:
        centre = _point(outline.circle.centre, dimensions, "circle/centre")
        diameter = located("circle/diameter", dimensions.read, outline.circle.diameter, "length")
        return core.DrawnOutline(outline.name, (), (centre, diameter), outline.takes_out)
    edges = tuple(located(f"edges/{i}", _edge, edge, dimensions) for i, edge in enumerate(outline.edges))
    return core.DrawnOutline(outline.name, edges, None, outline.takes_out)


def _edge(edge: DrawnEdge, dimensions: Dimensions) -> core.DrawnEdge:
    def length(entry: str | None, place: str) -> float | None:
        return None if entry is None else float(located(place, dimensions.read, entry, "length"))

    arc = edge.arc
    return core.DrawnEdge(
        edge.name,
        _point(edge.to, dimensions, "to"),
        None if arc is None else length(arc.radius, "arc/radius"),
        turns_left=arc is None or arc.turns == "left",
        is_long=arc is not None and arc.is_long,
        corner=length(edge.corner, "corner") or 0.0,
    )


def _point(entries: tuple[str, str], dimensions: Dimensions, place: str) -> Point:
    x, y = (float(located(f"{place}/{k}", dimensions.read, e, "length")) for k, e in enumerate(entries))
    return x, y


def bent_bar(shape: BentShape, written: Written) -> BentSolid:
    """The solid of a bent bar; raises as `drawn_solid`."""
    dimensions = named_dimensions(written)
    outlines = [located(f"bent/section/{i}", _outline, o, dimensions) for i, o in enumerate(shape.section)]
    # A slab of the section: its outline alone counts.
    slab = core.DrawnLayer("section", 1.0, tuple(o.name for o in outlines))
    section = located("bent/section", core.drawn_solid, outlines, [slab])
    assert isinstance(section, LayeredSolid)
    runs = [located(f"bent/runs/{i}", _run, run, dimensions) for i, run in enumerate(shape.runs)]
    solid: BentSolid = located("bent/runs", bent_solid, section.named_outline(), runs)
    for i, cut in enumerate(shape.cuts):
        normal = np.array(cut.normal)
        length = float(np.linalg.norm(normal))
        if not np.isfinite(length) or length == 0:
            raise InputError("the normal of the plane has no direction.", where=f"bent/cuts/{i}", hint="Give one.")
        at = value_of(cut.at, "length")
        solid = located(f"bent/cuts/{i}", cut_bar, solid, normal / length, at, f"cut.{i + 1}")
    return solid


def _run(run: BarRun, dimensions: Dimensions) -> Run:
    def read(entry: str | None, place: str, kind: Kind) -> float:
        return 0.0 if entry is None else float(located(place, dimensions.read, entry, kind))

    return Run(
        run.name,
        length=read(run.length, "length", "length"),
        radius=read(run.radius, "radius", "length"),
        angle=float(np.deg2rad(read(run.angle, "angle", "angle"))),
        about=float(np.deg2rad(read(run.towards, "towards", "angle"))),
    )


class TracedEdge(BaseModel):
    """An edge of a drawing as it lies: points (mm) along it, length (mm), direction (degrees) of a straight one, and
    radius (mm) and sweep (degrees) of an arc. ``edge`` is counted from 0; ``is_corner``: the rounding at its end."""

    outline: int
    edge: int
    name: str
    points: list[Point]
    length: float
    direction: float | None
    radius: float | None
    sweep: float | None
    is_corner: bool


class DrawingFault(BaseModel):
    """What is wrong, and where: the outline and edges (counted from 0), and the point (mm)."""

    message: str
    hint: str
    where: str = ""
    outline: int | None = None
    edges: list[int] = []
    at: Point | None = None


class Drawing(BaseModel):
    """A drawing as it stands: its edges, its dimensions with their values, what is wrong with it, and where nothing is,
    area (mm²) of its lowest section or profile and volume (mm³)."""

    edges: list[TracedEdge]
    dimensions: dict[str, str]
    faults: list[DrawingFault]
    area: float | None = None
    volume: float | None = None


def traced(shape: DrawnShape, written: Written) -> Drawing:
    """A drawing as far as it can be traced; what cannot be read is told among its faults."""
    said: dict[str, str] = {}
    try:
        dimensions = named_dimensions(written)
        said = {name: dimensions.said(name) for name in written}
        layers = _layers(shape, dimensions)
    except UlmekError as error:
        return Drawing(edges=[], dimensions=said, faults=[_told(error)])
    rings, faults = [], []
    for i, outline in enumerate(shape.outlines):
        try:
            rings.append((i, core.ring_of(located(f"drawn/outlines/{i}", _outline, outline, dimensions))))
        except UlmekError as error:
            faults.append(_told(error, outline=i))
    edges = [edge for i, ring in rings for edge in _traced_edges(i, ring)]
    if not faults:
        number = {r.outline.name: i for i, r in reversed(rings)}
        faults = [
            DrawingFault(
                message=f.message, hint=f.hint, outline=number.get(f.outline), edges=list(f.edges), at=f.at,
                where="" if f.outline not in number else f"drawn/outlines/{number[f.outline]}",
            )
            for f in core.faults_of([r.outline for _, r in rings], layers)
        ]  # fmt: skip
    if faults:
        return Drawing(edges=edges, dimensions=said, faults=faults)
    try:
        solid = core.drawn_solid([r.outline for _, r in rings], layers)
    except UlmekError as error:
        return Drawing(edges=edges, dimensions=said, faults=[_told(error)])
    lowest = solid.layers[0].regions if isinstance(solid, LayeredSolid) else {r.name for r in solid.partition.regions}
    area = sum(r.area() for r in solid.partition.regions if r.name in lowest)
    return Drawing(edges=edges, dimensions=said, faults=[], area=area, volume=solid.volume())


def _told(error: UlmekError, outline: int | None = None) -> DrawingFault:
    return DrawingFault(message=error.message, hint=error.hint, where=error.where, outline=outline)


def _traced_edges(number: int, ring: core.Ring) -> Sequence[TracedEdge]:
    found, seen = [], set[int]()
    is_circle = ring.outline.circle is not None
    for segment, edge in zip(ring.segments, ring.edge_of, strict=True):
        (ax, ay), (bx, by) = segment.start, segment.end
        is_arc = segment.centre is not None
        found.append(
            TracedEdge(
                outline=number,
                edge=edge,
                name=segment.name,
                points=[(float(x), float(y)) for x, y in [*segment.polyline(), segment.end]],
                length=segment.length,
                direction=None if is_arc else float(np.rad2deg(np.arctan2(by - ay, bx - ax))),
                radius=segment.radius if is_arc else None,
                sweep=float(np.rad2deg(segment.length / segment.radius)) if is_arc else None,
                is_corner=edge in seen and not is_circle,
            )
        )
        seen.add(edge)
    return found
