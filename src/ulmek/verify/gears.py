"""Cases ``rack``, ``gear-pair``, ``gears-in-mesh`` and ``gears-turned``: involute teeth pass on moments as the ratio of
their circles."""

from typing import Any

import numpy as np

from ulmek.core.geometry.involute import Gearing, working_distance
from ulmek.core.handcalc.teeth import tooth_beam_stress, tooth_fillet_factor
from ulmek.core.review.balance import Carrier
from ulmek.core.review.summary import Summary
from ulmek.study.units import value_of
from ulmek.verify.case import Check, Solve, Solved, base_document, hold, load, part, step

MODULE, PINION, WHEEL, BORE, WIDTH, PLAY = 5.0, 17, 40, 30.0, 10.0, 0.05
ROOT_FILLET = 0.38  # modules, as the recipe draws it
TURN = 6e-4  # rad, beyond the play: where faces stay as they were drawn
RACK_TURN = 0.004
ALONE = -3.5  # degrees: the middle tooth of the pinion meets the wheel alone


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
    push = f"{PLAY + RACK_TURN * radius} mm"
    study["loads"] = [load("push", "displacement", {"push": push}, "rack/end.left", direction=[1, 0, 0])]
    study["steps"] = [step("push", 0.25)]
    last = solve(study).last
    ratio = _moment(last.carrier("held"), (0, radius)) / last.carrier("push").force[0]
    return [Check("moment at the pinion over the force on the rack", "mm", radius, abs(ratio), 0.005)]


# Flanks of gears in mesh, as a geared joint sizes them in a section, and a wheel that hardly gives (mm).
FINE, WHEEL_BORE, CLOSE_PLAY = MODULE / 20, 140.0, 0.004
# Turn of the pinion (degrees) and profile shifts of both: along the path of contact, one pair of teeth and two in mesh.
IN_MESH = (
    (-7.0, 0.0, 0.0), (-3.5, 0.0, 0.0), (0.0, 0.0, 0.0), (7.0, 0.0, 0.0), (-3.5, 0.5, 0.3), (3.5, 0.5, 0.3),
    (0.0, 0.4, -0.4),
)  # fmt: skip


def _fine_pair(name: str, title: str, at: float, shifts: tuple[float, float], play: float) -> dict[str, Any]:
    """A pinion turned by ``at`` degrees in mesh with a wheel, both with finer flanks and their handles."""
    study = _study(name, title)
    sizes = zip((PINION, WHEEL), shifts, strict=True)
    apart = working_distance(*(Gearing(z, MODULE, np.deg2rad(20), shift) for z, shift in sizes))
    study["parts"] = [
        _teeth("pinion", PINION, 5, turn=f"z {at}"),
        _teeth("wheel", WHEEL, 6, turn=f"z {180 - at * PINION / WHEEL}", at=(apart, 0)),
    ]
    for gear, shift, bore in zip(study["parts"], shifts, (BORE, WHEEL_BORE), strict=True):
        gear["recipe"]["dimensions"] |= {
            "profile_shift": shift, "bore_diameter": f"{bore} mm", "thinning": f"{play} mm"
        }  # fmt: skip
        wanted = gear["recipe"]["dimensions"]["wanted"]
        gear["mesh"] = {**MESH, "faces": {f"tooth.{k + 1}.left": f"{FINE} mm" for k in range(wanted)}}
    study["handles"] = [_handle("drive", (0, 0), "pinion/bore"), _handle("held", (apart, 0), "wheel/bore")]
    # Side A bends less: its normals change less from node to node.
    study["pairs"] = [_flanks("wheel", 6, "pinion", 5, "left")]
    return study


def _passed_on(summary: Summary, apart: float, carried: float | None = None) -> float:
    """Moment at the wheel over that at the pinion; ``carried`` (N·mm): what loads the wheel, where nothing holds it."""
    driving = summary.carrier("drive").moment[2] + _moment(summary.carrier("bearing"), (0, 0))
    held = _moment(summary.carrier("brake"), (apart, 0)) if carried is None else carried
    return abs(held / driving)


def gear_pair(solve: Solve) -> list[Check]:
    """One gear driven through its play, the other held, smooth: moments as z₂/z₁."""
    solved = _driven(solve, "gear-pair", ALONE, (0.0, 0.0), PLAY)
    return [
        Check("ratio of the moments", "–", WHEEL / PINION, _passed_on(solved.last, *_apart(solved)), 0.005),
        _root_bending(solved),
    ]


