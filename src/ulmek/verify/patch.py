"""Case ``patch``: uniform pressure passes a non-matching interface unchanged."""

import itertools
from typing import Any

import numpy as np

from ulmek.verify.case import PLANE_ELEMENTS, Check, Solve, base_document, block_part, hold, load, part, step

PRESSURE = 50.0
LIMITS = {"exact": 1e-3, "augmented": 1e-3, "penalty": 1e-2}


def _document(method: str, *, other: str = "", kind: str = "") -> dict[str, Any]:
    """``other``: the block that is of elements of another ``kind``."""
    study = base_document("patch", "Patch")
    study["parts"] = [
        block_part("lower", (50, 50, 30), 12.5),
        block_part("upper", (50, 50, 30), 8.4, at=30),
    ]
    for block in study["parts"]:
        if block["id"] == other:
            block["mesh"] |= {"elements": kind, "size": "17 mm"}
    study["pairs"] = [
        {
            "id": "joint", "name": "Upper – lower", "a": ["upper/bottom"], "b": ["lower/top"],
            "law": {"may_open": True, "may_slide": "friction", "mu": 0.3}, "enforcement": {"method": method},
        }
    ]  # fmt: skip
    sides = [("left", "x"), ("near", "y")]
    study["supports"] = [
        {"id": "floor", "name": "Floor", "kind": "symmetry", "faces": ["lower/bottom"]},
        *(
            {"id": side, "name": side, "kind": "components", "components": [axis],
             "faces": [f"lower/{side}", f"upper/{side}"]}
            for side, axis in sides
        ),
    ]  # fmt: skip
    study["loads"] = [
        {
            "id": "press",
            "name": "Pressure",
            "kind": "pressure",
            "faces": ["upper/top"],
            "values": {"press": f"{PRESSURE} MPa"},
        }
    ]
    study["steps"] = [{"id": "press", "name": "Press"}]
    return study


def patch(solve: Solve) -> list[Check]:
    """The pressure must be 50 MPa at every contact node, for each enforcement."""
    checks = []
    for method, limit in LIMITS.items():
        solved = solve(_document(method))
        with solved.reader() as result:
            pressure = result.pair_field("joint", "pressure", result.count() - 1)
        farthest = pressure[np.argmax(np.abs(pressure - PRESSURE))]
        checks.append(Check(f"pressure farthest from uniform, {method}", "MPa", PRESSURE, float(farthest), limit))
        force = solved.last.pairs["joint"].normal_force
        checks.append(Check(f"force through the pair, {method}", "N", PRESSURE * 2500, force, 1e-6))
    for side, kind in itertools.product(("lower", "upper"), ("tets", "wedges")):
        solved = solve(_document("exact", other=side, kind=kind))
        pressure = solved.pair("joint")["pressure"]
        farthest = pressure[np.argmax(np.abs(pressure - PRESSURE))]
        label = f"pressure farthest from uniform, {kind} as {'side B' if side == 'lower' else 'side A'} on bricks"
        checks.append(Check(label, "MPa", PRESSURE, float(farthest), LIMITS["exact"]))
        stress = np.concatenate([solved.fields(part)["stress"][:, 2] for part in ("lower", "upper")])
        worst = stress[np.argmax(np.abs(stress + PRESSURE))]
        checks.append(
            Check(f"stress farthest from uniform, {kind} {side}", "MPa", -PRESSURE, float(worst), LIMITS["exact"])
        )
    for upper, lower in (("second-order", "bricks"), ("tets", "second-order"), ("bricks", "tets")):
        solved = solve(_section(upper, lower))
        pressure = solved.pair("joint")["pressure"]
        label = " on ".join(PLANE_ELEMENTS[kind] for kind in (upper, lower))
        farthest = pressure[np.argmax(np.abs(pressure - PRESSURE))]
        checks.append(Check(f"pressure farthest from uniform, {label}", "MPa", PRESSURE, float(farthest), 1e-3))
        stress = np.concatenate([solved.fields(name)["stress"][:, 1] for name in ("lower", "upper")])
        worst = stress[np.argmax(np.abs(stress + PRESSURE))]
        checks.append(Check(f"stress farthest from uniform, {label}", "MPa", -PRESSURE, float(worst), 1e-3))
    return checks


def _section(upper: str, lower: str) -> dict[str, Any]:
    """The same in plane strain, of unlike elements."""
    study = base_document("patch", "Patch")
    study["space"] = "plane-strain"
    study["parts"] = [
        part("lower", "block", {"length": 50, "depth": 30, "height": 1}, {"size": "9 mm", "elements": lower}),
        part(
            "upper", "block", {"length": 50, "depth": 30, "height": 1}, {"size": "7 mm", "elements": upper}, at=(0, 30)
        ),
    ]
    study["pairs"] = [
        {"id": "joint", "name": "Upper – lower", "a": ["upper/near"], "b": ["lower/far"], "law": {"mu": 0.3}}
    ]
    study["supports"] = [hold("floor", ["y"], "lower/near"), hold("side", ["x"], "lower/left", "upper/left")]
    study["loads"] = [load("press", "pressure", {"press": f"{PRESSURE} MPa"}, "upper/far")]
    study["steps"] = [step("press")]
    return study
