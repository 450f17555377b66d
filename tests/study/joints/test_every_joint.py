"""Every kind of joint made from picked faces, solved, and its closed form beside the result."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.study.joints.making import edited, figure, joined, part, study_of
from ulmek.runs.solve import report_of, solve_study
from ulmek.study.checks import hand_checks
from ulmek.study.items import StudyDocument
from ulmek.study.items.joint import ASKS
from ulmek.study.preflight import preflight
from ulmek.study.translate import translate

# The highest pressure on a coarse mesh is no more than of its order.
PEAKS = {"Pressure at the pitch point": 0.9}


def _held(face: str) -> dict[str, Any]:
    return {"op": "add", "path": "/supports/-", "value": {"id": "held", "name": "Held", "faces": [face]}}


def _load(kind: str, step: str, value: str, direction: list[int], **on: Any) -> dict[str, Any]:
    load = {"id": kind, "name": kind, "kind": kind, "direction": direction, "values": {step: value}, **on}
    return {"op": "add", "path": "/loads/-", "value": load}


def _solved(study: StudyDocument, folder: Path) -> dict[str, Any]:
    found = preflight(study)
    assert found.may_run, [f.text for f in found.findings if f.grade == "stop"]
    outcome = solve_study(study, folder=folder)
    report = report_of(study, outcome)
    assert report["status"] == "solved", report["message"]
    # What the run has of the closed form stands beside it.
    for check in hand_checks(study, translate(study), outcome.summaries):
        for value in check.values if check.kind == "joint" and check.holds else []:
            if value.sense == "same" and value.computed is not None:
                assert value.computed == pytest.approx(value.hand, rel=PEAKS.get(value.name, 0.1)), value.name
    return report


def _across(report: dict[str, Any]) -> float:
    return abs(next(s for s in report["supports"] if s["name"] == "held")["force"][0])


def _bolted(folder: Path) -> tuple[float, float]:
    """Half of the pull that opens the joint leaves half of the preload between the parts."""
    ring = {"inner_diameter": "17.5 mm", "outer_diameter": "46 mm", "thickness": "20 mm"}
    rings = part("low", "washer", ring, size=5), part("high", "washer", ring, at=(90, 0, 0), size=5)
    study = joined(study_of(*rings), "low/bore", "high/bore")
    assert study.joints[0].ask.kind == "bolted"
    pull = _load("force", "service", f"{figure(study, 'Opens at') / 2} N", [0, 0, 1], faces=["high/top"])
    report = _solved(edited(study, [_held("low/bottom"), pull]), folder)
    clamp = next(p for p in report["pairs"] if "faces" in p["name"])
    return clamp["normal_force"], figure(study, "Tightened to") / 2


def test_plates_under_bolts_that_are_lines_slide_at_the_friction_of_the_preload(tmp_path: Path) -> None:
    """A solid bolt would hold back too, by the friction of its head, until it leans."""
    plate = {"width": "60 mm", "height": "60 mm", "thickness": "14 mm", "hole_columns": 1, "hole_rows": 1}
    study = study_of(part("low", "plate", plate), part("high", "plate", plate, at=(90, 0, 0)))
    study = joined(study, "low/hole.1", "high/hole.1", modelled="line-averaging")
    push = _load("displacement", "service", "0.15 mm", [1, 0, 0], faces=["high/edge.left"])
    report = _solved(edited(study, [_held("low/edge.right"), push]), tmp_path)
    assert _across(report) == pytest.approx(figure(study, "Slides at"), rel=0.1)


def _pinned(folder: Path) -> tuple[float, float]:
    """Half of a pull in either ear of a fork."""
    study = joined(study_of(part("fork", "fork"), part("lug", "lug", at=(200, 0, 0))), "fork/lower.hole", "lug/hole")
    pull = _load("force", "service", "4 kN", [1, 0, 0], faces=["lug/root"])
    report = _solved(edited(study, [_held("fork/root"), pull]), folder)
    ears = {p["name"]: p["normal_force"] for p in report["pairs"]}
    assert ears["pinned-hole-fork-lower-hole"] == pytest.approx(ears["pinned-hole-fork-upper-hole"], rel=0.02)
    return ears["pinned-hole-fork-lower-hole"] / ears["pinned-hole-lug-hole"], figure(study, "Share of a load")


def _pressed(folder: Path) -> tuple[float, float]:
    """The pressure of two thick rings, and a torque below what they hold."""
    hub = part(
        "hub",
        "washer",
        {"inner_diameter": "30 mm", "outer_diameter": "60 mm", "thickness": "24 mm"},
        size=5,
        per_turn=32,
    )
    study = joined(study_of(hub), "hub/bore", asked="torque", torque="200 N*m")
    report = _solved(study, folder)
    (fit,) = report["pairs"]
    return fit["normal_force"] / (3.1416 * 30 * 24), figure(study, "Pressure in the fit")


def _geared(folder: Path) -> tuple[float, float]:
    """The torque over the base radius across the flanks."""
    gears = (
        part("gear", "gear", {"width": "6 mm"}),
        part("wheel", "gear", {"teeth": 30, "width": "6 mm"}, at=(200, 0, 0)),
    )
    study = joined(study_of(*gears), "gear/tooth.2.left", "wheel/tooth.1.left", mu=0)
    report = _solved(study, folder)
    return report["pairs"][0]["normal_force"], figure(study, "Force across")


def _seated(folder: Path) -> tuple[float, float]:
    """A pressed block slides at the friction of what presses it."""
    block = {"length": "30 mm", "depth": "30 mm", "height": "15 mm"}
    study = joined(
        study_of(part("high", "block", block), part("low", "block", at=(90, 0, 0))), "high/bottom", "low/top"
    )
    press = _load("force", "service", "1 kN", [0, 0, -1], faces=["high/top"])
    step = {"op": "add", "path": "/steps/-", "value": {"id": "push", "name": "Push"}}
    push = _load("displacement", "push", "0.1 mm", [1, 0, 0], faces=["high/left"])
    report = _solved(edited(study, [_held("low/bottom"), press, step, push]), folder)
    return _across(report), figure(study, "Slides at")


def _guided(folder: Path) -> tuple[float, float]:
    """A shank that is tilted touches where the play is used up: by 0.95 of the tilt not, by 1.05 of it."""
    bush = part(
        "bush", "washer", {"inner_diameter": "20 mm", "outer_diameter": "36 mm", "thickness": "30 mm"}, per_turn=24
    )
    study = study_of(
        bush, part("pin", "pin", {"head_length": "0 mm", "length": "50 mm"}, at=(100, 0, -10), per_turn=24)
    )
    study = joined(study, "bush/bore", "pin/shank", kind="guided", clearance="0.06 mm")
    tilt = figure(study, "Tilt")
    middle = {"id": "middle", "name": "Middle", "at": ["0 mm", "0 mm", "15 mm"], "faces": ["pin/bottom", "pin/top"]}
    held = {
        "id": "free",
        "name": "Free",
        "handle": "middle",
        "kind": "components",
        "components": ["x", "y", "z", "turn-x", "turn-z"],
    }
    forces = []
    for share in (0.95, 1.05):
        turn = _load("rotation", "service", f"{share * tilt} rad", [0, 1, 0], handle="middle")
        at = {"op": "add", "path": "/handles/-", "value": middle}
        free = {"op": "add", "path": "/supports/-", "value": held}
        place = folder / str(share)
        place.mkdir()
        report = _solved(edited(study, [at, _held("bush/rim"), free, turn]), place)
        forces.append(report["pairs"][0]["normal_force"])
    assert forces[0] == pytest.approx(0, abs=1e-6)
    return (tilt, tilt) if forces[1] > 1 else (0.0, tilt)


def _hinged(folder: Path) -> tuple[float, float]:
    """A hinge carries no moment about its axis: a force beside it is held where something else holds."""
    study = joined(study_of(part("lug", "lug")), "lug/hole", kind="hinged", ends="rigid")
    nose = {"id": "held", "name": "Held", "faces": ["lug/nose"], "kind": "components", "components": ["y"]}
    push = _load("force", "service", "1 kN", [0, 1, 0], faces=["lug/root"])
    report = _solved(edited(study, [{"op": "add", "path": "/supports/-", "value": nose}, push]), folder)
    hinge = next(s for s in report["supports"] if s["name"] != "held")
    # Over what it would carry if it could not turn, and one more, for the comparison.
    return 1 + abs(hinge["moment"][2]) / (1000 * 60), 1 + figure(study, "Moment carried")


def _on_wall(folder: Path) -> tuple[float, float]:
    """A pressed block slides on a datum wall at the friction of what presses it."""
    study = joined(
        study_of(part("block", "block", {"length": "30 mm", "depth": "30 mm", "height": "15 mm"})), "block/bottom"
    )
    press = _load("force", "service", "1 kN", [0, 0, -1], faces=["block/top"])
    step = {"op": "add", "path": "/steps/-", "value": {"id": "push", "name": "Push"}}
    push = _load("displacement", "push", "0.1 mm", [1, 0, 0], faces=["block/top"])
    report = _solved(edited(study, [press, step, push]), folder)
    return abs(report["pairs"][0]["friction_force"]), figure(study, "Slides at")


CASES = {
    "bolted": _bolted, "pinned": _pinned, "pressed": _pressed, "geared": _geared, "seated": _seated,
    "guided": _guided, "hinged": _hinged, "on-wall": _on_wall,
}  # fmt: skip


def test_every_kind_of_joint_has_its_case() -> None:
    assert set(CASES) == set(ASKS)


@pytest.mark.parametrize("kind", CASES)
def test_the_closed_form_of_a_joint_is_within_a_tenth_of_the_result(kind: str, tmp_path: Path) -> None:
    computed, reference = CASES[kind](tmp_path)
    assert computed == pytest.approx(reference, rel=0.1)


def test_a_hinge_about_an_axis_of_no_coordinate_carries_no_moment_about_it(tmp_path: Path) -> None:
    lug = part("lug", "lug")
    lug["placements"][0]["turn"] = {"axis": [1, 2, 0], "angle": "40 deg"}
    turn = Rotation.from_rotvec(np.deg2rad(40) * np.array([1, 2, 0]) / np.sqrt(5)).as_matrix()
    axis, aside = turn @ [0, 0, 1], turn @ [0, 1, 0]
    study = joined(study_of(lug), "lug/hole", kind="hinged", ends="rigid")
    nose = {"id": "held", "name": "Held", "faces": ["lug/nose"], "kind": "components", "components": ["x"],
            "axes": {"x": aside.tolist()}}  # fmt: skip
    push = _load("force", "service", "1 kN", aside.tolist(), faces=["lug/root"])
    report = _solved(edited(study, [{"op": "add", "path": "/supports/-", "value": nose}, push]), tmp_path)
    hinge = next(s for s in report["supports"] if s["name"] != "held")
    (handle,) = study.handles
    at = [float(c.split()[0]) for c in handle.at]
    about = np.array(hinge["moment"]) - np.cross(at, hinge["force"])
    assert abs(about @ axis) < 1e-6 * np.abs(hinge["force"]).max() * 60
    assert np.linalg.norm(hinge["force"]) > 100
