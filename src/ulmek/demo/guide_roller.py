"""Demo ``guide-roller``: the roller that guides the sluice gate, pressed on its rail; half a plane strain section."""

from typing import Any

import numpy as np

from ulmek.study.items import StudyDocument, read_study

RADIUS, REACH = 60.0, 2.0


def _spots(height: float) -> list[dict[str, Any]]:
    """A fine mesh where the roller touches."""
    at = [float(x) for x in np.linspace(0, REACH, 5)]
    return [{"at": [f"{x - 40 if height else x} mm", f"{height or -RADIUS} mm", "0 mm"], "size": "0.2 mm"} for x in at]


def guide_roller() -> StudyDocument:
    """A hardened roller pressed on a rail that yields below the surface, then relieved."""
    return read_study(
        {
            "format": "ulmek-study",
            "version": 2,
            "name": "guide-roller",
            "title": "Guide roller",
            "machine": "Sluice gate hoist",
            "notes": "Does the rail yield under the guide roller, and what stays when the gate is relieved?",
            "space": "plane-strain",
            "thickness": "30 mm",
            "materials": [
                {
                    "id": "roller-steel",
                    "name": "Hardened steel",
                    "young": "210 GPa",
                    "poisson": 0.3,
                    "yield_stress": "1200 MPa",
                },
                {
                    "id": "rail-steel",
                    "name": "Rail steel",
                    "young": "210 GPa",
                    "poisson": 0.3,
                    "hardening": {
                        "table": [
                            {"strain": 0.0, "stress": "400 MPa"},
                            {"strain": 0.01, "stress": "460 MPa"},
                            {"strain": 0.1, "stress": "600 MPa"},
                        ]
                    },
                },
            ],
            "parts": [
                {
                    "id": "roller",
                    "name": "Roller",
                    "material": "roller-steel",
                    "recipe": {
                        "kind": "disc",
                        "dimensions": {"diameter": f"{2 * RADIUS} mm", "thickness": "30 mm", "sector": 90},
                    },
                    "mesh": {"size": "6 mm", "per_turn": 24, "spots": _spots(0)},
                    "placements": [{"at": ["0 mm", f"{RADIUS} mm", "0 mm"]}],
                },
                {
                    "id": "rail",
                    "name": "Rail",
                    "material": "rail-steel",
                    "recipe": {
                        "kind": "block",
                        "dimensions": {"length": "80 mm", "depth": "50 mm", "height": "30 mm"},
                    },
                    "mesh": {"size": "6 mm", "spots": _spots(25)},
                    "placements": [{"at": ["40 mm", "-25 mm", "0 mm"]}],
                },
            ],
            "pairs": [
                {
                    "id": "track",
                    "name": "Roller – rail",
                    "a": ["roller/rim"],
                    "b": ["rail/far"],
                    "law": {"may_open": True, "may_slide": "friction", "mu": 0.1},
                    "search": "0.5 mm",
                }
            ],
            "supports": [
                {"id": "bed", "name": "Rail bed", "faces": ["rail/near"]},
                {
                    "id": "middle",
                    "name": "Middle of the section",
                    "kind": "symmetry",
                    "faces": ["roller/middle", "rail/left"],
                },
            ],
            "loads": [
                {
                    "id": "gate",
                    "name": "Gate pressure",
                    "kind": "force",
                    "faces": ["roller/flat"],
                    "direction": [0, -1, 0],
                    "values": {"pressed": "22 kN", "relieved": "1 kN"},
                }
            ],
            "steps": [
                {"id": "pressed", "name": "Gate pressed", "increments": {"start": 0.1, "largest": 0.2}},
                {"id": "relieved", "name": "Gate relieved", "increments": {"start": 0.25, "largest": 0.5}},
            ],
        }
    )
