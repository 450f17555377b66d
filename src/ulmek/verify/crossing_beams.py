"""Case ``crossing-beams``: a cantilever lowered on the middle of a beam that is clamped at both ends."""

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, Solved, base_document, enforced, load, part, step

LONG, SPAN, DEEP, LOWERED, YOUNG = 200.0, 240.0, 6.0, 1.0, 210e3


def crossing_beams(solve: Solve) -> list[Check]:
    """Force d/(L³/3EI + S³/192EI), with shear flexibility 6/5 · L/GA and 6/5 · S/4GA (Timoshenko 1921), ν = 0."""
    study = base_document("crossing-beams", "Crossing beams", poisson=0.0)
    mesh = {"size": "6 mm", "layers": 2}
    study["parts"] = [
        part("cantilever", "block", {"length": LONG, "depth": DEEP, "height": DEEP}, mesh, at=(-LONG / 2 + 1.5, 0)),
        part("beam", "block", {"length": DEEP, "depth": SPAN, "height": DEEP}, mesh),
    ]
    study["parts"][0]["placements"][0]["at"][2] = f"{DEEP} mm"
    study["pairs"] = [
        {"id": "joint", "name": "Cantilever – beam", "a": ["cantilever/bottom"], "b": ["beam/top"],
         "law": {"may_slide": "freely"}, "search": "0.5 mm"}
    ]  # fmt: skip
    study["supports"] = [
        {"id": "ends", "name": "Ends", "faces": ["beam/near", "beam/far"]},
        {"id": "root-x", "name": "Root", "kind": "components", "components": ["x", "y"], "faces": ["cantilever/left"]},
    ]
    study["loads"] = [
        load("lower", "displacement", {"lower": f"{LOWERED} mm"}, "cantilever/left", direction=[0, 0, -1])
    ]
    study["steps"] = [step("lower", 0.5)]
    return [_check(solve(enforced(study, method)), method) for method in METHODS]


def _check(solved: Solved, method: str) -> Check:
    joint = solved.pair("joint")
    force = solved.last["pairs"]["joint"]["normal_force"]
    weight = joint["pressure"]
    arm = LONG - 1.5 + float(np.sum(weight * joint["points"][:, 0]) / weight.sum())
    inertia, area, shear = DEEP**4 / 12, DEEP**2, YOUNG / 2
    give = arm**3 / (3 * YOUNG * inertia) + 1.2 * arm / (shear * area)
    give += SPAN**3 / (192 * YOUNG * inertia) + 1.2 * SPAN / (4 * shear * area)
    return Check(f"force between the beams, {method}", "N", LOWERED / give, force, 0.01)
