"""Supports, handles, links and bolts as constraints: motions by hand, tangents by differences."""

import dataclasses
from typing import Any

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.conftest import STEEL, block_body
from ulmek.core.coupling.constraints import Constraints, constrain
from ulmek.core.errors import InputError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.layout import lay_out
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.core.model import Body, Bolt, Face, Handle, Link, Load, Model, Support
from ulmek.core.solve.assembly import Structure

TOP, BOTTOM = Face("block", "top"), Face("block", "bottom")


def _model(**more: object) -> Model:
    plain = Model((block_body("block", (40, 30, 20), 8),), (), (), (), (), ())
    return dataclasses.replace(plain, **more)  # type: ignore[arg-type]


def _constrained(model: Model, **more: object) -> Constraints:
    return constrain(model, lay_out(model), **more)  # type: ignore[arg-type]


def test_supports_hold_only_what_they_name_and_the_first_keeps_shared_nodes() -> None:
    guide = Support("guide", (Face("block", "left"),), (True, False, False))
    floor = Support("floor", (BOTTOM,), (True, True, True))
    model = _model(supports=(guide, floor))
    found = _constrained(model)
    held, owner = found.held.reshape(-1, 3), found.support_of.reshape(-1, 3)
    nodes = model.nodes()
    left, bottom = nodes[:, 0] < -20 + 1e-9, nodes[:, 2] < 1e-9
    assert np.array_equal(held[:, 0], left | bottom)
    assert np.array_equal(held[:, 1], bottom)
    assert np.all(owner[left & bottom, 0] == 0)
    assert np.all(owner[left & bottom, 1] == 1)
    assert not _constrained(model, released=frozenset({"floor"})).held.reshape(-1, 3)[:, 1].any()


def test_displacement_moves_its_face_along_the_signed_axis() -> None:
    model = _model(loads=(Load("move", "displacement", (TOP,), (0.0, -2.0, 0.0)),))
    moved = _constrained(model).motions[:, 0].reshape(-1, 3)
    top = model.nodes()[:, 2] > 20 - 1e-9
    assert np.allclose(moved[top], [0.0, -1.0, 0.0])
    assert not moved[~top].any()


def test_radial_motion_moves_every_node_straight_away_from_the_axis_and_only_across_it() -> None:
    right = Face("block", "right")
    centre = (-20.0, 4.0, 0.0)
    model = _model(loads=(Load("widen", "radial", (right,), (0.0, 0.0, 1.0), centre=centre),))
    found = _constrained(model)
    at = model.nodes_of((right,))
    arm = model.nodes()[at] - centre
    arm[:, 2] = 0.0
    moved = found.expand(found.motions[:, 0], large=False).reshape(-1, 3)[at]
    assert np.allclose(moved, arm / np.linalg.norm(arm, axis=1)[:, None])
    assert not found.held.reshape(-1, 3)[at, 2].any()
    # Nodes at the height of the axis have nothing along y, and are moved all the same.
    assert np.all(found.moved_by.reshape(-1, 3)[at, :2] == 0)
    assert np.count_nonzero(found.moved_by == 0) == 2 * len(at)


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ({"centre": (20.0, 15.0, 0.0)}, "nodes on its axis"),
        ({"faces": (Face("block", "left"),)}, "held or led the same way"),
    ],
)
def test_radial_motions_that_cannot_be_are_refused(more: dict[str, Any], told: str) -> None:
    load = Load("widen", "radial", (Face("block", "right"),), (0.0, 0.0, 1.0), centre=(-40.0, 4.0, 0.0))
    wall = Support("wall", (Face("block", "left"),), (True, True, True))
    with pytest.raises(InputError, match=told):
        _constrained(_model(supports=(wall,), loads=(dataclasses.replace(load, **more),)))


@pytest.mark.parametrize("angle", [0.0, 0.4, 2.5])
def test_rigid_handle_turns_its_face_exactly_and_its_tangent_is_the_derivative(angle: float) -> None:
    model = _model(handles=(Handle("grip", (5.0, 0.0, 30.0), (TOP,)),))
    found = _constrained(model)
    first = found.layout.handles["grip"]
    rng = np.random.default_rng(1)
    masters = np.zeros(len(found.held))
    axis = rng.standard_normal(3)
    turn = angle * axis / np.linalg.norm(axis)
    masters[3 * first : 3 * first + 6] = [1.0, 2.0, -0.5, *turn]
    u = found.expand(masters, large=True).reshape(-1, 3)
    nodes = model.nodes()
    top = nodes[:, 2] > 20 - 1e-9
    arm = nodes[top] - [5.0, 0.0, 30.0]
    assert np.allclose(u[: len(nodes)][top], [1.0, 2.0, -0.5] + arm @ Rotation.from_rotvec(turn).as_matrix().T - arm)
    assert not u[: len(nodes)][~top].any()
    tangent = found.tangent(masters, large=True)
    for k in range(6):
        step = np.zeros(len(masters))
        step[3 * first + k] = 1e-6
        slope = (found.expand(masters + step, large=True) - found.expand(masters - step, large=True)) / 2e-6
        assert np.abs(tangent[:, 3 * first + k].toarray()[:, 0] - slope).max() < 1e-8


