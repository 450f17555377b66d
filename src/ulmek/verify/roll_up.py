"""Case ``roll-up``: a thin strip rolled up to a full circle by an end moment."""

import numpy as np
from numpy.typing import NDArray

from ulmek.verify.case import PLANE_ELEMENTS, Check, Solve, base_document, hold, load, part, step

LENGTH, THICK, YOUNG = 100.0, 0.5, 210e3


def roll_up(solve: Solve) -> list[Check]:
    """The end moment 2πEI/L bends a strip to a circle (Euler 1744); the tip returns to the root."""
    return [*(_check(solve, kind, label) for kind, label in PLANE_ELEMENTS.items()), _beam(solve)]


def _check(solve: Solve, kind: str, label: str) -> Check:
    study = base_document("roll-up", "Roll-up", poisson=0.0)
    study["space"] = "plane-stress"
    study["parts"] = [part("strip", "block", {"length": LENGTH, "depth": THICK, "height": 1}, 
                           {"size": "1.25 mm", "elements": kind})]  # fmt: skip
    study["handles"] = [{"id": "tip", "name": "Tip", "at": [f"{LENGTH / 2} mm", "0 mm", "0 mm"],
                         "faces": ["strip/right"]}]  # fmt: skip
    study["supports"] = [hold("root", ["x", "y"], "strip/left")]
    moment = 2 * np.pi * YOUNG * THICK**3 / 12 / LENGTH
    study["loads"] = [load("roll", "moment", {"roll": f"{moment} N*mm"}, handle="tip", direction=[0, 0, 1])]
    study["steps"] = [step("roll", 0.05, large_motion=True)]
    return _away(solve(study).fields("strip"), 0, label)


def _beam(solve: Solve) -> Check:
    """The same strip as a beam along z, rolled up about x: 20 elements."""
    study = base_document("roll-up", "Roll-up", poisson=0.0)
    study["parts"] = [part("strip", "block", {"length": 1.0, "depth": THICK, "height": LENGTH},
                           {"size": "5 mm", "elements": "beam"})]  # fmt: skip
    study["handles"] = [{"id": "tip", "name": "Tip", "at": ["0 mm", "0 mm", f"{LENGTH} mm"], "faces": ["strip/top"]}]
    study["supports"] = [hold("root", ["x", "y", "z"], "strip/bottom")]
    moment = 2 * np.pi * YOUNG * THICK**3 / 12 / LENGTH
    study["loads"] = [load("roll", "moment", {"roll": f"{moment} N*mm"}, handle="tip", direction=[1, 0, 0])]
    study["steps"] = [step("roll", 0.05, large_motion=True)]
    strip = solve(study).fields("strip")
    strip["points"] = strip["points"] - [0, 0, LENGTH / 2]
    return _away(strip, 2, "beam")


def _away(strip: dict[str, NDArray[np.float64]], along: int, label: str) -> Check:
    points = strip["points"]
    at_tip = points[:, along] > LENGTH / 2 - 1e-6
    tip = (points[at_tip] + strip["displacement"][at_tip]).mean(axis=0)
    away = float(np.hypot(tip[along] + LENGTH / 2, tip[1]))
    return Check(f"distance of tip from root over the length, {label}", "–", 0.0, away / LENGTH, 0.01, scale=1.0)
