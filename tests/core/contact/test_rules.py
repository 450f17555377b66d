"""The contact rules: states that obey a law satisfy them, others do not, and every row has one equation."""

from itertools import product

import numpy as np
import pytest

from ulmek.core.contact.equations import COMPLIANCE, contact_equations
from ulmek.core.contact.laws import NodeLaws, Status, Trial, judge
from ulmek.core.contact.rules import Rules, rules_for
from ulmek.core.solve.contact_loop import MORE_FOR_AUGMENTED, settle_contact, without_direction
from ulmek.core.solve.state import Iteration, JointState

N = 200
MU, PENALTY, TRIAL = 0.3, 5e3, 2e3


def _laws(n: int, *, penalty: bool, augmented: bool = False) -> NodeLaws:
    """Nodes that open and slide with friction."""
    yes, no = np.ones(n, bool), np.zeros(n, bool)
    return NodeLaws(
        may_open=yes, slides_freely=no, has_friction=yes, is_penalty=yes if penalty else no, mu=np.full(n, MU),
        gap=np.zeros(n), trial=np.full(n, TRIAL), penalty=np.full(n, PENALTY), is_off=no,
        is_augmented=yes if augmented else no, allowed=np.full(n, 1e-4), drawn_gap=np.zeros(n),
    )  # fmt: skip


