"""Supports, symmetry, motions, springs and links along any direction: a turned assembly answers as the straight one."""

import copy
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from ulmek.core.coupling.constraints import constrain
from ulmek.core.errors import InputError
from ulmek.core.layout import lay_out
from ulmek.runs.solve import solve_study
from ulmek.study.items import read_study
from ulmek.study.preflight import preflight
from ulmek.study.translate import translate
from ulmek.verify.case import Solved, base_document, block_part, hold, load, part, step, symmetry

AXIS, ANGLE = (1.0, -2.0, 0.5), 0.7
TURN = Rotation.from_rotvec(ANGLE * np.array(AXIS) / np.linalg.norm(AXIS)).as_matrix()


def _straight() -> dict[str, Any]:
    """Half a slider on half a base, pressed through a handle that a guide leads and springs hold, and pushed along it;
    then the push lets go."""
    study = base_document("slide", "Slide")
    study["parts"] = [block_part("base", (60, 30, 15), 7.5), block_part("slider", (30, 15, 10), 5, at=15)]
    for one, depth in zip(study["parts"], (30, 15), strict=True):
        one["placements"][0]["at"][1] = f"{depth / 2} mm"
    study["pairs"] = [
        {
            "id": "joint",
            "name": "Joint",
            "a": ["slider/bottom"],
            "b": ["base/top"],
            "law": {"mu": 0.2},
            "search": "1 mm",
        }
    ]
    study["handles"] = [
        {"id": "grip", "name": "Grip", "at": ["0 mm", "0 mm", "30 mm"], "faces": ["slider/top"]},
        {"id": "guide", "name": "Guide", "at": ["0 mm", "0 mm", "40 mm"]},
    ]
    study["springs"] = [
        {"id": "soft", "name": "Soft", "a": "grip", "stiffness": ["900 N/mm", "0 N/mm", "40 N/mm"],
         "turning": ["0 N*mm/rad", "5e5 N*mm/rad", "0 N*mm/rad"]},
    ]  # fmt: skip
    study["links"] = [
        {"id": "link", "name": "Link", "a": "guide", "b": "grip", "kind": "slider", "axis": "z"},
    ]
    study["supports"] = [
        hold("floor", ["x", "z"], "base/bottom"),
        hold("rail", ["y", "z", "turn-x", "turn-y", "turn-z"], handle="guide"),
        symmetry("mirror", "base/near", "slider/near"),
    ]
    study["loads"] = [
        load("press", "force", {"press": "4 kN"}, handle="grip", direction=[0, 0, -1]),
        load("push", "displacement", {"push": "0.05 mm"}, "slider/left", direction=[1, 0, 0], released=["back"]),
    ]
    study["steps"] = [step("press"), step("push", 0.5), step("back", 0.5)]
    return study


def _turned(study: dict[str, Any]) -> dict[str, Any]:
    out = copy.deepcopy(study)

    def place(at: list[str]) -> list[str]:
        return [f"{float(c)!r} mm" for c in TURN @ [float(c.split()[0]) for c in at]]

    def way(direction: list[float]) -> list[float]:
        return [float(c) for c in TURN @ direction]

    axes = {"x": way([1, 0, 0]), "y": way([0, 1, 0])}
    for one in out["parts"]:
        for placed in one["placements"]:
            placed["at"] = place(placed["at"])
            placed["turn"] = {"axis": list(AXIS), "angle": f"{ANGLE} rad"}
    for handle in out["handles"]:
        handle["at"] = place(handle["at"])
    for item in (*out["springs"], *(s for s in out["supports"] if s["kind"] == "components")):
        item["axes"] = axes
    for link in out["links"]:
        link["axis"] = way([float(link["axis"] == a) for a in "xyz"])
    for one in out["loads"]:
        one["direction"] = way(one["direction"])
    return out


def _solved(study: dict[str, Any], folder: Path) -> Solved:
    document = read_study(study)
    outcome = solve_study(document, folder=folder)
    assert outcome.status == "solved", outcome.message
    return Solved(document, outcome, folder)


