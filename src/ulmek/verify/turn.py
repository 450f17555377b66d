"""Case ``turn``: a free part turned by 135° has no stress."""

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, block_part, hold, load, step

YOUNG, ANGLE = 210e3, 135.0


def turn(solve: Solve) -> list[Check]:
    """A rigid turn strains nothing; stress is counted in units of 1e-9 E."""
    study = base_document("turn", "Turn")
    study["parts"] = [block_part("block", (20, 10, 10), 5)]
    study["handles"] = [{"id": "grip", "name": "Grip", "at": ["-10 mm", "0 mm", "5 mm"], "faces": ["block/left"]}]
    study["supports"] = [hold("axle", ["x", "y", "z", "turn-x", "turn-y"], handle="grip")]
    study["loads"] = [load("turn", "rotation", {"turn": f"{ANGLE} deg"}, handle="grip", direction=[0, 0, 1])]
    study["steps"] = [step("turn", 1 / 9, large_motion=True)]
    block = solve(study).fields("block")
    far = np.argmax(block["points"][:, 0])
    x, y, _ = block["points"][far] + block["displacement"][far]
    angle = np.deg2rad(ANGLE)
    arm_x, arm_y = 20.0, float(block["points"][far, 1])
    return [
        Check("largest stress over 1e-9 E", "–", 0.0, float(np.abs(block["stress"]).max()), 1.0, scale=1e-9 * YOUNG),
        Check("x of a far corner", "mm", -10 + arm_x * np.cos(angle) - arm_y * np.sin(angle), float(x), 1e-6),
        Check("y of a far corner", "mm", arm_x * np.sin(angle) + arm_y * np.cos(angle), float(y), 1e-6),
    ]
