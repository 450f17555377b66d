"""Cases ``bolt-joint``, ``half-whole`` and ``sleeves``: a bolt, solid or a line, through a sleeve or two, loaded past
separation."""

from typing import Any

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, Solved, base_document, enforced, hold, load, part, symmetry

DIAMETER, GRIP, BORE, RIM, PRELOAD = 16.0, 200.0, 17.0, 24.0, 20e3
NUT_FACTOR = 0.2
# Of the softer of two sleeves (MPa).
SOFT = 70e3
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
    increments = {"start": 1.0, "largest": 1.0}
    study["steps"] = [{"id": s, "name": s.capitalize(), "increments": increments} for s in ("tighten", *LOADS)]
    return study


def _line_document() -> dict[str, Any]:
    """The sleeve between a stiff floor and a cap that the bolt's head clamps; tightened by torque."""
    study = base_document("bolt-joint", "Bolt joint", poisson=0.0)
    ring = {"inner_diameter": BORE, "outer_diameter": RIM}
    study["parts"] = [
        part("sleeve", "washer", {**ring, "thickness": GRIP}, {"size": "6 mm"}),
        part("cap", "washer", {**ring, "thickness": 5}, {"size": "6 mm"}),
    ]
    study["parts"][1]["placements"][0]["at"][2] = f"{GRIP} mm"
    study["pairs"] = [
        {"id": "head", "name": "Cap – sleeve", "a": ["cap/bottom"], "b": ["sleeve/top"], "law": {"mu": 0.15}}
    ]
    study["handles"] = [
        {"id": "seat", "name": "Seat", "at": ["0 mm", "0 mm", f"{GRIP + 5} mm"], "faces": ["cap/top", "cap/bottom"]}
    ]
    stiffness = 210e3 * np.pi * DIAMETER**2 / 4 / GRIP
    line = {"head": "seat", "direction": [0, 0, 1], "stiffness": f"{stiffness} N/mm"}
    torque = {"nut_factor": NUT_FACTOR, "diameter": f"{DIAMETER} mm"}
    study["bolts"] = [
        {"id": "bolt", "name": "Bolt", "line": line, "preload": {"tighten": f"{NUT_FACTOR * DIAMETER * PRELOAD} N*mm"},
         "torque": torque}
    ]  # fmt: skip
    study["supports"] = [
        {"id": "ground", "name": "Ground", "faces": ["sleeve/bottom"]},
        hold("guide", ["x", "y", "turn-x", "turn-y", "turn-z"], handle="seat"),
    ]
    values = {step: f"{value} N" for step, value in LOADS.items()}
    study["loads"] = [load("axial", "force", values, handle="seat", direction=[0, 0, 1])]
    increments = {"start": 1.0, "largest": 1.0}
    study["steps"] = [{"id": s, "name": s.capitalize(), "increments": increments} for s in ("tighten", *LOADS)]
    return study


def bolt_joint(solve: Solve) -> list[Check]:
    """F = F0 + Φ·FA, Φ = kb/(kb + kc) from bar stiffnesses EA/L; opens at F0/(1 − Φ); then F = FA; T = K·d·F0."""
    checks = []
    for method in METHODS:
        checks += _checks(solve(enforced(_document(), method)), f"solid, {method}", 0.03)
        checks += _checks(solve(enforced(_line_document(), method)), f"line, {method}", 0.01)
    return checks