def test_averaging_handle_follows_rigid_motions_and_its_moment_is_spread_without_force() -> None:
    model = _model(handles=(Handle("grip", (0.0, 0.0, 20.0), (TOP,), "averaging"),))
    found = _constrained(model)
    nodes, first = model.nodes(), found.layout.handles["grip"]
    turn, shift = np.array([0.01, -0.02, 0.03]), np.array([0.1, 0.2, 0.3])
    masters = np.zeros(len(found.held))
    masters[: 3 * len(nodes)] = (shift + np.cross(turn, nodes - [0, 0, 20.0])).ravel()
    u = found.expand(masters, large=False).reshape(-1, 3)
    assert np.allclose(u[first], shift)
    assert np.allclose(u[first + 1], turn)
    # A moment at the handle, seen at the nodes: no force, that moment.
    load = np.zeros((found.layout.n_total, 3))
    load[first + 1] = [0.0, 7.0, 0.0]
    spread = (found.matrix.T @ load.ravel())[: 3 * len(nodes)].reshape(-1, 3)
    assert np.abs(spread.sum(axis=0)).max() < 1e-12
    assert np.allclose(np.cross(nodes - [0, 0, 20.0], spread).sum(axis=0), [0.0, 7.0, 0.0])


def test_a_hinge_shares_all_but_its_turn_over_the_arm_between() -> None:
    handles = (Handle("a", (0.0, 0.0, 0.0)), Handle("b", (10.0, 0.0, 0.0)))
    model = _model(handles=handles, links=(Link("hinge", "a", "b", (True,) * 5 + (False,)),))  # type: ignore[arg-type]
    found = _constrained(model)
    a, b = (3 * found.layout.handles[n] for n in "ab")
    masters = np.zeros(len(found.held))
    masters[a : a + 6] = [1, 2, 3, 0.1, 0.2, 0.3]
    masters[b + 5] = 0.9
    u = found.expand(masters, large=False)
    assert np.allclose(u[b : b + 6], [1, 2 + 3, 3 - 2, 0.1, 0.2, 0.9])


def test_a_support_of_a_led_face_holds_its_handle_as_far_as_it_must() -> None:
    grip = Handle("grip", (0.0, 0.0, 20.0), (TOP,))
    found = _constrained(_model(handles=(grip,), supports=(Support("lid", (TOP,), (False, False, True)),)))
    first = 3 * found.layout.handles["grip"]
    assert np.array_equal(found.held[first : first + 6], [False, False, True, True, True, False])
    assert np.array_equal(found.support_of[first : first + 6], [-1, -1, 0, 0, 0, -1])
    # A prescribed motion of the face moves the handle, and lets it not turn.
    lift = Load("lift", "displacement", (TOP,), (0.0, 0.0, -1.0))
    found = _constrained(_model(handles=(grip,), loads=(lift,)))
    assert np.array_equal(found.motions[first : first + 6, 0], [0, 0, -1, 0, 0, 0])
    assert np.array_equal(found.held[first : first + 6], [False, False, True, True, True, False])


def test_contradictions_are_refused_with_their_place() -> None:
    grip = Handle("grip", (0.0, 0.0, 20.0), (TOP,))
    with pytest.raises(InputError, match="already"):
        _constrained(_model(handles=(grip, Handle("other", (0, 0, 0), (Face("block", "left"),)))))
    # An edge that turns with a handle beside it cannot be held across alone.
    beside = Handle("grip", (0.0, 0.0, 50.0), (TOP,))
    held = Support("lid", (Face("block", "left"),), (True, False, False))
    with pytest.raises(InputError, match="may move that way") as refused:
        _constrained(_model(handles=(beside,), supports=(held,)))
    assert refused.value.where == "supports/lid"
    floor = Support("floor", (BOTTOM,), (True, True, True))
    on_floor = Load("move", "displacement", (BOTTOM,), (1.0, 0.0, 0.0))
    with pytest.raises(InputError, match="held or led"):
        _constrained(_model(supports=(floor,), loads=(on_floor,)))


def _bolt_body(name: str, *, turn: float = 0.0) -> Body:
    mesh = mesh_layered(RECIPES["bolt"].solid({}), size=6.0, per_turn=12)
    c, s = np.cos(turn), np.sin(turn)
    return Body(name, dataclasses.replace(mesh, nodes=mesh.nodes @ np.array([[1, 0, 0], [0, c, s], [0, -s, c]])), STEEL)


@pytest.mark.parametrize("turn", [0.0, 0.7])
def test_bolt_force_is_the_slope_of_the_energy_with_the_shortened_cut(turn: float) -> None:
    axis = (0.0, float(-np.sin(turn)), float(np.cos(turn)))
    model = Model((_bolt_body("bolt", turn=turn),), (), (Bolt("bolt", axis, body="bolt"),), (), (), ())
    layout = lay_out(model)
    structure, found = Structure(model, layout), constrain(model, layout)
    rng = np.random.default_rng(2)
    masters = rng.normal(size=len(found.held))

    def energy(shortening: float) -> float:
        masters[-1] = shortening
        u = found.expand(masters, large=False)
        return 0.5 * float(u @ structure.answer(u, structure.start(), large=False, with_tangent=False).force)

    force = (energy(0.37 + 1e-4) - energy(0.37 - 1e-4)) / 2e-4
    masters[-1] = 0.37
    u = found.expand(masters, large=False)
    assert (found.matrix.T @ (structure.stiffness() @ u))[-1] == pytest.approx(force, rel=1e-6)
    mesh = model.bodies[0].mesh
    assert len(layout.ghost_of) == len(mesh.cut_nodes)
    # Moving the whole bolt costs no bolt force.
    for motion in np.eye(3):
        masters[:] = 0.0
        masters[: 3 * len(mesh.nodes)] = np.tile(motion, len(mesh.nodes))
        whole = found.matrix.T @ (structure.stiffness() @ found.expand(masters, large=False))
        assert abs(whole[-1]) < 1e-8 * abs(structure.stiffness()).max()
