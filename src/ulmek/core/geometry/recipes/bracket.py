"""Recipe ``bracket``: a drilled flange with an arm that stands on it."""

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid
from ulmek.core.geometry.outline import Partition, Region, polygon
from ulmek.core.geometry.recipes.holes import HOLE_DIMENSIONS, place_holes
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _flange_regions(v: Values) -> list[Region]:
    x, y = v["flange_width"] / 2, v["flange_height"] / 2
    a, b = v["arm_thickness"] / 2, v["arm_height"] / 2
    if a >= x:
        raise GeometryError(
            f"the arm is {2 * a:g} mm thick on a flange {2 * x:g} mm wide.",
            where="arm_thickness",
            hint="Make the arm thinner than the flange is wide.",
        )
    if b > y + 1e-9:
        raise GeometryError(
            f"the arm is {2 * b:g} mm high on a flange {2 * y:g} mm high.",
            where="arm_height",
            hint="Make the arm no higher than the flange.",
        )
    arm = polygon(["edge.bottom", "arm.right", "edge.top", "arm.left"], [(-a, -b), (a, -b), (a, b), (-a, b)])
    sides = ["edge.bottom", "edge.right", "edge.top", "edge.left"]
    if y - b > 1e-9:
        outer = polygon(sides, [(-x, -y), (x, -y), (x, y), (-x, y)])
        return [Region("flange", outer, (arm,)), Region("arm", arm, pattern="mapped")]
    left = polygon(["edge.bottom", "arm.left", "edge.top", "edge.left"], [(-x, -y), (-a, -y), (-a, y), (-x, y)])
    right = polygon(["edge.bottom", "edge.right", "edge.top", "arm.right"], [(a, -y), (x, -y), (x, y), (a, y)])
    return [
        Region("flange.left", left, pattern="mapped"),
        Region("arm", arm, pattern="mapped"),
        Region("flange.right", right, pattern="mapped"),
    ]


def _face_name(layer: str, kind: str, item: str) -> str:
    if layer == "arm":
        return {"top": "arm.tip"}.get(kind, item.replace("edge.", "arm."))
    return {"top": "front", "bottom": "back"}.get(kind, item)


def _build(v: Values) -> LayeredSolid:
    regions = place_holes(_flange_regions(v), v)
    t = v["flange_thickness"]
    layers = (
        Layer("flange", 0.0, t, frozenset(r.name for r in regions)),
        Layer("arm", t, t + v["arm_length"], frozenset({"arm"})),
    )
    return LayeredSolid(Partition.of(regions), layers, _face_name)


BRACKET = Recipe(
    "bracket",
    "Bracket",
    "A drilled flange, back in z = 0, with an arm standing on its front in +z.",
    (
        Dimension("flange_width", "Flange width", 160.0, 2.0, 5000.0),
        Dimension("flange_height", "Flange height", 180.0, 2.0, 5000.0),
        Dimension("flange_thickness", "Flange thickness", 18.0, 0.2, 500.0),
        Dimension("arm_thickness", "Arm thickness", 20.0, 0.5, 2000.0),
        Dimension("arm_height", "Arm height", 180.0, 1.0, 5000.0),
        Dimension("arm_length", "Arm length", 110.0, 1.0, 5000.0),
        *HOLE_DIMENSIONS,
    ),
    _build,
)
