"""The condensed path as a stepper: states of elastic parts in small motion, found at the joint."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.interface import all_rows
from ulmek.core.contact.laws import Status
from ulmek.core.contact.sleep import sleeping_pairs
from ulmek.core.keys import structure_key
from ulmek.core.model import Model, Step
from ulmek.core.solve.active_set import JointSolver
from ulmek.core.solve.condensed import Condensed, condense, with_other_laws
from ulmek.core.solve.plain_block import PlainBlock
from ulmek.core.solve.state import Iteration, JointState, State, Wanted
from ulmek.core.solve.timing import Timing

Array = NDArray[np.float64]


class CondensedPath:
    """Solves increments on condensed systems; a new one is made only when a step changes what is held."""

    name = "condensed"

    def __init__(self, model: Model, *, backend: str | None = None, earlier: "CondensedPath | None" = None) -> None:
        self.model, self.backend = model, backend
        self.timing = Timing()
        self.system: Condensed
        self.solver: JointSolver
        self._at_start: Condensed
        self._offset: Array | None = None
        self._awake: frozenset[str] = frozenset()
        self._released: frozenset[str] = model.steps[0].released if model.steps else frozenset()
        self.is_reused = False
        if earlier is not None and earlier.serves(model):
            other = with_other_laws(earlier._at_start, model)
            # A pair that slept may have got a law or a fit with which it must not.
            self.is_reused = other.asleep <= sleeping_pairs(model, other.interfaces)
            if self.is_reused:
                self.system, self._awake = other, earlier._awake
                self.solver = JointSolver(other, self._released, blocks=earlier._blocks_at_start())
        if not self.is_reused:
            self._condense()
        self._at_start = self.system
        self.tried = self.system.structure.start()

    def _condense(self) -> None:
        built = self.system.structure if hasattr(self, "system") else None
        self.system = condense(
            self.model, structure=built, released=self._released, offset=self._offset, awake=self._awake,
            backend=self.backend,
        )  # fmt: skip
        self.solver = JointSolver(self.system, self._released)
        for name in ("assembly", "factor", "condense", "factorizations"):
            setattr(self.timing, name, getattr(self.timing, name) + getattr(self.system.timing, name))

    def _blocks_at_start(self) -> tuple[PlainBlock, ...]:
        return self.solver.blocks if self.system is self._at_start else ()

    def serves(self, model: Model) -> bool:
        """Whether this path's factor serves another model too: what the model marks as values may differ."""
        is_linear = all(body.material.law().is_linear for body in model.bodies)
        return is_linear and structure_key(self.model) == structure_key(model)

    @property
    def unknowns(self) -> int:
        """Free unknowns."""
        return len(self.system.constraints.free)

    @property
    def joint_unknowns(self) -> int:
        """Relative motions and shortenings."""
        return len(self.system.matrix)

    @property
    def solver_name(self) -> str:
        """Linear solver in use."""
        return self.system.factor.backend

    def start(self) -> State:
        """The state at rest."""
        system = self.system
        zero = np.zeros(3 * system.layout.n_total + len(self.model.bolts))
        return self._complete(self.solver.start(), zero, self.model.amounts(np.zeros(len(self.model.loads))), 1.0)

    def begin_step(self, step: Step, state: State) -> State:
        """Prepare for a step: condense anew when it releases or holds something else than the one before."""
        if step.released == self._released:
            return state
        held = {s.name for s in self.model.supports} | {ld.name for ld in self.model.loads if ld.prescribes}
        changes = (step.released ^ self._released) & held
        self._released = step.released
        if changes:
            # What was led by others may be a master now.
            self._offset = np.append(state.u.ravel(), state.masters[state.u.size :])
            self._condense()
        else:
            self.solver = JointSolver(self.system, step.released, blocks=self.solver.blocks)
        return replace(state, joint=self._renumbered(state))

    def let_go_slowly(self, state: State, time: float) -> bool:
        """Nothing is gained by it where all parts stay elastic."""
        del state, time
        return False

    def solve(
        self,
        old: State,
        guess: JointState | None,
        wanted: Wanted,
        *,
        most: int,
        report: Callable[[Iteration], None],
    ) -> State | None:
        """The state for what is ``wanted``, None when ``most`` iterations did not settle."""
        joint = old.joint if len(old.joint.z) == self.joint_unknowns else self._renumbered(old)
        guess = None if guess is None or len(guess.z) != self.joint_unknowns else guess
        while True:
            found = self.solver.solve(joint, guess, wanted, most=most, report=report)
            if found is None:
                # Nothing else stops what slides, perhaps.
                met = self.system.asleep
            else:
                masters = self.system.masters(found.z, found.forces, wanted.amounts)
                state = self._complete(found, masters, wanted.amounts, wanted.overlap_share)
                met = self._met(state.gap)
            if not met:
                return None if found is None else state
            self._wake(met)
            joint, guess = self._renumbered(old), None

    def _met(self, gap: Array) -> frozenset[str]:
        """Sleeping pairs whose faces have met."""
        pair, interfaces = self.system.nodes.pair, self.system.interfaces
        return frozenset(
            f.pair.name
            for i, f in enumerate(interfaces)
            if f.pair.name in self.system.asleep and (gap[pair == i] < 0).any()
        )

    def _wake(self, pairs: frozenset[str]) -> None:
        """Condense anew with ``pairs`` among the unknowns."""
        is_first = self.system is self._at_start
        self._awake |= pairs
        self._condense()
        if is_first:
            self._at_start = self.system

    def _renumbered(self, state: State) -> JointState:
        """The joint of ``state`` in the rows of the present system; what slept moved with its parts."""
        moved = (all_rows(self.system.interfaces, state.u.size) @ state.u.ravel()).reshape(-1, 3)
        known = np.abs(state.joint.w).max(axis=1) > 0
        return self.solver.renumbered(replace(state.joint, w=np.where(known[:, None], state.joint.w, moved)))

    def _complete(self, joint: JointState, masters: Array, amounts: Array, overlap_share: float) -> State:
        system = self.system
        u = system.constraints.expand(masters, large=False)
        relative = (all_rows(system.interfaces, len(u)) @ u).reshape(-1, 3)[:, 2]
        start = system.nodes.gap
        start = np.where(start < 0, overlap_share * start, start)
        gap = relative + start
        closed = (joint.status != Status.OPEN) & (system.nodes.rows[:, 2] >= 0)
        # Rounding of the back-substitution is not a gap: at the joint, closed nodes are exact.
        gap = np.where(closed, joint.w[:, 2] + start, gap)
        rest = np.zeros(len(masters))
        contact = system.gather.T @ joint.forces[: system.n_w]
        return State(
            joint=joint,
            masters=masters,
            u=u.reshape(-1, 3),
            internal=self.tried,
            inside=(system.stiffness @ u).reshape(-1, 3),
            applied=(system.forces @ amounts).reshape(-1, 3),
            contact=np.asarray(contact).reshape(-1, 3),
            gap=gap,
            interfaces=system.interfaces,
            velocity=rest,
            acceleration=rest,
        )
