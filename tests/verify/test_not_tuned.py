"""The verification answers hold with other numbers than the cases': stiffness, size, load, mesh."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.runs.solve import solve_study
from ulmek.store.results import ResultReader
from ulmek.study.items import read_study
from ulmek.verify.case import Solved, base_document, block_part, load, part, step, symmetry
from ulmek.verify.hertz_line import Line, line_checks, line_document, peak_and_width


def _solve(document: dict[str, Any], folder: Path) -> list[dict[str, Any]]:
    outcome = solve_study(read_study(document), folder=folder)
    assert outcome.status == "solved", outcome.message
    return outcome.summaries


@pytest.mark.parametrize(
    ("young", "length", "height", "elements"), [(70.0, 60.0, 1.5, 4), (210.0, 200.0, 2.0, 10), (3.0, 60.0, 1.5, 12)]
)
def test_cantilever(young: float, length: float, height: float, elements: int, tmp_path: Path) -> None:
    """δ = FL³/3EI + 6FL/5GA within three times the case's limit, on meshes from coarse to fine."""
    study = base_document("bend", "Bend", poisson=0.25)
    study["materials"][0]["young"] = f"{young} GPa"
    study["parts"] = [block_part("beam", (length, height, height), length / elements, layers=1)]
    study["supports"] = [{"id": "root", "name": "Root", "faces": ["beam/left"]}]
    study["loads"] = [
        {"id": "tip", "name": "Tip", "kind": "force", "faces": ["beam/right"], "direction": [0, 1, 0],
         "values": {"s": "3 N"}}
    ]  # fmt: skip
    study["steps"] = [{"id": "s", "name": "S", "increments": {"start": 1, "largest": 1}}]
    _solve(study, tmp_path)
    with ResultReader(tmp_path / "result.h5") as result:
        tip = result.points()[:, 0] > length / 2 - 1e-6
        moved = float(result.point_field("displacement", 0)[tip, 1].mean())
    e, inertia = young * 1e3, height**4 / 12
    reference = 3 * length**3 / (3 * e * inertia) + 6 * 3 * length / (5 * e / 2.5 * height**2)
    assert moved == pytest.approx(reference, rel=0.09)


def test_a_rigid_roller_presses_as_hertz_has_it(tmp_path: Path) -> None:
    """Against a rigid body E* is that of the base alone; the handle's reaction is the force."""
    line = Line()
    study = line_document(line, space="plane-strain")
    study["handles"][0] = {"id": "grip", "name": "Grip", "part": "roller", "at": study["handles"][0]["at"]}
    study["supports"] = [s for s in study["supports"] if s["id"] != "mirror"] + [symmetry("mirror", "base/left")]
    outcome = solve_study(read_study(study), folder=tmp_path)
    assert outcome.status == "solved", outcome.message
    joint = Solved(read_study(study), outcome, tmp_path).pair("joint")
    half_width = np.sqrt(4 * line.force * line.radius / (np.pi * line.young / (1 - line.poisson**2)))
    p0, a = peak_and_width(joint["points"][:, 0], joint["pressure"])
    assert p0 == pytest.approx(2 * line.force / (np.pi * half_width), rel=0.02)
    assert a == pytest.approx(half_width, rel=0.03)
    assert outcome.summaries[-1].parts["roller"].max_von_mises < 1e-6 * p0


@pytest.mark.parametrize(("mu", "pressure", "mesh"), [(0.05, 2.0, 9.0), (0.6, 40.0, 16.0), (1.0, 10.0, 12.0)])
def test_friction_force(mu: float, pressure: float, mesh: float, tmp_path: Path) -> None:
    """A block dragged by its lid rubs with µN, whatever µ, pressure and mesh."""
    study = base_document("drag", "Drag")
    study["parts"] = [block_part("base", (80, 60, 20), mesh), block_part("slider", (40, 40, 6), mesh * 0.7, at=20)]
    study["pairs"] = [{"id": "joint", "name": "Joint", "a": ["slider/bottom"], "b": ["base/top"], "law": {"mu": mu}}]
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["base/bottom"]}]
    lid = ["slider/top"]
    study["loads"] = [
        {"id": "press", "name": "Press", "kind": "pressure", "faces": lid, "values": {"a": f"{pressure} MPa"}},
        {"id": "drag", "name": "Drag", "kind": "displacement", "faces": lid, "direction": [0.6, 0, 0],
         "values": {"b": "1 mm"}},
        {"id": "guide", "name": "Guide", "kind": "displacement", "faces": lid, "direction": [0, 1, 0], "values": {}},
    ]  # fmt: skip
    study["steps"] = [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}]
    joint = _solve(study, tmp_path)[-1].pairs["joint"]
    assert joint.normal_force == pytest.approx(pressure * 1600, rel=1e-9)
    # At µ = 1 the drag at the lid lifts the trailing edge; the resultant is µN all the same.
    assert joint.friction_force == pytest.approx(mu * pressure * 1600, rel=3e-3)