def _obeying(rng: np.random.Generator, *, penalty: bool) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Motions and tractions (n, 3) now and before, a third of the nodes open, sticking and sliding each."""
    w_old, old = 0.01 * rng.standard_normal((N, 3)), 20 * rng.standard_normal((N, 3))
    w, traction = w_old.copy(), old.copy()
    pressure = rng.uniform(50.0, 90.0, N)
    w[:, 2] = -pressure / PENALTY if penalty else 0.0
    traction[:, 2] = pressure
    opens, sticks, slides = (np.arange(N) % 3 == k for k in range(3))
    w[opens, 2], traction[opens] = 0.02, 0.0
    # Sticking, exact: any traction inside the cone; penalty: what the springs give.
    traction[sticks, :2] = 0.2 * old[sticks, :2]
    moved = 1e-4 * rng.standard_normal((N, 2))
    if penalty:
        w[sticks, :2] += moved[sticks]
        traction[sticks, :2] = 0.0
        old[sticks, :2] = PENALTY * moved[sticks]
    # Sliding: friction along the way of slipping, against its motion.
    angle = rng.uniform(0, 2 * np.pi, N)
    way = np.column_stack([np.cos(angle), np.sin(angle)])
    traction[slides, :2] = MU * pressure[slides, None] * way[slides]
    w[slides, :2] -= 0.05 * way[slides]
    if penalty:
        old[slides, :2] = traction[slides, :2]
    return w, traction, w_old, old


def _residual(rules: Rules, forces: np.ndarray, w: np.ndarray) -> np.ndarray:
    """What is left of every row (n, 3), in its own unit."""
    left = np.where(rules.holds, w - rules.place, forces + rules.stiff * w - rules.pull)
    lines = rules.slips
    sides = np.einsum("ij,ij->i", lines.force, forces[lines.node]) + np.einsum("ij,ij->i", lines.motion, w[lines.node])
    left[lines.node, lines.row] = sides - lines.right
    return left


@pytest.mark.parametrize("penalty", [False, True])
def test_a_state_that_obeys_its_law_satisfies_its_rules_and_a_disturbed_one_does_not(penalty: bool) -> None:
    rng = np.random.default_rng(3)
    laws, area, acts = _laws(N, penalty=penalty), rng.uniform(0.5, 3.0, N), np.ones((N, 3), bool)
    w, traction, w_old, old = _obeying(rng, penalty=penalty)
    trial = judge(laws, w, traction, w_old, old)
    assert np.array_equal(trial.status, np.tile([Status.OPEN, Status.STICKING, Status.SLIDING], N)[:N])
    rules = rules_for(laws, trial, area=area, acts=acts, w_old=w_old, traction_old=old)
    forces = traction * area[:, None]
    largest = np.abs(forces).max()
    assert np.abs(_residual(rules, forces, w)).max() < 1e-12 * largest
    # No row is without an equation: any force or motion that is changed is felt by its node's rows.
    for k, step in product(range(3), (1e-3 * largest, 0.0)):
        other_forces, other_w = forces.copy(), w.copy()
        other_forces[:, k] += step
        other_w[:, k] += 1e-3 if step == 0.0 else 0.0
        left = np.abs(_residual(rules, other_forces, other_w)).max(axis=1)
        feels = left > 1e-9 * largest if step else left > 1e-9
        is_held = ~laws.is_penalty & (trial.status == Status.STICKING)
        is_held |= ~laws.is_penalty & (trial.status == Status.SLIDING) & (k == 2)
        expected = ~is_held if step else trial.status != Status.OPEN
        # Friction follows the pressure: a sliding node feels its normal force in the line along the slip.
        expected |= (trial.status == Status.SLIDING) if k == 2 else False
        if step == 0.0 and k < 2:
            # Along the slip a node is free to move.
            expected &= trial.status != Status.SLIDING
            feels &= trial.status != Status.SLIDING
        assert np.array_equal(feels, expected), (k, step)


@pytest.mark.parametrize("penalty", [False, True])
@pytest.mark.parametrize("acting", list(product([True, False], repeat=3)))
def test_rows_that_do_nothing_ask_for_nothing(acting: tuple[bool, bool, bool], penalty: bool) -> None:
    rng = np.random.default_rng(4)
    w, traction, w_old, old = _obeying(rng, penalty=penalty)
    laws, acts = _laws(N, penalty=penalty), np.tile(acting, (N, 1))
    trial = judge(laws, w, traction, w_old, old)
    rules = rules_for(laws, trial, area=np.ones(N), acts=acts, w_old=w_old, traction_old=old)
    idle = ~acts
    assert not rules.holds[idle].any()
    assert not rules.stiff[idle].any()
    assert acts[rules.slips.node, rules.slips.row].all()
    assert not rules.holds[rules.slips.node, rules.slips.row].any()
    per_node = np.bincount(rules.slips.node, minlength=N)
    expected = sum(acting[:2]) if acting[2] else 0
    assert np.all(per_node[trial.status == Status.SLIDING] == expected)
    assert not per_node[trial.status != Status.SLIDING].any()
    # A node on a symmetry plane slides with its friction along the one way that is left.
    if sum(acting[:2]) == 1:
        lines = rules.slips
        sign = lines.force[np.arange(len(lines.node)), lines.row]
        assert np.array_equal(sign, np.sign(trial.direction[lines.node, lines.row]))
        assert np.all(lines.force[:, 2] == -MU)


@pytest.mark.parametrize("penalty", [False, True])
def test_sparse_equations_say_what_the_rules_say(penalty: bool) -> None:
    rng = np.random.default_rng(5)
    w, traction, w_old, old = _obeying(rng, penalty=penalty)
    laws, area, acts = _laws(N, penalty=penalty), rng.uniform(0.5, 3.0, N), rng.uniform(size=(N, 3)) < 0.8
    trial = judge(laws, w, traction, w_old, old)
    rules = rules_for(laws, trial, area=area, acts=acts, w_old=w_old, traction_old=old)
    spring = area * TRIAL
    equations = contact_equations(rules, spring=spring, acts=acts, w_now=w, is_rigid=np.zeros(len(w), bool))
    # Forces that do not act are none.
    forces = np.where(acts, traction * area[:, None], 0.0)
    left = equations.motion @ w.ravel() + equations.force @ forces.ravel() - equations.right
    scale = np.where(rules.holds, 1.0, np.where(rules.stiff > 0, rules.stiff, spring[:, None]))
    scaled = _residual(rules, forces, w) / scale
    compliance = np.where(rules.holds, COMPLIANCE * forces / spring[:, None], 0.0)
    assert np.allclose(left.reshape(-1, 3), scaled + compliance, atol=1e-13)


class _Sinking:
    """A spring of stiffness 1e4 N/mm pressed by 100 N onto nodes of area 1 mm²: penetrates by F over its stiffness."""

    is_bare = None

    def __init__(self, *, settles_after: int) -> None:
        self.solved, self.settles_after, self.change, self.unknowns = 0, settles_after, 1.0, 1
        self.gaps: list[float] = []

    def solve(self, laws: NodeLaws, trial: Trial) -> JointState:
        self.solved += 1
        self.gaps.append(float(laws.gap[0]))
        w = np.array([[0.0, 0.0, -100.0 / PENALTY - laws.gap[0]]])
        return JointState(np.zeros(1), np.zeros(1), w, np.array([[0.0, 0.0, 100.0]]), trial.status)

    def has_settled(self, flips: int, residual: float) -> bool:
        return flips == 0 and residual == 0.0 and self.solved >= self.settles_after

    def may_go_on(self, number: int, most: int, flips: int) -> bool:
        del flips
        return number < most


def _settled(attempt: _Sinking, laws: NodeLaws, most: int) -> tuple[JointState | None, list[Iteration]]:
    zero, heard = np.zeros((1, 3)), []
    old = JointState(np.zeros(1), np.zeros(1), zero, zero, np.array([Status.STICKING]))
    found = settle_contact(attempt, laws, without_direction(old.status), old, most=most, report=heard.append)
    return found, heard


def test_the_iteration_gives_up_after_what_it_is_allowed_and_augments_until_little_is_crossed() -> None:
    found, heard = _settled(_Sinking(settles_after=9), _laws(1, penalty=True), most=4)
    assert found is None
    assert [i.number for i in heard] == [1, 2, 3, 4]
    found, heard = _settled(_Sinking(settles_after=3), _laws(1, penalty=True), most=4)
    assert found is not None
    assert (len(heard), found.w[0, 2]) == (3, -100.0 / PENALTY)
    # Augmented: the springs push against what they carried, until the surfaces cross by less than is allowed.
    attempt = _Sinking(settles_after=1)
    found, heard = _settled(attempt, _laws(1, penalty=True, augmented=True), most=1)
    assert found is not None
    assert attempt.gaps == pytest.approx([0.0, -100.0 / PENALTY])
    assert abs(found.w[0, 2]) <= 1e-4
    assert len(heard) <= MORE_FOR_AUGMENTED


def test_a_trial_from_a_status_alone_has_no_slip() -> None:
    trial = without_direction(np.array([Status.OPEN, Status.STICKING, Status.SLIDING]))
    assert trial.status.tolist() == [Status.OPEN, Status.STICKING, Status.STICKING]
    assert not trial.direction.any()
