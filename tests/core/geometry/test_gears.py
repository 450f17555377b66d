"""Involute teeth against the involute itself, and gears that mesh without a gap."""

import itertools

import numpy as np
import pytest
from scipy.optimize import minimize_scalar

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.involute import Gearing
from ulmek.core.geometry.recipes import RECIPES


@pytest.mark.parametrize(("teeth", "shift"), [(12, 0.3), (17, 0.0), (24, 0.0), (80, -0.2)])
def test_flanks_follow_the_involute_and_join_smoothly(teeth: int, shift: float) -> None:
    gear = Gearing(teeth, 5.0, np.deg2rad(20), shift)
    arcs = [s for s in gear.upper_flank() if s.centre is not None][1:]
    points = np.vstack([s.points(np.linspace(0, 1, 20)) for s in arcs])
    base = gear.base_radius
    start = gear.half_angle(base)
    # A taut string unwound from the base circle: x = rb (cos t + t sin t), y = rb (sin t − t cos t).
    for x, y in points:

        def away(t: float, x: float = x, y: float = y) -> float:
            c, s = np.cos(t), np.sin(t)
            curve = base * np.array([c + t * s, -(s - t * c)])
            turned = np.array([[np.cos(start), -np.sin(start)], [np.sin(start), np.cos(start)]]) @ curve
            return float(np.hypot(turned[0] - x, turned[1] - y))

        roll = np.sqrt(max((x**2 + y**2) / base**2 - 1, 0))
        bounds = (max(roll - 0.05, 0), roll + 0.05)
        near = minimize_scalar(away, bounds=bounds, method="bounded", options={"xatol": 1e-9})
        # Close to the base circle, where involutes bend hardest and seldom touch, less close.
        assert near.fun < (2e-4 if roll > 0.3 else 7e-4) * gear.module
    # Tangents join, from root to tip; least close by the base circle, where the curve is sharpest.
    flank = gear.upper_flank()
    for a, b in itertools.pairwise(flank):
        ends = [s.points(np.array(t)) for s, t in ((a, [0.999, 1.0]), (b, [0.0, 0.001]))]
        turns = [np.arctan2(*(p[1] - p[0])[::-1]) for p in ends]
        at_base = np.hypot(*b.start) < gear.base_radius * 1.03
        assert abs((turns[1] - turns[0] + np.pi) % (2 * np.pi) - np.pi) < (0.1 if at_base else 0.03)


def test_teeth_have_the_thickness_and_radii_of_their_standard() -> None:
    gear = Gearing(30, 4.0, np.deg2rad(20), thinning=0.2)
    assert (gear.pitch_radius, gear.tip_radius, gear.root_radius) == pytest.approx((60, 64, 55))
    assert 2 * gear.half_angle(60.0) * 60 == pytest.approx(np.pi * 4 / 2 - 0.2)
    whole = RECIPES["gear"].solid({"teeth": 30, "module": 4, "wanted": 0, "bore_diameter": 40, "width": 10})
    sector = RECIPES["gear"].solid({"teeth": 30, "module": 4, "wanted": 6, "bore_diameter": 40, "width": 10})
    assert sector.volume() == pytest.approx(whole.volume() / 5, rel=1e-9)
    # Teeth are as thick as their spaces on the pitch line of a rack.
    rack = RECIPES["gear-rack"].solid({"teeth": 5, "module": 4, "body_height": 10, "width": 1})
    bare = 5 * np.pi * 4 * (1.25 * 4 + 10)
    assert rack.volume() > bare - 5 * np.pi * 4 * 0.5 * 4


@pytest.mark.parametrize(
    ("values", "where"),
    [
        ({"profile_shift": 0.9, "teeth": 8, "bore_diameter": 5.0}, "profile_shift"),
        ({"root_fillet": 0.6}, "root_fillet"),
        ({"bore_diameter": 90.0}, "bore_diameter"),
        ({"wanted": 30}, "wanted"),
    ],
)
def test_teeth_that_cannot_be_are_refused(values: dict[str, float], where: str) -> None:
    with pytest.raises(GeometryError) as refused:
        RECIPES["gear"].solid(values)
    assert refused.value.where == where
