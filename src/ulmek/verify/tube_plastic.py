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
    study["space"] = "plane-strain"
    ring = {"inner_diameter": 2 * INNER, "outer_diameter": 2 * OUTER, "thickness": 1, "sector": 90}
    study["parts"] = [part("tube", "washer", ring, {"size": "0.4 mm", "per_turn": 64})]
    study["supports"] = [symmetry("x-plane", "tube/end"), symmetry("y-plane", "tube/start")]
    study["loads"] = [load("press", "pressure", {"press": f"{pressure} MPa", "relieve": "off"}, "tube/bore")]
    study["steps"] = [step("press", 0.1), step("relieve")]
    solved = solve(study)
    pressed = solved.fields("tube", solved.end_of(0))
    hoop_outside = _hoop(pressed, OUTER)
    reach = OUTER * np.sqrt(hoop_outside / LIMIT)
    residual = LIMIT - pressure - pressure * (OUTER**2 + INNER**2) / (OUTER**2 - INNER**2)
    yielded = pressed["plastic_strain"] > 1e-6
    seen = float(np.hypot(*pressed["points"][yielded, :2].T).max())
    return [
        Check("reach of yielding, from the stress outside", "mm", REACH, float(reach), 0.02),
        Check("reach of yielding, as seen in nodes", "mm", REACH, seen, 0.05),
        Check("residual hoop stress at the bore", "MPa", residual, _hoop(solved.fields("tube"), INNER), 0.02),
    ]


def _hoop(fields: dict[str, np.ndarray], radius: float) -> float:
    """Mean hoop stress (MPa) at a radius, extrapolated from the two next rings of nodes."""
    x, y = fields["points"][:, :2].T
    r = np.hypot(x, y)
    rings = np.unique(np.round(r, 3))
    nearest = rings[np.argsort(np.abs(rings - radius))[:4]]
    c, s = x / r, y / r
    stress = fields["stress"]
    hoop = s**2 * stress[:, 0] + c**2 * stress[:, 1] - 2 * s * c * stress[:, 3]
    means = [float(hoop[np.abs(r - at) < 2e-3].mean()) for at in nearest]
    # Nodal values at a free edge are one-sided averages: the rings inside say more.
    return float(np.polyval(np.polyfit(nearest[1:], means[1:], 2), radius))
