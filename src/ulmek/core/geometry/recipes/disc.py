"""Recipe ``disc``: a disc, or its lower half or quarter: rollers, and balls as sections."""

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Partition, Region, Segment, circle
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _region(radius: float, sector: float) -> Region:
    bottom, right, left, centre = (0.0, -radius), (radius, 0.0), (-radius, 0.0), (0.0, 0.0)
    if sector == 360:
        return Region("disc", circle("rim", centre, radius), pattern="disc")
    if sector == 180:
        rim = (Segment("rim", left, bottom, centre, True), Segment("rim", bottom, right, centre, True))
        return Region("disc", (*rim, Segment("flat", right, left)))
    loop = (
        Segment("rim", bottom, right, centre, True),
        Segment("flat", right, centre),
        Segment("middle", centre, bottom),
    )
    return Region("disc", loop)


def _build(v: Values) -> LayeredSolid:
    if v["sector"] not in (90, 180, 360):
        raise GeometryError(
            f"the sector is {v['sector']:g} degrees.", where="sector", hint="Give 90, 180 or 360 degrees."
        )
    layer = Layer("disc", 0.0, v["thickness"], frozenset({"disc"}))
    return LayeredSolid(Partition.of([_region(v["diameter"] / 2, v["sector"])]), (layer,), by_kind)


DISC = Recipe(
    "disc",
    "Disc or roller",
    "A disc about the z axis from z = 0 up, or its lower half or lower right quarter.",
    (
        Dimension("diameter", "Diameter", 40.0, 0.05, 5000.0),
        Dimension("thickness", "Thickness (z)", 20.0, 0.01, 5000.0),
        Dimension("sector", "Sector (degrees)", 360, 90, 360, "count"),
    ),
    _build,
)
