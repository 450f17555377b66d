"""Recipes ``gear`` and ``gear-rack``: involute teeth, all round or only those that are wanted."""

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.involute import ADDENDUM, DEDENDUM, Gearing
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Loop, Partition, Point, Region, Segment, circle, rounded
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def gearing(v: Values) -> Gearing:
    """Teeth of a gear recipe's values."""
    return Gearing(
        int(v["teeth"]), v["module"], float(np.deg2rad(v["pressure_angle"])), v["profile_shift"], v["root_fillet"],
        v["thinning"],
    )  # fmt: skip


def _turned(point: Point, angle: float) -> Point:
    c, s = np.cos(angle), np.sin(angle)
    return float(c * point[0] - s * point[1]), float(s * point[0] + c * point[1])


def _moved(segment: Segment, name: str, angle: float, *, mirrored: bool) -> Segment:
    def go(p: Point) -> Point:
        return _turned((p[0], -p[1]) if mirrored else p, angle)

    centre = go(segment.centre) if segment.centre is not None else None
    return Segment(name, go(segment.start), go(segment.end), centre, segment.ccw != mirrored)


def _tooth(teeth: Gearing, number: int, angle: float) -> list[Segment]:
    """Up the right flank (−y side), over the tip, down the left flank, for a tooth turned by ``angle``."""
    flank = teeth.upper_flank()
    right = [_moved(s, f"tooth.{number}.right", angle, mirrored=True) for s in flank]
    left = [_moved(s, f"tooth.{number}.left", angle, mirrored=False).reversed() for s in reversed(flank)]
    tip = Segment(f"tooth.{number}.tip", right[-1].end, left[0].start, (0.0, 0.0), True)
    return [*right, tip, *left]


def _build_gear(v: Values) -> LayeredSolid:
    teeth, bore = gearing(v), v["bore_diameter"] / 2
    wanted, pitch = int(v["wanted"]) or int(v["teeth"]), 2 * np.pi / int(v["teeth"])
    if wanted > v["teeth"]:
        raise GeometryError(
            f"{wanted} teeth are wanted of a gear with {int(v['teeth'])}.",
            where="wanted",
            hint="Give at most all, or 0 for all.",
        )
    if bore >= teeth.root_radius - 0.3 * teeth.module:
        raise GeometryError(
            f"a bore of {2 * bore:g} mm leaves no rim under a root circle of {2 * teeth.root_radius:.4g} mm.",
            where="bore_diameter", hint="Reduce the bore, or take more teeth or a larger module.",
        )  # fmt: skip
    first = -(wanted - 1) / 2 * pitch
    whole = wanted == int(v["teeth"])
    outline: list[Segment] = []
    for k in range(wanted):
        tooth = _tooth(teeth, k + 1, first + k * pitch)
        if k:
            outline.append(Segment("root", outline[-1].end, tooth[0].start, (0.0, 0.0), True))
        outline += tooth
    holes: tuple[Loop, ...] = ()
    if whole:
        outline.append(Segment("root", outline[-1].end, outline[0].start, (0.0, 0.0), True))
        holes = (circle("bore", (0.0, 0.0), bore),)
    else:
        edge, zero = (wanted / 2) * pitch, (0.0, 0.0)
        if 2 * edge > 1.9 * np.pi:
            raise GeometryError(
                "that many teeth leave no gap: take all of them.", where="wanted", hint="Give 0 for all teeth."
            )
        low, high = _turned((teeth.root_radius, 0.0), -edge), _turned((teeth.root_radius, 0.0), edge)
        at_bore = [_turned((bore, 0.0), a) for a in (edge, -edge)]
        outline = [
            Segment("root", low, outline[0].start, zero, True), *outline,
            Segment("root", outline[-1].end, high, zero, True), Segment("end", high, at_bore[0]),
            Segment("bore", at_bore[0], at_bore[1], zero, False),
            Segment("start", at_bore[1], low),
        ]  # fmt: skip
    region = Region("gear", tuple(outline), holes)
    return LayeredSolid(Partition.of([region]), (Layer("gear", 0.0, v["width"], frozenset({"gear"})),), by_kind)


_TEETH = (
    Dimension("module", "Module", 4.0, 0.1, 100.0),
    Dimension("pressure_angle", "Pressure angle", 20.0, 10.0, 30.0, "angle"),
)

GEAR = Recipe(
    "gear",
    "Spur gear or toothed sector",
    "Involute teeth about the z axis, bottom in z = 0, those wanted about +x: an odd number points a tooth there, an "
    "even one a space.",
    (
        Dimension("teeth", "Teeth of the whole gear", 24, 5, 400, "count"),
        Dimension("wanted", "Teeth wanted (0: all)", 3, 0, 400, "count"),
        *_TEETH,
        Dimension("profile_shift", "Profile shift (modules)", 0.0, -0.6, 1.0, "number"),
        Dimension("root_fillet", "Root fillet (modules)", 0.38, 0.1, 0.6, "number"),
        Dimension("thinning", "Thinning of the teeth for backlash", 0.0, 0.0, 20.0),
        Dimension("bore_diameter", "Bore", 40.0, 0.2, 5000.0),
        Dimension("width", "Width (z)", 20.0, 0.05, 2000.0),
    ),
    _build_gear,
)


def _build_rack(v: Values) -> LayeredSolid:
    m, n, tan = v["module"], int(v["teeth"]), np.tan(np.deg2rad(v["pressure_angle"]))
    pitch, top, root = np.pi * m, ADDENDUM * m, -DEDENDUM * m
    half = pitch / 4 - v["thinning"] / 2
    tip, foot = half - top * tan, half - root * tan
    if tip < 0.02 * m:
        raise GeometryError("the teeth come to a point.", where="thinning", hint="Thin them less.")
    r, x = v["root_fillet"] * m, n * pitch / 2
    if foot + r * np.tan((np.pi / 2 - np.deg2rad(v["pressure_angle"])) / 2) > pitch / 2 * (1 - 1e-6):
        raise GeometryError("the root fillets overlap.", where="root_fillet", hint="Reduce them.")
    y = root - v["body_height"]
    corners: list[tuple[str, Point, float]] = [("foot", (-x, y), 0), ("end.right", (x, y), 0), ("root", (x, root), 0)]
    for k in range(n, 0, -1):
        c = (k - (n + 1) / 2) * pitch
        corners += [
            (f"tooth.{k}.right", (c + foot, root), r), (f"tooth.{k}.tip", (c + tip, top), 0),
            (f"tooth.{k}.left", (c - tip, top), 0), ("root", (c - foot, root), r),
        ]  # fmt: skip
    corners.append(("end.left", (-x, root), 0))
    layer = Layer("rack", 0.0, v["width"], frozenset({"rack"}))
    return LayeredSolid(Partition.of([Region("rack", rounded(corners))]), (layer,), by_kind)


RACK = Recipe(
    "gear-rack",
    "Rack",
    "A rack along x, its pitch line in y = 0, teeth towards +y: an odd number puts one at x = 0.",
    (
        Dimension("teeth", "Teeth", 4, 1, 200, "count"),
        *_TEETH,
        Dimension("root_fillet", "Root fillet (modules)", 0.38, 0.05, 0.5, "number"),
        Dimension("thinning", "Thinning of the teeth for backlash", 0.0, 0.0, 20.0),
        Dimension("body_height", "Height below the teeth", 12.0, 0.1, 1000.0),
        Dimension("width", "Width (z)", 20.0, 0.05, 2000.0),
    ),
    _build_rack,
)
