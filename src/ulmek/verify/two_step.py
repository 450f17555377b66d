"""Case ``two-step``: a part moved to touch, then pressed by force, ends as if the force alone had acted."""

from typing import Any

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, base_document, enforced, hold, load, part, spot, step
from ulmek.verify.hertz_line import peak_and_width

GAP, FORCE, MU = 0.4, 3000.0, 0.2


def _document(gap: float) -> dict[str, Any]:
    study = base_document("two-step", "Two-step")
    study["space"] = "plane-strain"
    study["parts"] = [
        part("base", "block", {"length": 40, "depth": 20, "height": 1}, 
             {"size": "2.5 mm", "spots": [spot((x, 10, 0), 0.2) for x in (-1, 0, 1)]}, at=(0, -10)),
        part("shoe", "disc", {"diameter": 60, "thickness": 1, "sector": 180},
             {"size": "3 mm", "spots": [spot((x, -30, 0), 0.16) for x in (-1, 0, 1)]}, at=(0, 30 + gap)),
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "joint", "name": "Shoe – base", "a": ["shoe/rim"], "b": ["base/far"], "law": {"mu": MU},
         "search": "1.5 mm"}
    ]  # fmt: skip
    study["handles"] = [
        {"id": "grip", "name": "Grip", "at": ["0 mm", f"{30 + gap} mm", "0 mm"], "faces": ["shoe/flat"]}
    ]
    study["supports"] = [
        hold("floor", ["x", "y"], "base/near"),
        hold("guide", ["x", "turn-z"], handle="grip"),
    ]
    press = load("press", "force", {"press": f"{FORCE} N"}, handle="grip", direction=[0, -1, 0])
    study["loads"], study["steps"] = [press], [step("press", 0.5, large_motion=True)]
    if gap:
        move = load("move", "displacement", {"move": f"{gap + 1e-3} mm"}, handle="grip", direction=[0, -1, 0],
                    released=["press"])  # fmt: skip
        study["loads"].append(move)
        study["steps"].insert(0, step("move", 1.0, large_motion=True))
    return study


def two_step(solve: Solve) -> list[Check]:
    """The end state of force on the closed model is the reference."""
    return [check for method in METHODS for check in _checks(solve, method)]


def _checks(solve: Solve, method: str) -> list[Check]:
    alone, moved = (solve(enforced(_document(gap), method)) for gap in (0.0, GAP))
    joints = [s.pair("joint") for s in (alone, moved)]
    peak = [peak_and_width(j["points"][:, 0], j["pressure"])[0] for j in joints]
    below = [float(np.abs(s.fields("base")["displacement"]).max()) for s in (alone, moved)]
    return [
        Check(f"peak pressure, {method}", "MPa", peak[0], peak[1], 0.005),
        Check(f"largest displacement of the base, {method}", "mm", below[0], below[1], 0.005),
        Check(f"force on the shoe, {method}", "N", FORCE, moved.last.pairs["joint"].force[1], 1e-6),
    ]
