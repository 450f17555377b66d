"""Case ``uniaxial``: a bar along a stress–strain table, unloaded, reversed."""

from typing import Any

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, block_part, load, step

YOUNG, TABLE = 200e3, ((0.0, 200.0), (0.01, 300.0), (0.05, 400.0), (0.25, 900.0))
LENGTH, AREA = 40.0, 100.0


def _document(kinematic: float) -> dict[str, Any]:
    study = base_document("uniaxial", "Uniaxial")
    rows = [{"strain": e, "stress": f"{s} MPa"} for e, s in TABLE]
    study["materials"][0] |= {"young": f"{YOUNG} MPa", "hardening": {"table": rows, "kinematic_share": kinematic}}
    del study["materials"][0]["yield_stress"]
    study["parts"] = [block_part("bar", (LENGTH, 10, 10), 5)]
    study["supports"] = [
        {"id": side, "name": side, "kind": "components", "components": [axis], "faces": [f"bar/{side}"]}
        for side, axis in (("left", "x"), ("near", "y"), ("bottom", "z"))
    ]
    study["loads"] = [
        load(
            "pull", "force", {"pull": "35000 N", "relieve": "off", "push": "-36000 N"}, "bar/right", direction=[1, 0, 0]
        )
    ]
    study["steps"] = [step("pull", 0.1), step("relieve"), step("push", 0.1)]
    return study


def uniaxial(solve: Solve) -> list[Check]:
    """Strain σ/E + plastic strain of the table at 350 MPa; slope E back to zero; then −360 MPa, both hardenings."""
    plastic = np.interp(350.0, [s for _, s in TABLE], [e for e, _ in TABLE])
    checks = []
    for kinematic in (0.0, 1.0):
        solved = solve(_document(kinematic))
        ends = [_stretch(solved.fields("bar", solved.end_of(k))) for k in range(3)]
        label = "kinematic" if kinematic else "isotropic"
        if kinematic:
            # The surface, 200 either way, has moved by 150 and must move to −160: 310 along the last slopes.
            back = plastic - 310 * 0.04 / 100
        else:
            # Yields again at −350 and hardens on.
            back = plastic - (np.interp(360.0, [s for _, s in TABLE], [e for e, _ in TABLE]) - plastic)
        checks += [
            Check(f"strain at 350 MPa, {label}", "–", 350 / YOUNG + plastic, ends[0], 0.001),
            Check(f"strain left after unloading, {label}", "–", float(plastic), ends[1], 0.001),
            Check(f"strain at −360 MPa, {label}", "–", float(-360 / YOUNG + back), ends[2], 0.001, scale=0.01),
        ]
    return checks


def _stretch(fields: dict[str, np.ndarray]) -> float:
    x = fields["points"][:, 0]
    return float(fields["displacement"][x > x.max() - 1e-6, 0].mean()) / LENGTH
