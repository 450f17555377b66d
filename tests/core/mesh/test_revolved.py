"""Revolved solids: a sphere's volume and section, true radii of bores, and a ball pressed on a plate."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.solid import mesh_flat, mesh_solid
from ulmek.runs.solve import solve_study
from ulmek.study.items import read_study
from ulmek.verify.case import Solved, base_document, load, part, step


def test_volumes_are_those_of_the_bodies_of_school() -> None:
    assert RECIPES["ball"].solid({"diameter": 20}).volume() == pytest.approx(4 / 3 * np.pi * 1000, rel=1e-9)
    ring = RECIPES["o-ring"].solid({"inner_diameter": 40, "cord": 4})
    assert ring.volume() == pytest.approx(2 * np.pi**2 * 22 * 2**2, rel=1e-9)
    cone = RECIPES["taper-pin"].solid({"diameter": 10, "end_diameter": 14, "length": 30})
    assert cone.volume() == pytest.approx(np.pi * 30 / 3 * (25 + 35 + 49), rel=1e-9)


def test_profiles_of_axisymmetric_studies_have_the_same_faces() -> None:
    ball = RECIPES["ball"].solid({})
    section = mesh_flat(ball, size=1.0)
    assert set(section.faces) == {"surface", "axis"}
    assert section.volume() == pytest.approx(np.pi * 100 / 2, rel=0.01)
    # On the axis stand bricks like elsewhere, not needles.
    mesh = mesh_solid(ball, size=2.0, per_turn=32)
    assert not mesh.is_wedge.any()
    assert mesh.scaled_jacobians().min() > 0.6


def test_a_ball_passes_a_load_to_a_block_through_its_pole(tmp_path: Any) -> None:
    study = base_document("ball", "Ball on a block")
    study["parts"] = [
        part("ball", "ball", {"diameter": 20}, {"size": "2 mm", "per_turn": 32}),
        part("block", "block", {"length": 20, "depth": 20, "height": 8}, {"size": "2 mm"}),
    ]
    study["parts"][0]["placements"][0]["at"][2] = "18 mm"
    study["pairs"] = [
        {"id": "on", "name": "Ball – block", "a": ["ball/surface"], "b": ["block/top"], "law": {"mu": 0.2},
         "search": "0.3 mm"},
    ]  # fmt: skip
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["block/bottom"]}]
    study["handles"] = [{"id": "grip", "name": "Grip", "at": ["0 mm", "0 mm", "18 mm"], "faces": ["ball/surface"],
                         "kind": "averaging"}]  # fmt: skip
    study["springs"] = [{"id": "weak", "name": "Weak", "a": "grip", "stiffness": ["10 N/mm"] * 3,
                         "turning": ["1000 N*mm/rad"] * 3}]  # fmt: skip
    study["loads"] = [load("press", "force", {"press": "500 N"}, handle="grip", direction=[0, 0, -1])]
    study["steps"] = [step("press", 0.5)]
    document = read_study(study)
    outcome = solve_study(document, folder=tmp_path)
    assert outcome.status == "solved", outcome.message
    last = Solved(document, outcome, tmp_path).last
    assert last.pairs["on"].normal_force == pytest.approx(500, rel=0.01)
