"""Demo ``pinion-sector``: the hand drive's pinion turns the toothed sector of the hoist; a plane section."""

from ulmek.demo.hoist import HARD_STEEL, MACHINE, part, steps
from ulmek.study.items import StudyDocument, read_study

MODULE, PINION, SECTOR, THINNING = 5.0, 17, 40, 0.05


def pinion_sector() -> StudyDocument:
    """The sector is held, the pinion turns through the play and a thousandth of a radian more."""
    mesh = {"size": "2.5 mm"}
    apart = MODULE * (PINION + SECTOR) / 2

    def gear(teeth: int, wanted: int, bore: str) -> dict[str, object]:
        return {
            "teeth": teeth, "wanted": wanted, "module": f"{MODULE} mm", "bore_diameter": bore,
            "thinning": f"{THINNING} mm", "width": "20 mm",
        }  # fmt: skip

    def flanks(side: str) -> dict[str, list[str]]:
        named = {"a": ("pinion", 5), "b": ("sector", 6)}
        return {key: [f"{name}/tooth.{k}.{side}" for k in range(1, count + 1)] for key, (name, count) in named.items()}

    return read_study(
        {
            "format": "ulmek-study", "version": 2, "name": "pinion-sector", "title": "Pinion and sector",
            "machine": MACHINE, "notes": "What torque does the hand drive pass on, and how hard do the teeth press?",
            "space": "plane-strain", "thickness": "20 mm", "materials": [HARD_STEEL],
            "parts": [
                part("pinion", "Pinion", "hard-steel", "gear", gear(PINION, 5, "30 mm"), mesh),
                part("sector", "Toothed sector", "hard-steel", "gear", gear(SECTOR, 6, "150 mm"), mesh,
                     (f"{apart} mm", "0 mm", "0 mm"), {"axis": "z", "angle": "180 deg"}),
            ],
            "pairs": [
                {"id": "flanks", "name": "Flanks", **flanks("left"), "law": {"mu": 0.08}},
                {"id": "backs", "name": "Backs of the teeth", **flanks("right"), "law": {"mu": 0.08}},
            ],
            "handles": [
                {"id": "crank", "name": "Crank", "faces": ["pinion/bore"]},
                {"id": "gate", "name": "Gate", "at": [f"{apart} mm", "0 mm", "0 mm"], "faces": ["sector/bore"]},
            ],
            "supports": [
                {"id": "bearing", "name": "Bearing", "kind": "components", "components": ["x", "y"], "handle": "crank"},
                {"id": "held", "name": "Gate held", "kind": "components", "components": ["x", "y", "turn-z"],
                 "handle": "gate"},
            ],
            "loads": [
                {"id": "turn", "name": "Turn of the crank", "kind": "rotation", "handle": "crank",
                 "direction": [0, 0, 1], "values": {"drive": "0.0025 rad"}},
            ],
            "steps": steps(("drive", "Drive"), size=0.2),
        }
    )  # fmt: skip
