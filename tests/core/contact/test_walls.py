"""Datum walls: true gaps, the patch test, and a wall that moves."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, Recorder, block_body
from ulmek.core.contact.interface import wall_distance
from ulmek.core.contact.laws import Status
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.sweep import mesh_section
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.model import Body, Face, Handle, Load, Model, Pair, PairLaw, Step, Support, Wall
from ulmek.core.review.balance import balance_of
from ulmek.core.solve.choice import choose_path
from ulmek.core.solve.history import Increment, solve_history

FRICTION = PairLaw(True, "friction", 0.2)


def test_gaps_are_those_of_the_true_wall() -> None:
    points = np.array([[3.0, 4.0, 7.0], [0.0, 1.0, -2.0]])
    gap, normal = wall_distance(Wall("w", "cylinder", (0, 0, 0), (0, 0, 2.0), 2.0), points, None, None)
    assert np.allclose(gap, [3.0, -1.0])
    assert np.allclose(normal, [[0.6, 0.8, 0], [0, 1, 0]])
    gap, normal = wall_distance(Wall("w", "sphere", (0, 0, 7.0), radius=6.0, hollow=True), points[:1], None, None)
    assert np.allclose(gap, [1.0])
    assert np.allclose(normal, [[-0.6, -0.8, 0]])
    plane = Wall("w", "plane", (0, 0, 1.0), (0, 0, 1.0), handle="h")
    gap, normal = wall_distance(plane, points[:1], (0, 0, 0), np.array([0, 0, 2.0, np.pi / 2, 0, 0]))
    # Turned about x by a right angle the plane z = 1 becomes y = −1, facing −y; then it is lifted.
    assert np.allclose(gap, [-5.0])
    assert np.allclose(normal, [[0, -1, 0]])


def _run(model: Model) -> list[Increment]:
    path, _ = choose_path(model)
    heard = Recorder()
    solve_history(path, heard)
    for increment in heard.increments:
        assert max(balance_of(path.system.constraints, model, increment).parts.values()) < 1e-6 * 1e4
    return heard.increments


@pytest.mark.parametrize("tets", [False, True])
def test_even_pressure_passes_to_a_plane(tets: bool) -> None:
    block = block_body("block", (30, 20, 10), 7)
    if tets:
        block = dataclasses.replace(block, mesh=split_bricks(block.mesh))
    floor = Pair("floor", (Face("block", "bottom"),), (), FRICTION, 1.0, wall="ground")
    sides = (
        Support("x", (Face("block", "left"),), (True, False, False)),
        Support("y", (Face("block", "near"),), (False, True, False)),
    )
    model = Model(
        (block,), (floor,), (), sides, (Load("press", "pressure", (Face("block", "top"),)),),
        (Step("press", {"press": 40.0}),), walls=(Wall("ground", "plane", (0, 0, 0)),),
    )  # fmt: skip
    # Smooth sides, so that the pressure stays even while the block widens.
    model = dataclasses.replace(model, pairs=(dataclasses.replace(floor, law=PairLaw(True, "freely")),))
    last = _run(model)[-1]
    assert np.allclose(last.joint.traction[:, 2], 40.0, rtol=1e-9)


@pytest.mark.parametrize("large", [False, True])
def test_a_round_wall_on_a_handle_presses_as_hard_as_it_is_pushed(large: bool) -> None:
    """A drum of 30 mm is pushed into a block by force on its handle, in plane strain."""
    solid = RECIPES["block"].solid({"length": 30, "depth": 12, "height": 1})
    mesh = mesh_section(solid, size=1.5, face_sizes={"far": 0.1})
    block = Body("block", mesh, STEEL)
    drum = Wall("drum", "cylinder", (0.0, 36.2, 0.0), (0, 0, 1.0), 30.0, handle="axle")
    pair = Pair("joint", (Face("block", "far"),), (), FRICTION, 2.0, wall="drum")
    floor = Support("floor", (Face("block", "near"),), (True, True, True))
    guide = Support("guide", (), (True, False, False), handle="axle", turns=(False, False, True))
    move = Load("move", "displacement", (), (0, -1.0, 0), handle="axle")
    push = Load("push", "force", (), (0, -1.0, 0), handle="axle")
    steps = (
        Step("touch", {"move": 0.203}, large=large),
        Step("push", {"push": 2000.0}, large=large, released=frozenset({"move"})),
    )
    model = Model(
        (block,), (pair,), (), (floor, guide), (move, push), steps,
        handles=(Handle("axle", (0.0, 36.2, 0.0)),), walls=(drum,), space="plane-strain",
    )  # fmt: skip
    last = _run(model)[-1]
    up = last.state.contact[: len(mesh.nodes), 1].sum()
    assert up == pytest.approx(-2000.0, rel=1e-8)
    # Hertz: a = √(4P'R/πE*) with a rigid drum; counted in nodes 0.1 mm apart, half a node at either edge.
    area = last.state.interfaces[0].area[last.joint.status != Status.OPEN].sum()
    stiffness = 210e3 / (1 - 0.3**2)
    assert area / 2 == pytest.approx(np.sqrt(4 * 2000 * 30 / (np.pi * stiffness)), rel=0.12)
