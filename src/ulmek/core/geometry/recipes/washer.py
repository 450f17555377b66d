"""Recipe ``washer``: a flat ring, also a plain sleeve."""

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid
from ulmek.core.geometry.outline import Partition, Region, circle
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _build(v: Values) -> LayeredSolid:
    inner, outer = v["inner_diameter"], v["outer_diameter"]
    if outer <= inner * 1.001:
        raise GeometryError(
            f"the outer diameter {outer:g} mm is not larger than the inner diameter {inner:g} mm.",
            where="outer_diameter",
            hint="Enlarge the outer or reduce the inner diameter.",
        )
    region = Region("ring", circle("rim", (0, 0), outer / 2), (circle("bore", (0, 0), inner / 2),), "ring")
    layer = Layer("ring", 0.0, v["thickness"], frozenset({"ring"}))

    def face_name(_: str, kind: str, item: str) -> str:
        return item if kind == "side" else kind

    return LayeredSolid(Partition.of([region]), (layer,), face_name)


WASHER = Recipe(
    "washer",
    "Washer or sleeve",
    "A flat ring about the z axis, its bottom in z = 0; long ones are sleeves.",
    (
        Dimension("inner_diameter", "Inner diameter", 17.0, 0.1, 5000.0),
        Dimension("outer_diameter", "Outer diameter", 30.0, 0.2, 5000.0),
        Dimension("thickness", "Thickness", 3.0, 0.05, 5000.0),
    ),
    _build,
)
