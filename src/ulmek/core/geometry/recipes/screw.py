"""Recipe ``screw``: hexagon head, shank and a foot that is threaded into a part or the ground."""

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid
from ulmek.core.geometry.outline import Partition, Region, circle
from ulmek.core.geometry.recipes.bolt import HEXAGON_START, hexagon
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _face_name(layer: str, kind: str, item: str) -> str:
    if layer == "foot":
        return "thread" if kind == "side" else "foot.end" if kind == "bottom" else "foot.top"
    if layer.startswith("shank"):
        return "shank" if kind == "side" else "shank.bottom"
    if kind == "side":
        return "head.flats"
    return "head.bearing" if kind == "bottom" else "head.end"


def _build(v: Values) -> LayeredSolid:
    shank, thread, flats, grip = v["diameter"] / 2, v["thread_diameter"] / 2, v["across_flats"], v["grip"]
    if thread > shank * 1.001:
        raise GeometryError(
            f"the thread of {2 * thread:g} mm is wider than the shank of {2 * shank:g} mm.", where="thread_diameter",
            hint="Give at most the diameter of the shank.",
        )  # fmt: skip
    if flats / 2 <= shank * 1.02:
        raise GeometryError(
            f"{flats:g} mm across flats leaves no bearing face on a shank of {2 * shank:g} mm.", where="across_flats",
            hint="Enlarge the size across flats or reduce the diameter.",
        )  # fmt: skip
    is_plain = thread > shank * 0.98
    inner = circle("core", (0.0, 0.0), shank if is_plain else thread, arcs=6, start=HEXAGON_START)
    outer = inner if is_plain else circle("shank", (0.0, 0.0), shank, arcs=6, start=HEXAGON_START)
    regions = [Region("core", inner, pattern="disc"), Region("hexagon", hexagon(flats), (outer,), "ring")]
    if not is_plain:
        regions.append(Region("step", outer, (inner,), "ring"))
    core = frozenset({"core"})
    shaft = core if is_plain else core | {"step"}
    layers = (
        Layer("foot", -v["engaged"], 0.0, core),
        Layer("shank.foot", 0.0, grip / 2, shaft),
        Layer("shank.head", grip / 2, grip, shaft, cut=True),
        Layer("head", grip, grip + v["head_height"], shaft | {"hexagon"}),
    )
    return LayeredSolid(Partition.of(regions), layers, _face_name)


SCREW = Recipe(
    "screw",
    "Hexagon screw for a thread",
    "A foot in its thread below z = 0, a shank about the z axis, and a head that bears in z = grip.",
    (
        Dimension("diameter", "Shank diameter", 16.0, 0.5, 200.0),
        Dimension("thread_diameter", "Diameter of the foot", 14.7, 0.4, 200.0),
        Dimension("grip", "Grip length", 30.0, 0.5, 2000.0),
        Dimension("engaged", "Length in the thread", 16.0, 0.2, 1000.0),
        Dimension("across_flats", "Across flats", 24.0, 0.8, 400.0),
        Dimension("head_height", "Head height", 10.0, 0.3, 200.0),
    ),
    _build,
)
