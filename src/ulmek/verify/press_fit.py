"""Case ``press-fit``: a ring on a hollow shaft, interference by drawing and by value, then pushed out."""

from typing import Any

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, Solved, base_document, enforced, step

INNER, JOINT, OUTER, LENGTH = 20.0, 30.0, 50.0, 6.0
OVERLAP, MU, YOUNG, POISSON = 0.03, 0.12, 210e3, 0.3


def fit_document(by: str, law: dict[str, Any]) -> dict[str, Any]:
    """The study: quarter rings with the same turn division, so that their facets face each other."""
    study = base_document("press-fit", "Press fit")
    drawn = OVERLAP if by == "drawing" else 0.0

    def ring(part: str, inner: float, outer: float) -> dict[str, Any]:
        dimensions: dict[str, Any] = {
            "inner_diameter": f"{2 * inner} mm", "outer_diameter": f"{2 * outer} mm", "thickness": f"{LENGTH} mm",
            "sector": 90,
        }  # fmt: skip
        # 78 elements along the joint on both sides; fine across it, where the radial strain has its gradient.
        mesh = {"size": "1 mm", "layers": 2, "faces": {"rim" if part == "shaft" else "bore": "0.6 mm"}}
        recipe = {"kind": "washer", "dimensions": dimensions}
        return {"id": part, "name": part.capitalize(), "material": "steel", "recipe": recipe, "mesh": mesh}

    study["parts"] = [ring("shaft", INNER, JOINT + drawn), ring("hub", JOINT, OUTER)]
    fit = {"fit": "value", "interference": f"{OVERLAP} mm"} if by == "value" else {}
    study["pairs"] = [
        {"id": "fit", "name": "Shaft – hub", "a": ["shaft/rim"], "b": ["hub/bore"], "law": law,
         "search": "0.5 mm", **fit}
    ]  # fmt: skip
    study["supports"] = [
        {"id": "x-plane", "name": "Plane x", "kind": "symmetry", "faces": ["shaft/end", "hub/end"]},
        {"id": "y-plane", "name": "Plane y", "kind": "symmetry", "faces": ["shaft/start", "hub/start"]},
        {"id": "seat", "name": "Seat", "kind": "components", "components": ["z"], "faces": ["hub/top"]},
    ]
    study["loads"] = [
        {"id": "push", "name": "Push", "kind": "displacement", "faces": ["shaft/bottom"], "direction": [0, 0, 1],
         "values": {"push": "0.05 mm"}}
    ]  # fmt: skip
    study["steps"] = [step("assemble", 0.5), step("push", 0.5)]
    return study


def press_fit(solve: Solve) -> list[Check]:
    """Lamé (1852), rings in plane stress: p from the radial interference, hoop stress at the bore; F = µp·2πbL."""
    a, b, c = INNER, JOINT, OUTER
    hub = (c**2 + b**2) / (c**2 - b**2)
    shaft = (b**2 + a**2) / (b**2 - a**2)
    pressure = OVERLAP * YOUNG / (b * ((shaft - POISSON) + (hub + POISSON)))
    quarter = np.pi / 2 * b * LENGTH
    checks = []
    for by, method in (("drawing", "exact"), *(("value", m) for m in METHODS)):
        label = f"by {by}, {method}"
        # Friction would hold the rings against their axial strain, which Lamé's plane stress leaves free.
        alone = fit_document(by, {"may_slide": "freely"})
        held = [{**push, "values": {}} for push in alone["loads"]]
        smooth = solve(enforced({**alone, "loads": held, "steps": alone["steps"][:1]}, method))
        found = smooth.last.pairs["fit"].normal_force / quarter
        checks.append(Check(f"mean pressure, {label}", "MPa", pressure, found, 0.01))
        hoop = _hoop_at_bore(smooth)
        checks.append(Check(f"hoop stress at the bore, {label}", "MPa", pressure * hub, hoop, 0.01))
        solved = solve(enforced(fit_document(by, {"mu": MU}), method))
        rub = solved.last.pairs["fit"].friction_force
        checks.append(Check(f"force that pushes out, {label}", "N", MU * pressure * quarter, rub, 0.02))
    return checks


def _hoop_at_bore(solved: Solved) -> float:
    """Mean hoop stress over the nodes of the hub's bore (MPa)."""
    with solved.reader() as result:
        names, offsets = result.bodies()
        hub = names.index("hub")
        at = np.unique(result.faces(hub)["bore"]) + offsets[hub]
        x, y, _ = result.points()[at].T
        stress = result.point_field("stress", result.count() - 1)[at]
    c, s = x / np.hypot(x, y), y / np.hypot(x, y)
    return float(np.mean(s**2 * stress[:, 0] + c**2 * stress[:, 1] - 2 * s * c * stress[:, 3]))
