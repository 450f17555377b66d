"""Hand checks against numbers of their sources and against each other."""

import numpy as np
import pytest

from ulmek.core.handcalc.belts import belt_ratio
from ulmek.core.handcalc.bolted_joint import joint_forces, load_factor, preload_of_torque
from ulmek.core.handcalc.hertz import contact_modulus, ellipse_contact, line_contact, point_contact
from ulmek.core.handcalc.rings import press_fit_grip, press_fit_pressure, ring_hoop_stress, spinning_ring_stress
from ulmek.core.handcalc.teeth import tooth_beam_stress, tooth_fillet_factor, tooth_root_stress

STEEL = contact_modulus(210e3, 0.3, 210e3, 0.3)


def test_hertz_pressures_carry_their_force() -> None:
    line, point = line_contact(1000.0, 50.0, STEEL), point_contact(500.0, 20.0, STEEL)
    assert np.pi / 2 * line.half_width * line.peak == pytest.approx(1000.0)
    assert 2 / 3 * np.pi * point.half_width**2 * point.peak == pytest.approx(500.0)
    assert line.peak == pytest.approx(np.sqrt(1000.0 * STEEL / (np.pi * 50.0)))  # Johnson, eq. 4.45


def test_equal_crossed_cylinders_touch_as_a_ball_and_unlike_ones_in_an_ellipse() -> None:
    ball, crossed = point_contact(800.0, 10.0, STEEL), ellipse_contact(800.0, 10.0, 10.0, STEEL)
    assert crossed.half_width == pytest.approx(ball.half_width, rel=1e-6)
    assert crossed.approach == pytest.approx(ball.approach, rel=1e-6)
    # The axis ratio goes with the radii about as Brewe and Hamrock (1977) fitted it.
    for ratio in (1.5, 3.0, 10.0):
        found = ellipse_contact(800.0, 10.0, 10.0 * ratio, STEEL)
        assert found.half_width / found.short == pytest.approx(1.0339 * ratio**0.636, rel=0.03)
    long = ellipse_contact(800.0, 30.0, 10.0, STEEL)
    assert long.short < long.half_width
    assert 2 / 3 * np.pi * long.half_width * long.short * long.peak == pytest.approx(800.0)
    # Mildly elliptical: b/a = (R_short/R_long)^(2/3) nearly (Johnson 1985, eq. 4.28).
    assert long.short / long.half_width == pytest.approx((10 / 30) ** (2 / 3), rel=0.02)


def test_rings_in_a_press_fit_meet_at_the_interference() -> None:
    a, b, c, e, nu = 20.0, 30.0, 50.0, 210e3, 0.3
    p = press_fit_pressure(0.03, a, b, c, shaft=(e, nu), hub=(e, nu))
    hub = (ring_hoop_stress(p, b, c, b) + nu * p) / e * b
    shaft = (ring_hoop_stress(p, a, b, b, inside=False) + nu * p) / e * b
    assert hub - shaft == pytest.approx(0.03)
    force, torque = press_fit_grip(p, b, 6.0, 0.1)
    assert torque == pytest.approx(force * b)


def test_bolted_joint_opens_where_its_clamp_force_ends() -> None:
    phi = load_factor(2.0, 6.0)
    assert phi == 0.25
    closed, opened = joint_forces(10e3, 8e3, phi), joint_forces(10e3, 20e3, phi)
    assert (closed.bolt, closed.clamp) == (12e3, 4e3)
    assert closed.bolt - closed.clamp == 8e3
    assert (opened.bolt, opened.clamp, opened.opens_at) == (20e3, 0.0, pytest.approx(13333.3, rel=1e-5))
    assert preload_of_torque(64e3, 0.2, 16.0) == 20e3


def test_belts_discs_and_teeth() -> None:
    assert belt_ratio(0.3, np.pi) == pytest.approx(2.566, rel=1e-3)
    # A disc with a tiny hole has twice the stress of a full one, (3+ν)/8 ρω²b².
    assert spinning_ring_stress(8e-9, 500.0, 1e-6, 100.0, 0.3) == pytest.approx(2 * 3.3 / 8 * 8e-9 * 500**2 * 1e4)
    assert tooth_root_stress(1000.0, 20.0, 4.0, 0.32) == pytest.approx(1000 / 25.6)
    # 4^0.15 = 1.23114, (4/3)^0.45 = 1.13821.
    assert tooth_fillet_factor(8.0, 2.0, 6.0) == pytest.approx(0.18 + 1.23114 * 1.13821, rel=1e-5)
    assert tooth_beam_stress(1000.0, 20.0, 9.0, 8.0) == pytest.approx(6 * 9000 / (20 * 64))