@pytest.mark.parametrize(("rim", "grip", "size"), [(24.0, 120.0, 5.0), (30.0, 200.0, 8.0)])
def test_bolt_shares_load_by_stiffness(rim: float, grip: float, size: float, tmp_path: Path) -> None:
    """F0 + Φ·FA from bar stiffnesses, three times the case's limit."""
    study = base_document("share", "Share")
    study["parts"] = [
        {"id": "bolt", "name": "Bolt", "material": "steel", "mesh": {"size": f"{size} mm"},
         "recipe": {"kind": "bolt", "dimensions": {"grip": f"{grip} mm", "across_flats": "27 mm",
                                                   "head_height": "14 mm"}}},
        {"id": "sleeve", "name": "Sleeve", "material": "steel", "mesh": {"size": f"{size} mm"},
         "recipe": {"kind": "washer", "dimensions": {"inner_diameter": "17 mm", "outer_diameter": f"{rim} mm",
                                                     "thickness": f"{grip} mm"}}},
    ]  # fmt: skip
    law = {"may_open": True, "may_slide": "friction", "mu": 0.2}
    study["pairs"] = [
        {"id": "head", "name": "Head", "a": ["sleeve/top"], "b": ["bolt/head.bearing"], "law": law},
        {"id": "nut", "name": "Nut", "a": ["sleeve/bottom"], "b": ["bolt/nut.bearing"], "law": law},
    ]
    study["bolts"] = [{"id": "bolt", "name": "Bolt", "part": "bolt", "preload": {"a": "30 kN"}}]
    study["supports"] = [{"id": "ground", "name": "Ground", "faces": ["bolt/nut.end"]}]
    study["loads"] = [
        {"id": "pull", "name": "Pull", "kind": "force", "faces": ["bolt/head.end"], "direction": [0, 0, 1],
         "values": {"b": "15 kN"}}
    ]  # fmt: skip
    study["steps"] = [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}]
    summaries = _solve(study, tmp_path)
    bolt_area, sleeve_area = np.pi * 64, np.pi * (rim**2 - 17**2) / 4
    phi = bolt_area / (bolt_area + sleeve_area)
    force = summaries[-1].bolts["bolt"].force
    assert force == pytest.approx(30e3 + phi * 15e3, rel=0.09)
    # Statics, exactly: what the bolt carries above the pull presses the sleeve.
    assert force - summaries[-1].pairs["head"].normal_force == pytest.approx(15e3, rel=1e-6)


def test_peak_pressure_settles_under_refinement(tmp_path: Path) -> None:
    """A stiff joint pressed off-centre: successive refinements change the pressed force distribution less and less."""
    shares = []
    for i, mesh in enumerate((16.0, 8.0, 4.0)):
        study = base_document("tilt", "Tilt")
        study["parts"] = [block_part("base", (60, 60, 20), mesh), block_part("slider", (40, 40, 20), mesh * 0.8, at=20)]
        study["pairs"] = [{"id": "joint", "name": "Joint", "a": ["slider/bottom"], "b": ["base/top"]}]
        study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["base/bottom"]}]
        study["loads"] = [
            {"id": "press", "name": "Press", "kind": "pressure", "faces": ["slider/top"], "values": {"a": "10 MPa"}},
            {"id": "push", "name": "Push", "kind": "force", "faces": ["slider/top"], "direction": [1, 0, 0],
             "values": {"b": "1.8 kN"}},
        ]  # fmt: skip
        study["steps"] = [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}]
        _solve(study, tmp_path / str(i))
        with ResultReader(tmp_path / str(i) / "result.h5") as result:
            node, _ = result.pair_patch("joint")
            pressure = result.pair_field("joint", "pressure", result.count() - 1)
            x = result.points()[node, 0]
            shares.append(float(np.polyfit(x, pressure, 1)[0]))
    assert abs(shares[2] - shares[1]) < 0.7 * abs(shares[1] - shares[0])


