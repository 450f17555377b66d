"""Case ``crossing-beams``: a cantilever lowered on the middle of a beam that is clamped at both ends."""

from typing import Any

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, Solved, base_document, enforced, hold, load, part, step

LONG, SPAN, DEEP, LOWERED, YOUNG = 200.0, 240.0, 6.0, 1.0, 210e3


def crossing_beams(solve: Solve) -> list[Check]:
    """Force d/(L³/3EI + S³/192EI), with shear flexibility 6/5 · L/GA and 6/5 · S/4GA (Timoshenko 1921), ν = 0."""
    checks = [_check(solve(enforced(_bricks(), method)), method) for method in METHODS]
    return [*checks, *(_check(solve(enforced(_beams(), method)), f"beam elements, {method}") for method in METHODS)]


def _bricks() -> dict[str, Any]:
    study = base_document("crossing-beams", "Crossing beams", poisson=0.0)
    mesh = {"size": "6 mm", "layers": 2}
    study["parts"] = [
        part("cantilever", "block", {"length": LONG, "depth": DEEP, "height": DEEP}, mesh, at=(-LONG / 2 + 1.5, 0)),
        part("beam", "block", {"length": DEEP, "depth": SPAN, "height": DEEP}, mesh),
    ]
    study["parts"][0]["placements"][0]["at"][2] = f"{DEEP} mm"
    return _crossed(study, "cantilever/bottom", "beam/top", ["beam/near", "beam/far"], "cantilever/left")


def _beams() -> dict[str, Any]:
    """The same of beam elements, which lie along x and y and touch at the faces of their square sections."""
    study = base_document("crossing-beams", "Crossing beams", poisson=0.0)
    mesh = {"size": "6 mm", "elements": "beam"}
    square = {"length": DEEP, "depth": DEEP}
    study["parts"] = [
        part("cantilever", "block", {**square, "height": LONG}, mesh, turn="y 90", at=(-LONG + 1.5, 0)),
        part("beam", "block", {**square, "height": SPAN}, mesh, turn="x -90", at=(0, -SPAN / 2)),
    ]
    for item, height in zip(study["parts"], (1.5 * DEEP, 0.5 * DEEP), strict=True):
        item["placements"][0]["at"][2] = f"{height} mm"
    return _crossed(study, "cantilever/right", "beam/near", ["beam/bottom", "beam/top"], "cantilever/bottom")


def _crossed(study: dict[str, Any], a: str, b: str, ends: list[str], root: str) -> dict[str, Any]:
    study["pairs"] = [
        {"id": "joint", "name": "Cantilever – beam", "a": [a], "b": [b],
         "law": {"may_slide": "freely"}, "search": "0.5 mm"}
    ]  # fmt: skip
    study["supports"] = [{"id": "ends", "name": "Ends", "faces": ends}, hold("root", ["x", "y"], root)]
    study["loads"] = [load("lower", "displacement", {"lower": f"{LOWERED} mm"}, root, direction=[0, 0, -1])]
    study["steps"] = [step("lower", 0.5)]
    return study


def _check(solved: Solved, method: str) -> Check:
    pair = solved.last.pairs["joint"]
    force, acting = pair.normal_force, np.array(pair.force)
    # Where the line of the force passes beside the middle of the pair.
    middle = np.array(pair.about) + np.cross(acting, np.array(pair.moment)) / (acting @ acting)
    arm = LONG - 1.5 + float(middle[0])
    inertia, area, shear = DEEP**4 / 12, DEEP**2, YOUNG / 2
    give = arm**3 / (3 * YOUNG * inertia) + 1.2 * arm / (shear * area)
    give += SPAN**3 / (192 * YOUNG * inertia) + 1.2 * SPAN / (4 * shear * area)
    return Check(f"force between the beams, {method}", "N", LOWERED / give, force, 0.01)
