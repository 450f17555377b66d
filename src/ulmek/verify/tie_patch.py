"""Case ``tie-patch``: two blocks with non-matching meshes, tied, in tension, bending and shear."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.verify.case import Check, Solve, Solved, base_document, block_part, load, step

SIDE, HALF, FINE, PULL, MOMENT, SHEAR = 20.0, 30.0, 2.5, 50.0, 60e3, 2000.0


def _document(kind: str) -> dict[str, Any]:
    study = base_document("tie-patch", "Tie patch", poisson=0.0)
    study["parts"] = [
        block_part("lower", (SIDE, SIDE, HALF), 3.4),
        block_part("upper", (SIDE, SIDE, HALF), FINE, at=HALF),
    ]
    study["pairs"] = [
        {"id": "joint", "name": "Upper – lower", "a": ["upper/bottom"], "b": ["lower/top"],
         "law": {"may_open": False, "may_slide": "no"}}
    ]  # fmt: skip
    study["handles"] = [
        {"id": "grip", "name": "Grip", "at": ["0 mm", "0 mm", f"{2 * HALF} mm"], "faces": ["upper/top"],
         "kind": "averaging"}
    ]  # fmt: skip
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["lower/bottom"]}]
    loads = {
        "tension": load("act", "pressure", {"act": f"{-PULL} MPa"}, "upper/top"),
        "bending": load("act", "moment", {"act": f"{MOMENT} N*mm"}, handle="grip", direction=[0, 1, 0]),
        "shear": load("act", "force", {"act": f"{SHEAR} N"}, handle="grip", direction=[1, 0, 0]),
    }
    study["loads"], study["steps"] = [loads[kind]], [step("act")]
    return study


def tie_patch(solve: Solve) -> list[Check]:
    """σ = F/A, Mx/I, and F·z·x/I under a force at the end (ν = 0), on both sides of the interface."""
    inertia = SIDE**4 / 12
    slopes = {"tension": (PULL, 0.0), "bending": (0.0, MOMENT / inertia), "shear": (0.0, SHEAR * HALF / inertia)}
    checks = []
    for kind, (constant, slope) in slopes.items():
        solved = solve(_document(kind))
        scale = constant + abs(slope) * SIDE / 2
        joint = solved.pair("joint")
        # A node's traction is the mean over its share of the face, whose middle at an edge lies a third of an
        # element inside.
        x = joint["points"][:, 0]
        middle = np.where(np.abs(x) > SIDE / 2 - 1e-6, x - np.sign(x) * FINE / 3, x)
        passed = _deviation(middle, -joint["pressure"], constant, slope)
        checks.append(Check(f"traction passed on, {kind}: farthest from linear", "MPa", scale, scale + passed, 0.01))
        if kind == "shear":
            continue  # an element holds no stress that changes along and across it at once: see the traction
        worst = max(_stress_deviation(solved, part, constant, slope) for part in ("lower", "upper"))
        checks.append(Check(f"stress on both sides, {kind}: farthest from linear", "MPa", scale, scale + worst, 0.01))
    return checks


def _deviation(x: NDArray[np.float64], stress: NDArray[np.float64], constant: float, slope: float) -> float:
    """Farthest that ``stress`` at ``x`` lies from the linear field (MPa), for either sign of bending."""
    return float(min(np.abs(stress - constant - sign * slope * x).max() for sign in (1, -1)))


def _stress_deviation(solved: Solved, part: str, constant: float, slope: float) -> float:
    """The same for the axial stress of one part at the interface."""
    fields = solved.fields(part)
    at = np.abs(fields["points"][:, 2] - HALF) < 1e-6
    return _deviation(fields["points"][at, 0], fields["stress"][at, 2], constant, slope)
