"""Demo ``limit-flexure``: the torsion flexure that carries the arm of the hoist's limit switch, turned far."""

from ulmek.demo.hoist import HARD_STEEL, MACHINE, part, steps
from ulmek.study.items import StudyDocument, read_study

LENGTH, END, REACH, ARM = 120.0, 10.0, 8.0, 1.0


def limit_flexure() -> StudyDocument:
    """One end is held, the other turned by 30° about the axis and free to come nearer."""
    return read_study(
        {
            "format": "ulmek-study", "version": 2, "name": "limit-flexure", "title": "Limit flexure",
            "machine": MACHINE,
            "notes": "What torque turns the arm of the limit switch, how straight is it over the angle, does it yield?",
            "materials": [HARD_STEEL],
            "parts": [
                part("flexure", "Flexure", "hard-steel", "torsion-flexure",
                     {"length": f"{LENGTH} mm", "arm_reach": f"{REACH} mm", "arm_thickness": f"{ARM} mm",
                      "root_radius": "0 mm", "end_diameter": "20 mm", "end_length": f"{END} mm"},
                     {"size": "10 mm"}),
            ],
            "handles": [
                {"id": "arm", "name": "Arm of the switch", "at": ["0 mm", "0 mm", f"{LENGTH + 2 * END} mm"],
                 "faces": ["flexure/top"]},
            ],
            "supports": [
                {"id": "housing", "name": "Housing", "faces": ["flexure/bottom"]},
                {"id": "guide", "name": "Guide of the arm", "kind": "components",
                 "components": ["x", "y", "turn-x", "turn-y"], "handle": "arm"},
            ],
            "loads": [
                {"id": "turn", "name": "Turn of the arm", "kind": "rotation", "handle": "arm",
                 "direction": [0, 0, 1], "values": {"turn": "30 deg"}},
            ],
            "steps": [{**steps(("turn", "Turn"), size=0.125)[0], "large_motion": True}],
        }
    )  # fmt: skip
