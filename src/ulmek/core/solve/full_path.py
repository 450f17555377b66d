"""The full path: Newton on everything at once, for yielding, rubber, large motion and inertia.

Contact is the same iteration with the same rules as on the condensed path, so both give the same states.
"""

import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.laws import Status, Trial, judge, with_overlap_share
from ulmek.core.contact.nodes import ContactNodes, contact_nodes
from ulmek.core.coupling.constraints import Constraints, constrain
from ulmek.core.layout import lay_out
from ulmek.core.model import Model, Path, Step
from ulmek.core.solve.assembly import Internal, Structure
from ulmek.core.solve.contact_loop import settle_contact, without_direction
from ulmek.core.solve.coupled import DirectSolver
from ulmek.core.solve.equilibrium import Course, Equilibrium
from ulmek.core.solve.interior import condense_interior, is_worth_it
from ulmek.core.solve.iterative import IterativeSolver
from ulmek.core.solve.newmark import Newmark
from ulmek.core.solve.newton import Linear, NewtonAttempt
from ulmek.core.solve.state import Iteration, JointState, State, Wanted
from ulmek.core.solve.timing import Timing

Array = NDArray[np.float64]


class FullPath:
    """Solves increments by Newton's method on all unknowns."""

    def __init__(
        self, model: Model, *, way: Path = "full", may_condense: bool = False, backend: str | None = None
    ) -> None:
        """``way``: full factors everything in each iteration, mixed condenses elastic interiors once, for small static
        motion only, iterative factors nothing. may_condense: mixed, where that pays."""
        began = time.perf_counter()
        self.model, self.layout = model, lay_out(model)
        self.timing = Timing()
        self.equilibrium = Equilibrium(model, self.layout)
        self.released = model.steps[0].released
        constraints = constrain(model, self.layout, released=self.released)
        tracker = self.equilibrium.tracker
        free = sp.csr_matrix(constraints.matrix[:, constraints.free])
        nodes, _ = contact_nodes(model, tracker.at_start, free)
        # Every node has its three rows, whether they act or not: faces that slide far meet others.
        self.nodes: ContactNodes = nodes.numbered(np.arange(3 * len(nodes.pair)))
        self.equilibrium.hold(model.steps[0], constraints, self.nodes)
        self.timing.assembly = time.perf_counter() - began
        if may_condense and is_still(model) and is_worth_it(model, self.layout, constraints, tracker.rows_at_start):
            way = "mixed"
        self.name: str = way
        solver = IterativeSolver() if way == "iterative" else DirectSolver(backend=backend)
        self.linear = Linear(solver, None, self.timing)
        self._prepare()

    def _prepare(self) -> None:
        """What the linear solver needs to know of the present constraints."""
        if isinstance(self.linear.solver, IterativeSolver):
            self.linear.solver.follow(self.layout, self.constraints)
        if self.name != "mixed":
            return
        began = time.perf_counter()
        rows = self.equilibrium.tracker.rows_at_start
        interior = condense_interior(
            self.model, self.structure, self.constraints, rows, backend=self.linear.solver.backend
        )
        self.linear = replace(self.linear, interior=interior)
        self.timing.condense += time.perf_counter() - began

    @property
    def system(self) -> "FullPath":
        """What reviews read: nodes, constraints and structure."""
        return self

    @property
    def constraints(self) -> Constraints:
        """Of the step that is solved now."""
        return self.equilibrium.constraints

    @property
    def structure(self) -> Structure:
        """All elements."""
        return self.equilibrium.structure

    @property
    def tried(self) -> Internal:
        """Inner state of the last attempt."""
        return self.equilibrium.tried

    @property
    def unknowns(self) -> int:
        """Free unknowns."""
        return len(self.constraints.free)

    @property
    def joint_unknowns(self) -> int:
        """Contact forces and shortenings."""
        return 3 * len(self.nodes.pair) + len(self.model.bolts)

    @property
    def solver_name(self) -> str:
        """Linear solver in use."""
        return self.linear.solver.backend

    def start(self) -> State:
        """The state at rest."""
        n, n_bolts = len(self.nodes.pair), len(self.model.bolts)
        laws, at_start = self.equilibrium.laws, self.equilibrium.tracker.at_start
        touching = (self.nodes.gap <= 1e-6 * self.equilibrium.extent) & (self.nodes.area > 0)
        status = np.where(touching | ~laws.may_open, int(Status.STICKING), int(Status.OPEN))
        status[laws.is_off] = Status.OPEN
        z = np.zeros(3 * n + n_bolts)
        joint = JointState(z, z.copy(), np.zeros((n, 3)), np.zeros((n, 3)), status)
        triples = np.zeros((self.layout.n_total, 3))
        masters = np.zeros(3 * self.layout.n_total + n_bolts)
        return State(
            joint=joint, masters=masters, u=triples, internal=self.structure.start(), inside=triples, applied=triples,
            contact=triples, gap=self.nodes.gap, interfaces=at_start, velocity=np.zeros(triples.size),
            acceleration=np.zeros(triples.size),
        )  # fmt: skip

    def begin_step(self, step: Step, state: State) -> State:
        """Take over what the step releases, holds and follows."""
        constraints, before = self.constraints, self.equilibrium.step
        holds_other = step.released != self.released
        if holds_other:
            self.released = step.released
            constraints = constrain(self.model, self.layout, released=step.released)
            is_support = constraints.held & (constraints.support_of >= 0)
            # What was led by others may be a master now.
            state = replace(state, masters=constraints.masters_at(state.u.ravel(), state.masters[state.u.size :]))
            constraints.motions[:, -1] = np.where(is_support, state.masters, 0.0)
        self.equilibrium.hold(step, constraints, self.nodes)
        if holds_other:
            self._prepare()
        joint = state.joint
        if step.large != before.large:
            # Motions count from here; in large motion they are measured, not summed up.
            joint = replace(joint, w=self.equilibrium.contact(state.u.ravel(), state.u.ravel(), 1.0).w)
        is_off = self.equilibrium.laws.is_off
        joint = replace(joint, status=np.where(is_off, int(Status.OPEN), joint.status))
        if step.dynamics is None:
            state = replace(state, velocity=0 * state.velocity, acceleration=0 * state.acceleration)
        return replace(state, joint=joint)

    def let_go_slowly(self, state: State, time: float) -> bool:
        """See `Equilibrium.let_go_slowly`."""
        return self.equilibrium.let_go_slowly(state, time)

    def solve(
        self,
        old: State,
        guess: JointState | None,
        wanted: Wanted,
        *,
        most: int,
        report: Callable[[Iteration], None],
    ) -> State | None:
        """The state for what is ``wanted``, None when ``most`` iterations did not settle.

        Raises
        ------
        InvertedError, LooseError : see `NewtonAttempt.solve`.
        """
        step, laws = self.equilibrium.step, self.equilibrium.laws
        if not step.large:
            laws = with_overlap_share(laws, wanted.overlap_share)
        course = Course(old, wanted, Newmark.of(step.dynamics, wanted.seconds, anew=wanted.anew))
        attempt = NewtonAttempt(self.equilibrium, self.linear, course)
        start = attempt.start
        if guess is not None:
            ahead = attempt.going_on() if step.large else guess
            trial: Trial = judge(laws, ahead.w, ahead.traction, start.w, start.traction)
        else:
            trial = without_direction(start.status)
        if step.large or guess is None:
            trial.status[attempt.is_bare] = Status.OPEN
        joint = settle_contact(attempt, laws, trial, start, most=most, report=report)
        return None if joint is None else self._complete(attempt, joint)

    def _complete(self, attempt: NewtonAttempt, joint: JointState) -> State:
        now, old, newmark = attempt.now, attempt.course.old, attempt.course.newmark
        velocity, acceleration = 0 * old.velocity, 0 * old.acceleration
        if newmark is not None:
            velocity, acceleration = newmark.rates(now.u - old.u.ravel(), old.velocity, old.acceleration)
        return State(
            joint=joint, masters=now.masters, u=now.u.reshape(-1, 3), internal=now.answer.internal,
            inside=now.answer.force.reshape(-1, 3), applied=now.applied.reshape(-1, 3),
            contact=now.pulled.reshape(-1, 3), gap=now.contact.gap, interfaces=now.contact.interfaces,
            velocity=velocity, acceleration=acceleration,
            kinetic=float(self.equilibrium.masses @ velocity**2 / 2),
        )  # fmt: skip


def is_still(model: Model) -> bool:
    """Whether no step follows large motion or inertia."""
    return not any(step.large or step.dynamics is not None for step in model.steps)
