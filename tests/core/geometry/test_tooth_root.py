"""The weakest section of a tooth: Lewis's, on the true outline of the root."""

import numpy as np
import pytest

from ulmek.core.geometry.involute import Gearing
from ulmek.core.geometry.tooth_root import rack_root, tooth_root
from ulmek.core.handcalc.teeth import tooth_beam_stress, tooth_fillet_factor


def test_many_teeth_have_the_form_factor_of_the_tables() -> None:
    """Lewis's Y of 20° teeth of full depth (Shigley and Mischke 1989, table 14-2); few teeth of ours have slimmer roots
    than those that a hob leaves."""
    for number, tabled in ((50, 0.409), (100, 0.447), (300, 0.472)):
        assert tooth_root(Gearing(number, 3.0, np.deg2rad(20), fillet=0.38)).form == pytest.approx(tabled, rel=0.04)
    few = tooth_root(Gearing(17, 3.0, np.deg2rad(20), fillet=0.38)).form
    assert 0.75 * 0.303 < few < 0.303


def test_its_stress_is_that_of_the_cantilever_with_its_fillet_at_any_size() -> None:
    teeth = Gearing(24, 4.0, np.deg2rad(20))
    root = tooth_root(teeth)
    # Half the section lies on the fillet: farther from the middle than the root circle's end, nearer than the flank.
    fillet = teeth.upper_flank()[0]
    low, high = sorted([fillet.start[1], fillet.end[1]])
    assert low < root.thickness / 2 < high
    force, width = 5000.0, 20.0
    beam = tooth_beam_stress(force * np.cos(root.lean), width, root.arm, root.thickness)
    factor = tooth_fillet_factor(root.thickness, 0.38 * 4.0, root.arm)
    pressed = force * np.sin(root.lean) / (width * root.thickness)
    assert root.stress(force, width) == pytest.approx(factor * (beam - pressed))
    larger = tooth_root(Gearing(24, 8.0, np.deg2rad(20)))
    assert larger.stress(force, width) == pytest.approx(root.stress(force, width) / 2, rel=1e-9)


def test_a_rack_is_a_gear_of_ever_so_many_teeth() -> None:
    alpha = float(np.deg2rad(20))
    rack, gear = rack_root(3.0, alpha, 0.38, 0.0), tooth_root(Gearing(4000, 3.0, alpha, fillet=0.38))
    assert rack.stress(100.0, 10.0) == pytest.approx(gear.stress(100.0, 10.0), rel=5e-3)
    assert rack_root(3.0, alpha, 0.38, 0.3).stress(100.0, 10.0) > 1.05 * rack.stress(100.0, 10.0)
