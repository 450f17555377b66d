"""Demo ``drum-sleeve``: the bronze sleeve pressed into the hub of the rope drum, then turned; a plane section."""

from ulmek.demo.hoist import BRONZE, MACHINE, STEEL, part, steps
from ulmek.study.items import StudyDocument, read_study

FIT, OVERLAP = 60.0, 0.05


def drum_sleeve() -> StudyDocument:
    """An overlap of 0.05 mm on the radius is pressed in, then the shaft drags at the bore of the sleeve."""
    mesh = {"size": "2.5 mm", "per_turn": 72}
    return read_study(
        {
            "format": "ulmek-study", "version": 2, "name": "drum-sleeve", "title": "Drum sleeve", "machine": MACHINE,
            "notes": "Does the press fit hold the sleeve when the shaft drags at it, and does the bronze yield?",
            "space": "plane-strain", "thickness": "50 mm", "materials": [STEEL, BRONZE],
            "parts": [
                part("sleeve", "Sleeve", "bronze", "washer",
                     {"inner_diameter": "48 mm", "outer_diameter": f"{FIT} mm", "thickness": "50 mm"}, mesh),
                part("hub", "Drum hub", "steel", "washer",
                     {"inner_diameter": f"{FIT} mm", "outer_diameter": "100 mm", "thickness": "50 mm"}, mesh),
            ],
            "pairs": [
                {"id": "seat", "name": "Seat of the sleeve", "a": ["sleeve/rim"], "b": ["hub/bore"],
                 "law": {"mu": 0.1}, "fit": "value", "interference": f"{OVERLAP} mm"},
            ],
            "handles": [{"id": "shaft", "name": "Shaft", "faces": ["sleeve/bore"], "kind": "averaging"}],
            "supports": [{"id": "rope", "name": "Rope drum", "faces": ["hub/rim"]}],
            "loads": [
                {"id": "drag", "name": "Drag of the shaft", "kind": "moment", "handle": "shaft",
                 "direction": [0, 0, 1], "values": {"turn": "600 N*m"}},
            ],
            "steps": steps(("press", "Press in"), ("turn", "Turn")),
        }
    )  # fmt: skip
