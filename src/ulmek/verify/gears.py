"""Cases ``rack`` and ``gear-pair``: involute teeth pass on moments as the ratio of their circles."""

from typing import Any

import numpy as np

from ulmek.core.handcalc.teeth import tooth_beam_stress, tooth_fillet_factor
from ulmek.core.review.balance import Carrier
from ulmek.verify.case import Check, Solve, Solved, base_document, hold, load, part, step

MODULE, PINION, WHEEL, BORE, WIDTH, PLAY = 5.0, 17, 40, 30.0, 10.0, 0.05
ROOT_FILLET = 0.38  # modules, as the recipe draws it
TURN = 0.004  # rad, beyond the play


MESH = {"size": "2.5 mm"}


def _teeth(name: str, teeth: int, wanted: int, **placed: Any) -> dict[str, Any]:
    gear = part(name, "gear", {}, MESH, **placed)
    gear["recipe"]["dimensions"] = {
        "teeth": teeth, "wanted": wanted, "module": f"{MODULE} mm", "bore_diameter": f"{BORE} mm",
        "thinning": f"{PLAY} mm",
    }  # fmt: skip
    return gear


def _study(name: str, title: str) -> dict[str, Any]:
    study = base_document(name, title)
    study["space"], study["thickness"] = "plane-strain", f"{WIDTH} mm"
    return study


def _handle(name: str, at: tuple[float, float], face: str) -> dict[str, Any]:
    return {"id": name, "name": name.capitalize(), "at": [f"{at[0]} mm", f"{at[1]} mm", "0 mm"], "faces": [face]}


def _flanks(a: str, of_a: int, b: str, of_b: int, side: str) -> dict[str, Any]:
    """All flanks on one side of ``of_a`` and ``of_b`` teeth, smooth."""
    sides = [[f"{name}/tooth.{k + 1}.{side}" for k in range(count)] for name, count in ((a, of_a), (b, of_b))]
    return {"id": "flanks", "name": "Flanks", "a": sides[0], "b": sides[1], "law": {"may_slide": "freely"},
            "search": "1 mm"}  # fmt: skip


def _moment(carrier: Carrier, at: tuple[float, float]) -> float:
    """Moment (N·mm) about a point, of what is summed about the origin."""
    force = carrier.force
    return carrier.moment[2] - (at[0] * force[1] - at[1] * force[0])


def rack(solve: Solve) -> list[Check]:
    """A pushed rack against a pinion held at its axis, smooth: moment F · pitch radius."""
    study = _study("rack", "Rack and pinion")
    radius = MODULE * PINION / 2
    bar = part("rack", "gear-rack", {}, MESH)
    bar["recipe"]["dimensions"] = {"teeth": 4, "module": f"{MODULE} mm", "thinning": f"{PLAY} mm"}
    study["parts"] = [_teeth("pinion", PINION, 5, turn="z -90", at=(0, radius)), bar]
    study["handles"] = [_handle("axis", (0, radius), "pinion/bore")]
    study["pairs"] = [_flanks("rack", 4, "pinion", 5, "right")]
    study["supports"] = [hold("held", ["x", "y", "turn-z"], handle="axis"), hold("guide", ["y"], "rack/foot")]
    push = f"{PLAY + TURN * radius} mm"
    study["loads"] = [load("push", "displacement", {"push": push}, "rack/end.left", direction=[1, 0, 0])]
    study["steps"] = [step("push", 0.25)]
    last = solve(study).last
    ratio = _moment(last.carrier("held"), (0, radius)) / last.carrier("push").force[0]
    return [Check("moment at the pinion over the force on the rack", "mm", radius, abs(ratio), 0.005)]


def gear_pair(solve: Solve) -> list[Check]:
    """One gear driven, the other held, smooth: moments as z₂/z₁."""
    study = _study("gear-pair", "Gear pair")
    apart = MODULE * (PINION + WHEEL) / 2
    study["parts"] = [_teeth("pinion", PINION, 5), _teeth("wheel", WHEEL, 6, turn="z 180", at=(apart, 0))]
    study["handles"] = [_handle("drive", (0, 0), "pinion/bore"), _handle("held", (apart, 0), "wheel/bore")]
    study["pairs"] = [_flanks("pinion", 5, "wheel", 6, "left")]
    study["supports"] = [
        hold("bearing", ["x", "y"], handle="drive"), hold("brake", ["x", "y", "turn-z"], handle="held")
    ]  # fmt: skip
    turn = f"{PLAY / (MODULE * PINION / 2) + TURN} rad"
    study["loads"] = [load("drive", "rotation", {"drive": turn}, handle="drive", direction=[0, 0, 1])]
    study["steps"] = [step("drive", 0.25)]
    solved = solve(study)
    carrier = solved.last.carrier
    driving = carrier("drive").moment[2] + _moment(carrier("bearing"), (0, 0))
    ratio = _moment(carrier("brake"), (apart, 0)) / driving
    return [Check("ratio of the moments", "–", WHEEL / PINION, abs(ratio), 0.005), _root_bending(solved)]


def _root_bending(solved: Solved) -> Check:
    """Tension in the root of the pinion's middle tooth, which points along x and carries nearly all, beside that of a
    beam from the section where it is largest, with the concentration of the fillet."""
    pinion, flanks = solved.fields("pinion"), solved.pair("flanks")
    x, y = flanks["points"][flanks["pressure"].argmax(), :2]
    force = np.array(solved.last.pairs["flanks"].force[:2])
    sx, sy, sxy = pinion["stress"][:, [0, 1, 3]].T
    tension = (sx + sy) / 2 + np.hypot((sx - sy) / 2, sxy)
    at = pinion["points"][tension.argmax()]
    # The force acts where its line meets the middle of the tooth.
    thickness, arm = 2 * abs(float(at[1])), float(x - y * force[0] / force[1] - at[0])
    beam = tooth_beam_stress(abs(float(force[1])), WIDTH, arm, thickness) - abs(float(force[0])) / (WIDTH * thickness)
    expected = tooth_fillet_factor(thickness, ROOT_FILLET * MODULE, arm) * beam
    return Check("tension in the root of the tooth, beside a beam", "MPa", expected, float(tension.max()), None)
