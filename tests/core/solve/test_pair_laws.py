"""Every pair law and enforcement on two blocks: no pull through an opening pair, friction inside its cone, balance."""

import numpy as np
import pytest

from tests.conftest import Recorder, block_body
from ulmek.core.contact.laws import Status
from ulmek.core.errors import NotConvergedError
from ulmek.core.model import Face, Load, Model, Pair, PairLaw, Step, Support
from ulmek.core.review.balance import balance_of
from ulmek.core.review.pair_fields import pair_fields, summarise_pair
from ulmek.core.review.trust import trust_of
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.history import Increment, solve_history

LAWS = {
    "tied": PairLaw(False, "no"),
    "captive": PairLaw(False, "freely"),
    "smooth": PairLaw(True, "freely"),
    "friction": PairLaw(True, "friction", 0.3),
    "grip": PairLaw(True, "no"),
}


def _run(law: PairLaw, enforcement: str, steps: list[dict[str, float]]) -> tuple[CondensedPath, list[Increment]]:
    """Upper block held by its top face in x, y, z and moved by ``steps`` (press, slide in mm)."""
    lower = block_body("lower", (50, 50, 20), 10)
    upper = block_body("upper", (40, 40, 20), 8, at=20, turn=0.2)
    pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), law, 1.0, enforcement)  # type: ignore[arg-type]
    top = (Face("upper", "top"),)
    model = Model(
        (lower, upper),
        (pair,),
        (),
        (Support("floor", (Face("lower", "bottom"),), (True, True, True)),),
        (
            Load("lift", "displacement", top, (0, 0, 1)),
            Load("slide", "displacement", top, (1, 0, 0)),
            Load("side", "displacement", top, (0, 1, 0)),
        ),
        tuple(Step(f"step {i}", loads) for i, loads in enumerate(steps)),
    )
    path = CondensedPath(model)
    heard = Recorder()
    solve_history(path, heard)
    return path, heard.increments


PATH = [{"lift": -0.01}, {"slide": 0.02}, {"slide": -0.02}, {"lift": 0.01}]


@pytest.mark.parametrize("enforcement", ["exact", "augmented", "penalty"])
@pytest.mark.parametrize("name", LAWS)
def test_common_checks_of_every_law(name: str, enforcement: str) -> None:
    law = LAWS[name]
    assert law.short_name == name
    path, increments = _run(law, enforcement, PATH)
    model, nodes, constraints = path.model, path.system.nodes, path.system.constraints
    (known,) = trust_of(model, path.start())
    # One element under the largest pressure squeezes by p·h/E; penalty at 100 E/h lets a hundredth of it cross.
    for increment in increments:
        summary = summarise_pair(model, nodes, increment, 0, known)
        fields = pair_fields(nodes, increment, 0, known)
        balance = balance_of(constraints, model, increment)
        # Against 1 N at least: on the way from pressing to pulling nothing acts for a moment.
        scale = max(balance.scale, 1.0)
        assert balance.closing_error * balance.scale < 1e-9 * scale
        assert max(balance.parts.values()) < 1e-8 * scale
        if law.may_open:
            assert fields.pressure.min() >= -1e-7 * max(summary.peak_pressure, 1.0)
        if law.may_slide == "freely":
            assert summary.friction_force < 1e-6 * max(summary.normal_force, 1.0)
        if law.may_slide == "friction":
            limit = law.mu * fields.pressure + 1e-6 * max(summary.peak_pressure, 1.0)
            assert np.all(fields.frictional_stress <= limit)
        allowed = {"exact": 1e-9, "augmented": 1e-4, "penalty": 0.02 * summary.squeeze}[enforcement]
        assert summary.max_penetration <= allowed
        assert summary.share_open + summary.share_sticking + summary.share_sliding == pytest.approx(1.0)
    end = summarise_pair(model, nodes, increments[-1], 0, known)
    if law.may_open:
        assert end.share_open == 1.0
        assert end.normal_force == pytest.approx(0.0, abs=1e-6)
    else:
        assert end.share_open == 0.0
        assert end.normal_force < 0


def test_exact_and_penalty_agree_as_the_penalty_grows() -> None:
    _, exact = _run(LAWS["friction"], "exact", PATH[:2])
    _, soft = _run(LAWS["friction"], "penalty", PATH[:2])
    peak = np.abs(exact[-1].joint.traction).max()
    # Findings: about 1e-3 of the peak at 100 E/h.
    assert np.abs(exact[-1].joint.traction - soft[-1].joint.traction).max() < 1e-2 * peak


def test_friction_stays_where_it_was_left_and_heat_only_grows() -> None:
    _, increments = _run(LAWS["friction"], "exact", PATH[:3])
    heat = [float(i.dissipated[0]) for i in increments]
    assert heat == sorted(heat)
    assert heat[-1] > 0
    slid = np.array([i.slid_path.max() for i in increments])
    assert np.all(np.diff(slid) >= 0)


def test_condensed_answer_satisfies_the_whole_system() -> None:
    """Forces that the bodies ask for equal loads plus pair forces at every free node."""
    path, increments = _run(LAWS["friction"], "exact", PATH[:2])
    system, last = path.system, increments[-1]
    rest = (last.state.inside - last.state.contact).ravel()[system.constraints.free]
    assert np.abs(rest).max() < 1e-9 * np.abs(last.state.inside).max()
    assert np.allclose(system.gather @ last.state.u.ravel(), last.joint.z[: system.n_w], atol=1e-12)


def test_pushed_by_force_beyond_friction_is_told_as_sliding_away() -> None:
    lower = block_body("lower", (50, 50, 20), 15)
    upper = block_body("upper", (40, 40, 10), 10, at=20)
    pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), LAWS["friction"], 1.0)
    model = Model(
        (lower, upper),
        (pair,),
        (),
        (Support("floor", (Face("lower", "bottom"),), (True, True, True)),),
        (
            Load("press", "pressure", (Face("upper", "top"),)),
            Load("push", "force", (Face("upper", "bottom"),), (1, 0, 0)),
        ),
        (Step("press", {"press": 10.0}), Step("push", {"push": 6000.0})),
    )
    heard = Recorder()
    with pytest.raises(NotConvergedError, match="slides away") as raised:
        solve_history(CondensedPath(model), heard)
    # What moves, and how: the way it is pushed.
    ((body, motion),) = raised.value.mechanism
    assert body == "upper"
    assert motion[0] == 1.0
    assert np.abs(motion[1:]).max() < 0.2
    last = heard.increments[-1]
    # µN = 0.3 · 10 MPa · 1600 mm² = 4800 N: the last good state lies within one least increment below.
    assert 4800 - 6000 * 0.02 <= last.values[1] <= 4800 + 1e-6
    assert np.any(last.joint.status == Status.SLIDING)
