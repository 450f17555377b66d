"""Recipe ``washer``: a flat ring, also a plain sleeve."""

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Partition, Region, Segment, circle
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _ring(inner: float, outer: float) -> Region:
    return Region("ring", circle("rim", (0, 0), outer), (circle("bore", (0, 0), inner),), "ring")


def _sector(inner: float, outer: float, degrees: float) -> Region:
    """The part of the ring from the x axis counter-clockwise, four-sided."""
    x, y = np.cos(np.deg2rad(degrees)), np.sin(np.deg2rad(degrees))
    if degrees == 90:
        x, y = 0.0, 1.0  # exactly on the y axis, so that symmetry finds the plane
    rim_end, bore_end = (float(outer * x), float(outer * y)), (float(inner * x), float(inner * y))
    loop = (
        Segment("start", (inner, 0.0), (outer, 0.0)),
        Segment("rim", (outer, 0.0), rim_end, (0.0, 0.0), True),
        Segment("end", rim_end, bore_end),
        Segment("bore", bore_end, (inner, 0.0), (0.0, 0.0), False),
    )
    return Region("ring", loop, pattern="mapped")


def _build(v: Values) -> LayeredSolid:
    inner, outer = v["inner_diameter"], v["outer_diameter"]
    if outer <= inner * 1.001:
        raise GeometryError(
            f"the outer diameter {outer:g} mm is not larger than the inner diameter {inner:g} mm.",
            where="outer_diameter",
            hint="Enlarge the outer or reduce the inner diameter.",
        )
    region = _ring(inner / 2, outer / 2) if v["sector"] == 360 else _sector(inner / 2, outer / 2, v["sector"])
    layer = Layer("ring", 0.0, v["thickness"], frozenset({"ring"}))
    return LayeredSolid(Partition.of([region]), (layer,), by_kind)


WASHER = Recipe(
    "washer",
    "Washer or sleeve",
    "A flat ring about the z axis, or a sector of it, its bottom in z = 0; long ones are sleeves.",
    (
        Dimension("inner_diameter", "Inner diameter", 17.0, 0.1, 5000.0),
        Dimension("outer_diameter", "Outer diameter", 30.0, 0.2, 5000.0),
        Dimension("thickness", "Thickness", 3.0, 0.05, 5000.0),
        Dimension("sector", "Sector (degrees)", 360, 10, 360, "count"),
    ),
    _build,
)
