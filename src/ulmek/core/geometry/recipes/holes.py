"""Rectangular hole patterns shared by plates and flanges."""

from shapely.geometry import Point as Spot

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.outline import Loop, Point, Region, circle
from ulmek.core.geometry.recipes.recipe import Dimension, Values

HOLE_DIMENSIONS = (
    Dimension("hole_diameter", "Hole diameter", 17.5, 0.5, 2000.0),
    Dimension("hole_columns", "Holes across", 2, 0, 12, "count", drops="holes"),
    Dimension("hole_rows", "Holes up", 2, 0, 12, "count"),
    Dimension("hole_spacing_x", "Hole spacing across", 100.0, 0.0, 5000.0),
    Dimension("hole_spacing_y", "Hole spacing up", 100.0, 0.0, 5000.0),
)


def hole_centres(v: Values) -> list[Point]:
    """Centres of the pattern, row by row from the lower left, about the origin (mm)."""
    nx, ny = int(v["hole_columns"]), int(v["hole_rows"])
    return [
        ((i - (nx - 1) / 2) * v["hole_spacing_x"], (j - (ny - 1) / 2) * v["hole_spacing_y"])
        for j in range(ny)
        for i in range(nx)
    ]


def hole_loops(v: Values) -> list[Loop]:
    """The holes as loops named ``hole.1`` … in the order of `hole_centres`."""
    return [circle(f"hole.{i + 1}", c, v["hole_diameter"] / 2) for i, c in enumerate(hole_centres(v))]


def place_holes(regions: list[Region], v: Values) -> list[Region]:
    """Give every hole to the region that contains it.

    Raises
    ------
    GeometryError : a hole leaves its region, cuts an inner boundary, or meets another hole.
    """
    shapes = [r.polygon() for r in regions]
    taken: list[list[Loop]] = [[] for _ in regions]
    radius = v["hole_diameter"] / 2
    centres = hole_centres(v)
    for i, (loop, centre) in enumerate(zip(hole_loops(v), centres, strict=True)):
        for other in centres[:i]:
            distance = ((centre[0] - other[0]) ** 2 + (centre[1] - other[1]) ** 2) ** 0.5
            if distance <= 2.02 * radius:
                raise GeometryError(
                    f"holes of {2 * radius:g} mm diameter overlap at a spacing of {distance:g} mm.",
                    where="hole_diameter",
                    hint="Reduce the hole diameter or increase the spacing.",
                )
        disc = Spot(centre).buffer(radius)
        owners = [k for k, s in enumerate(shapes) if s.contains(disc)]
        if not owners:
            width, height = _extent(shapes)
            raise GeometryError(
                f"hole {i + 1} of {2 * radius:g} mm diameter at ({centre[0]:g}, {centre[1]:g}) mm does not fit: "
                f"it leaves the outline of {width:g} × {height:g} mm or cuts another part of it.",
                where="hole_diameter",
                hint="Reduce the hole diameter, or move the holes with the spacing.",
            )
        taken[owners[0]].append(loop)
    return [
        Region(r.name, r.outer, r.holes + tuple(t), "paved" if t else r.pattern)
        for r, t in zip(regions, taken, strict=True)
    ]


def _extent(shapes: list) -> tuple[float, float]:  # type: ignore[type-arg]
    boxes = [s.bounds for s in shapes]
    return (
        max(b[2] for b in boxes) - min(b[0] for b in boxes),
        max(b[3] for b in boxes) - min(b[1] for b in boxes),
    )
