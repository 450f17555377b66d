"""Demo ``sill-seal``: the rubber strip under the sluice gate, closed on the sill, rubbed to and fro; plane strain."""

from ulmek.demo.hoist import MACHINE, STEEL, part, steps
from ulmek.study.items import StudyDocument, read_study

HEIGHT, CLEARANCE, SQUEEZE, RUB = 24.0, 0.5, 2.0, 4.0


def sill_seal() -> StudyDocument:
    """The gate closes the seal on the sill, the water presses on its side, and the gate shifts to and fro."""
    sequence = [
        *steps(("close", "Close"), size=0.2),
        *steps(("water", "Water"), size=0.5),
        *steps(("there", "Shift"), ("back", "Shift back"), ("again", "Shift again"), size=0.125),
    ]
    return read_study(
        {
            "format": "ulmek-study", "version": 2, "name": "sill-seal", "title": "Sill seal", "machine": MACHINE,
            "notes": "Does the seal press harder everywhere than the water, and what force shifts the gate on it?",
            "space": "plane-strain", "thickness": "1000 mm",
            "materials": [
                STEEL,
                {"id": "rubber", "name": "Rubber, firm", "rubber": {"c10": "0.8 MPa", "bulk": "800 MPa"}},
            ],
            "parts": [
                part("seal", "Seal", "rubber", "seal-strip",
                     {"width": "14 mm", "height": f"{HEIGHT} mm", "lip_height": "7 mm", "foot_width": "20 mm",
                      "foot_height": "6 mm", "length": "1000 mm"},
                     {"size": "1.2 mm", "faces": {"lip": "0.4 mm"},
                      "spots": [{"at": ["-2.5 mm", "23.8 mm", "0 mm"], "size": "0.4 mm"},
                                {"at": ["-5 mm", "21.8 mm", "0 mm"], "size": "0.5 mm"}]},
                     ("0 mm", f"{HEIGHT + CLEARANCE} mm", "0 mm"), {"axis": "z", "angle": "180 deg"}),
                part("sill", "Sill", "steel", "block",
                     {"length": "50 mm", "depth": "12 mm", "height": "1000 mm"}, {"size": "2 mm"},
                     ("0 mm", "-6 mm", "0 mm")),
            ],
            "pairs": [
                {"id": "lip", "name": "Seal – sill", "a": ["seal/lip", "seal/side.left"], "b": ["sill/far"],
                 "law": {"mu": 0.12}, "search": "6 mm", "meant": "to-slide"},
            ],
            "handles": [{"id": "gate", "name": "Gate", "faces": ["seal/foot"]}],
            "supports": [
                {"id": "bed", "name": "Bed", "faces": ["sill/near"]},
                {"id": "upright", "name": "Gate upright", "kind": "components", "components": ["turn-z"],
                 "handle": "gate"},
            ],
            "loads": [
                {"id": "down", "name": "Way of the gate", "kind": "displacement", "handle": "gate",
                 "direction": [0, -1, 0], "values": {"close": f"{CLEARANCE + SQUEEZE} mm"}},
                {"id": "aside", "name": "Shift of the gate", "kind": "displacement", "handle": "gate",
                 "direction": [1, 0, 0],
                 "values": {"close": "0 mm", "there": f"{RUB} mm", "back": f"{-RUB} mm", "again": f"{RUB} mm"}},
                {"id": "head", "name": "Water", "kind": "pressure", "faces": ["seal/side.right"],
                 "values": {"water": "0.05 MPa"}},
            ],
            "steps": [{**s, "large_motion": True} for s in sequence],
        }
    )  # fmt: skip
