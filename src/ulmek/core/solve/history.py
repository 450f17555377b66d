"""The sequence: steps in increments that grow, and are halved when one does not converge."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.laws import Status
from ulmek.core.errors import NotConvergedError
from ulmek.core.model import Model, Step
from ulmek.core.solve.active_set import BoltControl, Iteration, JointSolver, JointState
from ulmek.core.solve.condensed import Condensed

Array = NDArray[np.float64]

# An increment that takes this many iterations is halved; ordinary ones take 3 to 10.
MOST_ITERATIONS = 30
# Up to this many iterations the next increment grows by half.
EASY_ITERATIONS = 7
# Motions beyond this multiple of the model's size have no equilibrium behind them.
RUNAWAY = 2.0


@dataclass(frozen=True)
class Increment:
    """A converged increment.

    time: 0…1 within the step. values (n_loads,): load values (N, MPa, mm). u (n_nodes, 3) mm.
    joint: contact state. bolt_force, shortening (n_bolts,): N, mm. slid (n_contact, 2) mm: net
    tangential motion while closed, slid_path (n_contact,) mm its length, slip the part of this
    increment. dissipated (n_pairs,) N·mm so far. contact_force (n_nodes, 3) N on the bodies.
    """

    step: int
    number: int
    time: float
    values: Array
    u: Array
    joint: JointState
    bolt_force: Array
    shortening: Array
    slid: Array
    slid_path: Array
    slip: Array
    dissipated: Array
    iterations: int


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


@dataclass
class _Progress:
    """What is carried from increment to increment."""

    state: JointState
    u: Array
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
    system: Condensed, listener: Listener, *, clock: Callable[[], float] = time.perf_counter
) -> list[StepRecord]:
    """Run all steps; every converged increment is handed to ``listener``.

    Raises
    ------
    NotConvergedError : an increment below the least allowed did not converge; the increments
        handed on before stay good. StoppedError, from the listener.
    """
    model, solver = system.model, JointSolver(system)
    n_bolts, n_contact = len(model.bolts), len(system.nodes.pair)
    rest = solver.start()
    now = _Progress(
        state=rest,
        u=np.zeros((len(model.nodes()), 3)),
        values=np.zeros(len(model.loads)),
        bolt_force=np.zeros(n_bolts),
        shortening=np.zeros(n_bolts),
        slid=np.zeros((n_contact, 2)),
        slid_path=np.zeros(n_contact),
        dissipated=np.zeros(len(model.pairs)),
    )
    for index, step in enumerate(model.steps):
        listener.step_began(index, step)
        now.records.append(StepRecord(step.name))
        began = clock()
        _run_step(system, solver, index, step, now, listener)
        system.timing.contact += clock() - began
    return now.records


def _run_step(
    system: Condensed, solver: JointSolver, index: int, step: Step, now: _Progress, listener: Listener
) -> None:
    names = [load.name for load in system.model.loads]
    start = now.values.copy()
    end = np.array([step.loads.get(n, v) for n, v in zip(names, start, strict=True)])
    by_force = np.array([b.name in step.preloads for b in system.model.bolts], bool)
    force_start = now.bolt_force.copy()
    force_end = np.array([step.preloads.get(b.name, 0.0) for b in system.model.bolts])
    plan, record = step.increments, now.records[-1]
    reached, size = 0.0, plan.start
    now.previous = None
    while reached < 1.0 - 1e-12:
        size = min(size, 1.0 - reached)
        time_now = 1.0 if reached + size > 1.0 - 1e-9 else reached + size
        values = start + time_now * (end - start)
        target = np.where(by_force, force_start + time_now * (force_end - force_start), now.shortening)
        taken: list[Iteration] = []

        def hear(iteration: Iteration, at: float = time_now, log: list[Iteration] = taken) -> None:
            log.append(iteration)
            listener.iterated(index, at, iteration)

        guess = _extrapolate(now, size)
        found = solver.solve(
            now.state,
            guess,
            values,
            BoltControl(by_force, target),
            most=MOST_ITERATIONS,
            report=hear,
            overlap_share=time_now if index == 0 else 1.0,
        )
        record.iterations += len(taken)
        if found is not None and _runs_away(system, found):
            found = None
        if found is None:
            size = _halve(system, step, index, now, reached, size, listener)
            continue
        _accept(system, now, found, index, time_now, values, size, len(taken), listener)
        record.increments += 1
        reached = time_now
        if len(taken) <= EASY_ITERATIONS:
            size = min(size * 1.5, plan.largest)
        if record.increments >= plan.most and reached < 1.0:
            raise NotConvergedError(
                f"step '{step.name}' used all its {plan.most} increments at {reached:.0%}.",
                where=f"steps/{step.name}",
                hint="Allow more or larger increments.",
            )


def _extrapolate(now: _Progress, size: float) -> JointState | None:
    if now.previous is None:
        return None
    earlier, last_size = now.previous
    r, a = size / last_size, now.state

    def ahead(x: Array, y: Array) -> Array:
        return y + r * (y - x)

    return JointState(
        ahead(earlier.z, a.z),
        ahead(earlier.forces, a.forces),
        ahead(earlier.w, a.w),
        ahead(earlier.traction, a.traction),
        a.status,
    )


def _runs_away(system: Condensed, state: JointState) -> bool:
    extent = float(np.ptp(system.model.nodes(), axis=0).max())
    return bool(np.abs(state.w).max(initial=0.0) > RUNAWAY * extent)


def _halve(
    system: Condensed, step: Step, index: int, now: _Progress, reached: float, size: float, listener: Listener
) -> float:
    now.records[-1].cutbacks += 1
    listener.cut_back(index, reached, size / 2)
    if size / 2 >= step.increments.least:
        return size / 2
    raise NotConvergedError(
        f"step '{step.name}' stopped at {reached:.1%}: {_why(system.model, system, now)}",
        where=f"steps/{step.name}",
        hint="Reduce the load, raise friction or preload, hold the part, or allow smaller increments.",
    )


def _why(model: Model, system: Condensed, now: _Progress) -> str:
    for i, pair in enumerate(model.pairs):
        here = system.nodes.pair == i
        closed = here & (now.state.status != Status.OPEN)
        area = system.nodes.area
        slides = here & (now.state.status == Status.SLIDING)
        if closed.any() and area[slides].sum() > 0.95 * area[closed].sum():
            return f"pair '{pair.name}' slides away, and no equilibrium holds it beyond this load."
        if pair.law.may_open and not closed.any() and now.number > 0:
            return f"pair '{pair.name}' has come apart and nothing else holds the load."
    return "the increment became smaller than the least allowed without settling."


def _accept(
    system: Condensed,
    now: _Progress,
    found: JointState,
    index: int,
    time_now: float,
    values: Array,
    size: float,
    iterations: int,
    listener: Listener,
) -> None:
    n_w, old = system.n_w, now.state
    u = system.displacements(found.z, found.forces, values)
    closed = (found.status != Status.OPEN) & (old.status != Status.OPEN)
    moved = (tangential_motion(system, u) - tangential_motion(system, now.u)) * closed[:, None]
    slid = np.where((found.status == Status.STICKING)[:, None] & resists_sliding(system)[:, None], 0.0, moved)
    work = -np.einsum("ij,ij->i", found.traction[:, :2], slid) * system.nodes.area
    now.previous = (old, size)
    now.state, now.u, now.values = found, u, values
    now.bolt_force, now.shortening = found.forces[n_w:], found.z[n_w:]
    now.slid = now.slid + slid
    now.slid_path = now.slid_path + np.hypot(slid[:, 0], slid[:, 1])
    now.dissipated = now.dissipated + np.bincount(system.nodes.pair, work, minlength=len(system.model.pairs))
    now.number += 1
    listener.converged(
        Increment(
            step=index,
            number=now.number,
            time=time_now,
            values=values,
            u=u,
            joint=found,
            bolt_force=now.bolt_force,
            shortening=now.shortening,
            slid=now.slid,
            slid_path=now.slid_path,
            slip=slid,
            dissipated=now.dissipated,
            iterations=iterations,
        )
    )


def tangential_motion(system: Condensed, u: Array) -> Array:
    """Relative tangential motion (n_contact, 2) mm of A against B, also where no row is kept."""
    if not system.interfaces:
        return np.zeros((0, 2))
    return np.concatenate([(f.rows @ u.ravel()).reshape(-1, 3)[:, :2] for f in system.interfaces])


def resists_sliding(system: Condensed) -> NDArray[np.bool_]:
    """Contact nodes (n_contact,) whose pair resists sliding."""
    flags = [f.pair.law.has_tangents for f in system.interfaces]
    return np.array(flags, bool)[system.nodes.pair] if flags else np.zeros(0, bool)
