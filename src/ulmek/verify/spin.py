"""Case ``spin``: a flat ring that turns fast."""

import numpy as np

from ulmek.verify.case import PLANE_ELEMENTS, Check, Solve, base_document, load, part, step, symmetry

INNER, OUTER, SPEED, DENSITY, POISSON = 20.0, 100.0, 1000.0, 7.85e-9, 0.3


def spin(solve: Solve) -> list[Check]:
    """σ(a) = (3+ν)/4 · ρω² [b² + (1−ν)/(3+ν) a²] (Timoshenko and Goodier 1970, article 32)."""
    return [_check(solve, kind, label) for kind, label in PLANE_ELEMENTS.items()]


def _check(solve: Solve, kind: str, label: str) -> Check:
    study = base_document("spin", "Spin")
    study["materials"][0]["density"] = "7850 kg/m^3"
    study["space"] = "plane-stress"
    ring = {"inner_diameter": 2 * INNER, "outer_diameter": 2 * OUTER, "thickness": 1, "sector": 90}
    mesh = {"size": "2.5 mm", "faces": {"bore": "0.5 mm"}, "elements": kind}
    study["parts"] = [part("ring", "washer", ring, mesh)]
    study["supports"] = [symmetry("x-plane", "ring/end"), symmetry("y-plane", "ring/start")]
    study["loads"] = [load("turn", "spin", {"turn": f"{SPEED} rad/s"}, direction=[0, 0, 1])]
    study["steps"] = [step("turn")]
    ring_fields = solve(study).fields("ring")
    x, y = ring_fields["points"][:, :2].T
    r = np.hypot(x, y)
    c, s = x / r, y / r
    stress = ring_fields["stress"]
    hoop = s**2 * stress[:, 0] + c**2 * stress[:, 1] - 2 * s * c * stress[:, 3]
    reference = (3 + POISSON) / 4 * DENSITY * SPEED**2 * (OUTER**2 + (1 - POISSON) / (3 + POISSON) * INNER**2)
    return Check(f"hoop stress at the bore, {label}", "MPa", reference, float(hoop[r < INNER + 1e-3].mean()), 0.01)
