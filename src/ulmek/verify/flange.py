"""Case ``flange``: a rigid flange on a ring that takes no tension, eight line bolts, and a moment that lifts it."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import fsolve

from ulmek.verify.case import Check, Solve, base_document, hold, load, part, step

INNER, OUTER, THICK, YOUNG = 60.0, 100.0, 1.0, 400.0
CIRCLE, COUNT, PRELOAD, STIFFNESS = 80.0, 8, 3e3, 200e3
MOMENTS = {"half": 4e6, "all": 10e6}


def flange(solve: Solve) -> list[Check]:
    """Columns of the ring press with k = E/t for each area where they are shut; bolts pull with F0 + kb·(w − w0) where
    that is above zero; ΣF = ∫p dA and M = ΣF x − ∫p x dA (as a base plate with anchors: Blodgett 1966, section 3.3)."""
    solved = solve(_document())
    checks = []
    for number, (name, moment) in enumerate(MOMENTS.items()):
        at = solved.end_of(number + 1)
        end = solved.outcome.summaries[at]
        lift, turn = _by_hand(moment)
        forces = _bolts(lift, turn)
        found = np.array([end.bolts[f"bolt-{k}"].force for k in range(COUNT)])
        fields = solved.fields("flange", at)
        x, w = fields["points"][:, 0], fields["displacement"][:, 2]
        angle = np.polyfit(x, w, 1)[0]
        checks += [
            Check(f"turn, {name} of the moment", "mrad", 1e3 * turn, 1e3 * float(angle), 0.01),
            Check(f"highest bolt force, {name} of the moment", "N", forces.max(), float(found.max()), 0.01),
            Check(f"bolts that are slack, {name} of the moment", "–", float((forces == 0).sum()),
                  float((found == 0).sum()), 1e-9, scale=1.0),
        ]  # fmt: skip
    return checks


def _document() -> dict[str, Any]:
    study = base_document("flange", "Flange")
    study["materials"].append(
        {"id": "soft", "name": "Soft", "young": f"{YOUNG} MPa", "poisson": 0.0, "yield_stress": "100 MPa"}
    )
    ring = {"inner_diameter": 2 * INNER, "outer_diameter": 2 * OUTER}
    plate = part("flange", "washer", {**ring, "thickness": 10}, {"size": "10 mm", "per_turn": 48})
    plate["placements"] = [{"at": ["0 mm", "0 mm", f"{THICK} mm"]}]
    mesh = {"size": "4 mm", "per_turn": 96, "layers": 1}
    study["parts"] = [part("ring", "washer", {**ring, "thickness": THICK}, mesh, material="soft"), plate]
    study["pairs"] = [
        {"id": "seat", "name": "Seat", "a": ["ring/top"], "b": ["flange/bottom"], "law": {"may_slide": "freely"}}
    ]
    study["handles"] = [{"id": "flange", "name": "Flange", "at": ["0 mm", "0 mm", f"{THICK} mm"], "part": "flange"}]
    study["links"] = []
    for k, (x, y) in enumerate(_places()):
        study["handles"].append({"id": f"head-{k}", "name": f"Head {k}", "at": [f"{x} mm", f"{y} mm", f"{THICK} mm"]})
        study["links"].append({"id": f"head-{k}", "name": f"Head {k}", "a": "flange", "b": f"head-{k}"})
        line = {"head": f"head-{k}", "direction": [0, 0, 1], "stiffness": f"{STIFFNESS} N/mm"}
        study["bolts"].append(
            {"id": f"bolt-{k}", "name": f"Bolt {k}", "line": line, "preload": {"tighten": f"{PRELOAD} N"}}
        )
    study["supports"] = [
        hold("ground", ["x", "y", "z"], "ring/bottom"), hold("guide", ["x", "y", "turn-z"], handle="flange"),
    ]  # fmt: skip
    # About −y: the side at x > 0 is lifted.
    values = {name: f"{moment} N*mm" for name, moment in MOMENTS.items()}
    study["loads"] = [load("bend", "moment", values, handle="flange", direction=[0, -1, 0])]
    study["steps"] = [step("tighten"), *(step(name, 0.25) for name in MOMENTS)]
    return study


def _places() -> NDArray[np.float64]:
    angle = 2 * np.pi * (np.arange(COUNT) + 0.5) / COUNT
    return CIRCLE * np.column_stack([np.cos(angle), np.sin(angle)])


def _bolts(lift: float, turn: float) -> NDArray[np.float64]:
    area = np.pi * (OUTER**2 - INNER**2)
    seated = -COUNT * PRELOAD / (YOUNG / THICK * area)
    return np.asarray(np.maximum(PRELOAD + STIFFNESS * (lift + turn * _places()[:, 0] - seated), 0.0))


def _by_hand(moment: float) -> tuple[float, float]:
    """Lift of the middle (mm) and turn (rad), the ring's columns summed up in polar coordinates."""
    r = INNER + (np.arange(400) + 0.5) * (OUTER - INNER) / 400
    angle = 2 * np.pi * (np.arange(720) + 0.5) / 720
    x = np.outer(r, np.cos(angle))
    cell = np.broadcast_to((r * (OUTER - INNER) / 400 * 2 * np.pi / 720)[:, None], x.shape)

    def left(unknowns: NDArray[np.float64]) -> list[float]:
        lift, turn = unknowns / 1000
        forces = _bolts(lift, turn)
        pressed = YOUNG / THICK * np.maximum(-(lift + turn * x), 0.0) * cell
        return [
            float(forces.sum() - pressed.sum()) / 1e3,
            float(moment - forces @ _places()[:, 0] + (pressed * x).sum()) / 1e5,
        ]

    lift, turn = fsolve(left, np.array([10.0, 1.0]), xtol=1e-12) / 1000
    return float(lift), float(turn)
