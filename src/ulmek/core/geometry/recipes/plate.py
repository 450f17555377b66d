"""Recipe ``plate``: a flat rectangle with a rectangular pattern of through holes."""

from ulmek.core.geometry.layered import Layer, LayeredSolid
from ulmek.core.geometry.outline import Partition, Region, polygon
from ulmek.core.geometry.recipes.holes import HOLE_DIMENSIONS, place_holes
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _build(v: Values) -> LayeredSolid:
    x, y = v["width"] / 2, v["height"] / 2
    outer = polygon(["edge.bottom", "edge.right", "edge.top", "edge.left"], [(-x, -y), (x, -y), (x, y), (-x, y)])
    regions = place_holes([Region("plate", outer, pattern="mapped")], v)
    layer = Layer("plate", 0.0, v["thickness"], frozenset({"plate"}))

    def face_name(_: str, kind: str, item: str) -> str:
        return {"top": "front", "bottom": "back"}.get(kind, item)

    return LayeredSolid(Partition.of(regions), (layer,), face_name)


PLATE = Recipe(
    "plate",
    "Plate",
    "A flat plate with a pattern of through holes; its back lies in z = 0, its front faces +z.",
    (
        Dimension("width", "Width", 240.0, 1.0, 10000.0),
        Dimension("height", "Height", 260.0, 1.0, 10000.0),
        Dimension("thickness", "Thickness", 20.0, 0.2, 1000.0),
        *HOLE_DIMENSIONS,
    ),
    _build,
)
