"""Cases that are hard to converge: each settles without tuning, and its answer is checked against statics."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.runs.solve import Outcome, solve_study
from ulmek.study.items import read_study
from ulmek.verify.case import Solved, base_document, block_part, hold, load, part, spot, step


def _solve(document: dict[str, Any], folder: Path) -> Outcome:
    outcome = solve_study(read_study(document), folder=folder)
    assert outcome.status == "solved", outcome.message
    assert max(s.balance.closing_error for s in outcome.summaries) < 1e-6
    return outcome


def _slider(
    mu: float, *, length: float = 80.0, at: float = 0.0, young: str = "210 GPa", depth: float = 10.0
) -> dict[str, Any]:
    """A slider of 20 mm width, held by a handle on its top, on a base; plane strain."""
    study = base_document("slider", "Slider")
    study["materials"].append({"id": "soft", "name": "Slider", "young": young, "poisson": 0.3})
    study["space"] = "plane-strain"
    study["parts"] = [
        part("base", "block", {"length": length, "depth": 10, "height": 1}, {"size": "2.5 mm"}, at=(0, -5)),
        part("slider", "block", {"length": 20, "depth": depth, "height": 1}, {"size": "1.8 mm"}, at=(at, depth / 2),
             material="soft"),
    ]  # fmt: skip
    law = {"mu": mu} if mu else {"may_slide": "freely"}
    study["pairs"] = [{"id": "joint", "name": "Joint", "a": ["slider/near"], "b": ["base/far"], "law": law}]
    study["handles"] = [
        {"id": "grip", "name": "Grip", "at": [f"{at} mm", f"{depth} mm", "0 mm"], "faces": ["slider/far"]}
    ]
    study["supports"] = [hold("floor", ["x", "y"], "base/near"), hold("guide", ["turn-z"], handle="grip")]
    study["loads"] = [load("press", "force", {"press": "2000 N"}, handle="grip", direction=[0, -1, 0])]
    study["steps"] = [step("press", 0.5)]
    return study


def _add(study: dict[str, Any], what: dict[str, Any], *steps: dict[str, Any]) -> None:
    study["loads"].append(what)
    study["steps"] += steps


def test_load_reversal_with_friction(tmp_path: Path) -> None:
    study = _slider(0.3)
    values = {
        name: f"{sign}500 N"
        for name, sign in zip(("push", "back", "again", "over", "last"), ("", "-") * 3, strict=False)
    }
    _add(study, load("push", "force", values, handle="grip", direction=[1, 0, 0]), *(step(s, 0.25) for s in values))
    outcome = _solve(study, tmp_path)
    moved = [_motion(tmp_path, study, outcome, k) for k in (3, 4, 5)]
    # The loop closes: the same load pushed the same way again ends where it was, and the reverse mirrors it.
    assert moved[2] == pytest.approx(moved[0], rel=1e-3)
    assert moved[1] == pytest.approx(-moved[0], rel=0.1)


def _motion(folder: Path, study: dict[str, Any], outcome: Outcome, at_step: int) -> float:
    solved = Solved(read_study(study), outcome, folder)
    fields = solved.fields("slider", solved.end_of(at_step))
    return float(fields["displacement"][fields["points"][:, 1] > 9.999, 0].mean())


def test_near_lift_off(tmp_path: Path) -> None:
    study = _slider(0.3)
    _add(study, load("lift", "force", {"lift": "1998 N"}, handle="grip", direction=[0, 1, 0]), step("lift", 0.25))
    joint = _solve(study, tmp_path).summaries[-1].pairs["joint"]
    assert joint.normal_force == pytest.approx(2.0, rel=1e-6)


def test_single_big_step(tmp_path: Path) -> None:
    study = _slider(0.3)
    study["loads"].append(load("push", "force", {"press": "550 N"}, handle="grip", direction=[1, 0, 0]))
    study["steps"] = [step("press", 1.0)]
    outcome = _solve(study, tmp_path)
    assert sum(s.cutbacks for s in outcome.steps) == 0
    assert outcome.summaries[-1].pairs["joint"].friction_force == pytest.approx(550.0, rel=1e-6)


def test_gross_sliding_under_prescribed_motion(tmp_path: Path) -> None:
    """30 mm over a dozen facets of the base, re-integrated on the way: µN all along."""
    study = _slider(0.3, at=-15.0)
    study["steps"] = [step("press", 0.5, large_motion=True)]
    drag = load("drag", "displacement", {"press": "0 mm", "drag": "30 mm"}, handle="grip", direction=[1, 0, 0])
    _add(study, drag, step("drag", 0.05, large_motion=True))
    outcome = _solve(study, tmp_path)
    last = outcome.summaries[-1]
    assert last.carrier("drag").force[0] == pytest.approx(0.3 * 2000, rel=2e-3)
    assert last.pairs["joint"].max_sliding == pytest.approx(30.0, rel=0.02)
    assert last.pairs["joint"].share_open < 0.01


def test_first_touch_across_a_gap_by_force_with_a_stabilising_spring(tmp_path: Path) -> None:
    study = _slider(0.3)
    study["parts"][1]["placements"][0]["at"][1] = "5.3 mm"
    study["handles"][0]["at"][1] = "10.3 mm"
    study["springs"] = [
        {"id": "weak", "name": "Stabilising spring", "a": "grip", "stiffness": ["1 N/mm", "1 N/mm", "0 N/mm"]}
    ]
    last = _solve(study, tmp_path).summaries[-1]
    spring = last.carrier("weak").force[1]
    assert last.pairs["joint"].normal_force == pytest.approx(2000.0 - spring, rel=1e-9)
    assert 0.3 <= spring < 0.32


def test_snap_past_a_tooth_with_slow_dynamics(tmp_path: Path) -> None:
    """A round foot on a spring is drawn over a round tooth and falls down behind it."""
    study = base_document("snap", "Snap")
    study["space"] = "plane-strain"
    study["materials"][0]["density"] = "7850 kg/m^3"
    study["parts"] = [
        part("tooth", "disc", {"diameter": 20, "thickness": 1, "sector": 180},
             {"size": "2 mm", "faces": {"rim": "0.7 mm"}}, at=(0, 0), turn="z 180"),
        part("foot", "disc", {"diameter": 20, "thickness": 1, "sector": 180},
             {"size": "2 mm", "faces": {"rim": "0.6 mm"}}, at=(-10.2, 17.4)),
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "joint", "name": "Foot – tooth", "a": ["foot/rim"], "b": ["tooth/rim"], "law": {"may_slide": "freely"},
         "search": "3 mm"}
    ]  # fmt: skip
    study["handles"] = [{"id": "grip", "name": "Grip", "at": ["-10.2 mm", "17.4 mm", "0 mm"], "faces": ["foot/flat"]}]
    study["springs"] = [{"id": "spring", "name": "Spring", "a": "grip", "stiffness": ["0 N/mm", "50 N/mm", "0 N/mm"]}]
    study["supports"] = [hold("floor", ["x", "y"], "tooth/flat"), hold("guide", ["turn-z"], handle="grip")]
    study["loads"] = [load("draw", "displacement", {"draw": "22 mm"}, handle="grip", direction=[1, 0, 0])]
    study["steps"] = [step("draw", 0.02, large_motion=True, dynamics={"duration": "2 s", "damping": 200})]
    outcome = _solve(study, tmp_path)
    lifted = [s.carrier("spring").force[1] for s in outcome.summaries]
    # On top the foot stands 20 mm above the tooth's middle, 2.6 mm above its rest.
    assert min(lifted) == pytest.approx(-50 * 2.6, rel=0.02)
    assert outcome.summaries[-1].pairs["joint"].share_open == 1.0
    assert abs(lifted[-1]) < 5.0


def test_press_fit_then_torque_to_slip(tmp_path: Path) -> None:
    """0.1 % of the radius pressed, then turned: the torque stops at µ·p·2πb²."""
    study = base_document("fit", "Fit")
    study["space"] = "plane-stress"
    a, b, c, mu = 10.0, 20.0, 40.0, 0.1
    ring = {"thickness": 1, "sector": 360}
    study["parts"] = [
        part("shaft", "washer", {"inner_diameter": 2 * a, "outer_diameter": 2 * b, **ring},
             {"size": "2 mm", "per_turn": 60}),
        part("hub", "washer", {"inner_diameter": 2 * b, "outer_diameter": 2 * c, **ring},
             {"size": "3 mm", "per_turn": 60}),
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "fit", "name": "Fit", "a": ["shaft/rim"], "b": ["hub/bore"], "law": {"mu": mu}, "fit": "value",
         "interference": f"{0.001 * b} mm"}
    ]  # fmt: skip
    study["handles"] = [{"id": "wheel", "name": "Wheel", "faces": ["hub/rim"], "kind": "rigid"}]
    study["supports"] = [hold("core", ["x", "y"], "shaft/bore"), hold("middle", ["x", "y"], handle="wheel")]
    study["loads"] = [
        load("turn", "rotation", {"fit": "0 deg", "turn": "0.5 deg"}, handle="wheel", direction=[0, 0, 1])
    ]
    study["steps"] = [step("fit", 0.5), step("turn", 0.1)]
    last = _solve(study, tmp_path).summaries[-1]
    torque = last.carrier("turn").moment[2]
    assert torque == pytest.approx(mu * last.pairs["fit"].normal_force * b, rel=2e-3)
    assert last.pairs["fit"].share_sliding > 0.99


def test_friction_coefficient_of_one(tmp_path: Path) -> None:
    study = _slider(1.0)
    drag = load("drag", "displacement", {"press": "0 mm", "drag": "0.2 mm"}, handle="grip", direction=[1, 0, 0])
    _add(study, drag, step("drag", 0.1))
    last = _solve(study, tmp_path).summaries[-1]
    assert last.carrier("drag").force[0] == pytest.approx(2000.0, rel=1e-3)


def test_rubber_against_a_corner(tmp_path: Path) -> None:
    """A rubber pad squeezed by a fifth on a narrower steel block, whose corners cut in."""
    study = base_document("corner", "Corner")
    study["space"] = "plane-strain"
    study["materials"].append({"id": "rubber", "name": "Rubber", "rubber": {"c10": "0.6 MPa", "bulk": "600 MPa"}})
    corner = [spot((x, -6, 0), 0.6) for x in (-8.0, 8.0)]
    study["parts"] = [
        part("block", "block", {"length": 16, "depth": 10, "height": 1}, {"size": "1.5 mm"}, at=(0, -5)),
        part("pad", "block", {"length": 30, "depth": 12, "height": 1}, {"size": "2 mm", "spots": corner}, at=(0, 6),
             material="rubber"),
    ]  # fmt: skip
    study["pairs"] = [
        {
            "id": "joint",
            "name": "Pad – block",
            "a": ["pad/near"],
            "b": ["block/far"],
            "law": {"mu": 0.4},
            "search": "2 mm",
        }
    ]
    study["supports"] = [hold("floor", ["x", "y"], "block/near"), hold("side", ["x"], "pad/far")]
    study["loads"] = [load("squeeze", "displacement", {"squeeze": "2.4 mm"}, "pad/far", direction=[0, -1, 0])]
    study["steps"] = [step("squeeze", 0.1, large_motion=True)]
    last = _solve(study, tmp_path).summaries[-1]
    assert last.pairs["joint"].normal_force > 20.0
    assert last.carrier("squeeze").force[1] == pytest.approx(-last.carrier("floor").force[1], rel=1e-6)


def test_thin_strip_against_a_stiff_block(tmp_path: Path) -> None:
    """Young's moduli 1 to 1000, a strip half a millimetre thick pressed evenly: p all over."""
    study = _slider(0.2, young="210 MPa", depth=0.5)
    study["parts"][1]["mesh"]["size"] = "0.4 mm"
    del study["handles"]
    study["supports"] = [hold("floor", ["x", "y"], "base/near"), hold("side", ["x"], "slider/far")]
    study["loads"] = [load("press", "pressure", {"press": "5 MPa"}, "slider/far")]
    outcome = _solve(study, tmp_path)
    pressure = Solved(read_study(study), outcome, tmp_path).pair("joint")["pressure"]
    middle = np.sort(pressure)[len(pressure) // 5 : -len(pressure) // 5]
    assert np.allclose(middle, 5.0, rtol=0.02)


def test_a_strip_whose_end_is_turned_far_about_one_axis_and_free_about_the_others(tmp_path: Path) -> None:
    """Pure bending, M = E I θ / L (Euler 1744); rotation vectors beyond a quarter turn are far from small turns."""
    length, thick, width, angle = 60.0, 2.0, 20.0, 200.0
    study = base_document("strip", "Strip", poisson=0.0)
    study["parts"] = [part("strip", "block", {"length": length, "depth": thick, "height": width}, {"size": "4 mm"})]
    study["handles"] = [{"id": "end", "name": "End", "at": ["30 mm", "0 mm", "10 mm"], "faces": ["strip/right"]}]
    study["supports"] = [hold("root", ["x", "y", "z"], "strip/left")]
    study["loads"] = [load("turn", "rotation", {"turn": f"{angle} deg"}, handle="end", direction=[0, 0, 1])]
    study["steps"] = [step("turn", 0.25, large_motion=True)]
    outcome = _solve(study, tmp_path)
    (turned,) = [c for c in outcome.summaries[-1].carriers if c.kind == "motion"]
    assert abs(turned.moment[2]) == pytest.approx(210e3 * width * thick**3 / 12 * np.deg2rad(angle) / length, rel=0.02)


@pytest.mark.parametrize("large", [False, True])
def test_a_leaf_is_pressed_down_and_comes_back_to_nothing(tmp_path: Path, large: bool) -> None:
    """It could yield and touch, and does neither; the last increment ends without any force to measure others by."""
    study = base_document("leaf", "Leaf")
    study["materials"][0]["hardening"] = {
        "table": [{"strain": 0, "stress": "410 MPa"}, {"strain": 1, "stress": "2 GPa"}]
    }
    study["parts"] = [part("leaf", "block", {"length": 60, "depth": 10, "height": 2}, {"size": "5 mm"})]
    study["walls"] = [{"id": "wall", "name": "Wall", "kind": "plane", "at": ["0 mm", "0 mm", "-1 mm"],
                       "direction": [0, 0, 1]}]  # fmt: skip
    study["pairs"] = [{"id": "stop", "name": "Stop", "a": ["leaf/bottom"], "b": [], "wall": "wall"}]
    study["supports"] = [hold("root", ["x", "y", "z"], "leaf/left")]
    study["loads"] = [
        load("down", "displacement", {"down": "0.9 mm", "back": "off"}, "leaf/right", direction=[0, 0, -1])
    ]
    study["steps"] = [step(s, 0.25, large_motion=large) for s in ("down", "back")]
    outcome = _solve(study, tmp_path)
    assert sum(s.cutbacks for s in outcome.steps) == 0
    last = outcome.summaries[-1]
    assert max(p.max_displacement for p in last.parts.values()) < 1e-12


def _leaf(way: str, *, large: bool, thick: float, length: float) -> dict[str, Any]:
    """A leaf of mild steel that is bent until it yields, and brought back, or let go."""
    study = base_document("leaf", "Leaf")
    rows = [{"strain": 0, "stress": "355 MPa"}, {"strain": 0.05, "stress": "450 MPa"}]
    study["materials"][0] |= {"hardening": {"table": rows}, "yield_stress": None}
    study["parts"] = [block_part("leaf", (length, 6, thick), 2, layers=1 if thick < 1 else 2)]
    study["supports"] = [hold("clamp", ["x", "y", "z"], "leaf/left")]
    values = {"push": "3 mm", **({"after": "0 mm"} if way == "back" else {})}
    released = ["after"] if way == "let go" else []
    study["loads"] = [load("push", "displacement", values, "leaf/right", direction=[0, 0, -1], released=released)]
    study["steps"] = [step(name, 0.1, large_motion=large) for name in ("push", "after")]
    return study


@pytest.mark.parametrize(
    ("way", "large", "thick", "length"),
    [
        ("back", True, 2.0, 20.0),
        ("let go", False, 1.0, 40.0),
        ("let go", True, 1.0, 20.0),
        # Let go at once it is thrown too far to be followed: it is let go bit by bit.
        ("let go", True, 0.5, 30.0),
    ],
)
def test_a_leaf_that_has_yielded_is_brought_back_and_let_go(
    way: str, large: bool, thick: float, length: float, tmp_path: Path
) -> None:
    study = _leaf(way, large=large, thick=thick, length=length)
    solved = Solved(read_study(study), _solve(study, tmp_path), tmp_path)
    bent, after = (solved.fields("leaf", solved.end_of(n)) for n in range(2))
    tip = bent["points"][:, 0] > length / 2 - 1e-6
    lies = -float(after["displacement"][tip, 2].mean())
    summary = solved.last
    if way == "back":
        assert abs(lies) < 1e-9
        assert summary.carrier("push").force[2] > 0
        return
    # It springs back by what is elastic, and no more yields on the way.
    assert 0.02 < lies < 2.5
    assert np.abs(summary.carrier("clamp").force).max() < 1e-6 * summary.balance.scale + 1e-3
    assert after["plastic_strain"].max() == pytest.approx(bent["plastic_strain"].max(), rel=0.02)
    assert solved.outcome.steps[1].let_go_slowly == (thick < 1)
