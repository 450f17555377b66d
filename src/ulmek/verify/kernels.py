"""Compiles what numba compiles, so that no user waits for it: small studies that go through every kernel.

The compiled code is kept beside the sources; this takes a minute or two once, and seconds when all is there.
"""

import contextlib
from collections.abc import Callable
from typing import Any

from ulmek.core.errors import UlmekError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.free import mesh_free
from ulmek.core.mesh.solid import mesh_solid
from ulmek.runs.solve import solve_study
from ulmek.study.items import read_study
from ulmek.study.touching import suggestions
from ulmek.verify.case import base_document, block_part, hold

HARDENING = {"table": [{"strain": 0.0, "stress": "15 MPa"}, {"strain": 0.1, "stress": "600 MPa"}]}
QUICK = {"start": 0.5, "least": 0.5, "largest": 0.5}


def compile_kernels(tell: Callable[[str], None]) -> None:
    """Solve and mesh small things of every kind; ``tell`` hears what is under way."""
    for name, study in (
        ("a bolted joint of bricks", _bolted()),
        ("a yielding part in large motion", _yielding()),
        ("tetrahedra and wedges", _of("tets", "wedges")),
        ("plane sections", _section("bricks")),
        ("second-order sections", _section("second-order")),
        ("systems that are not factored", _iterated()),
    ):
        tell(name)
        document = read_study(study)
        # What counts is the code that runs on the way, not that the study can be solved.
        with contextlib.suppress(UlmekError):
            suggestions(document)
            solve_study(document)
    tell("outlines with holes, and a free-form solid")
    with contextlib.suppress(UlmekError):
        mesh_solid(RECIPES["bracket"].solid({}), size=12.0).volume()
        mesh_free(kernel.shape_of(RECIPES["washer"].solid({})), size=5.0)


def _study(name: str) -> dict[str, Any]:
    study = base_document(name, "Kernels")
    study["parts"] = [block_part("base", (40, 40, 10), 20), block_part("slider", (30, 30, 10), 15, at=10)]
    study["pairs"] = [{"id": "joint", "name": "Joint", "a": ["slider/bottom"], "b": ["base/top"]}]
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["base/bottom"]}]
    study["loads"] = [
        {"id": "press", "name": "Press", "kind": "pressure", "faces": ["slider/top"], "values": {"press": "20 MPa"}},
        {"id": "push", "name": "Push", "kind": "force", "faces": ["slider/right"], "direction": [-1, 0, 0],
         "values": {"push": "1 kN"}},
    ]  # fmt: skip
    study["steps"] = [{"id": n, "name": n, "increments": QUICK} for n in ("press", "push")]
    return study


def _iterated() -> dict[str, Any]:
    """Blocks with enough unknowns for two levels of multigrid."""
    study = _study("iterated")
    study["parts"] = [block_part("base", (40, 40, 10), 4), block_part("slider", (30, 30, 10), 4, at=10)]
    return study | {"path": "iterative"}


def _bolted() -> dict[str, Any]:
    """Blocks under friction, one on a smooth pair that sleeps, a bolt, a wall, round faces."""
    study = _study("bolted")
    material = study["materials"][0]["id"]
    study["parts"].append({
        "id": "bolt", "name": "Bolt", "material": material, "mesh": {"size": "8 mm"},
        "recipe": {"kind": "bolt", "dimensions": {}}, "placements": [{"at": ["80 mm", "0 mm", "0 mm"]}],
    })  # fmt: skip
    study["parts"].append({
        "id": "roller", "name": "Roller", "material": material, "mesh": {"size": "8 mm"},
        "recipe": {"kind": "pin", "dimensions": {}}, "placements": [{"at": ["-80 mm", "0 mm", "0 mm"]}],
    })  # fmt: skip
    study["bolts"] = [{"id": "bolt", "name": "Bolt", "part": "bolt", "preload": {"press": "5 kN"}}]
    study["supports"].append({"id": "held", "name": "Held", "faces": ["roller/bottom", "bolt/head.bearing"]})
    study["pairs"].append({
        "id": "beside", "name": "Beside", "a": ["roller/shank"], "b": ["base/left"], "search": "100 mm",
        "law": {"may_open": True, "may_slide": "freely"},
    })  # fmt: skip
    return study


def _yielding() -> dict[str, Any]:
    study = _study("yielding")
    steel = {k: v for k, v in study["materials"][0].items() if k != "yield_stress"}
    study["materials"] = [{**steel, "hardening": HARDENING}]
    study["steps"][1]["large_motion"] = True
    return study


def _of(lower: str, upper: str) -> dict[str, Any]:
    study = _study(f"{lower}-{upper}")
    for part, elements in zip(study["parts"], (lower, upper), strict=True):
        part["mesh"] = {**part["mesh"], "elements": elements}
    return study


def _section(elements: str) -> dict[str, Any]:
    """The same as a plane study in x, y: the lower block held, the upper pressed on it."""
    study = _study(f"section-{elements}")
    study["space"] = "plane-strain"
    study["parts"] = [block_part("base", (40, 20, 10), 10), block_part("slider", (30, 20, 10), 8)]
    study["parts"][1]["placements"] = [{"at": ["0 mm", "20 mm", "0 mm"]}]
    for part in study["parts"]:
        part["mesh"] = {**part["mesh"], "elements": elements}
    study["pairs"] = [{"id": "joint", "name": "Joint", "a": ["slider/near"], "b": ["base/far"]}]
    study["supports"] = [hold("floor", ["x", "y"], "base/near")]
    study["loads"] = [{"id": "press", "name": "Press", "kind": "pressure", "faces": ["slider/far"],
                       "values": {"press": "20 MPa"}}]  # fmt: skip
    return study
