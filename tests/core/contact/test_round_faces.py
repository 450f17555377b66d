"""Gaps between round faces are those of their curves, however coarse the mesh and wherever the parts stand."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.conftest import STEEL
from ulmek.core.contact.interface import build_interface
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.sweep import mesh_layered, mesh_section
from ulmek.core.model import Body, Face, Model, Pair, PairLaw


@pytest.mark.parametrize("section", [False, True])
@pytest.mark.parametrize(("pin", "hole"), [(20.0, 21.0), (20.0, 20.02), (20.04, 20.0)])
def test_clearance_of_a_pin_in_a_hole(pin: float, hole: float, section: bool) -> None:
    """Chords of 12 and 16 to the turn sag by 0.34 and 0.19 mm: far more than the fits."""
    make = mesh_section if section else mesh_layered
    inner = make(
        RECIPES["washer"].solid({"inner_diameter": 8, "outer_diameter": pin, "thickness": 5}), size=5, per_turn=12
    )
    outer = make(
        RECIPES["washer"].solid({"inner_diameter": hole, "outer_diameter": 40, "thickness": 5}), size=5, per_turn=16
    )
    turn, shift = np.eye(3), np.array([3.0, -4.0, 0.0])
    if not section:
        turn, shift = Rotation.from_rotvec([0.4, 1.1, -0.3]).as_matrix(), np.array([30.0, 5.0, -8.0])
    # The hub turned by part of a facet, so that chords do not face chords.
    askew = Rotation.from_rotvec([0, 0, 0.11]).as_matrix()
    placed = (("pin", inner.placed(turn, shift)), ("hub", outer.placed(turn @ askew, shift)))
    bodies = tuple(Body(name, mesh, STEEL) for name, mesh in placed)
    pair = Pair("fit", (Face("pin", "rim"),), (Face("hub", "bore"),), PairLaw(True, "freely"), 2.0)
    space = "plane-strain" if section else "solid"
    model = Model(bodies, (pair,), (), (), (), (), space=space)  # type: ignore[arg-type]
    found = build_interface(model, pair, model.nodes())
    drawn = (hole - pin) / 2
    # Measured along facet normals, up to 15° off the radius, and weighted by node: a few per cent.
    assert np.average(found.gap, weights=found.area) == pytest.approx(drawn, rel=0.05, abs=1e-4)
    assert np.abs(found.gap - drawn).max() < 0.15 * abs(drawn) + 1e-3
    # The least gap is that between the curves; chords that stand askew come closer by what they sag.
    assert found.least_gap == pytest.approx(drawn, rel=0.01, abs=2e-3)
    rough = build_interface(model, pair, model.nodes(), true_radii=False)
    assert abs(rough.least_gap - drawn) > 0.05
