"""Review numbers against fields that are known: uniform stress, closed balance, rigid motions, slides as one."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import Recorder, block_body
from ulmek.core.contact.interface import build_interface
from ulmek.core.contact.loose import loose_motions
from ulmek.core.model import Face, Load, Model, Pair, PairLaw, Step, Support
from ulmek.core.review.balance import balance_of
from ulmek.core.review.components import about_axis, deformation, principal
from ulmek.core.review.pair_fields import pair_fields, summarise_pair
from ulmek.core.review.recover import StressRecovery, von_mises
from ulmek.core.review.summary import summarise
from ulmek.core.review.trust import known_of, trust_of
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.history import Increment, StepSoFar, solve_history
from ulmek.core.solve.state import State

FRICTION = PairLaw(True, "friction", 0.2)


def _floors(model: Model) -> tuple[Support, ...]:
    return tuple(Support(b.name, (Face(b.name, "bottom"),), (True, True, True)) for b in model.bodies)


def _increment(state: State) -> Increment:
    nothing = np.zeros(0)
    return Increment(
        0,
        1,
        1.0,
        nothing,
        state,
        nothing,
        nothing,
        nothing,
        nothing,
        nothing,
        nothing,
        1,
        False,
        StepSoFar(nothing, nothing, 1.0, None),
    )


def test_recovered_stress_of_a_linear_motion_is_uniform_and_exact() -> None:
    model = Model(
        (block_body("a", (30, 20, 10), 6, turn=0.4), block_body("b", (30, 20, 10), 5, at=20)), (), (), (), (), ()
    )
    gradient = np.array([[1.0, 0.2, 0.0], [-0.3, 0.5, 0.1], [0.0, 0.4, -0.6]]) * 1e-3
    strain = (gradient + gradient.T) / 2
    voigt = np.array([*np.diag(strain), 2 * strain[0, 1], 2 * strain[1, 2], 2 * strain[2, 0]])
    expected = model.bodies[0].material.stiffness() @ voigt
    path = CondensedPath(dataclasses.replace(model, supports=_floors(model)))
    state = dataclasses.replace(path.start(), u=model.nodes() @ gradient.T)
    increment = _increment(state)
    fields = StressRecovery(Structure(model, path.system.layout)).recover(increment)
    stress = fields.stress
    assert not fields.plastic_strain.any()
    # Elements that agree show no error.
    assert fields.stress_error.max() < 1e-6
    assert np.allclose(stress, expected, rtol=1e-9, atol=1e-6)
    assert np.allclose(von_mises(stress), von_mises(expected[None])[0])


def _pressed(*, push: float) -> Model:
    lower = block_body("lower", (60, 60, 15), 15)
    upper = block_body("upper", (40, 40, 10), 10, at=15)
    lid = (Face("upper", "top"),)
    return Model(
        (lower, upper),
        (Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), FRICTION, 1.0),),
        (),
        (Support("floor", (Face("lower", "bottom"),), (True, True, True)),),
        (
            Load("press", "pressure", lid),
            Load("push", "displacement", lid, (1, 0, 0)),
            Load("guide", "displacement", lid, (0, 1, 0)),
        ),
        (Step("press", {"press": 25.0}), Step("push", {"push": push})),
    )


def test_reactions_and_moments_follow_from_statics() -> None:
    model = _pressed(push=0.5)
    path, heard = CondensedPath(model), Recorder()
    solve_history(path, heard)
    balance = balance_of(path.system.constraints, model, heard.increments[-1])
    press = 25.0 * 1600
    rub = 0.2 * press
    force, moment = (np.array(v) for v in (balance.carriers[0].force, balance.carriers[0].moment))
    push_force = balance.carriers[1].force
    kinds = [(c.kind, c.name) for c in balance.carriers]
    assert kinds == [("support", "floor"), ("motion", "push"), ("motion", "guide")]
    assert np.allclose(balance.applied, [0, 0, -press])
    assert np.allclose(force, [-rub, 0, press], rtol=1e-4, atol=1e-3 * press * 1e-2)
    assert push_force[0] == pytest.approx(rub, rel=1e-4)
    # The push acts 25 mm above the floor: the floor answers with a moment about y of −rub · 25.
    assert moment[1] == pytest.approx(-rub * 25.0, rel=1e-3)
    assert balance.closing_error < 1e-9
    assert max(balance.parts.values()) < 1e-8 * balance.scale
    # The pair answers the push with friction 10 mm below it, and with a moment about its own middle.
    joint = summarise_pair(model, path.system.nodes, heard.increments[-1], 0, trust_of(model, path.start())[0])
    assert joint.about == pytest.approx((0, 0, 15), abs=1e-9)
    assert joint.moment == pytest.approx((0, -rub * 10, 0), abs=1e-3 * rub * 10)


def test_a_block_that_slides_moves_as_one_and_one_that_is_only_pressed_does_not() -> None:
    path, heard = CondensedPath(_pressed(push=0.5)), Recorder()
    solve_history(path, heard)
    pressed = next(i for i in heard.increments if i.step == 0)
    end = summarise_pair(path.model, path.system.nodes, heard.increments[-1], 0, trust_of(path.model, path.start())[0])
    assert end.as_one > 0.99
    assert end.share_sliding == pytest.approx(1.0)
    assert summarise_pair(path.model, path.system.nodes, pressed, 0, trust_of(path.model, path.start())[0]).as_one < 0.3
    fields = pair_fields(path.system.nodes, heard.increments[-1], 0, trust_of(path.model, path.start())[0])
    assert fields.sliding.min() > 0.45
    heat = end.dissipated
    assert heat == pytest.approx(0.2 * 25.0 * 1600 * 0.5, rel=0.02)


def test_a_rigid_motion_is_no_deformation_and_what_goes_beyond_it_is() -> None:
    points = np.array([[x, y, z] for x in (-20.0, 7.0, 13.0) for y in (-8.0, 8.0) for z in (-5.0, 5.0)])
    c, s = np.cos(1.1), np.sin(1.1)
    turned = points @ np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]).T + [3, -80, 5]
    assert deformation(points, turned - points).max() < 1e-12
    # Stretched by a thousandth along x about the middle, then moved as before.
    stretched = points + 1e-3 * (points - points.mean(axis=0)) * [1, 0, 0]
    moved = stretched @ np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]]).T + [3, -80, 5]
    expected = 1e-3 * np.abs(points - points.mean(axis=0))[:, 0]
    assert deformation(points, moved - points) == pytest.approx(expected, abs=1e-12)


def test_components_about_an_axis_and_principal_values() -> None:
    """Lamé's tube about a tilted axis: hoop and radial as set, whatever the direction of the axis."""
    rng = np.random.default_rng(3)
    axis = np.array([1.0, 2.0, 2.0]) / 3
    points, origin = rng.normal(size=(40, 3)), np.array([5.0, 0, 0])
    out = points - np.outer(points @ axis, axis)
    r = out / np.linalg.norm(out, axis=1)[:, None]
    hoop = np.cross(axis, r)
    tensor = -30 * r[:, :, None] * r[:, None] + 90 * hoop[:, :, None] * hoop[:, None] + 10 * np.outer(axis, axis)
    stress = np.column_stack([tensor[:, i, j] for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (2, 0))])
    assert np.allclose(about_axis(stress, points + origin, origin, axis), [-30, 90, 10])
    assert np.allclose(principal(stress), [90, 10, -30])
    on_axis = about_axis(stress[:1], origin[None], origin, axis)
    assert np.allclose(on_axis, [[30, 30, 10]])


