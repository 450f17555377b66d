"""The smaller demos by the command line: they solve, and what they say agrees with statics and closed forms."""

import itertools
import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.demo.commands import ulmek
from ulmek.core.handcalc.rings import press_fit_pressure
from ulmek.store.results import ResultReader


def _report(name: str, folder: Path, *, coarser: float = 1.0) -> dict[str, Any]:
    """What the demo says; on elements so many times as large where that says the same sooner."""
    file = folder / "study.json"
    assert ulmek("demo", "write", name, file).exit_code == 0
    study = json.loads(file.read_text())
    for part in study["parts"]:
        part["mesh"]["size"] = f"{coarser * float(part['mesh']['size'].split()[0])} mm"
    file.write_text(json.dumps(study))
    done = ulmek("solve", file, "--out", folder / "out")
    assert done.exit_code == 0, done.stderr
    report = json.loads((folder / "out" / "report.json").read_text())
    assert report["status"] == "solved"
    assert report["balance"]["closing_error"] < 1e-6
    return dict(report)


def test_the_pin_passes_the_whole_pull_from_strap_to_lug(tmp_path: Path) -> None:
    report = _report("lifting-eye", tmp_path)
    gate = next(s for s in report["supports"] if s["name"] == "gate")
    assert gate["force"][0] == pytest.approx(-8e3, rel=1e-3)
    forces = {p["name"]: p["normal_force"] for p in report["pairs"]}
    assert forces["in-lug"] > 0.9 * 8e3
    assert forces["in-strap"] > 0.9 * 8e3


def test_the_sleeve_presses_as_thick_rings_do_and_holds(tmp_path: Path) -> None:
    report = _report("drum-sleeve", tmp_path)
    seat = report["pairs"][0]
    assert seat["share_sticking"] == 1.0
    # The rim of the hub is held: its pressure lies above that of a free ring in plane strain, by less than half.
    steel, bronze = (210e3 / (1 - 0.3**2), 0.3 / 0.7), (105e3 / (1 - 0.34**2), 0.34 / 0.66)
    free = press_fit_pressure(0.05, 24, 30, 50, shaft=bronze, hub=steel)
    mean = seat["normal_force"] / (2 * np.pi * 30 * 50)
    assert free < mean < 1.5 * free


def test_the_stops_bend_as_beams_do(tmp_path: Path) -> None:
    report = _report("crossed-stops", tmp_path)
    # Both are clamped beams bent at their middles: 2 (S³/192EI + 7/6 S/4GA) per force, after 0.2 mm of play.
    inertia, area, shear = np.pi * 10**4 / 4, np.pi * 100, 210e3 / 2.6
    give = 2 * (300**3 / (192 * 210e3 * inertia) + 7 / 6 * 300 / (4 * shear * area))
    assert report["pairs"][0]["normal_force"] == pytest.approx(0.8 / give, rel=0.03)


def test_the_sector_gets_the_torque_of_its_teeth(tmp_path: Path) -> None:
    supports = {s["name"]: s for s in _report("pinion-sector", tmp_path)["supports"]}
    crank = supports["turn"]["moment"][2]
    # Supports tell their moment about the origin, where the pinion turns; the sector turns at 142.5 mm.
    gate = supports["held"]["moment"][2] - 142.5 * supports["held"]["force"][1]
    # Teeth in the ratio 40 : 17, less the friction of the flanks.
    assert 0.97 * 40 / 17 < abs(gate / crank) < 40 / 17


def test_the_flexure_stiffens_as_a_twisted_cross_does(tmp_path: Path) -> None:
    motion = next(s for s in _report("limit-flexure", tmp_path)["supports"] if s["name"] == "turn")
    with ResultReader(tmp_path / "out" / "result.h5") as result:
        turns = [(s.values["turn"], s.carrier("turn").moment[2]) for s in result.summaries()]
    assert motion["moment"][2] == pytest.approx(turns[-1][1])
    # Saint-Venant of two strips of 16 × 1 mm that share their middle; their ends, which cannot warp, stiffen them.
    first, whole = turns[0][1] / turns[0][0], turns[-1][1] / turns[-1][0]
    free = 210e3 / 2.6 * (16 + 15) / 3 / 120
    assert free < first < 1.2 * free
    # Fibres away from the axis are stretched (Buckley 1914; Timoshenko 1956): E/2 (∫r⁴ − (∫r²)²/A) (φ/L)³.
    area, square, fourth = 31.0, 4 * 8**3 / 3, 4 * 8**5 / 5
    beyond = 210e3 / 2 * (fourth - square**2 / area) * (turns[-1][0] / 120) ** 3
    assert (whole - first) * turns[-1][0] == pytest.approx(beyond, rel=0.15)


def test_the_seal_slides_to_and_fro_in_a_loop_that_closes(tmp_path: Path) -> None:
    _report("sill-seal", tmp_path, coarser=2.0)
    with ResultReader(tmp_path / "out" / "result.h5") as result:
        told = result.summaries()
        wet = result.faces(0)["side.right"][:, :2]
        first = max(k for k, s in enumerate(told) if s.step == 2)
        points = result.points()
        shapes = [(points + result.point_field("displacement", k))[wet] for k in range(first, len(told))]
    at_end = {step: [s for s in told if s.step == step][-1] for step in range(5)}
    there, back, again = (at_end[k].pairs["lip"] for k in (2, 3, 4))
    for pair in (there, back, again):
        assert pair.friction_force == pytest.approx(0.12 * pair.normal_force, rel=1e-3)
    assert again.normal_force == pytest.approx(there.normal_force, rel=1e-5)
    # What the gate puts in on the way to and fro is the area of the loop; the water takes its part of it, for the ends
    # of the face that it presses on come round by another way. The rest is the heat of friction.
    loop = [s for s in told if s.step >= 3]
    way = np.array([at_end[2].values["aside"], *(s.values["aside"] for s in loop)])
    force = np.array([s.carrier("aside").force[0] for s in (at_end[2], *loop)])
    area = float(np.sum(np.diff(way) * (force[1:] + force[:-1]) / 2))
    water = 0.0
    for before, after in itertools.pairwise(shapes):
        moved, middle = (after - before).mean(axis=1), (before + after) / 2
        along = middle[:, 1] - middle[:, 0]
        water -= 0.05 * 1000 * float((moved[:, 0] * along[:, 1] - moved[:, 1] * along[:, 0]).sum())
    assert water < -50
    assert again.dissipated - there.dissipated == pytest.approx(area + water, rel=0.01)
