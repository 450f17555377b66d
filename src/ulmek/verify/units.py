"""Case ``units``: the same study written in millimetres and in inches."""

import re
from typing import Any

from ulmek.verify.case import Check, Solve
from ulmek.verify.press_fit import MU, fit_document

INCH = 25.4


def units(solve: Solve) -> list[Check]:
    """Nothing depends on the unit in which a study is written: the mesh is the same, and what comes back."""
    plain = fit_document("drawing", {"mu": MU})
    for piece in plain["parts"]:
        piece["mesh"] = {"size": "2.5 mm", "layers": 2}
    one, other = solve(plain), solve(_in_inches(plain))
    found = []
    for solved in (one, other):
        last = solved.last
        found.append({
            "nodes": ("–", float(sum(len(solved.fields(p.id)["points"]) for p in solved.study.parts))),
            "force across the fit": ("N", last.pairs["fit"].normal_force),
            "sliding": ("mm", last.pairs["fit"].max_sliding),
            "friction": ("N", last.pairs["fit"].friction_force),
            "stress": ("MPa", last.largest.von_mises),
            "motion": ("mm", last.largest.displacement),
        })  # fmt: skip
    return [Check(f"{n}, in inches beside mm", u, v, found[1][n][1], 1e-9) for n, (u, v) in found[0].items()]


def _in_inches(value: Any) -> Any:
    """A document with all its lengths in inches."""
    if isinstance(value, dict):
        return {k: _in_inches(v) for k, v in value.items()}
    if isinstance(value, list):
        return [_in_inches(v) for v in value]
    if isinstance(value, str) and (length := re.fullmatch(r"(-?[\d.e-]+) mm", value)):
        return f"{float(length[1]) / INCH!r} in"
    return value
