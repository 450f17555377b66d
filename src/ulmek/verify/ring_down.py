"""Case ``ring-down``: a mass on a spring let go, in implicit dynamics."""

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, block_part, hold, load, step

SIDE, STIFFNESS, PULL = 20.0, 50.0, 1.0
MASS = 7.85e-9 * SIDE**3


def ring_down(solve: Solve) -> list[Check]:
    """Period 2π√(m/k); three periods in 40 increments each."""
    period = 2 * np.pi * np.sqrt(MASS / STIFFNESS)
    study = base_document("ring-down", "Ring-down")
    study["materials"][0]["density"] = "7850 kg/m^3"
    study["parts"] = [block_part("mass", (SIDE, SIDE, SIDE), 10)]
    study["handles"] = [{"id": "grip", "name": "Grip", "at": ["0 mm", "0 mm", "0 mm"], "faces": ["mass/bottom"]}]
    study["springs"] = [
        {"id": "spring", "name": "Spring", "a": "grip", "stiffness": ["0 N/mm", "0 N/mm", f"{STIFFNESS} N/mm"]}
    ]
    study["supports"] = [hold("guide", ["x", "y", "turn-x", "turn-y", "turn-z"], handle="grip")]
    study["loads"] = [
        load("pull", "displacement", {"pull": f"{PULL} mm"}, handle="grip", direction=[0, 0, 1], released=["ring"])
    ]
    dynamics = {"duration": f"{3 * period} s"}
    study["steps"] = [step("pull"), step("ring", 1 / 120, dynamics=dynamics)]
    solved = solve(study)
    seen = [solved.fields("mass", k)["displacement"][:, 2].mean() for k in range(len(solved.outcome.summaries))]
    times = [0.0, *(s.time * 3 * period for s in solved.outcome.summaries if s.step == 1)]
    z = np.array(seen)
    falls = [k for k in range(1, len(z)) if z[k - 1] > 0 >= z[k]]
    crossing = [times[k - 1] + (times[k] - times[k - 1]) * z[k - 1] / (z[k - 1] - z[k]) for k in falls]
    measured = (crossing[-1] - crossing[0]) / (len(crossing) - 1)
    return [
        Check("period", "s", period, float(measured), 0.01),
        Check("swing after two periods", "mm", PULL, float(z[len(z) // 2 :].max()), 0.05),
    ]
