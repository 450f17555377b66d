"""Turned parts as stacks of rounds: pins, shafts, hubs, drums, flanges, collars."""

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Loop, Partition, Point, Region, Segment, circle
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values

# Radii closer than this share are drawn as one.
SAME = 1e-9


def stacked(steps: list[tuple[str, float, float]], bore: float, names: dict[str, str] | None = None) -> LayeredSolid:
    """Solid of coaxial steps (name, length, outer radius) upwards from z = 0 round a bore of radius ``bore`` (0: none).

    Faces: ``<step>.rim``, ``bore``, ``bottom``, ``top``; shoulders ``<step>.top`` and ``<step>.bottom`` of the step
    that has them. ``names`` renames.
    """
    radii = sorted({round(r, 9) for _, _, r in steps})
    for name, _, radius in steps:
        if radius <= bore * 1.001:
            raise GeometryError(
                f"the {name} of {2 * radius:g} mm is not larger than the bore of {2 * bore:g} mm.",
                where=f"{name}_diameter", hint="Enlarge it, or reduce the bore.",
            )  # fmt: skip
    regions, inner = [], bore
    for number, radius in enumerate(radii):
        outer = circle(f"round.{number}", (0.0, 0.0), radius)
        if inner <= 0:
            regions.append(Region(f"round.{number}", outer, pattern="disc"))
        else:
            hole = circle("bore" if number == 0 else f"round.{number - 1}", (0.0, 0.0), inner)
            regions.append(Region(f"round.{number}", outer, (hole,), "ring"))
        inner = radius
    layers, z = [], 0.0
    for name, length, radius in steps:
        present = frozenset(f"round.{k}" for k, r in enumerate(radii) if r <= radius + SAME)
        layers.append(Layer(name, z, z + length, present))
        z += length
    first, last = steps[0][0], steps[-1][0]
    rename = names or {}

    def face_name(layer: str, kind: str, item: str) -> str:
        if kind == "side":
            plain = f"{layer}.rim" if item.startswith("round.") else item
        elif (kind, layer) in (("bottom", first), ("top", last)):
            plain = kind
        else:
            plain = f"{layer}.{kind}"
        return rename.get(plain, plain)

    return LayeredSolid(Partition.of(regions), tuple(layers), face_name)


def _build_pin(v: Values) -> LayeredSolid:
    steps = [("shank", v["length"], v["shank_diameter"] / 2)]
    if v["head_length"] > 0:
        if v["head_diameter"] <= v["shank_diameter"] * 1.001:
            raise GeometryError(
                f"the head of {v['head_diameter']:g} mm makes no shoulder on a pin of {v['shank_diameter']:g} mm.",
                where="head_diameter", hint="Enlarge the head, or set its length to 0 mm for a plain pin.",
            )  # fmt: skip
        steps.append(("head", v["head_length"], v["head_diameter"] / 2))
        if v["foot_length"] > 0:
            steps.insert(0, ("foot", v["foot_length"], v["head_diameter"] / 2))
    return stacked(steps, 0.0, {"shank.rim": "shank", "head.bottom": "shoulder", "foot.top": "foot.shoulder"})


PIN = Recipe(
    "pin",
    "Pin, plain or shouldered",
    "A pin about the z axis from z = 0 up, with a head on top unless its length is 0; then also one below.",
    (
        Dimension("shank_diameter", "Diameter", 20.0, 0.1, 1000.0),
        Dimension("length", "Length of the shank", 80.0, 0.2, 5000.0),
        Dimension("head_diameter", "Head diameter", 30.0, 0.1, 2000.0),
        Dimension("head_length", "Head length", 8.0, 0.0, 1000.0, drops="head"),
        Dimension("foot_length", "Length of a head below", 0.0, 0.0, 1000.0, drops="foot"),
    ),
    _build_pin,
)


def _build_shaft(v: Values) -> LayeredSolid:
    steps = [(f"step{i}", v[f"step{i}_length"], v[f"step{i}_diameter"] / 2) for i in (1, 2, 3)]
    steps = [s for s in steps if s[1] > 0]
    if not steps:
        raise GeometryError("all steps have no length.", where="step1_length", hint="Give one step a length.")
    return stacked(steps, v["bore_diameter"] / 2)


SHAFT = Recipe(
    "shaft",
    "Stepped shaft",
    "Up to three steps about the z axis from z = 0 up; a step of length 0 is left out.",
    (
        Dimension("step1_diameter", "First diameter", 40.0, 0.2, 2000.0),
        Dimension("step1_length", "First length", 40.0, 0.0, 5000.0),
        Dimension("step2_diameter", "Second diameter", 50.0, 0.2, 2000.0),
        Dimension("step2_length", "Second length", 60.0, 0.0, 5000.0),
        Dimension("step3_diameter", "Third diameter", 40.0, 0.2, 2000.0),
        Dimension("step3_length", "Third length", 40.0, 0.0, 5000.0),
        Dimension("bore_diameter", "Bore (0: solid)", 0.0, 0.0, 2000.0, drops="bore"),
    ),
    _build_shaft,
)


