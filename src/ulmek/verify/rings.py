"""Case ``rings``: a ring pressed into a second, and both into a third."""

from typing import Any

import numpy as np

from ulmek.verify.case import PLANE_ELEMENTS, Check, Solve, base_document, part, step, symmetry

RADII = (20.0, 30.0, 40.0, 55.0)
# Of the radii (mm), at the inner and the outer joint.
OVERLAPS = (0.02, 0.03)
YOUNG, POISSON = 210e3, 0.3


def _document(kind: str) -> dict[str, Any]:
    study = base_document("rings", "Three rings")
    study["space"] = "plane-stress"
    names = ("inner", "middle", "outer")
    for k, name in enumerate(names):
        ring = {"inner_diameter": 2 * RADII[k], "outer_diameter": 2 * RADII[k + 1], "thickness": 1, "sector": 90}
        study["parts"].append(part(name, "washer", ring, {"size": "1 mm", "elements": kind}))
    study["pairs"] = [
        {"id": f"joint-{k + 1}", "name": f"Joint {k + 1}", "a": [f"{names[k]}/rim"], "b": [f"{names[k + 1]}/bore"],
         "law": {"may_slide": "freely"}, "fit": "value", "interference": f"{OVERLAPS[k]} mm", "search": "0.5 mm"}
        for k in (0, 1)
    ]  # fmt: skip
    study["supports"] = [
        symmetry("x-plane", *(f"{n}/end" for n in names)), symmetry("y-plane", *(f"{n}/start" for n in names))
    ]  # fmt: skip
    study["steps"] = [step("press", 0.5)]
    return study


def rings(solve: Solve) -> list[Check]:
    """Lamé (1852) for each ring; the two pressures from the two interferences together."""
    expected = _pressures()
    checks = []
    for kind, label in PLANE_ELEMENTS.items():
        pairs = solve(_document(kind)).last.pairs
        for k, pressure in enumerate(expected):
            found = pairs[f"joint-{k + 1}"].normal_force / (np.pi / 2 * RADII[k + 1])
            checks.append(Check(f"pressure at joint {k + 1}, {label}", "MPa", pressure, found, 0.005))
    return checks


def _pressures() -> list[float]:
    def widening(a: float, b: float, inside: float, outside: float, r: float) -> float:
        """Radial motion at r of a ring a…b under pressures inside and outside, in plane stress."""
        square = b**2 - a**2
        even = (1 - POISSON) * (inside * a**2 - outside * b**2) / square * r
        return (even + (1 + POISSON) * (inside - outside) * a**2 * b**2 / (square * r)) / YOUNG

    a, b, c, d = RADII
    columns = []
    for p, q in ((1.0, 0.0), (0.0, 1.0)):
        at_b = widening(b, c, p, q, b) - widening(a, b, 0.0, p, b)
        at_c = widening(c, d, q, 0.0, c) - widening(b, c, p, q, c)
        columns.append([at_b, at_c])
    inner, outer = np.linalg.solve(np.array(columns).T, OVERLAPS)
    return [float(inner), float(outer)]
