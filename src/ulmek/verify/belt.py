"""Case ``belt``: a thin strip over a fixed drum, pulled until it slips all over."""

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, base_document, hold, load, part, step

INNER, THICK, MU, SLACK = 50.0, 0.2, 0.3, 20.0


def belt(solve: Solve) -> list[Check]:
    """T1/T2 = e^{µθ} (Euler 1769, Eytelwein 1808), for a quarter turn."""
    return [_check(solve, method) for method in METHODS]


def _check(solve: Solve, method: str) -> Check:
    study = base_document("belt", "Belt")
    study["space"] = "plane-stress"
    study["materials"].append({"id": "band", "name": "Band", "young": "5 GPa", "poisson": 0.0})
    outer = INNER + THICK
    ring = {"thickness": 1, "sector": 90}
    study["parts"] = [
        part("band", "washer", {"inner_diameter": 2 * INNER, "outer_diameter": 2 * outer, **ring},
             {"size": "0.7 mm", "per_turn": 96}, material="band"),
        part("drum", "washer", {"inner_diameter": 2 * INNER - 20, "outer_diameter": 2 * INNER, **ring},
             {"size": "2.5 mm", "per_turn": 96, "faces": {"rim": "0.7 mm"}}),
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "joint", "name": "Band – drum", "a": ["band/bore"], "b": ["drum/rim"],
         "law": {"may_slide": "friction", "mu": MU}, "fit": "closed-up", "search": "0.5 mm",
         "enforcement": {"method": method}}
    ]  # fmt: skip
    study["supports"] = [hold("hub", ["x", "y"], "drum/bore")]
    # The band leaves the drum downwards at its start (x axis) and to the left at its end (y axis).
    study["loads"] = [
        load("slack", "force", {"tighten": f"{SLACK} N"}, "band/end", direction=[-1, 0, 0]),
        load("pull", "displacement", {"tighten": "0 mm", "pull": "-3 mm"}, "band/start", direction=[0, 1, 0]),
    ]
    study["steps"] = [step("tighten", 0.25), step("pull", 0.1)]
    solved = solve(study)
    tight = -solved.last.carrier("pull").force[1]
    return Check(f"tight over slack side, {method}", "–", float(np.exp(MU * np.pi / 2)), tight / SLACK, 0.02)
