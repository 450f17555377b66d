"""Demo ``wall-bracket``: the bracket that carries the hoist's head sheave, bolted to the lock wall."""

from typing import Any

from ulmek.study.items import StudyDocument, read_study

HOLES: dict[str, str | int] = {
    "hole_diameter": "17.5 mm",
    "hole_columns": 2,
    "hole_rows": 2,
    "hole_spacing_x": "100 mm",
    "hole_spacing_y": "120 mm",
}
FRICTION = {"may_open": True, "may_slide": "friction", "mu": 0.15}


def _input(key: str, name: str, path: str, *spread: Any) -> dict[str, Any]:
    kind, low, high = spread
    return {"id": key, "name": name, "paths": [path], "spread": {"kind": kind, "low": low, "high": high}}


def wall_bracket() -> StudyDocument:
    """Bracket flange on a wall plate, four M16 bolts: preload, hoist pull, side load."""
    return read_study(
        {
            "format": "ulmek-study",
            "version": 2,
            "name": "wall-bracket",
            "title": "Wall bracket",
            "machine": "Sluice gate hoist",
            "notes": "Does the flange stay shut under the hoist pull, and does it slide under the side load?",
            "materials": [
                {
                    "id": "steel-plate",
                    "name": "Structural steel",
                    "young": "210 GPa",
                    "poisson": 0.3,
                    "yield_stress": "355 MPa",
                    "density": "7850 kg/m^3",
                },
                {
                    "id": "steel-bolt",
                    "name": "Bolt steel 8.8",
                    "young": "205 GPa",
                    "poisson": 0.3,
                    "yield_stress": "640 MPa",
                    "density": "7850 kg/m^3",
                },
            ],
            "parts": [
                {
                    "id": "wall-plate",
                    "name": "Wall plate",
                    "material": "steel-plate",
                    "recipe": {
                        "kind": "plate",
                        "dimensions": {"width": "240 mm", "height": "260 mm", "thickness": "20 mm", **HOLES},
                    },
                    "mesh": {"size": "11 mm", "per_turn": 12},
                    "placements": [{"at": ["0 mm", "0 mm", "-20 mm"]}],
                },
                {
                    "id": "bracket",
                    "name": "Bracket",
                    "material": "steel-plate",
                    "recipe": {
                        "kind": "bracket",
                        "dimensions": {
                            "flange_width": "160 mm",
                            "flange_height": "180 mm",
                            "flange_thickness": "18 mm",
                            "arm_thickness": "20 mm",
                            "arm_height": "180 mm",
                            "arm_length": "110 mm",
                            **HOLES,
                        },
                    },
                    "mesh": {"size": "9 mm", "per_turn": 12},
                },
                {
                    "id": "bolts",
                    "name": "Bolts M16",
                    "material": "steel-bolt",
                    "recipe": {
                        "kind": "bolt",
                        "dimensions": {
                            "diameter": "16 mm",
                            "grip": "38 mm",
                            "across_flats": "24 mm",
                            "head_height": "10 mm",
                            "nut_height": "13 mm",
                        },
                    },
                    "mesh": {"size": "5 mm", "per_turn": 24},
                    "placements": [{"at": [f"{x} mm", f"{y} mm", "-20 mm"]} for y in (-60, 60) for x in (-50, 50)],
                },
            ],
            "pairs": [
                {
                    "id": "flange",
                    "name": "Bracket – wall plate",
                    "a": ["bracket/back"],
                    "b": ["wall-plate/front"],
                    "law": FRICTION,
                },
                {
                    "id": "heads",
                    "name": "Bolt heads – bracket",
                    "a": ["bolts/head.bearing"],
                    "b": ["bracket/front"],
                    "law": FRICTION,
                },
                {
                    "id": "nuts",
                    "name": "Nuts – wall plate",
                    "a": ["bolts/nut.bearing"],
                    "b": ["wall-plate/back"],
                    "law": FRICTION,
                },
                {
                    "id": "flange-holes",
                    "name": "Flange holes – shanks",
                    "a": [f"bracket/hole.{i}" for i in (1, 2, 3, 4)],
                    "b": ["bolts/shank"],
                    "law": {"may_open": True, "may_slide": "freely"},
                    "search": "1.5 mm",
                },
                {
                    "id": "wall-holes",
                    "name": "Wall holes – shanks",
                    "a": [f"wall-plate/hole.{i}" for i in (1, 2, 3, 4)],
                    "b": ["bolts/shank"],
                    "law": {"may_open": True, "may_slide": "freely"},
                    "search": "1.5 mm",
                },
            ],
            "bolts": [{"id": "bolts", "name": "Bolts ×4", "part": "bolts", "preload": {"preload": "42 kN"}}],
            "supports": [
                {
                    "id": "wall",
                    "name": "Wall plate, edges",
                    "kind": "fixed",
                    "faces": [f"wall-plate/edge.{side}" for side in ("left", "right", "bottom", "top")],
                },
            ],
            "loads": [
                {
                    "id": "hoist-pull",
                    "name": "Hoist pull",
                    "kind": "force",
                    "faces": ["bracket/arm.tip"],
                    "direction": [0, 0, 1],
                    "values": {"hoist-pull": "48 kN"},
                },
                {
                    "id": "side-load",
                    "name": "Side load",
                    "kind": "force",
                    "faces": ["bracket/arm.tip"],
                    "direction": [1, 0, 0],
                    "values": {"side-load": "6 kN"},
                },
            ],
            "steps": [
                {"id": "preload", "name": "Preload", "increments": {"start": 0.5, "largest": 0.5}},
                {"id": "hoist-pull", "name": "Hoist pull"},
                {"id": "side-load", "name": "Side load"},
            ],
            # What a torque wrench leaves open, oiled to dry, and a gate that sticks.
            "series": [
                {
                    "id": "scatter",
                    "name": "Scatter of tightening and friction",
                    "plan": "sobol",
                    "samples": 64,
                    "inputs": [
                        _input(
                            "preload", "Preload of each bolt", "/bolts/bolts/preload/preload", "normal", "75 %", "125 %"
                        ),
                        _input("mu-flange", "µ, flange on wall plate", "/pairs/flange/law/mu", "even", 0.1, 0.2),
                        _input("mu-heads", "µ, under the heads", "/pairs/heads/law/mu", "even", 0.1, 0.2),
                        _input("mu-nuts", "µ, under the nuts", "/pairs/nuts/law/mu", "even", 0.1, 0.2),
                        _input("pull", "Hoist pull", "/loads/hoist-pull/values/hoist-pull", "even", "100 %", "115 %"),
                    ],
                }
            ],
        }
    )
