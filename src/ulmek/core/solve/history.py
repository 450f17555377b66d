"""The sequence: steps in increments that grow, and are halved when one does not converge."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface
from ulmek.core.contact.laws import Status
from ulmek.core.contact.loose import SLIDES, LooseMotion, set_free
from ulmek.core.contact.nodes import ContactNodes
from ulmek.core.coupling.constraints import Constraints
from ulmek.core.errors import InvertedError, LooseError, NotConvergedError
from ulmek.core.model import Model, Step
from ulmek.core.solve.assembly import Internal, Structure
from ulmek.core.solve.state import BoltControl, Iteration, JointState, State, Wanted
from ulmek.core.solve.timing import Timing

Array = NDArray[np.float64]

# An increment that takes this many iterations is halved; ordinary ones take 3 to 10.
MOST_ITERATIONS = 30
# Up to this many iterations the next increment grows by half.
EASY_ITERATIONS = 7
# A line bolt that pushes by more than this share of the highest force is slack; it is found out in so many rounds.
PUSHES, SLACK_ROUNDS = 1e-9, 12
# Share of a step in which nothing moves yet.
MOMENT = 1e-6
# Motions beyond this multiple of the model's size have no equilibrium behind them.
RUNAWAY = 2.0
# Share of a part's volume that yields when its limit load is reached, in words of a message only.
YIELDED_THROUGH = 0.2


@dataclass(frozen=True)
class StepSoFar:
    """How a step began and goes on: what resuming it needs besides a state.

    values, bolt_force: at the start of the step. size: of the next increment. previous: the joint one
    increment earlier and the size of that increment, for the extrapolation; None at the start.
    """

    values: Array
    bolt_force: Array
    size: float
    previous: tuple[JointState, float] | None


@dataclass(frozen=True)
class Landmark:
    """The joint at a time (0…1) of a step: what another run of nearly the same model can start from."""

    step: int
    time: float
    joint: JointState


@dataclass(frozen=True)
class Increment:
    """A converged increment.

    time: 0…1 within the step. values (n_loads,): load values (N, MPa, mm). bolt_force, shortening
    (n_bolts,): N, mm. slid (n_contact, 2) mm: net tangential motion while closed, slid_path
    (n_contact,) mm its length, slip the part of this increment. dissipated (n_pairs,) N·mm so far.
    A slack line bolt has no force, and the shortening at which it pulls again. large: large motion is followed.
    """

    step: int
    number: int
    time: float
    values: Array
    state: State
    bolt_force: Array
    shortening: Array
    slid: Array
    slid_path: Array
    slip: Array
    dissipated: Array
    iterations: int
    large: bool
    so_far: StepSoFar

    @property
    def joint(self) -> JointState:
        """Contact state."""
        return self.state.joint

    @property
    def landmark(self) -> Landmark:
        """What is worth keeping of it for a what-if."""
        return Landmark(self.step, self.time, self.joint)


@dataclass
class StepRecord:
    """What one step took."""

    name: str
    increments: int = 0
    iterations: int = 0
    cutbacks: int = 0
    let_go_slowly: bool = False


class Listener(Protocol):
    """Hears how a solution goes; raising `StoppedError` in any call stops it."""

    def step_began(self, index: int, step: Step) -> None: ...

    def iterated(self, step: int, time: float, iteration: Iteration) -> None: ...

    def cut_back(self, step: int, time: float, size: float, *, slowly: bool = False) -> None:
        """Another increment of ``size`` is tried from ``time``; ``slowly``: what the step has released is let go bit by
        bit from now on."""
        ...

    def converged(self, increment: Increment) -> None: ...


class JointSystem(Protocol):
    """What every path can say of its contact nodes, constraints and elements."""

    @property
    def nodes(self) -> ContactNodes: ...

    @property
    def constraints(self) -> Constraints: ...

    @property
    def structure(self) -> Structure: ...


class Path(Protocol):
    """A way of solution: the condensed or the full one. tried: inner state of the last attempt."""

    name: str
    model: Model
    timing: Timing

    @property
    def tried(self) -> Internal: ...

    @property
    def system(self) -> JointSystem: ...

    def start(self) -> State: ...

    def begin_step(self, step: Step, state: State) -> State: ...

    def let_go_slowly(self, state: State, time: float) -> bool:
        """Whether what a step has released can, from now on, be let go bit by bit until its end."""
        ...

    def solve(
        self,
        old: State,
        guess: JointState | None,
        wanted: Wanted,
        *,
        most: int,
        report: Callable[[Iteration], None],
    ) -> State | None: ...


@dataclass
class _Progress:
    """What is carried from increment to increment."""

    state: State
    values: Array
    bolt_force: Array
    shortening: Array
    slid: Array
    slid_path: Array
    dissipated: Array
    slack: NDArray[np.bool_]
    previous: tuple[JointState, float] | None = None
    number: int = 0
    records: list[StepRecord] = field(default_factory=list)


def solve_history(
    path: Path,
    listener: Listener,
    *,
    after: Increment | None = None,
    like: Sequence[Landmark] = (),
    clock: Callable[[], float] = time.perf_counter,
) -> list[StepRecord]:
    """Run all steps, or what is left of them ``after`` an increment; every converged one goes to ``listener``.

    ``like``: landmarks of a model with the same contact nodes; they are first trials here.

    Raises
    ------
    NotConvergedError : an increment below the least allowed did not converge; the increments
        handed on before stay good. StoppedError, from the listener.
    """
    model = path.model
    state = path.start()
    n_bolts, n_contact = len(model.bolts), len(state.joint.status)
    now = _Progress(
        state=state,
        values=np.zeros(len(model.loads)),
        bolt_force=np.zeros(n_bolts),
        shortening=np.zeros(n_bolts),
        slid=np.zeros((n_contact, 2)),
        slid_path=np.zeros(n_contact),
        dissipated=np.zeros(len(model.pairs)),
        slack=np.zeros(n_bolts, bool),
    )
    if after is not None:
        now = _taken_up(after)
    for index, step in enumerate(model.steps):
        if after is not None and (index < after.step or (index == after.step and after.time == 1.0)):
            continue
        listener.step_began(index, step)
        now.records.append(StepRecord(step.name))
        began = clock()
        now.state = path.begin_step(step, now.state)
        goes_on = after if after is not None and after.step == index else None
        _StepRun(path, index, now, listener, _Like.of(like, index, now.state.joint)).go(goes_on)
        path.timing.contact += clock() - began
    return now.records


def _taken_up(after: Increment) -> _Progress:
    return _Progress(
        state=after.state,
        values=after.values,
        bolt_force=after.bolt_force,
        shortening=after.shortening,
        slid=after.slid,
        slid_path=after.slid_path,
        dissipated=after.dissipated,
        slack=np.zeros(len(after.bolt_force), bool),
        number=after.number,
    )


def _extrapolate(now: _Progress, size: float) -> JointState | None:
    if now.previous is None or len(now.previous[0].z) != len(now.state.joint.z):
        return None
    earlier, last_size = now.previous
    return _moved_on(now.state.joint, earlier, now.state.joint, size / last_size)


def _moved_on(here: JointState, start: JointState, end: JointState, share: float) -> JointState:
    """``here`` and ``share`` of what changes from ``start`` to ``end``, with the status of ``end``."""

    def ahead(h: Array, x: Array, y: Array) -> Array:
        return h + share * (y - x)

    return JointState(
        ahead(here.z, start.z, end.z),
        ahead(here.forces, start.forces, end.forces),
        ahead(here.w, start.w, end.w),
        ahead(here.traction, start.traction, end.traction),
        end.status,
    )


@dataclass(frozen=True)
class _Like:
    """States of an earlier history at the times of one step, its start first."""

    states: dict[float, JointState]

    @staticmethod
    def of(history: Sequence[Landmark], step: int, at_rest: JointState) -> "_Like":
        fits = [i for i in history if len(i.joint.z) == len(at_rest.z)]
        before = [i.joint for i in fits if i.step < step]
        start = before[-1] if before else at_rest
        inside = {round(i.time, 9): i.joint for i in fits if i.step == step}
        return _Like({0.0: start, **inside} if inside else {})

    def ahead(self, here: JointState, reached: float, wanted: float) -> JointState | None:
        """``here`` moved on as the earlier history did between these times; None unless it knows both."""
        start, end = self.states.get(round(reached, 9)), self.states.get(round(wanted, 9))
        return None if start is None or end is None else _moved_on(here, start, end, 1.0)


class _StepRun:
    """One step of the sequence, increment by increment."""

    def __init__(self, path: Path, index: int, now: _Progress, listener: Listener, like: _Like) -> None:
        self.path, self.index, self.now, self.listener, self.like = path, index, now, listener, like
        self.step = path.model.steps[index]
        self.record = now.records[-1]
        self.by_force = np.array([b.name in self.step.preloads for b in path.model.bolts], bool)
        self.force_end = np.array([self.step.preloads.get(b.name, 0.0) for b in path.model.bolts])
        self.pulls_only = np.array([b.body is None for b in path.model.bolts], bool) & ~self.by_force
        # Of the attempt that was made last.
        self.slack, self.held = now.slack, now.shortening
        # Whether an element was turned inside out where large motion is not followed.
        self.is_turned = False

    def go(self, goes_on: Increment | None) -> None:
        """Run the step, or what is left of it after ``goes_on``."""
        step, now, plan = self.step, self.now, self.step.increments
        began = goes_on.so_far if goes_on else StepSoFar(now.values, now.bolt_force, plan.start, None)
        reached, wanted = (goes_on.time if goes_on else 0.0), began.size
        now.previous = began.previous
        anew = self._is_anew(began.values, reached)
        while reached < 1.0 - 1e-12:
            stop = min((t for t in step.stops() if t > reached + 1e-9), default=1.0)
            size = min(wanted, stop - reached)
            time_now = stop if reached + size > stop - 1e-9 else reached + size
            values = self._values(began.values, time_now)
            found, trouble, iterations = self._attempted(began.bolt_force, values, reached, time_now, size, anew=anew)
            if found is None:
                wanted = self._halved(reached, size, trouble)
                continue
            if iterations <= EASY_ITERATIONS:
                wanted = min(max(size, wanted) * 1.5, plan.largest)
            so_far = StepSoFar(began.values, began.bolt_force, wanted, (now.state.joint, size))
            self._accept(found, time_now, values, so_far, iterations)
            reached = time_now
            anew = self._is_anew(began.values, reached)
            if self.record.increments >= plan.most and reached < 1.0:
                raise NotConvergedError(
                    f"step '{step.name}' used all its {plan.most} increments at {reached:.0%}.",
                    where=f"steps/{step.name}",
                    hint="Allow more or larger increments.",
                )

    def _is_anew(self, start: Array, reached: float) -> bool:
        """Whether forces may jump just after ``reached``, in a step with inertia: where it begins, and where a load has
        another value at once. A motion that sets in at a speed has no acceleration, and gives none.
        """
        if self.step.dynamics is None or reached >= 1.0:
            return False
        before, here, after = (self._values(start, max(reached + k * MOMENT, 0.0)) for k in (-1, 0, 1))
        ahead = self._values(start, min(reached + 2 * MOMENT, 1.0))
        moves = np.array([ld.prescribes and ld.name not in self.step.released for ld in self.path.model.loads], bool)
        if ((after != here) | (ahead != after))[moves].any():
            return False
        return reached == 0.0 or bool(
            (np.abs(after - before) > 10 * np.abs(ahead - after) + 1e-9 * np.abs(after)).any()
        )

    def _values(self, start: Array, time_now: float) -> Array:
        """Load values at ``time_now`` for those at the start of the step."""
        names = [load.name for load in self.path.model.loads]
        ends = [self.step.loads.get(name, before) for name, before in zip(names, start, strict=True)]
        return np.array([self.step.value(n, time_now, a, b) for n, a, b in zip(names, start, ends, strict=True)])

    def _attempted(
        self, force_start: Array, values: Array, reached: float, time_now: float, size: float, *, anew: bool
    ) -> tuple[State | None, str, int]:
        """The state at ``time_now`` or what was in its way, and the iterations it took; anew: see `Wanted`."""
        path, step, now = self.path, self.step, self.now
        bolts = np.where(self.by_force, force_start + time_now * (self.force_end - force_start), now.shortening)
        self.held, self.slack, self.is_turned = bolts, now.slack & self.pulls_only, False

        def wanted() -> Wanted:
            return Wanted(
                path.model.amounts(values),
                BoltControl(self.by_force | self.slack, np.where(self.slack, 0.0, bolts)),
                overlap_share=time_now if self.index == 0 else 1.0,
                seconds=size * step.dynamics.duration if step.dynamics is not None else 0.0,
                time=time_now,
                anew=anew,
            )

        taken: list[Iteration] = []

        def hear(iteration: Iteration) -> None:
            taken.append(iteration)
            self.listener.iterated(self.index, time_now, iteration)

        found, trouble = None, ""
        known = self.like.ahead(now.state.joint, reached, time_now)
        # An earlier history that leads astray must not make smaller increments than a run without it.
        first = ([known] if known is not None else []) + [_extrapolate(now, size)]
        # Before giving up, from where it stands: going on as before may have led astray.
        is_last = size / 2 < step.increments.least and first[-1] is not None
        for guess in [*first, *([None] if is_last else [])]:
            try:
                found = path.solve(now.state, guess, wanted(), most=MOST_ITERATIONS, report=hear)
                for _ in range(SLACK_ROUNDS):
                    if found is None or not self._changes_slack(found.joint):
                        break
                    found = path.solve(now.state, found.joint, wanted(), most=MOST_ITERATIONS, report=hear)
            except (InvertedError, LooseError) as error:
                found, trouble = None, error.message
                self.is_turned = isinstance(error, InvertedError) and not step.large
            if found is not None:
                break
        self.record.iterations += len(taken)
        if found is not None and not np.isfinite(found.u).all():
            found, trouble = None, "its numbers are no longer finite."
        elif found is not None and not step.large and _runs_away(path.model, found.joint):
            found = None
        return found, trouble, len(taken)

    def _changes_slack(self, joint: JointState) -> bool:
        """Let line bolts that push go slack, and slack ones that have run out of play pull; whether there are any."""
        if not self.pulls_only.any():
            return False
        first = len(joint.z) - len(self.slack)
        force, shortening = joint.forces[first:], joint.z[first:]
        pushes = self.pulls_only & ~self.slack & (force < -PUSHES * np.abs(force).max())
        taut = self.slack & (shortening < self.held)
        self.slack = (self.slack | pushes) & ~taut
        return bool((pushes | taut).any())

    def _halved(self, reached: float, size: float, trouble: str) -> float:
        """Half the increment, or the reason why there is none."""
        self.record.cutbacks += 1
        is_least, is_still = size / 2 < self.step.increments.least, self.step.dynamics is None
        slowly = is_least and is_still and self.path.let_go_slowly(self.now.state, reached)
        self.record.let_go_slowly |= slowly
        wanted = self.step.increments.start if slowly else size / 2
        self.listener.cut_back(self.index, reached, wanted, slowly=slowly)
        if slowly or not is_least:
            return wanted
        moves: list[LooseMotion] = []
        why = _yields_through(self.path) or trouble
        if not why:
            why, moves = _why(self.path, self.now)
        hint = "Reduce the load, raise friction or preload, hold the part, or allow smaller increments."
        if self.is_turned:
            hint = "Let the step follow large motion: what turns or bends so far is wrong without it."
        error = NotConvergedError(
            f"step '{self.step.name}' stopped at {reached:.1%}: {why}",
            where=f"steps/{self.step.name}",
            hint=hint,
        )
        error.mechanism = tuple((m.body, m.direction) for m in moves)
        raise error

    def _accept(self, found: State, time_now: float, values: Array, so_far: StepSoFar, iterations: int) -> None:
        """Add what the increment did to what is carried, and hand it on."""
        now, model, pair = self.now, self.path.model, self.path.system.nodes.pair
        old = now.state
        closed = (found.joint.status != Status.OPEN) & (old.joint.status != Status.OPEN)
        moved = tangential_motion(found.interfaces, (found.u - old.u).ravel()) * closed[:, None]
        holds = (found.joint.status == Status.STICKING) & resists_sliding(found.interfaces, pair)
        slip = np.where(holds[:, None], 0.0, moved)
        area = np.concatenate([f.area for f in found.interfaces]) if found.interfaces else np.zeros(0)
        work = -np.einsum("ij,ij->i", found.joint.traction[:, :2], slip) * area
        n_w = len(found.joint.z) - len(model.bolts)
        now.previous, now.state, now.values = so_far.previous, found, values
        now.slack = self.slack
        now.bolt_force = np.where(self.slack, 0.0, found.joint.forces[n_w:])
        now.shortening = np.where(self.slack, self.held, found.joint.z[n_w:])
        now.slid = now.slid + slip
        now.slid_path = now.slid_path + np.hypot(slip[:, 0], slip[:, 1])
        now.dissipated = now.dissipated + np.bincount(pair, work, minlength=len(model.pairs))
        now.number += 1
        self.record.increments += 1
        self.listener.converged(
            Increment(
                step=self.index,
                number=now.number,
                time=time_now,
                values=values,
                state=found,
                bolt_force=now.bolt_force,
                shortening=now.shortening,
                slid=now.slid,
                slid_path=now.slid_path,
                slip=slip,
                dissipated=now.dissipated,
                iterations=iterations,
                large=self.step.large,
                so_far=so_far,
            )
        )


def _runs_away(model: Model, state: JointState) -> bool:
    extent = float(np.ptp(model.nodes(), axis=0).max())
    return bool(np.abs(state.w).max(initial=0.0) > RUNAWAY * extent)


def _yields_through(path: Path) -> str:
    """A part whose limit load is reached, in words; it is also what makes the stiffness singular."""
    for body, strain in zip(path.model.bodies, path.tried.plastic_strain(), strict=True):
        if strain.size and np.mean(strain > 0) > YIELDED_THROUGH:
            return f"part '{body.name}' yields right through and takes no more load."
    return ""


def _why(path: Path, now: _Progress) -> tuple[str, list[LooseMotion]]:
    """Why it does not go on from the state that converged last, in words, and the parts that nothing holds in it. That
    nothing holds them is said only where a motion is found that nothing stops."""
    nodes, joint = path.system.nodes, now.state.joint
    push = now.state.applied[: path.model.offsets()[-1]]
    # What is slack holds nothing.
    taut = tuple(bolt for bolt, slack in zip(path.model.bolts, now.slack, strict=True) if not slack)
    held = replace(path.model, bolts=taut)
    moves = set_free(held, now.state.interfaces, joint.status, nodes.pair, push)
    of_pair = apart = ""
    for i, pair in enumerate(path.model.pairs):
        here = nodes.pair == i
        closed = here & (joint.status != Status.OPEN)
        slides = here & (joint.status == Status.SLIDING)
        if closed.any() and nodes.area[slides].sum() > SLIDES * nodes.area[closed].sum():
            of_pair, apart = f"pair '{pair.name}' slides", "away: nothing was found that holds it beyond this load"
        elif pair.law.may_open and not closed.any() and now.number > 0:
            of_pair = f"pair '{pair.name}' has come"
            apart = "apart: nothing was found that holds the load without it"
        if of_pair:
            break
    free = "; ".join(f"part '{m.body}' can move {', '.join(m.motions)}" for m in moves)
    if moves:
        return (f"{of_pair} {apart}; {free}." if of_pair else f"nothing holds it any more: {free}."), moves
    unsettled = "the increment became smaller than the least allowed without settling"
    return (f"{unsettled}; no part is free to move as a whole." if of_pair else f"{unsettled}."), moves


def tangential_motion(interfaces: tuple[PairInterface, ...], u: Array) -> Array:
    """Relative tangential motion (n_contact, 2) mm of A against B, also where no row is kept."""
    if not interfaces:
        return np.zeros((0, 2))
    return np.concatenate([(f.rows @ u).reshape(-1, 3)[:, :2] for f in interfaces])


def resists_sliding(interfaces: tuple[PairInterface, ...], pair: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Contact nodes (n_contact,) whose pair resists sliding."""
    flags = [f.pair.law.has_tangents for f in interfaces]
    return np.array(flags, bool)[pair] if flags else np.zeros(0, bool)
