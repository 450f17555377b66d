"""Case ``incline``: a block on a slope under its own weight: below the angle of friction it rests, above it leans on a
stop, or slides away faster and faster where it is let go; everything stands askew in space."""

from typing import Any

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, hold, load, step

MU, DENSITY, SIZE = 0.3, 7.85e-9, (40.0, 30.0, 20.0)
GRAVITY, GAP = 9810.0, 0.02
# The angle of friction is 16.7°.
BELOW, ABOVE = 12.0, 25.0
DURATION = 0.05


def _document(angle: float) -> dict[str, Any]:
    study = base_document("incline", "Incline")
    study["materials"][0]["density"] = f"{DENSITY * 1e12} kg/m^3"
    turned = {"axis": "y", "angle": f"{angle} deg"}
    c, s = np.cos(np.deg2rad(angle)), np.sin(np.deg2rad(angle))

    def block(name: str, size: tuple[float, float, float], x: float, z: float, mesh: float) -> dict[str, Any]:
        dimensions = dict(zip(("length", "depth", "height"), (f"{v} mm" for v in size), strict=True))
        at = [f"{x * c + z * s} mm", "0 mm", f"{-x * s + z * c} mm"]
        return {
            "id": name, "name": name.capitalize(), "material": "steel",
            "recipe": {"kind": "block", "dimensions": dimensions}, "mesh": {"size": f"{mesh} mm"},
            "placements": [{"at": at, "turn": turned}],
        }  # fmt: skip

    length, depth, height = SIZE
    study["parts"] = [
        block("slope", (120, 50, 20), 0, -20, 10),
        block("slider", SIZE, 0, 0, 7),
        # Off the slope, on its own; a little off the slider too, which slides before it leans.
        block("stop", (10, depth, height), length / 2 + 5 + GAP, 0.5, 10),
    ]
    study["pairs"] = [
        {"id": "seat", "name": "Seat", "a": ["slider/bottom"], "b": ["slope/top"], "law": {"mu": MU}},
        {"id": "end", "name": "End", "a": ["slider/right"], "b": ["stop/left"], "law": {"may_slide": "freely"}},
    ]
    study["supports"] = [
        hold("floor", ["x", "y", "z"], "slope/bottom"), hold("held", ["x", "y", "z"], "stop/right"),
    ]  # fmt: skip
    study["loads"] = [load("weight", "gravity", {"weight": f"{GRAVITY} mm/s^2"}, direction=[0, 0, -1])]
    # At once: what is added once it leans would be shared between the seat and the stop by their stiffness.
    study["steps"] = [step("weight")]
    return study


def incline(solve: Solve) -> list[Check]:
    """Coulomb: N = W cos α, T = W sin α where tan α < µ; else T = µN and W (sin α − µ cos α) on the stop; let go there,
    s = ½ g (sin α − µ cos α) t²."""
    weight = DENSITY * GRAVITY * float(np.prod(SIZE))
    checks = []
    for angle in (BELOW, ABOVE):
        pairs = solve(_document(angle)).last.pairs
        c, s = float(np.cos(np.deg2rad(angle))), float(np.sin(np.deg2rad(angle)))
        rests = s < MU * c
        checks += [
            Check(f"force across the seat at {angle:g}°", "N", weight * c, pairs["seat"].normal_force, 1e-3),
            Check(
                f"friction at {angle:g}°", "N", weight * (s if rests else MU * c), pairs["seat"].friction_force, 0.01
            ),
            Check(
                f"force on the stop at {angle:g}°", "N", 0.0 if rests else weight * (s - MU * c),
                pairs["end"].normal_force, 0.01, scale=weight,
            ),
        ]  # fmt: skip
    return [*checks, _let_go(solve)]


def _let_go(solve: Solve) -> Check:
    """The block without the stop, held along the slope while it takes its weight, then let go with inertia."""
    study = _document(ABOVE)
    study["parts"], study["pairs"] = study["parts"][:2], study["pairs"][:1]
    c, s = float(np.cos(np.deg2rad(ABOVE))), float(np.sin(np.deg2rad(ABOVE)))
    holder = hold("holder", ["x"], "slider/left", axes={"kind": "turned", "x": [c, 0, -s]}, released=["slide"])
    study["supports"] = [study["supports"][0], holder]
    study["steps"] = [step("weight"), step("slide", 0.05, dynamics={"duration": f"{DURATION} s"})]
    solved = solve(study)
    start, end = (solved.fields("slider", solved.end_of(k))["displacement"].mean(axis=0) for k in (0, 1))
    slid = float((end - start) @ [c, 0, -s])
    expected = GRAVITY * (s - MU * c) * DURATION**2 / 2
    return Check(f"way slid in {DURATION:g} s at {ABOVE:g}°", "mm", expected, slid, 1e-3)
