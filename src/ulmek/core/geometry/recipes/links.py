"""Recipes ``lug``, ``fork`` and ``strap``: parts that a pin joins."""

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Loop, Partition, Region, Segment, circle
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _ear(width: float, reach: float) -> Loop:
    """Outline about the hole in the origin: a round end towards +x, straight sides back to x = −reach."""
    r, x = width / 2, -reach
    return (
        Segment("upper", (0.0, r), (x, r)),
        Segment("root", (x, r), (x, -r)),
        Segment("lower", (x, -r), (0.0, -r)),
        Segment("nose", (0.0, -r), (r, 0.0), (0.0, 0.0), True),
        Segment("nose", (r, 0.0), (0.0, r), (0.0, 0.0), True),
    )


def _check_hole(v: Values) -> None:
    if v["hole_diameter"] > 0.9 * v["width"]:
        raise GeometryError(
            f"a hole of {v['hole_diameter']:g} mm leaves too little of {v['width']:g} mm.", where="hole_diameter",
            hint="Reduce the hole, or widen the part.",
        )  # fmt: skip


def _build_lug(v: Values) -> LayeredSolid:
    _check_hole(v)
    region = Region("lug", _ear(v["width"], v["reach"]), (circle("hole", (0.0, 0.0), v["hole_diameter"] / 2),))
    return LayeredSolid(Partition.of([region]), (Layer("lug", 0.0, v["thickness"], frozenset({"lug"})),), by_kind)


LUG = Recipe(
    "lug",
    "Lug",
    "An eye about the z axis with its root at x = −reach, its bottom in z = 0.",
    (
        Dimension("hole_diameter", "Hole diameter", 20.0, 0.2, 1000.0),
        Dimension("width", "Width", 50.0, 0.4, 3000.0),
        Dimension("reach", "Hole to root", 60.0, 0.3, 5000.0),
        Dimension("thickness", "Thickness (z)", 20.0, 0.1, 1000.0),
    ),
    _build_lug,
)


def _fork_face(layer: str, kind: str, item: str) -> str:
    ear = {"ear1": "lower", "ear2": "upper"}.get(layer, "")
    if kind == "side":
        return {"hole": f"{ear}.hole", "back": "root", "root": "slot.root"}.get(item, item)
    outside = {("ear1", "bottom"): "bottom", ("ear2", "top"): "top"}
    return outside.get((layer, kind), f"{ear}.inside")


def _build_fork(v: Values) -> LayeredSolid:
    _check_hole(v)
    r, reach, tail = v["width"] / 2, v["reach"], v["tail"]
    if reach < 0.55 * v["hole_diameter"] + 0.02 * v["width"]:
        raise GeometryError(
            f"the slot ends {reach:g} mm behind the hole's middle, inside the hole.", where="reach",
            hint="Make the slot deeper than the hole's radius.",
        )  # fmt: skip
    ear = Region("ear", _ear(2 * r, reach), (circle("hole", (0.0, 0.0), v["hole_diameter"] / 2),))
    x = -reach
    base = (
        Segment("upper", (x, r), (x - tail, r)),
        Segment("back", (x - tail, r), (x - tail, -r)),
        Segment("lower", (x - tail, -r), (x, -r)),
        Segment("root", (x, -r), (x, r)),
    )
    t, gap = v["ear_thickness"], v["slot"]
    both, web = frozenset({"ear", "base"}), frozenset({"base"})
    layers = (Layer("ear1", 0.0, t, both), Layer("web", t, t + gap, web), Layer("ear2", t + gap, 2 * t + gap, both))
    return LayeredSolid(Partition.of([ear, Region("base", base, pattern="mapped")]), layers, _fork_face)


FORK = Recipe(
    "fork",
    "Fork",
    "Two ears with a slot between them on one base; the hole runs along the z axis, the bottom lies in z = 0.",
    (
        Dimension("hole_diameter", "Hole diameter", 20.0, 0.2, 1000.0),
        Dimension("width", "Width", 50.0, 0.4, 3000.0),
        Dimension("reach", "Hole to slot root", 40.0, 0.3, 5000.0),
        Dimension("tail", "Base behind the slot", 30.0, 0.3, 5000.0),
        Dimension("ear_thickness", "Ear thickness", 12.0, 0.1, 1000.0),
        Dimension("slot", "Slot width", 21.0, 0.05, 1000.0),
    ),
    _build_fork,
)


def _build_strap(v: Values) -> LayeredSolid:
    _check_hole(v)
    r, x = v["width"] / 2, v["hole_distance"] / 2
    if v["hole_distance"] < 1.1 * v["hole_diameter"]:
        raise GeometryError(
            f"two holes of {v['hole_diameter']:g} mm overlap at {v['hole_distance']:g} mm.", where="hole_distance",
            hint="Enlarge the distance.",
        )  # fmt: skip
    loop = (
        Segment("lower", (-x, -r), (x, -r)),
        Segment("nose.1", (x, -r), (x + r, 0.0), (x, 0.0), True),
        Segment("nose.1", (x + r, 0.0), (x, r), (x, 0.0), True),
        Segment("upper", (x, r), (-x, r)),
        Segment("nose.2", (-x, r), (-x - r, 0.0), (-x, 0.0), True),
        Segment("nose.2", (-x - r, 0.0), (-x, -r), (-x, 0.0), True),
    )
    holes = tuple(circle(f"hole.{k}", (s * x, 0.0), v["hole_diameter"] / 2) for k, s in ((1, 1), (2, -1)))
    layer = Layer("strap", 0.0, v["thickness"], frozenset({"strap"}))
    return LayeredSolid(Partition.of([Region("strap", loop, holes)]), (layer,), by_kind)


STRAP = Recipe(
    "strap",
    "Strap",
    "A flat link with a hole at each round end along x, its bottom in z = 0.",
    (
        Dimension("hole_diameter", "Hole diameter", 20.0, 0.2, 1000.0),
        Dimension("hole_distance", "Distance of the holes", 100.0, 0.5, 10000.0),
        Dimension("width", "Width", 45.0, 0.4, 3000.0),
        Dimension("thickness", "Thickness (z)", 12.0, 0.05, 1000.0),
    ),
    _build_strap,
)