def _build_hub(v: Values) -> LayeredSolid:
    steps = [
        ("flange", v["flange_thickness"], v["flange_diameter"] / 2),
        ("neck", v["neck_length"], v["neck_diameter"] / 2),
    ]
    if v["flange_diameter"] <= v["neck_diameter"] * 1.001:
        raise GeometryError(
            f"the flange of {v['flange_diameter']:g} mm is not larger than the neck of {v['neck_diameter']:g} mm.",
            where="flange_diameter", hint="Enlarge the flange or reduce the neck.",
        )  # fmt: skip
    plain = stacked(steps, v["bore_diameter"] / 2, {"flange.rim": "rim", "neck.rim": "neck", "flange.top": "flange"})
    if not v["holes"]:
        return plain
    flange = plain.partition.regions[-1]
    drilled = Region(flange.name, flange.outer, (*flange.holes, *bolt_circle(v)))
    shape = flange.polygon()
    if not all(shape.contains(Region("hole", hole).polygon()) for hole in drilled.holes[1:]):
        raise GeometryError(
            f"holes of {v['hole_diameter']:g} mm on a circle of {v['hole_circle']:g} mm leave the flange.",
            where="hole_circle", hint="Put the circle between neck and rim, or reduce the holes.",
        )  # fmt: skip
    return LayeredSolid(Partition.of([*plain.partition.regions[:-1], drilled]), plain.layers, plain.face_name)


def bolt_circle(v: Values) -> list[Loop]:
    """Holes ``hole.1`` … on the circle, the first on the x axis."""
    count, radius = int(v["holes"]), v["hole_circle"] / 2
    if count > 1 and 2 * radius * np.sin(np.pi / count) <= 1.02 * v["hole_diameter"]:
        raise GeometryError(
            f"{count} holes of {v['hole_diameter']:g} mm overlap on a circle of {2 * radius:g} mm.",
            where="hole_diameter", hint="Reduce the diameter or the number of holes, or enlarge the circle.",
        )  # fmt: skip
    angles = 2 * np.pi * np.arange(count) / count
    centres = [(float(radius * np.cos(a)), float(radius * np.sin(a))) for a in angles]
    return [circle(f"hole.{i + 1}", c, v["hole_diameter"] / 2) for i, c in enumerate(centres)]


BOLT_CIRCLE = (
    Dimension("holes", "Holes", 6, 0, 36, "count", drops="holes"),
    Dimension("hole_diameter", "Hole diameter", 11.0, 0.2, 500.0),
    Dimension("hole_circle", "Bolt circle", 90.0, 1.0, 5000.0),
)

HUB = Recipe(
    "hub",
    "Flanged hub",
    "A drilled flange about the z axis, its bottom in z = 0, with a neck standing on it, and a bore through both.",
    (
        Dimension("bore_diameter", "Bore", 30.0, 0.2, 2000.0),
        Dimension("neck_diameter", "Neck diameter", 55.0, 0.3, 3000.0),
        Dimension("neck_length", "Neck length", 40.0, 0.2, 3000.0),
        Dimension("flange_diameter", "Flange diameter", 120.0, 0.5, 5000.0),
        Dimension("flange_thickness", "Flange thickness", 14.0, 0.2, 1000.0),
        *BOLT_CIRCLE,
    ),
    _build_hub,
)


def _build_flange(v: Values) -> LayeredSolid:
    outer, bore = v["diameter"] / 2, v["bore_diameter"] / 2
    loop = circle("rim", (0.0, 0.0), outer)
    holes = bolt_circle(v) if v["holes"] else []
    if bore >= outer * 0.98:
        raise GeometryError(
            f"a bore of {2 * bore:g} mm leaves nothing of {2 * outer:g} mm.", where="bore_diameter",
            hint="Reduce the bore, or enlarge the flange.",
        )  # fmt: skip
    inner: list[Loop] = [circle("bore", (0.0, 0.0), bore)] if bore > 0 else []
    plain = Region("flange", loop, tuple(inner)).polygon()
    if not all(plain.contains(Region("hole", hole).polygon()) for hole in holes):
        raise GeometryError(
            f"holes of {v['hole_diameter']:g} mm on a circle of {v['hole_circle']:g} mm leave the flange.",
            where="hole_circle", hint="Put the circle between bore and rim, or reduce the holes.",
        )  # fmt: skip
    pattern = "paved" if holes else ("ring" if inner else "disc")
    region = Region("flange", loop, (*inner, *holes), pattern)  # type: ignore[arg-type]
    return LayeredSolid(Partition.of([region]), (Layer("flange", 0.0, v["thickness"], frozenset({"flange"})),), by_kind)


FLANGE = Recipe(
    "flange",
    "Round flange",
    "A round plate about the z axis, its bottom in z = 0, with a bore and a circle of bolt holes.",
    (
        Dimension("diameter", "Diameter", 120.0, 0.5, 5000.0),
        Dimension("bore_diameter", "Bore (0: none)", 50.0, 0.0, 5000.0, drops="bore"),
        Dimension("thickness", "Thickness", 16.0, 0.1, 2000.0),
        *BOLT_CIRCLE,
    ),
    _build_flange,
)


