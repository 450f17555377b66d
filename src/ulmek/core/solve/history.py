"""The sequence: steps in increments that grow, and are halved when one does not converge."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface
from ulmek.core.contact.laws import Status
from ulmek.core.contact.nodes import ContactNodes
from ulmek.core.coupling.constraints import Constraints
from ulmek.core.errors import InvertedError, LooseError, NotConvergedError
from ulmek.core.model import Model, Step
from ulmek.core.solve.assembly import Internal, Structure
from ulmek.core.solve.condensed import Timing
from ulmek.core.solve.state import BoltControl, Iteration, JointState, State

Array = NDArray[np.float64]

# An increment that takes this many iterations is halved; ordinary ones take 3 to 10.
MOST_ITERATIONS = 30
# Up to this many iterations the next increment grows by half.
EASY_ITERATIONS = 7
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
    large: large motion is followed.
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


class Listener(Protocol):
    """Hears how a solution goes; raising `StoppedError` in any call stops it."""

    def step_began(self, index: int, step: Step) -> None: ...

    def iterated(self, step: int, time: float, iteration: Iteration) -> None: ...

    def cut_back(self, step: int, time: float, size: float) -> None: ...

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
    tried: Internal

    @property
    def system(self) -> JointSystem: ...

    def start(self) -> State: ...

    def begin_step(self, step: Step, state: State) -> State: ...

    def solve(
        self,
        old: State,
        guess: JointState | None,
        amounts: Array,
        bolts: BoltControl,
        *,
        most: int,
        report: Callable[[Iteration], None],
        overlap_share: float,
        seconds: float,
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
        _run_step(path, index, step, now, listener, goes_on, _Like.of(like, index, now.state.joint))
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
        number=after.number,
    )


def _run_step(
    path: Path,
    index: int,
    step: Step,
    now: _Progress,
    listener: Listener,
    goes_on: Increment | None,
    like: "_Like",
) -> None:
    model = path.model
    names = [load.name for load in model.loads]
    began = (
        goes_on.so_far if goes_on is not None else StepSoFar(now.values, now.bolt_force, step.increments.start, None)
    )
    start = began.values
    end = np.array([step.loads.get(n, v) for n, v in zip(names, start, strict=True)])
    by_force = np.array([b.name in step.preloads for b in model.bolts], bool)
    force_start = began.bolt_force
    force_end = np.array([step.preloads.get(b.name, 0.0) for b in model.bolts])
    plan, record = step.increments, now.records[-1]
    reached, wanted = (goes_on.time if goes_on is not None else 0.0), began.size
    now.previous = began.previous
    while reached < 1.0 - 1e-12:
        stop = min((t for t in step.stops() if t > reached + 1e-9), default=1.0)
        size = min(wanted, stop - reached)
        time_now = stop if reached + size > stop - 1e-9 else reached + size
        values = np.array([step.value(n, time_now, a, b) for n, a, b in zip(names, start, end, strict=True)])
        target = np.where(by_force, force_start + time_now * (force_end - force_start), now.shortening)
        taken: list[Iteration] = []

        def hear(iteration: Iteration, at: float = time_now, log: list[Iteration] = taken) -> None:
            log.append(iteration)
            listener.iterated(index, at, iteration)

        found, trouble = None, ""
        known = like.ahead(now.state.joint, reached, time_now)
        # An earlier history that leads astray must not make smaller increments than a run without it.
        for guess in ([known] if known is not None else []) + [_extrapolate(now, size)]:
            try:
                found = path.solve(
                    now.state,
                    guess,
                    model.amounts(values),
                    BoltControl(by_force, target),
                    most=MOST_ITERATIONS,
                    report=hear,
                    overlap_share=time_now if index == 0 else 1.0,
                    seconds=size * step.dynamics.duration if step.dynamics is not None else 0.0,
                )
            except (InvertedError, LooseError) as error:
                trouble = error.message
            if found is not None:
                break
        record.iterations += len(taken)
        if found is not None and not np.isfinite(found.u).all():
            found, trouble = None, "its numbers are no longer finite."
        elif found is not None and not step.large and _runs_away(model, found.joint):
            found = None
        if found is None:
            wanted = _halve(path, step, index, now, reached, size, listener, trouble)
            continue
        if len(taken) <= EASY_ITERATIONS:
            wanted = min(max(size, wanted) * 1.5, plan.largest)
        so_far = StepSoFar(start, force_start, wanted, (now.state.joint, size))
        _accept(path, now, found, index, time_now, values, so_far, len(taken), listener)
        record.increments += 1
        reached = time_now
        if record.increments >= plan.most and reached < 1.0:
            raise NotConvergedError(
                f"step '{step.name}' used all its {plan.most} increments at {reached:.0%}.",
                where=f"steps/{step.name}",
                hint="Allow more or larger increments.",
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


def _runs_away(model: Model, state: JointState) -> bool:
    extent = float(np.ptp(model.nodes(), axis=0).max())
    return bool(np.abs(state.w).max(initial=0.0) > RUNAWAY * extent)


def _halve(
    path: Path, step: Step, index: int, now: _Progress, reached: float, size: float, listener: Listener, trouble: str
) -> float:
    now.records[-1].cutbacks += 1
    listener.cut_back(index, reached, size / 2)
    if size / 2 >= step.increments.least:
        return size / 2
    raise NotConvergedError(
        f"step '{step.name}' stopped at {reached:.1%}: {_yields_through(path) or trouble or _why(path, now)}",
        where=f"steps/{step.name}",
        hint="Reduce the load, raise friction or preload, hold the part, or allow smaller increments.",
    )


def _yields_through(path: Path) -> str:
    """A part whose limit load is reached, in words; it is also what makes the stiffness singular."""
    for body, strain in zip(path.model.bodies, path.tried.plastic_strain(), strict=True):
        if strain.size and np.mean(strain > 0) > YIELDED_THROUGH:
            return f"part '{body.name}' yields right through and takes no more load."
    return ""


def _why(path: Path, now: _Progress) -> str:
    nodes, joint = path.system.nodes, now.state.joint
    for i, pair in enumerate(path.model.pairs):
        here = nodes.pair == i
        closed = here & (joint.status != Status.OPEN)
        slides = here & (joint.status == Status.SLIDING)
        if closed.any() and nodes.area[slides].sum() > 0.95 * nodes.area[closed].sum():
            return f"pair '{pair.name}' slides away, and no equilibrium holds it beyond this load."
        if pair.law.may_open and not closed.any() and now.number > 0:
            return f"pair '{pair.name}' has come apart and nothing else holds the load."
    return "the increment became smaller than the least allowed without settling."


def _accept(
    path: Path,
    now: _Progress,
    found: State,
    index: int,
    time_now: float,
    values: Array,
    so_far: StepSoFar,
    iterations: int,
    listener: Listener,
) -> None:
    old, n_bolts = now.state, len(path.model.bolts)
    closed = (found.joint.status != Status.OPEN) & (old.joint.status != Status.OPEN)
    moved = tangential_motion(found.interfaces, (found.u - old.u).ravel()) * closed[:, None]
    holds = (found.joint.status == Status.STICKING) & resists_sliding(found.interfaces, path.system.nodes.pair)
    slid = np.where(holds[:, None], 0.0, moved)
    area = np.concatenate([f.area for f in found.interfaces]) if found.interfaces else np.zeros(0)
    work = -np.einsum("ij,ij->i", found.joint.traction[:, :2], slid) * area
    now.previous = so_far.previous
    now.state, now.values = found, values
    n_w = len(found.joint.z) - n_bolts
    now.bolt_force, now.shortening = found.joint.forces[n_w:], found.joint.z[n_w:]
    now.slid = now.slid + slid
    now.slid_path = now.slid_path + np.hypot(slid[:, 0], slid[:, 1])
    now.dissipated = now.dissipated + np.bincount(path.system.nodes.pair, work, minlength=len(path.model.pairs))
    now.number += 1
    listener.converged(
        Increment(
            step=index,
            number=now.number,
            time=time_now,
            values=values,
            state=found,
            bolt_force=now.bolt_force,
            shortening=now.shortening,
            slid=now.slid,
            slid_path=now.slid_path,
            slip=slid,
            dissipated=now.dissipated,
            iterations=iterations,
            large=path.model.steps[index].large,
            so_far=so_far,
        )
    )


def tangential_motion(interfaces: tuple[PairInterface, ...], u: Array) -> Array:
    """Relative tangential motion (n_contact, 2) mm of A against B, also where no row is kept."""
    if not interfaces:
        return np.zeros((0, 2))
    return np.concatenate([(f.rows @ u).reshape(-1, 3)[:, :2] for f in interfaces])


def resists_sliding(interfaces: tuple[PairInterface, ...], pair: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Contact nodes (n_contact,) whose pair resists sliding."""
    flags = [f.pair.law.has_tangents for f in interfaces]
    return np.array(flags, bool)[pair] if flags else np.zeros(0, bool)
