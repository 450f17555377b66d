"""Recipe ``block``: a rectangular block."""

from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Partition, Region, polygon
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _build(v: Values) -> LayeredSolid:
    x, y = v["length"] / 2, v["depth"] / 2
    outer = polygon(["near", "right", "far", "left"], [(-x, -y), (x, -y), (x, y), (-x, y)])
    layer = Layer("block", 0.0, v["height"], frozenset({"block"}))
    return LayeredSolid(Partition.of([Region("block", outer, pattern="mapped")]), (layer,), by_kind)


BLOCK = Recipe(
    "block",
    "Block",
    "A rectangular block centred on the z axis, its bottom in z = 0.",
    (
        Dimension("length", "Length (x)", 50.0, 0.01, 10000.0),
        Dimension("depth", "Depth (y)", 50.0, 0.01, 10000.0),
        Dimension("height", "Height (z)", 50.0, 0.01, 10000.0),
    ),
    _build,
)