def _build_drum(v: Values) -> LayeredSolid:
    shell, rim = v["shell_diameter"] / 2, v["rim_diameter"] / 2
    if rim <= shell * 1.001:
        raise GeometryError(
            f"rims of {2 * rim:g} mm do not stand out from a shell of {2 * shell:g} mm.", where="rim_diameter",
            hint="Enlarge the rims.",
        )  # fmt: skip
    t = v["rim_thickness"]
    steps = [("lower", t, rim), ("shell", v["shell_length"], shell), ("upper", t, rim)]
    return stacked(
        steps,
        v["bore_diameter"] / 2,
        {"shell.rim": "shell", "lower.top": "lower.inside", "upper.bottom": "upper.inside"},
    )


DRUM = Recipe(
    "drum",
    "Drum with rims",
    "A rope drum about the z axis from z = 0 up: a shell between two rims, with a bore through it.",
    (
        Dimension("bore_diameter", "Bore", 60.0, 0.2, 3000.0),
        Dimension("shell_diameter", "Shell diameter", 120.0, 0.5, 5000.0),
        Dimension("shell_length", "Shell length", 140.0, 0.5, 10000.0),
        Dimension("rim_diameter", "Rim diameter", 170.0, 0.6, 6000.0),
        Dimension("rim_thickness", "Rim thickness", 14.0, 0.1, 1000.0),
    ),
    _build_drum,
)


def _on_circle(radius: float, angle: float) -> Point:
    return float(radius * np.cos(angle)), float(radius * np.sin(angle))


def _build_collar(v: Values) -> LayeredSolid:
    bore, outer, slit = v["bore_diameter"] / 2, v["outer_diameter"] / 2, v["slit"] / 2
    if outer <= bore * 1.05:
        raise GeometryError(
            f"{2 * outer:g} mm leaves no wall round a bore of {2 * bore:g} mm.", where="outer_diameter",
            hint="Enlarge the outer diameter.",
        )  # fmt: skip
    if slit >= bore:
        raise GeometryError(
            f"a slit of {2 * slit:g} mm is wider than the bore of {2 * bore:g} mm.", where="slit", hint="Narrow it."
        )
    a, b = np.arcsin(slit / outer), np.arcsin(slit / bore)
    points = [_on_circle(outer, a), _on_circle(outer, np.pi), _on_circle(outer, -a), _on_circle(bore, -b),
              _on_circle(bore, np.pi), _on_circle(bore, b)]  # fmt: skip
    zero = (0.0, 0.0)
    loop = (
        Segment("rim", points[0], points[1], zero, True),
        Segment("rim", points[1], points[2], zero, True),
        Segment("slit.lower", points[2], points[3]),
        Segment("bore", points[3], points[4], zero, False),
        Segment("bore", points[4], points[5], zero, False),
        Segment("slit.upper", points[5], points[0]),
    )
    layer = Layer("collar", 0.0, v["width"], frozenset({"collar"}))
    return LayeredSolid(Partition.of([Region("collar", loop)]), (layer,), by_kind)


COLLAR = Recipe(
    "collar",
    "Slit collar",
    "A clamping collar about the z axis, its bottom in z = 0, slit towards +x.",
    (
        Dimension("bore_diameter", "Bore", 40.0, 0.5, 2000.0),
        Dimension("outer_diameter", "Outer diameter", 65.0, 0.6, 3000.0),
        Dimension("slit", "Slit", 3.0, 0.05, 500.0),
        Dimension("width", "Width (z)", 20.0, 0.1, 2000.0),
    ),
    _build_collar,
)


def _build_shoe(v: Values) -> LayeredSolid:
    inner, thick, half = v["inner_diameter"] / 2, v["thickness"], np.deg2rad(v["angle"]) / 2
    outer = inner + thick
    a, b, c, d = _on_circle(inner, half), _on_circle(inner, -half), _on_circle(outer, -half), _on_circle(outer, half)
    zero = (0.0, 0.0)
    loop = (
        Segment("inside", a, b, zero, False),
        Segment("lower", b, c),
        Segment("back", c, d, zero, True),
        Segment("upper", d, a),
    )
    layer = Layer("shoe", 0.0, v["width"], frozenset({"shoe"}))
    return LayeredSolid(Partition.of([Region("shoe", loop, pattern="mapped")]), (layer,), by_kind)


SHOE = Recipe(
    "shoe",
    "Brake or clamping shoe",
    "A part of a ring about the z axis, its middle towards +x, its bottom in z = 0; it presses from outside.",
    (
        Dimension("inner_diameter", "Inner diameter", 120.0, 0.5, 5000.0),
        Dimension("thickness", "Thickness", 12.0, 0.1, 1000.0),
        Dimension("angle", "Angle", 90.0, 2.0, 340.0, "angle"),
        Dimension("width", "Width (z)", 30.0, 0.1, 2000.0),
    ),
    _build_shoe,
)
