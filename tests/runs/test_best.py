"""The best of an input is found where closed forms have it, held by verdicts, or at the end of its range."""

from typing import Any

import numpy as np
import pytest
from scipy.optimize import minimize_scalar

from ulmek.core.errors import InputError
from ulmek.runs.best import Best, Goal, find_best
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.items.series import SeriesUse
from ulmek.study.sampling import inputs_of
from ulmek.verify.case import base_document, load, part, step, symmetry

# Radii of two rings (mm), the pressure in the bore (MPa), and what they are made of.
A, B, C, INSIDE, YOUNG, YIELD = 20.0, 30.0, 45.0, 100.0, 210e3, 400.0


def _rings() -> StudyDocument:
    study = base_document("rings", "Pressed rings")
    study["space"] = "plane-stress"
    study["materials"][0] |= {"yield_stress": f"{YIELD} MPa"}
    for name, inner, outer in (("inner", A, B), ("outer", B, C)):
        size = {"inner_diameter": 2 * inner, "outer_diameter": 2 * outer, "thickness": 1, "sector": 90}
        study["parts"].append(part(name, "washer", size, {"size": "0.5 mm"}))
    study["pairs"] = [
        {"id": "seat", "name": "Seat", "a": ["inner/rim"], "b": ["outer/bore"], "law": {"may_slide": "freely"},
         "fit": "value", "interference": "0.03 mm", "search": "0.5 mm"}
    ]  # fmt: skip
    study["supports"] = [
        symmetry("x-plane", "inner/end", "outer/end"), symmetry("y-plane", "inner/start", "outer/start")
    ]  # fmt: skip
    study["loads"] = [load("inside", "pressure", {"press": f"{INSIDE} MPa"}, "inner/bore")]
    study["steps"] = [step("press", 1.0)]
    return read_study(study)


def _use(overlap: float) -> float:
    """Highest von Mises stress over yield, at the bore of either ring (Lamé 1852, plane stress), for an overlap of the
    radii (mm)."""
    one, two = B**2 - A**2, C**2 - B**2
    # Pressure of the overlap alone, and what the pressure inside adds to it at the joint of one thick ring.
    joint = overlap * YOUNG / B / ((C**2 + B**2) / two + (B**2 + A**2) / one)
    joint += INSIDE * A**2 * (C**2 - B**2) / (B**2 * (C**2 - A**2))
    uses = []
    for inner, outer, p, q in ((A, B, INSIDE, joint), (B, C, joint, 0.0)):
        square = outer**2 - inner**2
        hoop = (p * (inner**2 + outer**2) - 2 * q * outer**2) / square
        uses.append(np.sqrt(hoop**2 + p**2 + hoop * p) / YIELD)
    return float(max(uses))


def _sought(low: float, high: float, goal: Goal) -> Best:
    spread = {"kind": "even", "low": f"{low} mm", "high": f"{high} mm"}
    asked = {"id": "fit", "name": "Overlap", "paths": ["/pairs/seat/interference"], "spread": spread}
    study = _rings()
    return find_best(
        study, inputs_of(study, SeriesUse.model_validate({"id": "s", "name": "S", "inputs": [asked]})), goal
    )


BOTH = ["inner/yielding", "outer/yielding"]


def _overlap(found: Best) -> float:
    assert found.best is not None
    return float(str(found.best.values["fit"]).split()[0])


def test_the_overlap_that_spares_both_rings_is_that_of_lame() -> None:
    exact = minimize_scalar(_use, bounds=(0.0, 0.06), method="bounded", options={"xatol": 1e-6})
    found = _sought(0.0, 0.06, Goal(measures=BOTH))
    assert 0.005 < exact.x < 0.055
    assert _overlap(found) == pytest.approx(exact.x, rel=0.01)
    assert found.best is not None
    assert found.best.goal == pytest.approx(exact.fun, rel=0.01)
    assert found.at_end == []
    assert len(found.tries) < 40


def test_bounds_and_verdicts_hold_the_best_back() -> None:
    # Most pressure in the joint: as much overlap as there may be.
    found = _sought(0.0, 0.05, Goal(measures=["seat/pressure"], sense="most"))
    assert found.at_end == ["fit"]
    assert _overlap(found) == pytest.approx(0.05, rel=0.01)
    # As much as the verdict of the outer ring lets be: all tries beyond are told as such.
    held = _sought(0.0, 0.2, Goal(measures=["seat/pressure"], sense="most", holds=["outer/yielding"]))
    assert held.best is not None
    assert held.best.holds
    assert held.at_end == []
    beyond = [t for t in held.tries if not t.holds]
    assert beyond
    assert min(float(str(t.values["fit"]).split()[0]) for t in beyond) >= _overlap(held) * 0.99
    with pytest.raises(InputError, match="the ledger has no 'seat/colour'"):
        _sought(0.0, 0.05, Goal(measures=["seat/colour"]))


def test_choices_have_no_best() -> None:
    study = _rings()
    asked: dict[str, Any] = {"id": "way", "name": "Way", "paths": ["/pairs/seat/fit"]}
    asked["spread"] = {"kind": "listed", "values": ["as-drawn", "value"]}
    inputs = inputs_of(study, SeriesUse.model_validate({"id": "s", "name": "S", "inputs": [asked]}))
    with pytest.raises(InputError, match="no best between them"):
        find_best(study, inputs, Goal(measures=BOTH))
