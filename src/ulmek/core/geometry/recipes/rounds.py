"""Revolved parts: balls, crowned rollers, taper pins, O-rings."""

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.outline import Partition, Region, Segment, circle
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values
from ulmek.core.geometry.revolved import AXIS, CORE, CORE_SIDE, RevolvedSolid

# Radius of the core about the axis as a share of the smallest radius it has to fit into.
CORE_SHARE = 0.5
# Height of a ball segment over the radius: beyond, its edge is too sharp to mesh.
LEAST_SEGMENT, MOST_SEGMENT = 0.4, 1.6


def _build_ball(v: Values) -> RevolvedSolid:
    radius = v["diameter"] / 2
    r = 0.45 * radius
    z, zero = float(np.sqrt(radius**2 - r**2)), (0.0, 0.0)
    core = (
        Segment("surface", (0.0, -radius), (r, -z), zero, True),
        Segment(CORE_SIDE, (r, -z), (r, z)),
        Segment("surface", (r, z), (0.0, radius), zero, True),
        Segment(AXIS, (0.0, radius), (0.0, -radius)),
    )
    rest = (
        Segment("surface", (r, -z), (radius, 0.0), zero, True),
        Segment("surface", (radius, 0.0), (r, z), zero, True),
        Segment(CORE_SIDE, (r, z), (r, -z)),
    )
    return RevolvedSolid(Partition.of([Region(CORE, core, pattern="mapped"), Region("ball", rest)]))


BALL = Recipe(
    "ball",
    "Ball",
    "A ball about the origin.",
    (Dimension("diameter", "Diameter", 20.0, 0.05, 2000.0),),
    _build_ball,
)


def _build_segment(v: Values) -> RevolvedSolid:
    radius, height = v["diameter"] / 2, v["height"]
    if not LEAST_SEGMENT * radius <= height <= MOST_SEGMENT * radius:
        raise GeometryError(
            f"a segment {height:g} mm high of a ball of {2 * radius:g} mm diameter has too sharp an edge.",
            where="height",
            hint=f"Give a height from {LEAST_SEGMENT * radius:.4g} to {MOST_SEGMENT * radius:.4g} mm.",
        )
    top = height - radius
    edge = float(np.sqrt(radius**2 - top**2))
    r = 0.45 * edge
    low, zero = -float(np.sqrt(radius**2 - r**2)), (0.0, 0.0)
    core = (
        Segment("surface", (0.0, -radius), (r, low), zero, True),
        Segment(CORE_SIDE, (r, low), (r, top)),
        Segment("top", (r, top), (0.0, top)),
        Segment(AXIS, (0.0, top), (0.0, -radius)),
    )
    rest = (
        Segment("surface", (r, low), (edge, top), zero, True),
        Segment("top", (edge, top), (r, top)),
        Segment(CORE_SIDE, (r, top), (r, low)),
    )
    return RevolvedSolid(Partition.of([Region(CORE, core, pattern="mapped"), Region("segment", rest)]))


BALL_SEGMENT = Recipe(
    "ball-segment",
    "Ball segment",
    "What a level cut leaves of a ball about the origin: its lowest part, flat on top.",
    (
        Dimension("diameter", "Diameter of the ball", 20.0, 0.05, 2000.0),
        Dimension("height", "Height of the segment", 10.0, 0.02, 2000.0),
    ),
    _build_segment,
)


def _turned(profile: list[Segment], r: float, bottom: str, top: str) -> RevolvedSolid:
    """A solid of flat ends: ``profile`` runs from (r_bottom, z) up to (r_top, z) outside the core of radius r."""
    low, high = profile[0].start, profile[-1].end
    core = (
        Segment(bottom, (0.0, low[1]), (r, low[1])),
        Segment(CORE_SIDE, (r, low[1]), (r, high[1])),
        Segment(top, (r, high[1]), (0.0, high[1])),
        Segment(AXIS, (0.0, high[1]), (0.0, low[1])),
    )
    rest = (
        Segment(bottom, (r, low[1]), low), *profile, Segment(top, high, (r, high[1])),
        Segment(CORE_SIDE, (r, high[1]), (r, low[1])),
    )  # fmt: skip
    pattern = "mapped" if len(rest) == 4 else "paved"
    outer = Region("rim", rest, pattern=pattern)  # type: ignore[arg-type]
    return RevolvedSolid(Partition.of([Region(CORE, core, pattern="mapped"), outer]))


def _build_roller(v: Values) -> RevolvedSolid:
    radius, width, crown = v["diameter"] / 2, v["width"] / 2, v["crown_radius"]
    if crown < 1.001 * np.hypot(width, 0.0) or crown < radius:
        raise GeometryError(
            f"a crown of {crown:g} mm radius is rounder than the roller itself.", where="crown_radius",
            hint="Enlarge it to at least the roller's radius and half its width.",
        )  # fmt: skip
    drop = float(crown - np.sqrt(crown**2 - width**2))
    if drop >= 0.4 * radius:
        raise GeometryError(
            f"the crown falls off by {drop:.4g} mm at the ends.", where="crown_radius", hint="Enlarge its radius."
        )
    edge, centre = radius - drop, (radius - crown, 0.0)
    profile = [Segment("rim", (edge, -width), (edge, width), centre, True)]
    return _turned(profile, CORE_SHARE * edge, "bottom", "top")


CROWNED_ROLLER = Recipe(
    "crowned-roller",
    "Crowned roller",
    "A roller about the z axis, its middle in z = 0, whose rim is an arc along the axis.",
    (
        Dimension("diameter", "Diameter", 40.0, 0.2, 3000.0),
        Dimension("width", "Width (z)", 20.0, 0.1, 2000.0),
        Dimension("crown_radius", "Radius of the crown", 200.0, 0.2, 100000.0),
    ),
    _build_roller,
)


def _build_taper(v: Values) -> RevolvedSolid:
    low, high = v["diameter"] / 2, v["end_diameter"] / 2
    profile = [Segment("taper", (low, 0.0), (high, v["length"]))]
    return _turned(profile, CORE_SHARE * min(low, high), "bottom", "top")


TAPER_PIN = Recipe(
    "taper-pin",
    "Taper pin",
    "A conical pin about the z axis from z = 0 up.",
    (
        Dimension("diameter", "Diameter in z = 0", 10.0, 0.1, 1000.0),
        Dimension("end_diameter", "Diameter at the end", 11.0, 0.1, 1000.0),
        Dimension("length", "Length", 50.0, 0.2, 5000.0),
    ),
    _build_taper,
)


def _build_ring(v: Values) -> RevolvedSolid:
    cord, inner = v["cord"] / 2, v["inner_diameter"] / 2
    loop = circle("surface", (inner + cord, 0.0), cord)
    return RevolvedSolid(Partition.of([Region("cord", loop, pattern="disc")]))


O_RING = Recipe(
    "o-ring",
    "O-ring",
    "A ring of round cord about the z axis, its middle in z = 0.",
    (
        Dimension("inner_diameter", "Inner diameter", 40.0, 0.2, 3000.0),
        Dimension("cord", "Cord diameter", 4.0, 0.05, 200.0),
    ),
    _build_ring,
)
