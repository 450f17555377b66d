"""The full path: Newton on everything at once, for yielding, rubber, large motion and inertia.

Unknowns of one iteration: increments of the free masters, and all contact forces F. Equilibrium
``K dm − Gᵀ F = f − inside`` and the contact equations ``R (w + G dm) + S F = c`` of the pair laws
(`contact_equations`) are solved together; friction makes the matrix unsymmetric. Contact is the
same semi-smooth iteration as on the condensed path, so both give the same states.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.equations import ContactEquations, contact_equations
from ulmek.core.contact.interface import PairInterface
from ulmek.core.contact.laws import (
    NodeLaws,
    Status,
    Trial,
    augmented,
    caught_between,
    judge,
    slip_residual,
    with_overlap_share,
)
from ulmek.core.contact.loose import named_loose
from ulmek.core.contact.nodes import contact_nodes
from ulmek.core.coupling.constraints import Constraints, constrain
from ulmek.core.coupling.loads import following_pressure, load_forces, nodal_masses
from ulmek.core.errors import InvertedError, LooseError
from ulmek.core.layout import lay_out
from ulmek.core.model import Model, Step
from ulmek.core.solve.active_set import MORE_FOR_AUGMENTED
from ulmek.core.solve.assembly import Answer, Structure
from ulmek.core.solve.condensed import Timing
from ulmek.core.solve.contact_now import ContactNow, ContactTracker
from ulmek.core.solve.interior import Interior, condense_interior, is_worth_it
from ulmek.core.solve.linear import GeneralSolver
from ulmek.core.solve.newmark import Newmark
from ulmek.core.solve.state import BoltControl, Iteration, JointState, State

Array = NDArray[np.float64]

# Forces left over, relative to the largest nodal force, below which an iteration is in equilibrium.
IN_EQUILIBRIUM = 1e-9
# Change of the solution and of the slip direction, relative, below which an iteration has converged.
CONVERGED = 1e-8
# Rounding of the forces of stiff elements, in units of machine precision times stiffness times motion.
ROUNDING = 200 * np.finfo(float).eps
# A step that leaves this many times the forces of the step before is halved, so often at most.
WORSE, MOST_HALVINGS = 3.0, 5
# Faces that turn while they slide converge linearly, since the tangent leaves their turning out: an iteration
# that still gains this factor each time goes on, up to so many times the usual number.
SETTLING, MORE_WHILE_SETTLING = 0.9, 3
# Largest motion of one iteration as a share of the model, and of all of them together.
LEAP, FARTHEST = 0.25, 1e4


@dataclass(frozen=True)
class _Iterate:
    """One trial state with what it answers."""

    masters: Array
    forces: Array
    u: Array
    answer: Answer
    applied: Array
    contact: ContactNow
    leftover: float


class FullPath:
    """Solves increments by Newton's method on all unknowns."""

    def __init__(self, model: Model, *, mixed: bool | None = False, backend: str | None = None) -> None:
        """``mixed``: elastic interiors are condensed once, None where that pays; for small static motion only."""
        began = time.perf_counter()
        self.model = model
        self.timing = Timing()
        self.layout = lay_out(model)
        self.extent = float(np.ptp(model.nodes(), axis=0).max())
        self.structure = Structure(model, self.layout)
        self.solver = GeneralSolver(backend=backend)
        self.forces = load_forces(model, self.layout)
        self.masses = np.repeat(
            np.where(self.layout.is_turn, 0.0, nodal_masses(model, self.layout, for_inertia=True)), 3
        )
        self.tracker = ContactTracker(model, self.layout)
        self._at_start = self.tracker.at_start
        self.tried = self.structure.start()
        self.step: Step = model.steps[0]
        self.constraints: Constraints = constrain(model, self.layout, released=self.step.released)
        nodes, _ = contact_nodes(
            model, self._at_start, sp.csr_matrix(self.constraints.matrix[:, self.constraints.free])
        )
        # Every node has its three rows, whether they act or not: faces that slide far meet others.
        self.nodes = nodes.numbered(np.arange(3 * len(nodes.pair)))
        self._set_laws()
        self.timing.assembly = time.perf_counter() - began
        if mixed is None:
            mixed = is_worth_it(model, self.layout, self.constraints, self.tracker.rows_at_start)
        self.name, self.backend = ("mixed" if mixed else "full"), backend
        self.interior: Interior | None = None
        self._condense_interior()

    def _condense_interior(self) -> None:
        if self.name == "mixed":
            began = time.perf_counter()
            self.interior = condense_interior(
                self.model, self.structure, self.constraints, self.tracker.rows_at_start, backend=self.backend
            )
            self.timing.condense += time.perf_counter() - began

    @property
    def system(self) -> "FullPath":
        """What reviews read: nodes, constraints and structure."""
        return self

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
        return self.solver.backend

    def _set_laws(self) -> None:
        self.laws = NodeLaws.of(self.nodes, self._at_start, self.step.released)
        if self.step.large:
            # Gaps are measured where the faces are: the law itself starts from none.
            self.laws = replace(self.laws, gap=np.zeros(len(self.laws.gap)), drawn_gap=np.zeros(len(self.laws.gap)))

    def start(self) -> State:
        """The state at rest."""
        n, n_bolts = len(self.nodes.pair), len(self.model.bolts)
        touching = (self.nodes.gap <= 1e-6 * self.extent) & (self.nodes.area > 0)
        status = np.where(touching | ~self.laws.may_open, int(Status.STICKING), int(Status.OPEN))
        status[self.laws.is_off] = Status.OPEN
        z = np.zeros(3 * n + n_bolts)
        joint = JointState(z, z.copy(), np.zeros((n, 3)), np.zeros((n, 3)), status)
        triples = np.zeros((self.layout.n_total, 3))
        masters = np.zeros(3 * self.layout.n_total + n_bolts)
        return State(
            joint=joint, masters=masters, u=triples, internal=self.structure.start(), inside=triples, applied=triples,
            contact=triples, gap=self.nodes.gap, interfaces=self._at_start, velocity=np.zeros(triples.size),
            acceleration=np.zeros(triples.size),
        )  # fmt: skip

    def begin_step(self, step: Step, state: State) -> State:
        """Take over what the step releases, holds and follows."""
        if step.released != self.step.released:
            self.constraints = constrain(self.model, self.layout, released=step.released)
            c = self.constraints
            c.motions[:, -1] = np.where(c.held & (c.support_of >= 0), state.masters, 0.0)
            self._condense_interior()
        before, self.step = self.step, step
        self.tracker.forget_acting()
        self._set_laws()
        joint = state.joint
        if step.large != before.large:
            # Motions count from here; in large motion they are measured, not summed up.
            joint = replace(joint, w=self._contact(state.u.ravel(), state, 1.0).w)
        joint = replace(joint, status=np.where(self.laws.is_off, int(Status.OPEN), joint.status))
        if step.dynamics is None:
            state = replace(state, velocity=0 * state.velocity, acceleration=0 * state.acceleration)
        return replace(state, joint=joint)

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
    ) -> State | None:
        """The state for ``amounts`` of the loads, None when ``most`` iterations did not settle.

        Raises
        ------
        InvertedError, LooseError : see `Structure.answer`, `GeneralSolver.solve`.
        """
        laws = self.laws if self.step.large else with_overlap_share(self.laws, overlap_share)
        newmark = Newmark.of(self.step.dynamics, seconds)
        wanted = self.constraints.motions @ amounts
        now = self._evaluate(old.masters, old.joint.forces, old, amounts, newmark, overlap_share)
        start_joint = self._carried(old, now)
        trial = self._first_trial(laws, start_joint, guess, now)
        last = np.inf
        if laws.is_augmented.any():
            most *= MORE_FOR_AUGMENTED
        for number in range(1, MORE_WHILE_SETTLING * most + 1):
            masters, forces, unknowns = self._newton(
                now, start_joint, laws, trial, wanted, bolts, newmark, first=number == 1
            )
            following, step = self._step(now, masters, forces, old, amounts, newmark, overlap_share, first=number == 1)
            change = _relative(following.masters - now.masters, following.masters - old.masters)
            now = following
            settling, last = now.leftover < SETTLING * last, now.leftover
            joint = self._joint(now, trial.status)
            judged = caught_between(trial, judge(laws, joint.w, joint.traction, start_joint.w, start_joint.traction))
            judged.status[now.contact.area <= 0] = Status.OPEN
            flips = int(np.sum(judged.status != trial.status))
            residual = slip_residual(laws, judged, joint.traction)
            report(Iteration(number, max(min(change, 1e3), now.leftover, residual), flips, unknowns))
            balanced = now.leftover < IN_EQUILIBRIUM and step == 1.0 and number > 1
            if (
                flips == 0
                and residual < CONVERGED
                and balanced
                and (change < 1e-6 or now.leftover < 1e-3 * IN_EQUILIBRIUM)
            ):
                closer = augmented(laws, joint.w, joint.traction, joint.status)
                if closer is None:
                    return self._complete(now, joint, old, newmark)
                laws = closer
                judged = judge(laws, joint.w, joint.traction, start_joint.w, start_joint.traction)
            if number >= most and not (flips == 0 and settling):
                return None
            trial = judged
        return None

    def _first_trial(self, laws: NodeLaws, start: JointState, guess: JointState | None, now: _Iterate) -> Trial:
        if guess is not None and not self.step.large:
            return judge(laws, guess.w, guess.traction, start.w, start.traction)
        status = start.status.copy()
        status[status == Status.SLIDING] = Status.STICKING
        status[now.contact.area <= 0] = Status.OPEN
        return Trial(status, np.zeros((len(status), 2)), np.ones(len(status)))

    def _carried(self, old: State, now: _Iterate) -> JointState:
        """The contact state at the start of the increment, seen in the frames of now."""
        if not self.step.large or not self._at_start:
            return old.joint
        was = np.concatenate([f.frame for f in old.interfaces])
        here = np.concatenate([f.frame for f in now.contact.interfaces])
        turned = np.einsum("nij,nkj,nk->ni", here, was, old.joint.traction)
        return replace(old.joint, w=np.where([True, True, False], 0.0, now.contact.w), traction=turned)

    def _contact(self, u: Array, old: State, overlap_share: float) -> ContactNow:
        return self.tracker.now(
            self.nodes, self.constraints, self.laws, u, u_old=old.u.ravel(), large=self.step.large,
            overlap_share=overlap_share,
        )  # fmt: skip

    def _evaluate(
        self, masters: Array, forces: Array, old: State, amounts: Array, newmark: Newmark | None, overlap_share: float
    ) -> _Iterate:
        large = self.step.large
        u = self.constraints.expand(masters, large=large)
        self._require_near(u)
        began = time.perf_counter()
        answer = self.structure.answer(u, old.internal, large=large)
        self.timing.assembly += time.perf_counter() - began
        self.tried = answer.internal
        applied = self.forces @ amounts
        if large:
            pressures = [a if ld.kind == "pressure" else 0.0 for a, ld in zip(amounts, self.model.loads, strict=False)]
            resting = self.forces @ np.array([*pressures, 0.0])
            applied = applied - resting + following_pressure(self.model, self.layout, amounts, u)
        if newmark is not None:
            applied = applied - self.masses * newmark.inertia(u - old.u.ravel(), old.velocity, old.acceleration)
        contact = self._contact(u, old, overlap_share)
        pulled = contact.rows.T @ forces[: contact.rows.shape[0]]
        tangent = self.constraints.tangent(masters, large=large)[:, self.constraints.free]
        left = tangent.T @ (applied + pulled - answer.force)
        left = left[: len(left) - len(self.model.bolts)]
        scale = max(
            np.abs(answer.force).max(initial=0.0), np.abs(applied).max(initial=0.0), np.abs(pulled).max(initial=0.0)
        )
        assert answer.stiffness is not None
        floor = ROUNDING * float(np.abs(answer.stiffness.diagonal()).max()) * float(np.abs(u).max(initial=0.0))
        leftover = max(float(np.abs(left).max(initial=0.0)) - floor, 0.0) / max(scale, 1e-300)
        return _Iterate(masters, forces, u, answer, applied, contact, leftover)

    def _require_near(self, u: Array) -> None:
        """Refuse motions from which elements could only answer numbers that are none."""
        moved = float(np.abs(u.reshape(-1, 3)[: self.layout.n_nodes]).max(initial=0.0))
        if not moved < FARTHEST * self.extent:
            raise InvertedError(
                f"a node would move by {moved:.3g} mm in one iteration, out of all proportion to the model.",
                hint="Reduce the load, or apply it in smaller increments.",
            )

    def _solved(
        self, matrix: sp.csr_matrix, right: Array, interfaces: tuple[PairInterface, ...], *, symmetric: bool
    ) -> Array:
        """Solution of one iteration; a singular matrix is told by the parts that can move."""
        try:
            return self.solver.solve(matrix, right, symmetric=symmetric)
        except LooseError:
            raise named_loose(self.model, interfaces) from None

    def _newton(
        self, now: _Iterate, start: JointState, laws: NodeLaws, trial: Trial, wanted: Array, bolts: BoltControl,
        newmark: Newmark | None, *, first: bool,
    ) -> tuple[Array, Array, int]:  # fmt: skip
        """Masters and forces that one linear solve gives."""
        c, n_bolts = self.constraints, len(self.model.bolts)
        tangent = c.tangent(now.masters, large=self.step.large)
        by_motion = np.arange(len(now.masters) - n_bolts, len(now.masters))[~bolts.by_force]
        free = np.setdiff1d(c.free, by_motion, assume_unique=True)
        given = np.zeros(len(now.masters))
        if first:
            given[c.held] = wanted[c.held] - now.masters[c.held]
            given[by_motion] = bolts.target[~bolts.by_force] - now.masters[by_motion]
        kept, interior = free, self.interior
        if interior is not None:
            kept = np.setdiff1d(free, c.free[interior.inner], assume_unique=True)
        a_kept = sp.csr_matrix(tangent[:, kept])
        assert now.answer.stiffness is not None
        stiffness = now.answer.stiffness
        if newmark is not None:
            stiffness = sp.csr_matrix(stiffness + sp.diags(self.masses * newmark.stiffness))
        moved = tangent @ given
        left = now.applied - now.answer.force - stiffness @ moved
        right = a_kept.T @ left
        if bolts.by_force.any():
            right[len(right) - int(bolts.by_force.sum()) :] += bolts.target[bolts.by_force]
        block = a_kept.T @ stiffness @ a_kept
        if self.step.large:
            block = block + self._turn_stiffness(now, kept)
        if interior is not None:
            on_inner = np.asarray(tangent[:, c.free[interior.inner]].T @ left)
            half, on_rim = interior.condensed(on_inner)
            spread = _places(c.free[interior.rim], kept)
            block = block + spread.T @ sp.csr_matrix(interior.stiffness) @ spread
            right += spread.T @ on_rim
        contact = now.contact
        n_rows = contact.rows.shape[0]
        began = time.perf_counter()
        if n_rows == 0:
            change = self._solved(sp.csr_matrix(block), right, (), symmetric=not self.step.large)
            forces = np.zeros(0)
        else:
            equations: ContactEquations = contact_equations(
                laws, trial, area=contact.area, spring=contact.spring, acts=contact.acts, w_old=start.w,
                traction_old=start.traction, w_now=contact.w,
            )  # fmt: skip
            rows = sp.csr_matrix(contact.rows @ a_kept)
            w = contact.w.ravel() + contact.rows @ moved
            matrix = sp.csr_matrix(sp.bmat([[block, -rows.T], [equations.motion @ rows, equations.force]]))
            known = np.concatenate([right, equations.right - equations.motion @ w])
            solution = self._solved(matrix, known, contact.interfaces, symmetric=False)
            change, forces = solution[: len(kept)], solution[len(kept) :]
        self.timing.factor += time.perf_counter() - began
        self.timing.factorizations = self.solver.factorizations
        masters = now.masters + given
        masters[kept] += change
        if interior is not None:
            masters[c.free[interior.inner]] += interior.inside(half, spread @ change)
        return masters, np.concatenate([forces, np.zeros(n_bolts)]), len(kept) + n_rows

    def _turn_stiffness(self, now: _Iterate, free: NDArray[np.int64]) -> sp.csr_matrix:
        """What the turning arms of rigid handles add: ``Σ r fᵀ − (r·f) 1`` with the forces f on the faces."""
        c = self.constraints
        out = sp.lil_matrix((len(now.masters), len(now.masters)))
        pulled = (now.contact.rows.T @ now.forces[: now.contact.rows.shape[0]]).reshape(-1, 3)
        missing = now.answer.force.reshape(-1, 3) - now.applied.reshape(-1, 3) - pulled
        u = now.u.reshape(-1, 3)
        for handle, nodes in c.rigid:
            place = self.layout.positions
            arm = place[nodes] + u[nodes] - place[handle] - u[handle]
            f = missing[nodes]
            block = np.einsum("ni,nj->ij", arm, f) - np.einsum("ni,ni->", arm, f) * np.eye(3)
            at = 3 * handle + 3
            out[at : at + 3, at : at + 3] = block
        return sp.csr_matrix(out)[free][:, free]

    def _step(
        self, now: _Iterate, masters: Array, forces: Array, old: State, amounts: Array, newmark: Newmark | None,
        overlap_share: float, *, first: bool,
    ) -> tuple[_Iterate, float]:  # fmt: skip
        """Go to the new iterate, or part of the way where that leaps, turns elements inside out or makes it worse."""
        moves = np.repeat(~self.layout.is_turn, 3)
        leap = float(np.abs((masters - now.masters)[: len(moves)][moves]).max(initial=0.0))
        share = 1.0 if first else min(1.0, LEAP * self.extent / max(leap, 1e-300))
        best: tuple[_Iterate, float] | None = None
        for _ in range(MOST_HALVINGS):
            there = now.masters + share * (masters - now.masters)
            pulled = now.forces + share * (forces - now.forces)
            try:
                found = self._evaluate(there, pulled, old, amounts, newmark, overlap_share)
            except InvertedError:
                if first:
                    raise
                share /= 2
                continue
            if best is None or found.leftover < best[0].leftover:
                best = found, share
            if first or found.leftover <= WORSE * max(now.leftover, IN_EQUILIBRIUM) or not self._is_curved():
                return found, share
            share /= 2
        if best is None:
            raise InvertedError("an element is turned inside out however small the step.")
        return best

    def _is_curved(self) -> bool:
        """Whether forces are a curved function of displacements, so that a shorter step can help."""
        return self.step.large or any(not law.is_linear for law in self.structure.laws)

    def _joint(self, now: _Iterate, status: NDArray[np.int64]) -> JointState:
        n_bolts = len(self.model.bolts)
        contact = now.contact
        on_bolts = np.zeros(n_bolts)
        if n_bolts:
            on_bolts = np.asarray(self.constraints.matrix[:, -n_bolts:].T @ now.answer.force)
        pulled = now.forces[: contact.rows.shape[0]]
        safe = np.where(contact.area > 0, contact.area, 1.0)
        traction = np.where((contact.area > 0)[:, None], pulled.reshape(-1, 3) / safe[:, None], 0.0)
        z = np.concatenate([contact.w.ravel(), now.masters[len(now.masters) - n_bolts :]])
        return JointState(z, np.concatenate([pulled, on_bolts]), contact.w, traction, status)

    def _complete(self, now: _Iterate, joint: JointState, old: State, newmark: Newmark | None) -> State:
        velocity, acceleration = 0 * old.velocity, 0 * old.acceleration
        if newmark is not None:
            velocity, acceleration = newmark.rates(now.u - old.u.ravel(), old.velocity, old.acceleration)
        pulled = now.contact.rows.T @ now.forces[: now.contact.rows.shape[0]]
        return State(
            joint=joint, masters=now.masters, u=now.u.reshape(-1, 3), internal=now.answer.internal,
            inside=now.answer.force.reshape(-1, 3), applied=now.applied.reshape(-1, 3),
            contact=np.asarray(pulled).reshape(-1, 3), gap=now.contact.gap, interfaces=now.contact.interfaces,
            velocity=velocity, acceleration=acceleration, kinetic=float(self.masses @ velocity**2 / 2),
        )  # fmt: skip


def _places(wanted: NDArray[np.int64], among: NDArray[np.int64]) -> sp.csr_matrix:
    """Picks ``wanted`` masters out of ``among`` (sorted), zero rows for those that are not there (held ones)."""
    at = np.searchsorted(among, wanted)
    here = np.flatnonzero(among[np.minimum(at, len(among) - 1)] == wanted)
    return sp.csr_matrix((np.ones(len(here)), (here, at[here])), shape=(len(wanted), len(among)))


def _relative(change: Array, total: Array) -> float:
    size = float(np.abs(total).max(initial=0.0))
    return float(np.abs(change).max(initial=0.0)) / size if size > 0 else 0.0
