"""Case ``bolt-joint``: a solid bolt through a concentric sleeve, loaded past separation."""

from typing import Any

import numpy as np

from ulmek.verify.case import Check, Solve, base_document

DIAMETER, GRIP, BORE, RIM, PRELOAD = 16.0, 200.0, 17.0, 24.0, 20e3
LOADS = {"low": 10e3, "middle": 20e3, "apart": 60e3}


def _document() -> dict[str, Any]:
    study = base_document("bolt-joint", "Bolt joint")
    bolt = {
        "diameter": f"{DIAMETER} mm",
        "grip": f"{GRIP} mm",
        "across_flats": "24 mm",
        "head_height": "10 mm",
        "nut_height": "13 mm",
    }
    sleeve = {"inner_diameter": f"{BORE} mm", "outer_diameter": f"{RIM} mm", "thickness": f"{GRIP} mm"}
    study["parts"] = [
        {"id": "bolt", "name": "Bolt", "material": "steel", "recipe": {"kind": "bolt", "dimensions": bolt},
         "mesh": {"size": "5 mm"}},
        {"id": "sleeve", "name": "Sleeve", "material": "steel", "recipe": {"kind": "washer", "dimensions": sleeve},
         "mesh": {"size": "6 mm"}},
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "head", "name": "Head – sleeve", "a": ["bolt/head.bearing"], "b": ["sleeve/top"],
         "law": {"may_open": True, "may_slide": "friction", "mu": 0.15}},
        {"id": "nut", "name": "Nut – sleeve", "a": ["bolt/nut.bearing"], "b": ["sleeve/bottom"],
         "law": {"may_open": False, "may_slide": "no"}},
    ]  # fmt: skip
    study["bolts"] = [{"id": "bolt", "name": "Bolt", "part": "bolt", "preload": {"tighten": f"{PRELOAD} N"}}]
    study["supports"] = [{"id": "ground", "name": "Ground", "faces": ["bolt/nut.end"]}]
    study["loads"] = [
        {"id": "axial", "name": "Axial load", "kind": "force", "faces": ["bolt/head.end"], "direction": [0, 0, 1],
         "values": {step: f"{value} N" for step, value in LOADS.items()}}
    ]  # fmt: skip
    increments = {"start": 0.5, "largest": 0.5}
    study["steps"] = [{"id": s, "name": s.capitalize(), "increments": increments} for s in ("tighten", *LOADS)]
    return study


def bolt_joint(solve: Solve) -> list[Check]:
    """F = F0 + Φ·FA, Φ = kb/(kb + kc) from bar stiffnesses EA/L; opens at F0/(1 − Φ); then F = FA."""
    solved = solve(_document())
    bolt_area = np.pi * DIAMETER**2 / 4
    sleeve_area = np.pi * (RIM**2 - BORE**2) / 4
    phi = bolt_area / (bolt_area + sleeve_area)
    ends = {s["step"]: s for s in solved.outcome.summaries}
    force = [ends[k]["bolts"]["bolt"]["force"] for k in range(4)]
    clamp = [ends[k]["pairs"]["head"]["normal_force"] for k in range(4)]
    slope = (clamp[2] - clamp[1]) / (LOADS["middle"] - LOADS["low"])
    opens_at = LOADS["middle"] - clamp[2] / slope
    return [
        Check("bolt force after tightening", "N", PRELOAD, force[0], 1e-6),
        Check("bolt force at 10 kN", "N", PRELOAD + phi * LOADS["low"], force[1], 0.03),
        Check("bolt force at 20 kN", "N", PRELOAD + phi * LOADS["middle"], force[2], 0.03),
        Check("load that opens the joint", "N", PRELOAD / (1 - phi), opens_at, 0.03),
        Check("bolt force past separation", "N", LOADS["apart"], force[3], 0.03),
        Check("share open past separation", "–", 1.0, ends[3]["pairs"]["head"]["share_open"], 1e-9),
    ]
