"""Demo ``lifting-eye``: the strap, pin and lug on which the sluice gate hangs, with play in the holes."""

from ulmek.demo.hoist import HARD_STEEL, MACHINE, STEEL, part, steps
from ulmek.study.items import StudyDocument, read_study

HOLE, PLAY, STRAP = 20.0, 0.2, 100.0


def lifting_eye() -> StudyDocument:
    """Half of the eye, cut across the pin: parts stand as they touch, then the gate pulls."""
    mesh = {"size": "5 mm", "per_turn": 32}
    side = PLAY / 2
    return read_study(
        {
            "format": "ulmek-study", "version": 2, "name": "lifting-eye", "title": "Lifting eye", "machine": MACHINE,
            "notes": "How does the pin bear in the strap and the lug, and do the holes yield under the gate?",
            "materials": [STEEL, HARD_STEEL],
            "parts": [
                part("lug", "Lug", "steel", "lug", {"hole_diameter": f"{HOLE} mm", "thickness": "10 mm"}, mesh),
                part("pin", "Pin", "hard-steel", "pin",
                     {"shank_diameter": f"{HOLE - PLAY} mm", "length": "26 mm", "head_length": "0 mm"},
                     {"size": "4 mm", "per_turn": 32}, (f"{side} mm", "0 mm", "0 mm")),
                part("strap", "Strap", "steel", "strap",
                     {"hole_diameter": f"{HOLE} mm", "hole_distance": f"{STRAP} mm"}, mesh,
                     (f"{STRAP / 2 + 2 * side} mm", "0 mm", "10.5 mm")),
            ],
            "pairs": [
                {"id": "in-lug", "name": "Pin – lug", "a": ["lug/hole"], "b": ["pin/shank"], "law": {"mu": 0.12}},
                {"id": "in-strap", "name": "Pin – strap", "a": ["strap/hole.2"], "b": ["pin/shank"],
                 "law": {"mu": 0.12}},
                {"id": "beside", "name": "Strap – lug", "a": ["strap/bottom"], "b": ["lug/top"], "law": {"mu": 0.12}},
            ],
            "supports": [
                {"id": "gate", "name": "Gate", "faces": ["lug/root"]},
                {"id": "half", "name": "Half", "kind": "symmetry", "faces": ["lug/bottom", "pin/bottom"]},
                {"id": "guide", "name": "Guide", "kind": "components", "components": ["y", "z"],
                 "faces": ["strap/nose.1"]},
            ],
            "loads": [
                {"id": "pull", "name": "Hoist pull", "kind": "force", "faces": ["strap/hole.1"],
                 "direction": [1, 0, 0], "values": {"lift": "8 kN"}},
            ],
            "steps": steps(("lift", "Lift")),
        }
    )  # fmt: skip
