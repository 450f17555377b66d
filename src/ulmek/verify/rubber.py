"""Case ``rubber``: a neo-Hookean cylinder, stretched to twice and squeezed to half its length."""

from typing import Any

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, hold, load, part, step, symmetry

C10, RADIUS, LENGTH = 0.5, 10.0, 20.0


def _document(stretch: float) -> dict[str, Any]:
    study = base_document("rubber", "Rubber")
    study["materials"] = [{"id": "steel", "name": "Rubber", "rubber": {"c10": f"{C10} MPa", "bulk": "2000 MPa"}}]
    study["space"] = "axisymmetric"
    size = {"length": RADIUS, "depth": LENGTH, "height": 1}
    study["parts"] = [part("cylinder", "block", size, {"size": "2.5 mm"}, at=(RADIUS / 2, 0))]
    study["supports"] = [symmetry("axis", "cylinder/left"), hold("floor", ["y"], "cylinder/near")]
    move = (stretch - 1) * LENGTH
    study["loads"] = [load("move", "displacement", {"move": f"{move} mm"}, "cylinder/far", direction=[0, 1, 0])]
    study["steps"] = [step("move", 0.1, large_motion=True)]
    return study


def rubber(solve: Solve) -> list[Check]:
    """Force over the first area: µ (λ − λ⁻²), µ = 2 C10 (Treloar 1975)."""
    checks = []
    for stretch in (2.0, 0.5):
        solved = solve(_document(stretch))
        force = solved.last.carrier("move").force[1]
        reference = 2 * C10 * (stretch - stretch**-2) * np.pi * RADIUS**2
        checks.append(Check(f"force at λ = {stretch:g}", "N", reference, force, 0.005))
    return checks
