"""Recipe ``bolt``: hexagon head, shank and hexagon nut as one conformal solid."""

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid
from ulmek.core.geometry.outline import Loop, Partition, Region, circle, polygon
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values

# Six arcs under six flats, so that the hexagon ring maps one to one.
HEXAGON_START = np.pi / 6


def hexagon(across_flats: float) -> Loop:
    """The outline of a hexagon about the origin (mm)."""
    corner, angles = across_flats / np.sqrt(3), HEXAGON_START + np.arange(6) * np.pi / 3
    return polygon("flats", [(float(corner * np.cos(a)), float(corner * np.sin(a))) for a in angles])


def _face_name(layer: str, kind: str, item: str) -> str:
    if layer.startswith("shank"):
        return "shank"
    if kind == "side":
        return f"{layer}.flats"
    is_bearing = (layer, kind) in {("head", "bottom"), ("nut", "top")}
    return f"{layer}.bearing" if is_bearing else f"{layer}.end"


def _build(v: Values) -> LayeredSolid:
    radius, flats = v["diameter"] / 2, v["across_flats"]
    if flats / 2 <= radius * 1.02:
        raise GeometryError(
            f"{flats:g} mm across flats leaves no bearing face on a shank of {2 * radius:g} mm.",
            where="across_flats",
            hint="Enlarge the size across flats or reduce the diameter.",
        )
    shank = circle("shank", (0.0, 0.0), radius, arcs=6, start=HEXAGON_START)
    regions = [Region("core", shank, pattern="disc"), Region("hexagon", hexagon(flats), (shank,), "ring")]
    both, core, grip = frozenset({"core", "hexagon"}), frozenset({"core"}), v["grip"]
    layers = (
        Layer("nut", -v["nut_height"], 0.0, both),
        Layer("shank.nut", 0.0, grip / 2, core),
        Layer("shank.head", grip / 2, grip, core, cut=True),
        Layer("head", grip, grip + v["head_height"], both),
    )
    return LayeredSolid(Partition.of(regions), layers, _face_name)


BOLT = Recipe(
    "bolt",
    "Hexagon bolt with nut",
    "Nut, shank and head about the z axis; the nut bears in z = 0, the head at z = grip.",
    (
        Dimension("diameter", "Shank diameter", 16.0, 0.5, 200.0),
        Dimension("grip", "Grip length", 38.0, 0.5, 2000.0),
        Dimension("across_flats", "Across flats", 24.0, 0.8, 400.0),
        Dimension("head_height", "Head height", 10.0, 0.3, 200.0),
        Dimension("nut_height", "Nut height", 13.0, 0.3, 200.0),
    ),
    _build,
)