@pytest.mark.parametrize("way", ["automatic", "full", "large"])
def test_what_is_turned_as_a_whole_answers_as_before(way: str, tmp_path: Path) -> None:
    study = _straight()
    if way == "large":
        for one in study["steps"]:
            one["large_motion"] = True
    else:
        study["path"] = way
    straight, turned = _solved(study, tmp_path / "straight"), _solved(_turned(study), tmp_path / "turned")
    for number in range(3):
        here, there = straight.end_of(number), turned.end_of(number)
        for name in ("base", "slider"):
            before, after = straight.fields(name, here), turned.fields(name, there)
            moved = before["displacement"] @ TURN.T
            assert np.abs(after["displacement"] - moved).max() < 1e-6 * np.abs(moved).max()
        one, other = straight.outcome.summaries[here], turned.outcome.summaries[there]
        for carrier in one.carriers:
            match = next(c for c in other.carriers if (c.kind, c.name) == (carrier.kind, carrier.name))
            scale = one.balance.scale
            assert np.allclose(match.force, TURN @ carrier.force, atol=1e-5 * scale), carrier.name
            assert np.allclose(match.moment, TURN @ carrier.moment, atol=1e-3 * scale), carrier.name
        assert other.balance.closing_error < 1e-6
        assert max(other.balance.parts.values()) < 1e-5 * other.balance.scale
    # Nothing of this went without its spring, link and push.
    forces = {c.name: np.linalg.norm(c.force) for c in straight.outcome.summaries[straight.end_of(1)].carriers}
    assert min(forces[name] for name in ("soft", "link", "push", "mirror", "rail")) > 1.0


def test_friction_of_nodes_that_share_what_holds_them_is_not_lost(tmp_path: Path) -> None:
    # The finer face is held at its edge: there are more contact nodes along it than the other face has motions.
    study = _straight()
    study["steps"], study["loads"][1]["values"] = study["steps"][:1], {}
    study["loads"][1]["released"] = []
    found = {}
    for path in ("automatic", "full"):
        solved = _solved({**study, "path": path}, tmp_path / path)
        found[path] = solved.last.carrier("push").force[0]
    # 12 % more without it.
    assert found["automatic"] == pytest.approx(found["full"], rel=1e-6)


def test_a_motion_on_average_leaves_the_shape_of_its_faces_alone(tmp_path: Path) -> None:
    # A quarter of a ring that its own weight makes oval; its bore keeps its size on average.
    study = base_document("ring", "Ring")
    study["materials"][0]["density"] = "7850 kg/m^3"
    ring = {"inner_diameter": 60, "outer_diameter": 80, "thickness": 5, "sector": 90}
    study["parts"] = [part("ring", "washer", ring, {"size": "3 mm", "layers": 1})]
    study["supports"] = [
        symmetry("x-plane", "ring/end"), symmetry("y-plane", "ring/start"), symmetry("z-plane", "ring/bottom")
    ]  # fmt: skip
    study["loads"] = [load("weight", "gravity", {"lie": "1000 m/s^2"}, direction=[1, 0, 0])]
    study["steps"] = [step("lie")]
    oval = _solved(study, tmp_path / "oval").fields("ring")
    keep = load("keep", "radial", {"lie": "0.002 mm"}, "ring/bore", direction=[0, 0, 2], on_average=True)
    solved = _solved({**study, "loads": [*study["loads"], keep]}, tmp_path / "kept")
    kept = solved.fields("ring")
    radius = np.hypot(*kept["points"][:, :2].T)
    at = radius < 30 + 1e-3
    out = kept["points"][at] * [1, 1, 0] / radius[at, None]
    before, after = (np.einsum("ni,ni->n", f["displacement"][at], out) for f in (oval, kept))
    assert np.ptp(before) > 1e-5
    assert np.allclose(after - before, (after - before).mean(), atol=1e-3 * np.ptp(before))
    ends = np.isclose(out[:, :2].min(axis=1), 0, atol=1e-9)
    assert np.average(after, weights=np.where(ends, 0.5, 1.0)) == pytest.approx(0.002, rel=1e-3)
    assert max(solved.last.balance.parts.values()) < 1e-6 * solved.last.balance.scale


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"axes": {"x": [0, 0, 0]}}, "no length"),
        ({"axes": {"x": [1, 2, 0], "y": [-2, -4, 0]}}, "point the same way"),
        ({"axes": {"kind": "round"}}, "no radial direction"),
    ],
)
def test_axes_that_cannot_be_are_refused(change: dict[str, Any], told: str) -> None:
    study = _straight()
    study["supports"][1] |= change
    with pytest.raises(InputError, match=told):
        translate(read_study(study))


def test_a_motion_askew_to_what_holds_its_nodes_is_refused() -> None:
    study = _straight()
    study["loads"][1]["direction"] = [1, 0.1, 0]
    with pytest.raises(InputError, match="askew"):
        constrain(model := translate(read_study(study)), lay_out(model))


def test_holding_and_moving_the_same_way_is_told_before_the_run() -> None:
    study = _turned(_straight())
    study["supports"].append(hold("stop", ["x"], "slider/left", axes={"x": study["loads"][1]["direction"]}))
    assert "held-and-moved" in {f.code for f in preflight(read_study(study)).findings}
    study["supports"][-1]["axes"]["x"] = study["loads"][0]["direction"]
    assert "held-and-moved" not in {f.code for f in preflight(read_study(study)).findings}
