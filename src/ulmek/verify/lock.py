"""Case ``lock``: a thick tube of nearly incompressible material under inner pressure."""

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, hold, load, part, step, symmetry

INNER, OUTER, PRESSURE, YOUNG, POISSON = 10.0, 20.0, 10.0, 1000.0, 0.4999


def lock(solve: Solve) -> list[Check]:
    """Lamé (1852), plane strain: u(a) = (1+ν)/E · p a²/(b² − a²) · [(1 − 2ν) a + b²/a]."""
    reference = (1 + POISSON) / YOUNG * PRESSURE * INNER**2 / (OUTER**2 - INNER**2)
    reference *= (1 - 2 * POISSON) * INNER + OUTER**2 / INNER
    checks = []
    for space in ("plane-strain", "solid"):
        study = base_document("lock", "Lock")
        study["materials"][0] |= {"young": f"{YOUNG} MPa", "poisson": POISSON}
        study["space"] = space
        ring = {"inner_diameter": 2 * INNER, "outer_diameter": 2 * OUTER, "thickness": 2, "sector": 90}
        study["parts"] = [part("tube", "washer", ring, {"size": "1 mm", "layers": 2, "per_turn": 48})]
        study["supports"] = [symmetry("x-plane", "tube/end"), symmetry("y-plane", "tube/start")]
        if space == "solid":
            study["supports"].append(hold("plane", ["z"], "tube/top", "tube/bottom"))
        study["loads"] = [load("press", "pressure", {"press": f"{PRESSURE} MPa"}, "tube/bore")]
        study["steps"] = [step("press")]
        tube = solve(study).fields("tube")
        radius = np.hypot(*tube["points"][:, :2].T)
        at = np.abs(radius - INNER) < 1e-3
        moved = np.einsum("ni,ni->n", tube["displacement"][at, :2], tube["points"][at, :2]) / INNER
        label = "section" if space == "plane-strain" else "bricks"
        checks.append(Check(f"radial displacement at the bore, {label}", "mm", reference, float(moved.mean()), 0.01))
    return checks
