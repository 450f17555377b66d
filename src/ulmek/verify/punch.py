"""Case ``punch``: a rigid flat punch on a block, smooth, in plane strain."""

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, base_document, hold, load, part, spot, step, symmetry

HALF, SIZE, FORCE = 1.0, 40.0, 1000.0


def punch(solve: Solve) -> list[Check]:
    """p(x) = P/(π√(a² − x²)) under a flat punch of half-width a (Sadowsky 1928; Johnson 1985, eq. 2.64)."""
    return [check for method in METHODS for check in _checks(solve, method)]


def _checks(solve: Solve, method: str) -> list[Check]:
    study = base_document("punch", "Punch")
    study["space"] = "plane-strain"
    study["materials"].append({"id": "rigid", "name": "Stiff", "young": "210000 GPa", "poisson": 0.3})
    edge = [float(x) for x in np.linspace(0, HALF, 6)]
    study["parts"] = [
        part("punch", "block", {"length": HALF, "depth": HALF, "height": 1}, {"size": "0.04 mm"},
             at=(HALF / 2, HALF / 2), material="rigid"),
        part("base", "block", {"length": SIZE, "depth": SIZE, "height": 1},
             {"size": "3 mm", "spots": [spot((x - SIZE / 2, SIZE / 2, 0), 0.03) for x in edge]},
             at=(SIZE / 2, -SIZE / 2)),
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "joint", "name": "Punch – base", "a": ["punch/near"], "b": ["base/far"],
         "law": {"may_slide": "freely"}, "search": "0.05 mm",
         "enforcement": {"method": method, "allowed": "1e-6 mm"}}
    ]  # fmt: skip
    study["supports"] = [hold("floor", ["x", "y"], "base/near"), symmetry("mirror", "punch/left", "base/left")]
    study["loads"] = [load("press", "force", {"press": f"{FORCE / 2} N"}, "punch/far", direction=[0, -1, 0])]
    study["steps"] = [step("press", 0.5)]
    solved = solve(study)
    joint = solved.pair("joint")
    x, p = joint["points"][:, 0], joint["pressure"]
    middle = np.abs(x) < 0.3 * HALF
    # P/π from the flat middle of p √(a² − x²), which the theory makes constant.
    even = float(np.mean(p[middle] * np.sqrt(HALF**2 - x[middle] ** 2))) / HALF
    force = solved.last.pairs["joint"].normal_force
    return [
        Check(f"pressure in the middle, {method}", "MPa", FORCE / (np.pi * HALF), even, 0.03),
        Check(f"force through the pair, {method}", "N", FORCE / 2, force, 1e-6),
    ]
