"""A kept factor serves other friction, loads, preloads and fits, with the answers of a new one."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, Recorder, block_body
from ulmek.core.material.elastic import Elastic
from ulmek.core.model import Face, Load, Model, Pair, PairLaw, Step, Support
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.history import Increment, solve_history


def _model() -> Model:
    lower, upper = block_body("lower", (50, 50, 20), 15), block_body("upper", (40, 40, 20), 11, at=20)
    pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), PairLaw(True, "friction", 0.3), 1.0)
    top = (Face("upper", "top"),)
    loads = (Load("press", "pressure", top), Load("push", "force", top, (1.0, 0.0, 0.0)))
    floor = Support("floor", (Face("lower", "bottom"),), (True, True, True))
    steps = (Step("press", {"press": 20.0}), Step("push", {"push": 6e3}))
    return Model((lower, upper), (pair,), (), (floor,), loads, steps)


def _run(path: CondensedPath) -> list[Increment]:
    heard = Recorder()
    solve_history(path, heard)
    return heard.increments


def _law(model: Model, **changes: object) -> Model:
    pair = dataclasses.replace(model.pairs[0], **changes)  # type: ignore[arg-type]
    return dataclasses.replace(model, pairs=(pair,))


CHANGES = {
    "friction": lambda m: _law(m, law=PairLaw(True, "friction", 0.5)),
    "grip": lambda m: _law(m, law=PairLaw(True, "no")),
    "penalty": lambda m: _law(m, enforcement="penalty", penalty=300.0),
    "fit": lambda m: _law(m, fit="value", interference=0.002),
    "loads": lambda m: dataclasses.replace(m, steps=(Step("press", {"press": 35.0}), Step("push", {"push": -9e3}))),
}


@pytest.mark.parametrize("change", CHANGES)
def test_the_kept_factor_answers_like_a_new_one(change: str) -> None:
    first = CondensedPath(_model())
    _run(first)
    other = CHANGES[change](_model())
    reused, fresh = CondensedPath(other, earlier=first), CondensedPath(other)
    assert reused.is_reused
    assert reused.timing.factorizations == 0
    for a, b in zip(_run(reused), _run(fresh), strict=True):
        assert np.abs(a.state.u - b.state.u).max() < 1e-12
        assert np.allclose(a.joint.traction, b.joint.traction, atol=1e-9)


@pytest.mark.parametrize("change", CHANGES)
def test_first_trials_from_an_earlier_history_change_no_increment(change: str) -> None:
    """Also where they lead astray: the push of the earlier history goes the other way in "loads"."""
    first = CondensedPath(_model())
    marks = [i.landmark for i in _run(first)]
    other = CHANGES[change](_model())
    heard = Recorder()
    solve_history(CondensedPath(other, earlier=first), heard, like=marks)
    for a, b in zip(heard.increments, _run(CondensedPath(other)), strict=True):
        assert (a.step, a.time) == (b.step, b.time)
        assert np.abs(a.state.u - b.state.u).max() < 1e-7 * np.abs(b.state.u).max()
    if change == "friction":
        same = Recorder()
        solve_history(CondensedPath(_model(), earlier=first), same, like=marks)
        assert all(i.iterations == 1 for i in same.increments)


def test_what_needs_another_factor_gets_one() -> None:
    first = CondensedPath(_model())
    model = _model()
    soft = dataclasses.replace(model.bodies[0], material=Elastic(70e3, 0.3))
    held = Support("side", (Face("upper", "left"),), (False, True, False))
    others = [
        dataclasses.replace(model, bodies=(soft, model.bodies[1])),
        dataclasses.replace(model, supports=(*model.supports, held)),
        _law(model, law=PairLaw(True, "freely")),
        dataclasses.replace(model, bodies=(model.bodies[0], block_body("upper", (40, 40, 20), 9, at=20))),
    ]
    assert STEEL.young != soft.material.young
    for other in others:
        assert not first.serves(other)


@pytest.mark.parametrize("way", ["condensed", "full"])
def test_a_pair_can_be_switched_off_and_on_by_step(way: str) -> None:
    """A block pulled off its base while the pair is off, pressed back on it while it is on."""
    from ulmek.core.solve.choice import choose_path

    lower, upper = block_body("lower", (40, 40, 10), 12), block_body("upper", (30, 30, 10), 9, at=10)
    pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), PairLaw(False, "no"), 1.0)
    lid = tuple(
        Load(n, "displacement", (Face("upper", "top"),), d) for n, d in zip("xyz", np.eye(3).tolist(), strict=True)
    )  # type: ignore[arg-type]
    floor = Support("floor", (Face("lower", "bottom"),), (True, True, True))
    steps = (
        Step("tied", {"z": 0.01}),
        Step("off", {"z": 0.02}, released=frozenset({"joint"})),
    )
    model = Model((lower, upper), (pair,), (), (floor,), lid, steps, path=way)  # type: ignore[arg-type]
    path, _ = choose_path(model)
    heard = Recorder()
    solve_history(path, heard)
    tied = [i for i in heard.increments if i.step == 0][-1]
    off = heard.increments[-1]
    assert tied.joint.traction[:, 2].sum() < 0
    assert np.abs(off.joint.traction).max() < 1e-6
    # Nothing pulls any more: the upper block moves as one, the lower one is at rest.
    n = len(lower.mesh.nodes)
    assert np.abs(off.state.u[:n]).max() < 1e-9
    assert np.allclose(off.state.u[n : n + len(upper.mesh.nodes), 2], 0.02, atol=1e-9)
