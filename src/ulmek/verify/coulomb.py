"""Case ``coulomb``: a pressed block pushed to and fro slides at µN and turns the work into heat."""

from typing import Any

from ulmek.verify.case import METHODS, Check, Solve, Solved, base_document, block_part

MU, PRESSURE, AREA, TRAVEL = 0.3, 10.0, 2500.0, 1.0


def _document(method: str) -> dict[str, Any]:
    study = base_document("coulomb", "Coulomb", poisson=0.0)
    study["parts"] = [
        block_part("base", (60, 60, 20), 10),
        block_part("slider", (50, 50, 8), 8.4, at=20),
    ]
    study["pairs"] = [
        {"id": "joint", "name": "Slider – base", "a": ["slider/bottom"], "b": ["base/top"],
         "law": {"may_open": True, "may_slide": "friction", "mu": MU}, "search": "0.5 mm",
         "enforcement": {"method": method, "stiffness": 1000}}
    ]  # fmt: skip
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["base/bottom"]}]
    study["loads"] = [
        {"id": "press", "name": "Pressure", "kind": "pressure", "faces": ["slider/top"],
         "values": {"press": f"{PRESSURE} MPa"}},
        {"id": "push", "name": "Push", "kind": "displacement", "faces": ["slider/top"], "direction": [1, 0, 0],
         "values": {"nudge": "0.0002 mm", "push": f"{TRAVEL} mm", "back": f"{-TRAVEL} mm", "again": f"{TRAVEL} mm"}},
        {"id": "guide", "name": "Guide", "kind": "displacement", "faces": ["slider/top"], "direction": [0, 1, 0],
         "values": {"press": "0 mm"}},
    ]  # fmt: skip
    study["steps"] = [{"id": s, "name": s.capitalize()} for s in ("press", "nudge", "push", "back", "again")]
    return study


def coulomb(solve: Solve) -> list[Check]:
    """Friction force µN both ways; sticking below; a full loop of travel 4d dissipates µN·4d less elastic play."""
    return [check for method in METHODS for check in _checks(solve(_document(method)), method)]


def _checks(solved: Solved, method: str) -> list[Check]:
    ends = {s.step: s for s in solved.outcome.summaries}
    limit = MU * PRESSURE * AREA
    nudge, push, back, again = (ends[k].pairs["joint"] for k in (1, 2, 3, 4))
    loop = again.dissipated - push.dissipated
    return [
        Check(f"share sticking below µN, {method}", "–", 1.0, nudge.share_sticking, 0.001),
        Check(f"friction force, pushed, {method}", "N", limit, push.friction_force, 0.001),
        Check(f"friction force, pushed back, {method}", "N", limit, back.friction_force, 0.001),
        Check(f"reaction to the push, {method}", "N", -limit, ends[3].carrier("push").force[0], 0.001),
        Check(f"heat of one loop, {method}", "N·mm", limit * 4 * TRAVEL, loop, 0.01),
    ]