def _checked(tmp_path: Path, checks: Any) -> dict[str, Any]:
    """Checks of a case by quantity, its studies solved below ``tmp_path``."""
    count = 0

    def solve(document: dict[str, Any]) -> Solved:
        nonlocal count
        count += 1
        folder, study = tmp_path / str(count), read_study(document)
        outcome = solve_study(study, folder=folder)
        assert outcome.status == "solved", outcome.message
        return Solved(study, outcome, folder)

    return {check.quantity: check for check in checks(solve)}


@pytest.mark.parametrize(
    "line",
    [
        Line(radius=20.0, force=300.0, young=70e3, poisson=0.33),
        Line(radius=200.0, force=5000.0, share=0.2),
        Line(radius=50.0, force=100.0, share=0.05),
    ],
)
def test_line_contact(line: Line, tmp_path: Path) -> None:
    """Hertz within three times the limits for other radii, loads, materials and meshes."""
    checks = _checked(tmp_path, lambda solve: line_checks(solve, line, "plane-strain", "x"))
    wanted = ["peak pressure, x", "half-width, x", "largest shear, x"]
    assert all(checks[name].error <= 3 * checks[name].limit for name in wanted), {n: checks[n].error for n in wanted}


def test_errors_of_line_contact_fall_under_refinement(tmp_path: Path) -> None:
    """The pressure's distance from the half-ellipse, in the mean, on meshes of a/4, a/8 and a/16."""
    errors = []
    for share in (0.25, 0.125, 0.0625):
        line = Line(share=share)
        study = read_study(line_document(line, space="plane-strain"))
        folder = tmp_path / str(share)
        outcome = solve_study(study, folder=folder)
        joint = Solved(study, outcome, folder).pair("joint")
        x = joint["points"][:, 0] / line.half_width
        inside = x < 0.9
        exact = line.peak * np.sqrt(1 - x[inside] ** 2)
        errors.append(float(np.abs(joint["pressure"][inside] - exact).mean()) / line.peak)
    assert errors[2] < 0.5 * errors[0]
    assert errors[2] < 0.01


@pytest.mark.parametrize(("young", "inner", "outer", "size"), [(3.0, 5.0, 8.0, 0.5), (200.0, 10.0, 60.0, 2.5)])
def test_incompressible_tube(young: float, inner: float, outer: float, size: float, tmp_path: Path) -> None:
    """Lamé at ν = 0.4999, within three times the limit of the case."""
    study = base_document("tube", "Tube")
    study["materials"][0] |= {"young": f"{young} GPa", "poisson": 0.4999}
    study["space"] = "plane-strain"
    ring = {"inner_diameter": 2 * inner, "outer_diameter": 2 * outer, "thickness": 1, "sector": 90}
    study["parts"] = [part("tube", "washer", ring, {"size": f"{size} mm", "per_turn": 40})]
    study["supports"] = [symmetry("x", "tube/end"), symmetry("y", "tube/start")]
    study["loads"] = [load("press", "pressure", {"s": "7 MPa"}, "tube/bore")]
    study["steps"] = [step("s")]
    _solve(study, tmp_path)
    with ResultReader(tmp_path / "result.h5") as result:
        points, moved = result.points(), result.point_field("displacement", 0)
    radius = np.hypot(*points[:, :2].T)
    bore = radius < inner * (1 + 1e-4)
    found = float(np.einsum("ni,ni->n", moved[bore, :2], points[bore, :2]).mean()) / inner
    give = 1.4999 / (young * 1e3) * 7.0 * inner**2 / (outer**2 - inner**2)
    assert found == pytest.approx(give * (2e-4 * inner + outer**2 / inner), rel=0.03)
