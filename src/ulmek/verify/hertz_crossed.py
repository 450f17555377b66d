"""Case ``hertz-crossed``: two equal cylinders crossed at a right angle, a quarter of each in bricks."""

from typing import Any

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, Solved, base_document, hold, load, part, spot, step, symmetry

RADIUS, CONTACT, YOUNG, POISSON = 10.0, 0.5, 210e3, 0.3
STIFFNESS = YOUNG / (1 - POISSON**2) / 2
FORCE = 4 * STIFFNESS * CONTACT**3 / (3 * RADIUS)


def crossed_document(method: str) -> dict[str, Any]:
    """The study: pressed along y, a quarter by symmetry in x and z."""
    study = base_document("hertz-crossed", "Hertz, crossed")
    study["materials"][0]["yield_stress"] = "9000 MPa"
    size = {"diameter": 2 * RADIUS, "thickness": 8, "sector": 90}
    upper = part("upper", "disc", size, {"size": "2.5 mm", "per_turn": 8, "spots": _spots(0.11)}, at=(0, RADIUS))
    lower = part("lower", "disc", size, {"size": "2.5 mm", "per_turn": 8, "spots": _spots(0.13)}, at=(0, -RADIUS))
    study["parts"] = [upper, lower]
    # Upside down and with its axis along x: half a turn about the line x = z.
    lower["placements"][0]["turn"] = {"axis": [1, 0, 1], "angle": "180 deg"}
    study["pairs"] = [
        {"id": "joint", "name": "Upper – lower", "a": ["upper/rim"], "b": ["lower/rim"],
         "law": {"may_slide": "freely"}, "search": "0.1 mm",
         "enforcement": {"method": method, "allowed": "1e-6 mm"}}
    ]  # fmt: skip
    study["supports"] = [
        symmetry("x-plane", "upper/middle", "lower/bottom"),
        symmetry("z-plane", "upper/bottom", "lower/middle"),
        hold("floor", ["y"], "lower/flat"),
    ]
    study["loads"] = [load("press", "force", {"press": f"{FORCE / 4} N"}, "upper/flat", direction=[0, -1, 0])]
    study["steps"] = [step("press", 0.5)]
    return study


def _spots(fine: float) -> list[dict[str, Any]]:
    at = [float(v) for v in np.linspace(0, 1.2, 4) * CONTACT]
    return [spot((x, -RADIUS, z), fine) for x in at for z in at]


def hertz_crossed(solve: Solve) -> list[Check]:
    """Equal crossed cylinders touch as a ball of radius R on a flat (Hertz 1882): p0 = 3P/(2πa²), a³ = 3PR/4E*."""
    return [check for method in METHODS for check in _checks(solve(crossed_document(method)), method)]


def _checks(solved: Solved, method: str) -> list[Check]:
    joint = solved.pair("joint")
    radius = np.hypot(joint["points"][:, 0], joint["points"][:, 2])
    used = joint["pressure"] > 0.25 * joint["pressure"].max()
    slope, at_zero = np.polyfit(radius[used] ** 2, joint["pressure"][used] ** 2, 1)
    peak = 3 * FORCE / (2 * np.pi * CONTACT**2)
    return [
        Check(f"peak pressure, {method}", "MPa", peak, float(np.sqrt(at_zero)), 0.04),
        Check(f"radius of contact, {method}", "mm", CONTACT, float(np.sqrt(-at_zero / slope)), 0.04),
    ]