def gears_in_mesh(solve: Solve) -> list[Check]:
    """Moments as z₂/z₁ at several positions of the mesh and with profile shifts (Niemann and Winter 2003, ch. 21)."""
    checks = []
    for at, own, other in IN_MESH:
        solved = _driven(solve, "gears-in-mesh", at, (own, other), CLOSE_PLAY)
        said = f"ratio of the moments at {at:g}°" + (f", shifts {own:g} and {other:g}" if own else "")
        checks.append(Check(said, "–", WHEEL / PINION, _passed_on(solved.last, *_apart(solved)), 0.003))
    return checks


def _driven(solve: Solve, name: str, at: float, shifts: tuple[float, float], play: float) -> Solved:
    """A pinion driven through the play and a little on, the wheel held."""
    study = _fine_pair(name, name.replace("-", " ").capitalize(), at, shifts, play)
    study["supports"] = [
        hold("bearing", ["x", "y"], handle="drive"), hold("brake", ["x", "y", "turn-z"], handle="held")
    ]  # fmt: skip
    turn = f"{play / (MODULE * PINION / 2) + TURN} rad"
    study["loads"] = [load("drive", "rotation", {"drive": turn}, handle="drive", direction=[0, 0, 1])]
    study["steps"] = [step("drive", 0.5)]
    return solve(study)


def _apart(solved: Solved) -> tuple[float]:
    """Where the wheel's axis is (mm)."""
    return (value_of(solved.study.handles[1].at[0], "length"),)


def gears_turned(solve: Solve) -> list[Check]:
    """A loaded wheel driven through the play and half a pitch on: moments as z₂/z₁ wherever the teeth are."""
    study = _fine_pair("gears-turned", "Gears turned", -6.0, (0.0, 0.0), PLAY)
    apart, moment = value_of(study["handles"][1]["at"][0], "length"), 100e3
    study["supports"] = [
        hold("bearing", ["x", "y"], handle="drive"), hold("seat", ["x", "y"], handle="held"),
        hold("brake", ["turn-z"], handle="held", released=["load", "turn"]),
    ]  # fmt: skip
    study["loads"] = [
        load("drive", "rotation", {"play": "0.0014 rad", "turn": "0.15 rad"}, handle="drive", direction=[0, 0, 1]),
        load("torque", "moment", {"load": f"{moment} N*mm"}, handle="held", direction=[0, 0, 1]),
    ]
    study["steps"] = [step(n, size, large_motion=True) for n, size in (("play", 1.0), ("load", 1.0), ("turn", 0.2))]
    turned = [_passed_on(s, apart, moment) for s in solve(study).outcome.summaries if s.step == 2]
    worst = max(turned, key=lambda ratio: abs(ratio - WHEEL / PINION))
    return [Check("ratio of the moments, farthest off of five positions", "–", WHEEL / PINION, worst, 0.005)]


def _root_bending(solved: Solved) -> Check:
    """Tension in the root of the pinion's middle tooth beside that of a beam from the section where it is largest, with
    the concentration of the fillet; along and across the tooth."""
    pinion, flanks = solved.fields("pinion"), solved.pair("flanks")
    c, s = np.cos(np.deg2rad(ALONE)), np.sin(np.deg2rad(ALONE))
    to_tooth = np.array([[c, s], [-s, c]])
    x, y = to_tooth @ flanks["points"][flanks["pressure"].argmax(), :2]
    force = to_tooth @ solved.last.pairs["flanks"].force[:2]
    sx, sy, sxy = pinion["stress"][:, [0, 1, 3]].T
    tension = (sx + sy) / 2 + np.hypot((sx - sy) / 2, sxy)
    at = to_tooth @ pinion["points"][tension.argmax(), :2]
    # The force acts where its line meets the middle of the tooth.
    thickness, arm = 2 * abs(float(at[1])), float(x - y * force[0] / force[1] - at[0])
    beam = tooth_beam_stress(abs(float(force[1])), WIDTH, arm, thickness) - abs(float(force[0])) / (WIDTH * thickness)
    expected = tooth_fillet_factor(thickness, ROOT_FILLET * MODULE, arm) * beam
    return Check("tension in the root of the tooth, beside a beam", "MPa", expected, float(tension.max()), None)