def test_summary_judges_stress_by_the_yield_of_each_part() -> None:
    model = _pressed(push=0.0)
    soft = dataclasses.replace(model.bodies[0].material, yield_stress=None)
    model = dataclasses.replace(
        model, bodies=(dataclasses.replace(model.bodies[0], material=soft, allowable=100.0), model.bodies[1])
    )
    path, heard = CondensedPath(model), Recorder()
    solve_history(path, heard)
    last = heard.increments[-1]
    fields = StressRecovery(path.system.structure).recover(last)
    summary = summarise(path, last, fields, known_of(model, path.start()))
    assert 0 < summary.parts["upper"].stress_error < summary.parts["upper"].max_von_mises
    upper = summary.parts["upper"]
    assert upper.yield_share == pytest.approx(upper.max_von_mises / 355.0)
    assert summary.parts["lower"].yield_share is None
    assert summary.parts["lower"].safety == pytest.approx(100.0 / summary.parts["lower"].max_von_mises)
    assert upper.safety == pytest.approx(1 / upper.yield_share)
    assert 0 < summary.pairs["joint"].yield_share <= upper.yield_share
    assert summary.values["press"] == 25.0


HELD = [
    ((True, True, True), ()),
    ((True, False, False), ("along y", "along z", "turning about x")),
    ((False, False, True), ("along x", "along y", "turning about z")),
]


@pytest.mark.parametrize(("components", "free"), HELD)
def test_loose_motions_of_a_block_on_one_support(components: tuple[bool, bool, bool], free: tuple[str, ...]) -> None:
    face = "left" if components[0] and not components[1] else "bottom"
    model = Model(
        (block_body("block", (20, 30, 40), 10),), (), (), (Support("s", (Face("block", face),), components),), (), ()
    )
    found = loose_motions(model, [], touching=1e-6)
    assert (found[0].motions if found else ()) == free


def test_loose_motions_follow_the_pair_law() -> None:
    lower, upper = block_body("lower", (50, 50, 20), 12), block_body("upper", (30, 30, 20), 8, at=20)
    floor = Support("floor", (Face("lower", "bottom"),), (True, True, True))

    def free(law: PairLaw, *, with_friction: bool = True) -> tuple[str, ...]:
        pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), law, 1.0)
        model = Model((lower, upper), (pair,), (), (floor,), (), ())
        interface = build_interface(model, pair, model.nodes())
        found = loose_motions(model, [interface], touching=1e-6, with_friction=with_friction)
        assert all(m.body == "upper" for m in found)
        return found[0].motions if found else ()

    sliding = ("along x", "along y", "turning about z")
    assert free(PairLaw(True, "friction", 0.1)) == ()
    assert free(PairLaw(True, "friction", 0.1), with_friction=False) == sliding
    assert free(PairLaw(True, "friction", 0.0)) == sliding
    assert free(PairLaw(True, "freely")) == sliding
    assert free(PairLaw(False, "freely")) == sliding
    assert free(PairLaw(True, "no"), with_friction=False) == ()
    assert free(PairLaw(False, "no")) == ()
