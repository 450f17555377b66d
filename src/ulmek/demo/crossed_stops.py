"""Demo ``crossed-stops``: two round bars that stop the gate by crossing each other; both act as beams."""

from ulmek.demo.hoist import MACHINE, STEEL, part, steps
from ulmek.study.items import StudyDocument, read_study

DIAMETER, LENGTH, APART = 20.0, 300.0, 0.2


def crossed_stops() -> StudyDocument:
    """The upper bar comes down on the lower one, which is clamped at both ends."""
    bar = {"shank_diameter": f"{DIAMETER} mm", "length": f"{LENGTH} mm", "head_length": "0 mm"}
    # Beams touch in a point, so both are fine where they cross.
    mesh = {
        "size": "15 mm", "per_turn": 48, "elements": "beam",
        "spots": [{"at": ["0 mm", "0 mm", f"{LENGTH / 2} mm"], "size": "1 mm"}],
    }  # fmt: skip
    half = f"{-LENGTH / 2} mm"
    return read_study(
        {
            "format": "ulmek-study", "version": 2, "name": "crossed-stops", "title": "Crossed stops",
            "machine": MACHINE, "notes": "How hard do the stops meet when the gate comes down a millimetre too far?",
            "materials": [STEEL],
            "parts": [
                part("upper", "Upper bar", "steel", "pin", bar, mesh, ("0 mm", half, f"{DIAMETER + APART} mm"),
                     {"axis": "x", "angle": "-90 deg"}),
                part("lower", "Lower bar", "steel", "pin", bar, mesh, (half, "0 mm", "0 mm"),
                     {"axis": "y", "angle": "90 deg"}),
            ],
            "pairs": [
                {"id": "cross", "name": "Crossing", "a": ["upper/shank"], "b": ["lower/shank"], "law": {"mu": 0.1}},
            ],
            "supports": [
                {"id": "ends", "name": "Clamps", "faces": ["lower/bottom", "lower/top"]},
                {"id": "guide", "name": "Gate guides", "kind": "components", "components": ["x", "y"],
                 "faces": ["upper/bottom", "upper/top"]},
            ],
            "loads": [
                {"id": "down", "name": "Gate comes down", "kind": "displacement",
                 "faces": ["upper/bottom", "upper/top"], "direction": [0, 0, -1], "values": {"meet": "1 mm"}},
            ],
            "steps": steps(("meet", "Meet")),
        }
    )  # fmt: skip
