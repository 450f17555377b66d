"""Case ``tube-plastic``: a thick tube pressed until it yields part of the way, then unloaded."""

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, load, part, step, symmetry

INNER, OUTER, REACH, YIELD = 10.0, 20.0, 14.0, 200.0
LIMIT = 2 * YIELD / np.sqrt(3)


def tube_plastic(solve: Solve) -> list[Check]:
    """p = (2Y/√3)[ln(c/a) + ½(1 − c²/b²)] (Hill 1950, section V.2, for ν = ½), perfect plasticity, plane strain."""
    pressure = LIMIT * (np.log(REACH / INNER) + (1 - REACH**2 / OUTER**2) / 2)
    study = base_document("tube-plastic", "Plastic tube")
    # The closed form is that of an incompressible material.
    study["materials"][0] |= {"poisson": 0.49, "hardening": {"table": [{"strain": 0, "stress": f"{YIELD} MPa"}]}}
    del study["materials"][0]["yield_stress"]
    ring = {"inner_diameter": 2 * INNER, "outer_diameter": 2 * OUTER, "thickness": 1, "sector": 90}
    study["parts"] = [part("tube", "washer", ring, {"size": "0.4 mm", "per_turn": 64})]
    study["supports"] = [symmetry("x-plane", "tube/end"), symmetry("y-plane", "tube/start")]
    study["loads"] = [load("press", "pressure", {"press": f"{pressure} MPa", "relieve": "off"}, "tube/bore")]
    study["steps"] = [step("press", 0.1), step("relieve")]
    flat = {**study, "space": "plane-strain"}
    solved = solve(flat)
    pressed = solved.fields("tube", solved.end_of(0))
    hoop_outside = _hoop(pressed, OUTER)
    reach = OUTER * np.sqrt(hoop_outside / LIMIT)
    study["supports"] += [symmetry("lower", "tube/bottom"), symmetry("upper", "tube/top")]
    study["loads"] = [load("press", "pressure", {"press": f"{pressure} MPa"}, "tube/bore")]
    bricks = solve({**study, "steps": [step("press", 0.1)]}).fields("tube")
    residual = LIMIT - pressure - pressure * (OUTER**2 + INNER**2) / (OUTER**2 - INNER**2)
    yielded = pressed["plastic_strain"] > 1e-6
    seen = float(np.hypot(*pressed["points"][yielded, :2].T).max())
    return [
        Check("reach of yielding, from the stress outside", "mm", REACH, float(reach), 0.02),
        Check("reach of yielding, as seen in nodes", "mm", REACH, seen, 0.05),
        Check("residual hoop stress at the bore", "MPa", residual, _hoop(solved.fields("tube"), INNER), 0.02),
        Check("hoop stress read at the bore, quads", "MPa", LIMIT - pressure, _hoop(pressed, INNER), 0.02),
        Check("hoop stress read at the bore, bricks", "MPa", LIMIT - pressure, _hoop(bricks, INNER), 0.02),
    ]


def _hoop(fields: dict[str, np.ndarray], radius: float) -> float:
    """Mean hoop stress (MPa) at the nodes of a radius, as a user reads it."""
    x, y = fields["points"][:, :2].T
    r = np.hypot(x, y)
    c, s = x / r, y / r
    stress = fields["stress"]
    hoop = s**2 * stress[:, 0] + c**2 * stress[:, 1] - 2 * s * c * stress[:, 3]
    return float(hoop[np.abs(r - radius) < 2e-3].mean())
