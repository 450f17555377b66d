"""Recipes ``nut``, ``stud`` and ``tapped-block``: what a bolt works with."""

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Partition, Region, circle, polygon
from ulmek.core.geometry.recipes.bolt import HEXAGON_START, hexagon
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _build_nut(v: Values) -> LayeredSolid:
    radius = v["bore_diameter"] / 2
    if v["across_flats"] <= 2.2 * radius:
        raise GeometryError(
            f"{v['across_flats']:g} mm across flats leaves too little round a bore of {2 * radius:g} mm.",
            where="across_flats",
            hint="Enlarge the size across flats or reduce the bore.",
        )
    bore = circle("thread", (0.0, 0.0), radius, arcs=6, start=HEXAGON_START)
    region = Region("nut", hexagon(v["across_flats"]), (bore,), "ring")
    return LayeredSolid(Partition.of([region]), (Layer("nut", 0.0, v["height"], frozenset({"nut"})),), by_kind)


NUT = Recipe(
    "nut",
    "Hexagon nut",
    "A hexagon nut about the z axis, its bottom in z = 0; the thread is a bore.",
    (
        Dimension("bore_diameter", "Bore (thread) diameter", 14.7, 0.3, 200.0),
        Dimension("across_flats", "Across flats", 24.0, 0.8, 400.0),
        Dimension("height", "Height", 13.0, 0.2, 200.0),
    ),
    _build_nut,
)


def _stud_face(layer: str, kind: str, item: str) -> str:
    if kind == "side":
        return f"{layer.split('.')[0]}.{'thread' if layer in ('foot', 'head') else 'rod'}"
    return f"{'foot' if kind == 'bottom' else 'head'}.end"


def _build_stud(v: Values) -> LayeredSolid:
    rod = Region("rod", circle("rod", (0.0, 0.0), v["diameter"] / 2), pattern="disc")
    all_of_it = frozenset({"rod"})
    foot, free, head = v["foot_length"], v["free_length"], v["head_length"]
    layers = (
        Layer("foot", -foot, 0.0, all_of_it),
        Layer("shank", 0.0, free / 2, all_of_it),
        Layer("shank.head", free / 2, free, all_of_it, cut=True),
        Layer("head", free, free + head, all_of_it),
    )
    return LayeredSolid(Partition.of([rod]), layers, _stud_face)


STUD = Recipe(
    "stud",
    "Stud",
    "A rod about the z axis with a threaded foot below z = 0, a free shank, and a threaded head above it.",
    (
        Dimension("diameter", "Diameter", 16.0, 0.5, 200.0),
        Dimension("foot_length", "Thread below", 20.0, 0.2, 1000.0),
        Dimension("free_length", "Free length", 40.0, 0.5, 5000.0),
        Dimension("head_length", "Thread above", 18.0, 0.2, 1000.0),
    ),
    _build_stud,
)


def _tapped_face(layer: str, kind: str, item: str) -> str:
    if item == "plug" and kind == "top":
        return "hole.bottom"
    return item if kind == "side" else kind


def _build_tapped(v: Values) -> LayeredSolid:
    x, y, radius = v["length"] / 2, v["depth"] / 2, v["thread_diameter"] / 2
    if min(x, y) < 1.15 * radius:
        raise GeometryError(
            f"a thread of {2 * radius:g} mm does not fit into {2 * x:g} × {2 * y:g} mm.", where="thread_diameter",
            hint="Reduce the thread, or enlarge the block.",
        )  # fmt: skip
    if v["hole_depth"] > v["height"]:
        raise GeometryError(
            f"the hole is {v['hole_depth']:g} mm deep in a block of {v['height']:g} mm.", where="hole_depth",
            hint="Give at most the height: then the hole goes through.",
        )  # fmt: skip
    hole = circle("thread", (0.0, 0.0), radius)
    outer = polygon(["near", "right", "far", "left"], [(-x, -y), (x, -y), (x, y), (-x, y)])
    body, plug = Region("body", outer, (hole,)), Region("plug", hole, pattern="disc")
    rest = v["height"] - v["hole_depth"]
    if rest < 1e-9:
        layer = Layer("upper", 0.0, v["height"], frozenset({"body"}))
        return LayeredSolid(Partition.of([body]), (layer,), _tapped_face)
    layers = (
        Layer("lower", 0.0, rest, frozenset({"body", "plug"})),
        Layer("upper", rest, v["height"], frozenset({"body"})),
    )
    return LayeredSolid(Partition.of([body, plug]), layers, _tapped_face)


TAPPED_BLOCK = Recipe(
    "tapped-block",
    "Block with a threaded hole",
    "A block, bottom in z = 0, with a threaded hole from its top; as deep as the height it goes through.",
    (
        Dimension("length", "Length (x)", 60.0, 0.5, 5000.0),
        Dimension("depth", "Depth (y)", 60.0, 0.5, 5000.0),
        Dimension("height", "Height (z)", 40.0, 0.2, 5000.0),
        Dimension("thread_diameter", "Thread diameter", 14.7, 0.2, 1000.0),
        Dimension("hole_depth", "Depth of the hole", 28.0, 0.1, 5000.0),
    ),
    _build_tapped,
)
