"""Case ``folding``: a rubber pad on a platen, squeezed until its sides fold onto the platen."""

from typing import Any

from ulmek.verify.case import Check, Solve, base_document, hold, load, part, step

SIDE, SQUEEZE = 20.0, 8.0
RUBBED = {"may_slide": "friction", "mu": 0.5}


def folding(solve: Solve) -> list[Check]:
    """The pairs that are offered for faces that met in a run carry what pairs of all faces by hand do; without them a
    side passes through the platen."""
    alone = solve(_document({}))
    met = {f"{m.a.body}/{m.a.name}": m.size for m in alone.last.met or () if m.b is not None}
    offered = solve(_document({face: f"{size} mm" for face, size in met.items()}))
    by_hand = solve(_document({f"pad/{side}": f"{SIDE / 2} mm" for side in ("left", "right")}))

    def force(solved: Any) -> float:
        return float(-solved.last.carrier("down").force[1])

    return [
        Check("force with the pairs that are offered", "N", force(by_hand), force(offered), 0.02),
        Check("force without them, which is told", "N", force(by_hand), force(alone), None),
        Check("sides that are found to meet the platen", "–", 2.0, float(len(met)), 0.0),
    ]


def _document(sides: dict[str, str]) -> dict[str, Any]:
    """The pad with pairs of those sides with the platen, each within a distance."""
    study = base_document("folding", "Folding")
    study["space"] = "plane-strain"
    rubber = {"c10": "0.5 MPa", "bulk": "100 MPa"}
    study["materials"].append({"id": "rubber", "name": "Rubber", "rubber": rubber})
    study["parts"] = [
        part("pad", "block", {"length": SIDE, "depth": SIDE, "height": 1}, {"size": "1.5 mm"}, at=(0, SIDE / 2),
             material="rubber"),
        part("platen", "block", {"length": 3 * SIDE, "depth": 10, "height": 1}, {"size": "4 mm"}, at=(0, -5)),
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "seat", "name": "Seat", "a": ["pad/near"], "b": ["platen/far"],
         "law": {"may_open": False, "may_slide": "no"}},
        *({"id": f"side-{i}", "name": f"Side {i}", "a": [face], "b": ["platen/far"], "law": RUBBED, "search": search}
          for i, (face, search) in enumerate(sides.items())),
    ]  # fmt: skip
    study["supports"] = [hold("floor", ["x", "y"], "platen/near"), hold("guide", ["x"], "pad/far")]
    study["loads"] = [load("down", "displacement", {"squeeze": f"{SQUEEZE} mm"}, "pad/far", direction=[0, -1, 0])]
    study["steps"] = [step("squeeze", 0.05, large_motion=True)]
    return study
