"""Hand calculations of joints against their published special cases."""

import numpy as np
import pytest

from ulmek.core.errors import InputError
from ulmek.core.handcalc.bolted_joint import bolt_stiffness, cone_stiffness
from ulmek.core.handcalc.fasteners import hexagon, size_for_hole, thread_for_hole
from ulmek.core.handcalc.pins import pin_limits


@pytest.mark.parametrize(("d", "grip"), [(10.0, 20.0), (16.0, 38.0), (24.0, 120.0)])
def test_cones_of_one_material_have_the_stiffness_of_the_textbook(d: float, grip: float) -> None:
    # Shigley and Mischke (1989), eq. 8-21: both cones alike, a bearing of 1.5 d, the hole as wide as the bolt.
    young = 210e3
    log = np.log(5 * (0.57735 * grip + 0.5 * d) / (0.57735 * grip + 2.5 * d))
    textbook = 0.57735 * np.pi * young * d / (2 * log)
    assert cone_stiffness(1.5 * d, d, [(grip, young)], from_both=True) == pytest.approx(textbook, rel=1e-4)
    halves = [(0.3 * grip, young), (0.7 * grip, young)]
    assert cone_stiffness(1.5 * d, d, halves, from_both=True) == pytest.approx(textbook, rel=1e-4)


def test_a_soft_layer_makes_a_softer_joint_and_a_longer_bolt_is_softer() -> None:
    steel = cone_stiffness(24.0, 17.5, [(20.0, 210e3), (18.0, 210e3)], from_both=True)
    aluminium = cone_stiffness(24.0, 17.5, [(20.0, 70e3), (18.0, 210e3)], from_both=True)
    assert 1 / 3 < aluminium / steel < 1
    short, long = (bolt_stiffness(16.0, grip, 210e3) for grip in (38.0, 76.0))
    assert short / long == pytest.approx((76 + 1.4 * 16) / (38 + 1.4 * 16))


def test_sizes_follow_holes() -> None:
    assert size_for_hole(17.5) == (16.0, "medium")
    assert size_for_hole(13.0) == (12.0, "fine")
    assert size_for_hole(20.0) is None
    assert (thread_for_hole(13.9), thread_for_hole(16.8)) == (16.0, None)
    with pytest.raises(InputError, match="M17 is no size"):
        hexagon(17.0)
    assert hexagon(16.0).bearing_area(17.5) == pytest.approx(np.sqrt(3) / 2 * 24**2 - np.pi / 4 * 17.5**2)


def test_a_pin_in_a_fork_bends_before_it_shears_where_the_fork_is_wide() -> None:
    near = pin_limits(20.0, 20.0, (12.0, 12.0), 0.0, pin_yield=430.0, hole_yield=355.0)
    # F/2 in each of two planes; F/2 (t/4 + a/2) in bending; the middle is pressed most.
    assert near.shear == pytest.approx(2 * np.pi * 100 * 430 / np.sqrt(3))
    assert near.bending == pytest.approx(2 * 430 * np.pi * 20**3 / 32 / (5 + 6))
    assert near.bearing == pytest.approx(20 * 20 * 355)
    assert pin_limits(20.0, 20.0, (12.0, 12.0), 10.0, pin_yield=430.0, hole_yield=355.0).bending < near.bending
