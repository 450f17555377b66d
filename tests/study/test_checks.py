"""Hand calculations beside a run: they are those of the closed forms, and say what does not hold."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import UlmekError
from ulmek.core.handcalc.hertz import contact_modulus, line_contact, point_contact
from ulmek.core.handcalc.rings import press_fit_pressure
from ulmek.demo import demo_study
from ulmek.demo.guide_roller import RADIUS
from ulmek.runs.solve import solve_study
from ulmek.study.checks import Asked, HandCheck, hand_checks, reckoned
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.ledger import build_ledger
from ulmek.study.meshing_gears import teeth_of
from ulmek.study.translate import translate
from ulmek.study.units import value_of
from ulmek.verify.belt import belt
from ulmek.verify.case import base_document, block_part, hold, load, part, step, symmetry
from ulmek.verify.hertz_line import Line, line_document
from ulmek.verify.hertz_point import Point, quarter_document
from ulmek.verify.press_fit import INNER, JOINT, LENGTH, MU, OUTER, OVERLAP, YOUNG, fit_document


def _checked(document: dict[str, Any]) -> list[HandCheck]:
    study = read_study(document)
    outcome = solve_study(study)
    assert outcome.status == "solved"
    return hand_checks(study, translate(study), outcome.summaries)


def _values(check: HandCheck) -> dict[str, tuple[float, float | None]]:
    return {v.name: (v.hand, v.computed) for v in check.values}


def test_half_a_roller_is_reckoned_with_the_whole_force() -> None:
    line = Line(share=0.2)
    (check,) = _checked(line_document(line, space="plane-strain"))
    hand, computed = _values(check)["Peak pressure"]
    assert hand == pytest.approx(line.peak, rel=1e-3)
    assert computed == pytest.approx(line.peak, rel=0.03)
    assert _values(check)["Half width of what presses"] == (pytest.approx(line.half_width, rel=1e-3), None)
    assert check.holds
    assert [c.met for c in check.conditions] == [True, True, True, True]


def test_a_quarter_of_a_ball_is_reckoned_with_four_times_its_force() -> None:
    point = Point(radius=10.0, contact=1.0, share=0.2)
    (check,) = _checked(quarter_document(point))
    hand, computed = _values(check)["Peak pressure"]
    assert hand == pytest.approx(point.peak, rel=0.01)
    assert computed == pytest.approx(point.peak, rel=0.06)


@pytest.mark.parametrize(
    ("by", "elements"), [("drawing", "bricks"), ("drawing", "wedges"), ("drawing", "tets"), ("value", "bricks")]
)
def test_a_fit_is_that_of_thick_rings_and_holds_as_much(by: str, elements: str) -> None:
    document = fit_document(by, {"may_slide": "friction", "mu": MU})
    for piece in document["parts"]:
        # So coarse that facets lie up to 0.06 mm off the round faces, twice the overlap.
        piece["mesh"] = {"size": "6 mm", "layers": 2, "per_turn": 24, "elements": elements}
    document["loads"], document["steps"] = [], document["steps"][:1]
    (check,) = _checked(document)
    rings = (JOINT**2 + INNER**2) / (JOINT**2 - INNER**2) + (OUTER**2 + JOINT**2) / (OUTER**2 - JOINT**2)
    pressure = OVERLAP * YOUNG / JOINT / rings
    hand, computed = _values(check)["Mean pressure in the fit"]
    assert hand == pytest.approx(pressure, rel=1e-6)
    # Friction holds the rings against their strain along the axis a little.
    assert computed == pytest.approx(pressure, rel=0.03)
    held, _ = _values(check)["Push along the axis that it holds"]
    assert held == pytest.approx(MU * pressure * np.pi / 2 * JOINT * LENGTH, rel=1e-3)
    assert check.holds
    # A hub that is held round about cannot widen, and the formula does not hold.
    document["supports"].append(hold("rim", ["x", "y"], "hub/rim"))
    (stiff,) = _checked(document)
    assert [c.text for c in stiff.conditions if c.met is False] == [
        "Both are free to widen: nothing holds them round about"
    ]
    assert not stiff.holds


def test_a_line_bolt_with_a_class_is_reckoned_by_its_proof_load() -> None:
    study = base_document("tie", "Tie")
    study["parts"] = [part("block", "block", {"length": 40, "depth": 40, "height": 20}, {"size": "10 mm"})]
    study["supports"] = [hold("floor", ["x", "y", "z"], "block/bottom")]
    study["handles"] = [{"id": "head", "name": "Head", "at": ["0 mm", "0 mm", "20 mm"], "faces": ["block/top"]}]
    study["loads"] = [load("push", "pressure", {"tighten": "1 MPa"}, "block/top")]
    study["bolts"] = [
        {"id": "tie", "name": "Tie", "line": {"head": "head", "direction": [0, 0, 1], "stiffness": "300 kN/mm"},
         "preload": {"tighten": "50 N*m"}, "torque": {"nut_factor": 0.2, "diameter": "12 mm"}, "strength": "8.8"}
    ]  # fmt: skip
    study["steps"] = [step("tighten")]
    (check,) = _checked(study)
    # M12: 84.3 mm² and 580 MPa; T/(K d) = 20.8 kN.
    values = _values(check)
    assert values["Proof load of class 8.8"] == (pytest.approx(48.9e3, rel=2e-3), pytest.approx(50e3 / 2.4, rel=1e-6))
    assert values["Stress in the thread, M12"][0] == pytest.approx(50e3 / 2.4 / 84.27, rel=1e-3)


def test_what_no_formula_knows_has_no_check(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    assert _checked(two_blocks) == []


def test_roots_of_teeth_are_reckoned_for_the_force_that_their_flanks_carry() -> None:
    study = demo_study("pinion-sector")
    outcome = solve_study(study)
    (check,) = [c for c in hand_checks(study, translate(study), outcome.summaries) if "bending of the teeth" in c.title]
    force = outcome.summaries[-1].pairs["flanks"].normal_force
    gears = {p.name: teeth_of(p) for p in study.parts}
    found = _values(check)
    for name, teeth in gears.items():
        hand, _ = found[f"Root of {name}: one tooth, at its tip"]
        # Lewis with his form factor from tables, 17 and 40 teeth of 20°: 0.303 and 0.389, for roots of another fillet.
        tabled = {17: 0.303, 40: 0.389}[int(teeth["teeth"])]
        lewis = force * np.cos(np.deg2rad(20)) / (min(t["width"] for t in gears.values()) * teeth["module"] * tabled)
        assert lewis < hand < 2 * lewis
        limit, computed = found[f"What {name} bears"]
        assert computed == hand
        assert limit > 0


@pytest.mark.parametrize(
    ("recipe", "inner", "space"), [("washer", 20.0, "plane-stress"), ("disc", 0.0, "solid"), ("washer", 30.0, "solid")]
)
def test_rings_and_discs_that_spin_are_reckoned(recipe: str, inner: float, space: str) -> None:
    study = base_document("spin", "Spin")
    study["materials"][0]["density"] = "7850 kg/m^3"
    study["space"], study["thickness"] = space, "4 mm"
    size = {"outer_diameter": 160, "inner_diameter": 2 * inner} if inner else {"diameter": 160}
    mesh = {"size": "4 mm", "layers": 2, "faces": {"bore": "1 mm"} if inner else {}}
    study["parts"] = [part("wheel", recipe, {**size, "thickness": 4, "sector": 90}, mesh)]
    study["supports"] = [
        symmetry(name, f"wheel/{name}") for name in (("start", "end") if inner else ("flat", "middle"))
    ]
    if space == "solid":
        study["supports"].append(hold("still", ["z"], "wheel/bottom"))
    study["loads"] = [load("turn", "spin", {"turn": "800 rad/s"}, direction=[0, 0, 2])]
    study["steps"] = [step("turn")]
    (check,) = _checked(study)
    assert (check.kind, check.id) == ("part", "wheel")
    (hand, computed), *_ = _values(check).values()
    whole = 3.3 / 4 * 7.85e-9 * 800**2 * (80**2 + 0.7 / 3.3 * inner**2)
    assert hand == pytest.approx(whole if inner else whole / 2)
    assert computed == pytest.approx(hand, rel=0.02)
    assert check.holds
    # About another axis than its own it is no such ring.
    study["loads"][0]["centre"] = ["3 mm", "0 mm", "0 mm"]
    assert _checked(study) == []


def test_a_bolt_that_is_bent_is_reckoned_at_the_edge_of_its_thread_and_as_it_was_tightened() -> None:
    """A stud held at its foot, tightened against its own nut of nothing: pulled, then pushed aside as well."""
    study = base_document("stud", "Stud")
    study["parts"] = [part("stud", "stud", {"diameter": 16}, {"size": "4 mm"})]
    study["supports"] = [hold("foot", ["x", "y", "z"], "stud/foot.end"), hold("held", ["z"], "stud/head.end")]
    study["loads"] = [
        {**load("push", "force", {"push": "1 kN"}, "stud/head.end"), "direction": [1, 0, 0]},
    ]
    study["bolts"] = [
        {"id": "stud", "name": "Stud", "part": "stud", "preload": {"tighten": "40 kN"}, "strength": "8.8"}
    ]
    study["steps"] = [step("tighten"), step("push")]
    (check,) = _checked(study)
    values = _values(check)
    # M16: 156.7 mm² and 580 MPa; 78 mm from the foot bends it by 78 N·m at most, which adds 280 MPa there.
    assert values["Proof load of class 8.8, as tightened"] == (pytest.approx(90.9e3, rel=2e-3), pytest.approx(40e3))
    assert 255.0 < values["Stress in the thread, M16"][0] < 257.0
    assert 350.0 < values["Edge of the thread with shear and bending of the run"][0] < 256.0 + 290.0
    assert [c.met for c in check.conditions] == [False]
    study["loads"] = []
    study["steps"] = [step("tighten")]
    (check,) = _checked(study)
    assert [c.met for c in check.conditions] == [True]


def _bar(**more: Any) -> dict[str, Any]:
    """A bar 16 mm deep and 10 mm wide, turned in the plane, held at one end."""
    study = base_document("bar", "Bar")
    study["parts"] = [block_part("bar", (160, 10, 16), 4)]
    turn = {"axis": "z", "angle": "30 deg"}
    study["parts"][0]["placements"] = [{"at": ["10 mm", "-5 mm", "7 mm"], "turn": turn}]
    study["supports"] = [hold("wall", ["x", "y", "z"], "bar/left")]
    study["steps"] = [step("pull")]
    return study | more


def test_a_bar_held_at_one_end_is_reckoned_as_a_beam_whatever_acts_along_it() -> None:
    down = load("pull", "force", {"pull": "300 N"}, "bar/right", direction=[0, 0, -1])
    (check,) = _checked(_bar(loads=[down, load("press", "pressure", {"pull": "0.2 MPa"}, "bar/top")]))
    second, weight, young = 10 * 16**3 / 12, 0.2 * 10, 210e3
    moment = 300 * 160 + weight * 160**2 / 2
    bends = 300 * 160**3 / (3 * young * second) + weight * 160**4 / (8 * young * second)
    values = _values(check)
    assert values["Largest bending moment"] == (pytest.approx(moment, rel=1e-6), None)
    assert values["Highest stress"][0] == pytest.approx(moment * 8 / second, rel=1e-4)
    # Shear adds 1 %; and the bricks bend as much.
    assert values["Largest displacement"] == (pytest.approx(bends, rel=0.015), pytest.approx(bends, rel=0.02))
    # An inner handle that something else hangs on makes it none that statics knows.
    sprung = _bar(
        loads=[down],
        handles=[{"id": "eye", "name": "Eye", "at": ["0 mm"] * 3, "kind": "averaging", "faces": ["bar/top"]}],
    )
    sprung["springs"] = [{"id": "prop", "name": "Prop", "a": "eye", "stiffness": ["1 N/mm"] * 3}]
    assert _checked(sprung) == []


def test_bars_clamped_at_both_ends_and_moved_are_reckoned_with_the_force_between_them() -> None:
    study = demo_study("crossed-stops")
    outcome = solve_study(study)
    checks = hand_checks(study, translate(study), outcome.summaries)
    force = outcome.summaries[-1].pairs["cross"].normal_force
    assert [c.id for c in checks if c.kind == "part"] == ["upper", "lower"]
    # Their meshes show no peak where they cross: Hertz does.
    (crossing,) = (c for c in checks if c.kind == "pair")
    peak = point_contact(force, 10.0, contact_modulus(210e3, 0.3, 210e3, 0.3)).peak
    assert _values(crossing)["Peak pressure"] == (pytest.approx(peak, rel=1e-3), None)
    assert [c.met for c in crossing.conditions if "yielded" in c.text] == [False]
    for check in (c for c in checks if c.kind == "part"):
        assert _values(check)["Largest bending moment"][0] == pytest.approx(force * 300 / 8, rel=1e-3)
        for value in check.values:
            assert value.computed == pytest.approx(value.hand, rel=1e-4)


def test_a_band_round_a_drum_pulls_no_harder_than_it_grips() -> None:
    documents: list[dict[str, Any]] = []

    def first(document: dict[str, Any]) -> Any:
        documents.append(document)
        raise InterruptedError

    with pytest.raises(InterruptedError):
        belt(first)
    (check,) = _checked(documents[0])
    ratio, computed = _values(check)["Tight over slack side before it slips"]
    assert ratio == pytest.approx(np.exp(0.3 * np.pi / 2), rel=1e-4)
    assert computed == pytest.approx(ratio, rel=0.01)
    assert check.title.endswith("band round a drum")


def _asked(study: StudyDocument, *faces: str, force: str = "2 kN", mu: float = 0.1) -> dict[str, float]:
    """Values by hand of faces, by the title of what they are of and their names."""
    return {f"{r.title}: {v.name}": v.hand for r in reckoned(study, Asked(faces, force, mu)) for v in r.values}


def test_faces_that_are_picked_are_reckoned_before_a_run() -> None:
    roller, sleeve, eye, bars = (
        demo_study(name) for name in ("guide-roller", "drum-sleeve", "lifting-eye", "crossed-stops")
    )
    line = _asked(roller, "roller/rim", "rail/far")
    modulus = contact_modulus(210e3, 0.3, 210e3, 0.3)
    hertz = line_contact(2000 / value_of(roller.thickness, "length"), RADIUS, modulus)
    assert line["Contact along a line: Peak pressure"] == pytest.approx(hertz.peak, rel=1e-3)
    # The fit is that of the pair, which is drawn without any.
    fit = _asked(sleeve, "sleeve/rim", "hub/bore")
    pressure = press_fit_pressure(
        0.05, 24, 30, 50, shaft=(105e3 / (1 - 0.34**2), 0.34 / 0.66), hub=(210e3 / 0.91, 0.3 / 0.7)
    )
    assert fit["Press fit of rings: Mean pressure in the fit"] == pytest.approx(pressure, rel=1e-3)
    pin = _asked(eye, "lug/hole", "pin/shank")
    assert pin["Pin in a hole: Play of the diameters"] == pytest.approx(0.2, abs=1e-6)
    flat = _asked(eye, "strap/bottom", "lug/top", mu=0.2)
    assert flat["Pressed flat: Holds along the faces, at most"] == pytest.approx(400)
    bar = _asked(bars, "lower/bottom", "lower/top")
    # Equal cylinders crossed at a right angle touch in a circle, beams or not.
    assert "Contact at a point: Peak pressure" in _asked(bars, "upper/shank", "lower/shank")
    second = np.pi * 20**4 / 64
    middle = bar["Bar 300 mm long: Laid on both ends, F in the middle: bends by"]
    assert middle == pytest.approx(2000 * 300**3 / (48 * 210e3 * second), rel=2e-3)
    assert bar["Bar 300 mm long: Pressed, hinged: buckles at"] == pytest.approx(
        np.pi**2 * 210e3 * second / 300**2, rel=2e-3
    )
    # Ends of two bars that look past each other are nothing to reckon; nor does a formula know a bar's side alone.
    assert _asked(bars, "lower/shank") == _asked(bars, "lower/bottom", "upper/top") == {}
    for faces, force in ((["lower/none"], "1 kN"), ([], "1 kN"), (["lower/top"], "0 N"), (["lower/top"], "3")):
        with pytest.raises(UlmekError):
            reckoned(bars, Asked(faces, force, 0.1))


def test_a_part_has_no_tick_where_the_stress_below_what_presses_on_it_cannot_be_told() -> None:
    study = demo_study("pinion-sector")
    outcome = solve_study(study)
    rows = {row.id: row for row in build_ledger(study, outcome.summaries, len(outcome.summaries) - 1).rows}
    # On meshes that show the peak the highest stress is 0.83 of yield; on this one it lies between 0.4 and 0.71.
    for name in ("pinion", "sector"):
        cell = rows[name].yielding
        assert cell is not None
        assert cell.grade == "unsure"
        assert "peak of pressure of Flanks" in cell.verdict