def half_whole(solve: Solve) -> list[Check]:
    """Half and quarter of bolt and sleeve in planes of symmetry, told the preload of the whole, take their share."""
    checks: list[Check] = []
    whole = {s.step: s for s in solve(_document()).outcome.summaries}
    for kept, share, cuts in (("half", 2, ["y"]), ("quarter", 4, ["x", "y"])):
        study = _document()
        for piece in study["parts"]:
            piece["recipe"]["kept"] = kept
        study["supports"] += [symmetry(f"plane-{c}", f"bolt/cut.{c}", f"sleeve/cut.{c}") for c in cuts]
        study["bolts"][0]["means"] = "whole"
        study["loads"][0]["values"] = {step: f"{value / share} N" for step, value in LOADS.items()}
        part_of_it = {s.step: s for s in solve(study).outcome.summaries}
        for k, step in enumerate(("tighten", *LOADS)):
            forces = (whole[k].bolts["bolt"].force, share * part_of_it[k].bolts["bolt"].force)
            checks.append(Check(f"bolt force, {step}, {kept} beside whole", "N", *forces, 0.01))
    return checks


def sleeves(solve: Solve) -> list[Check]:
    """Clamped are two sleeves of unlike material: 1/kc = L1/E1A + L2/E2A; then as ``bolt-joint``."""
    bolt, area = 210e3 * np.pi * DIAMETER**2 / 4 / GRIP, np.pi * (RIM**2 - BORE**2) / 4
    clamped = area / (GRIP / 2 / 210e3 + GRIP / 2 / SOFT)
    phi = bolt / (bolt + clamped)
    checks = []
    for label, study, limit in (("solid", _document(), 0.03), ("line", _line_document(), 0.01)):
        upper = next(p for p in study["parts"] if p["id"] == "sleeve")
        upper["recipe"]["dimensions"]["thickness"] = f"{GRIP / 2} mm"
        lower = {**upper, "id": "lower", "name": "Lower sleeve", "material": "soft"}
        upper["placements"] = [{"at": ["0 mm", "0 mm", f"{GRIP / 2} mm"]}]
        study["parts"].append({**lower, "placements": [{"at": ["0 mm", "0 mm", "0 mm"]}]})
        study["materials"].append({**study["materials"][0], "id": "soft", "name": "Soft", "young": f"{SOFT} MPa"})
        study["pairs"].append(
            {"id": "between", "name": "Between", "a": ["sleeve/bottom"], "b": ["lower/top"], "law": {"mu": 0.15}}
        )
        swapped = {"sleeve/bottom": "lower/bottom"}
        for item in (*study["pairs"][:-1], *study["supports"]):
            for side in ("a", "b", "faces"):
                if side in item:
                    item[side] = [swapped.get(f, f) for f in item[side]]
        summaries = solve(study).outcome.summaries
        ends = {s.step: s.bolts["bolt"].force for s in summaries}
        for k, name in ((1, "low"), (2, "middle")):
            expected = PRELOAD + phi * LOADS[name]
            checks.append(Check(f"bolt force, {name}, {label}", "N", expected, ends[k], limit))
    return checks


def _checks(solved: Solved, label: str, limit: float) -> list[Check]:
    bolt_area = np.pi * DIAMETER**2 / 4
    sleeve_area = np.pi * (RIM**2 - BORE**2) / 4
    phi = bolt_area / (bolt_area + sleeve_area)
    ends = {s.step: s for s in solved.outcome.summaries}
    force = [ends[k].bolts["bolt"].force for k in range(4)]
    clamp = [ends[k].pairs["head"].normal_force for k in range(4)]
    slope = (clamp[2] - clamp[1]) / (LOADS["middle"] - LOADS["low"])
    opens_at = LOADS["middle"] - clamp[2] / slope
    return [
        Check(f"bolt force after tightening, {label}", "N", PRELOAD, force[0], 1e-6),
        Check(f"bolt force at 10 kN, {label}", "N", PRELOAD + phi * LOADS["low"], force[1], limit),
        Check(f"bolt force at 20 kN, {label}", "N", PRELOAD + phi * LOADS["middle"], force[2], limit),
        Check(f"load that opens the joint, {label}", "N", PRELOAD / (1 - phi), opens_at, limit),
        Check(f"bolt force past separation, {label}", "N", LOADS["apart"], force[3], limit),
        Check(f"share open past separation, {label}", "–", 1.0, ends[3].pairs["head"].share_open, 1e-9),
    ]
