"""One increment of the full path by Newton's method on displacements and contact forces together.

Unknowns of one iteration: increments of the free masters, and all contact forces F. Equilibrium
``K dm − Gᵀ F = f − inside`` and the contact rules ``R (w + G dm) + S F = c`` are solved together;
friction makes the matrix unsymmetric.
"""

import time
from dataclasses import dataclass, field, replace

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.equations import contact_equations
from ulmek.core.contact.laws import NodeLaws, Status, Trial
from ulmek.core.contact.loose import named_loose
from ulmek.core.contact.rules import rules_for
from ulmek.core.errors import InvertedError, LooseError
from ulmek.core.solve.anderson import Anderson
from ulmek.core.solve.contact_loop import CONVERGED
from ulmek.core.solve.coupled import ContactPart, Coupled, CoupledSolver, Reduced
from ulmek.core.solve.equilibrium import Course, Equilibrium, Iterate
from ulmek.core.solve.interior import Interior
from ulmek.core.solve.state import JointState
from ulmek.core.solve.timing import Timing

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Forces left over, relative to the largest nodal force, below which an iteration is in equilibrium.
IN_EQUILIBRIUM = 1e-9
# Share of it that solving a system need not care about.
ENOUGH = 0.3
# Change of the masters, relative, below which an iteration in equilibrium has converged.
HARDLY_CHANGED = 1e-6
# A step that leaves this many times the forces of the step before is halved, so often at most.
WORSE, MOST_HALVINGS = 3.0, 5
# Faces that turn while they slide converge linearly, since the tangent leaves their turning out (`Anderson` helps): an
# iteration that still gains this factor each time goes on, up to so many times the usual number.
SETTLING, MORE_WHILE_SETTLING = 0.9, 3
# Largest motion of one iteration as a share of the model.
LEAP = 0.25


@dataclass(frozen=True)
class Linear:
    """How the systems are solved: with which solver, and what was eliminated once for all iterations."""

    solver: CoupledSolver
    interior: Interior | None
    timing: Timing
    reduced: Reduced = field(default_factory=Reduced)


class NewtonAttempt:
    """One increment (see `contact_loop.Attempt`); ``now`` is the last iterate."""

    def __init__(self, equilibrium: Equilibrium, linear: Linear, course: Course) -> None:
        """Start from where the increment starts.

        Raises InvertedError as `Equilibrium.at` does.
        """
        self.equilibrium, self.linear, self.course = equilibrium, linear, course
        self.now: Iterate = self._evaluated(course.old.masters, course.old.joint.forces)
        self.start = self._carried()
        self.change, self.unknowns = np.inf, 0
        self.is_first, self.was_first, self.share, self.gains = True, True, 1.0, True
        self._anderson = Anderson()
        self._status: Ids | None = None

    @property
    def is_bare(self) -> NDArray[np.bool_]:
        """Contact nodes (n,) that no face covers now."""
        return np.asarray(self.now.contact.area <= 0)

    def solve(self, laws: NodeLaws, trial: Trial) -> JointState:
        """See `contact_loop.Attempt`.

        Raises
        ------
        InvertedError, LooseError : see `Structure.answer`, `CoupledSolver.solve`.
        """
        before = self.now
        masters, forces, self.unknowns = self._newton(laws, trial)
        if self.equilibrium.step.large and not self.is_first and (trial.status == Status.SLIDING).any():
            masters, forces = self._anderson.taken(trial.status, (before.masters, before.forces), (masters, forces))
        self.now, self.share = self._step(masters, forces)
        if self.share < 1.0:
            self._anderson.forget()
        started = self.course.old.masters
        self.change = min(_relative(self.now.masters - before.masters, self.now.masters - started), 1e3)
        self.change = max(self.change, self.now.leftover)
        self.gains = self.now.leftover < SETTLING * before.leftover or self.is_first
        self.was_first, self.is_first = self.is_first, False
        return self._joint(trial.status)

    def has_settled(self, flips: int, residual: float) -> bool:
        """See `contact_loop.Attempt`."""
        if flips or residual >= CONVERGED or self.share < 1.0 or self.was_first:
            return False
        left = self.now.leftover
        return left < 1e-3 * IN_EQUILIBRIUM or (left < IN_EQUILIBRIUM and self.change < HARDLY_CHANGED)

    def may_go_on(self, number: int, most: int, flips: int) -> bool:
        """See `contact_loop.Attempt`."""
        return number < most or (number < MORE_WHILE_SETTLING * most and flips == 0 and self.gains)

    def _carried(self) -> JointState:
        """The contact state at the start of the increment, seen in the frames of now."""
        old, contact = self.course.old, self.now.contact
        if not self.equilibrium.step.large or not old.interfaces:
            return old.joint
        motion = np.where([True, True, False], 0.0, contact.w)
        return JointState(old.joint.z, old.joint.forces, motion, self._turned(old.joint.traction), old.joint.status)

    def going_on(self) -> JointState:
        """In large motion, where motions count from the start of the increment: as if what slid in the one before slid
        as far again."""
        start, slid = self.start, self._turned(self.course.old.joint.w)
        return replace(start, w=np.where([True, True, False], slid, start.w))

    def _turned(self, vectors: Array) -> Array:
        """Vectors (n, 3) in the frames of the start, in those of now."""
        old = self.course.old.interfaces
        if not old:
            return vectors
        was, here = (np.concatenate([f.frame for f in fs]) for fs in (old, self.now.contact.interfaces))
        return np.asarray(np.einsum("nij,nkj,nk->ni", here, was, vectors))

    def _evaluated(self, masters: Array, forces: Array) -> Iterate:
        began = time.perf_counter()
        iterate = self.equilibrium.at(masters, forces, self.course)
        self.linear.timing.assembly += time.perf_counter() - began
        return iterate

    def _newton(self, laws: NodeLaws, trial: Trial) -> tuple[Array, Array, int]:
        """Masters and forces that one linear solve gives, and its number of unknowns."""
        now, equilibrium = self.now, self.equilibrium
        c, interior, large = equilibrium.constraints, self.linear.interior, equilibrium.step.large
        bolts = self.course.wanted.bolts
        n_bolts = len(bolts.target)
        tangent = now.tangent
        by_motion = np.arange(len(now.masters) - n_bolts, len(now.masters))[~bolts.by_force]
        kept = np.setdiff1d(c.free, by_motion, assume_unique=True)
        if interior is not None:
            kept = np.setdiff1d(kept, c.free[interior.inner], assume_unique=True)
        given = self._given(by_motion)
        stiffness = self._stiffness()
        moved = tangent @ given
        left = now.applied - now.answer.force - stiffness @ moved
        a_kept, block = self.linear.reduced.to(kept, stiffness, tangent)
        right = a_kept.T @ left
        if bolts.by_force.any():
            right[len(right) - int(bolts.by_force.sum()) :] += bolts.target[bolts.by_force]
        if large:
            block = block + equilibrium.turn_stiffness(now, kept)
        if interior is not None:
            half, on_rim = interior.condensed(np.asarray(tangent[:, c.free[interior.inner]].T @ left))
            spread = _places(c.free[interior.rim], kept)
            block = block + spread.T @ sp.csr_matrix(interior.stiffness) @ spread
            right += spread.T @ on_rim
        contact = self._contact_part(a_kept, moved, laws, trial)
        change, forces = self._solved(
            Coupled(
                sp.csr_matrix(block),
                right,
                kept,
                contact,
                is_symmetric=not large,
                closely=self._stays(trial),
                enough=ENOUGH * IN_EQUILIBRIUM * now.largest,
            )
        )
        masters = now.masters + given
        masters[kept] += change
        if interior is not None:
            masters[c.free[interior.inner]] += interior.inside(half, spread @ change)
        return masters, np.concatenate([forces, np.zeros(n_bolts)]), len(kept) + len(forces)

    def _given(self, by_motion: Ids) -> Array:
        """Changes of masters that supports, prescribed motions and held bolts ask for; all in the first iteration."""
        now, c, wanted = self.now, self.equilibrium.constraints, self.course.wanted
        given = np.zeros(len(now.masters))
        if self.is_first:
            motions = c.motions @ wanted.amounts
            given[c.held] = motions[c.held] - now.masters[c.held]
            given[by_motion] = wanted.bolts.target[~wanted.bolts.by_force] - now.masters[by_motion]
        return given

    def _stiffness(self) -> sp.csr_matrix:
        answer, newmark = self.now.answer, self.course.newmark
        assert answer.stiffness is not None
        if newmark is None:
            return answer.stiffness
        return sp.csr_matrix(answer.stiffness + sp.diags(self.equilibrium.masses * newmark.stiffness))

    def _stays(self, trial: Trial) -> bool:
        """Whether the trial status is the one that the last iteration was solved for."""
        last, self._status = self._status, trial.status
        return last is not None and bool(np.array_equal(last, trial.status))

    def _contact_part(self, a_kept: sp.csr_matrix, moved: Array, laws: NodeLaws, trial: Trial) -> ContactPart | None:
        """Contact as the coupled system wants it; moved (3·n_total,): known displacements."""
        contact = self.now.contact
        if not contact.rows.shape[0]:
            return None
        rules = rules_for(
            laws, trial, area=contact.area, acts=contact.acts, w_old=self.start.w, traction_old=self.start.traction
        )
        is_rigid = np.repeat(self.equilibrium.keeps_sections, [len(f.node) for f in contact.interfaces])
        equations = contact_equations(
            rules, spring=contact.spring, acts=contact.acts, w_now=contact.w, is_rigid=is_rigid
        )
        w = contact.w.ravel() + contact.rows @ moved
        return ContactPart(
            sp.csr_matrix(contact.rows @ a_kept), rules, equations, equations.right - equations.motion @ w,
            contact.spring, contact.acts, self.now.forces[: contact.rows.shape[0]],
        )  # fmt: skip

    def _solved(self, coupled: Coupled) -> tuple[Array, Array]:
        """Changes of the kept masters and contact forces; what can move freely is told by its parts."""
        timing, solver = self.linear.timing, self.linear.solver
        began = time.perf_counter()
        try:
            return solver.solve(coupled)
        except LooseError:
            raise named_loose(self.equilibrium.model, self.now.contact.interfaces) from None
        finally:
            timing.factor += time.perf_counter() - began
            timing.factorizations = solver.factorizations

    def _step(self, masters: Array, forces: Array) -> tuple[Iterate, float]:
        """Go to the new iterate, or part of the way where that leaps, turns elements inside out or makes it worse."""
        now, equilibrium, is_first = self.now, self.equilibrium, self.is_first
        moves = np.repeat(~equilibrium.layout.is_turn, 3)
        leap = float(np.abs((masters - now.masters)[: len(moves)][moves]).max(initial=0.0))
        share = 1.0 if is_first else min(1.0, LEAP * equilibrium.extent / max(leap, 1e-300))
        best: tuple[Iterate, float] | None = None
        for _ in range(MOST_HALVINGS):
            there = now.masters + share * (masters - now.masters)
            pulled = now.forces + share * (forces - now.forces)
            try:
                found = self._evaluated(there, pulled)
            except InvertedError:
                if is_first:
                    raise
                share /= 2
                continue
            if best is None or found.leftover < best[0].leftover:
                best = found, share
            is_no_worse = found.leftover <= WORSE * max(now.leftover, IN_EQUILIBRIUM)
            if is_first or is_no_worse or not equilibrium.is_curved:
                return found, share
            share /= 2
        if best is None:
            raise InvertedError("an element is turned inside out however small the step.")
        return best

    def _joint(self, status: NDArray[np.int64]) -> JointState:
        now, contact, c = self.now, self.now.contact, self.equilibrium.constraints
        n_bolts = len(self.course.wanted.bolts.target)
        on_bolts = np.zeros(n_bolts)
        if n_bolts:
            on_bolts = np.asarray(c.matrix[:, -n_bolts:].T @ now.answer.force)
        pulled = now.forces[: contact.rows.shape[0]]
        safe = np.where(contact.area > 0, contact.area, 1.0)
        traction = np.where((contact.area > 0)[:, None], pulled.reshape(-1, 3) / safe[:, None], 0.0)
        z = np.concatenate([contact.w.ravel(), now.masters[len(now.masters) - n_bolts :]])
        return JointState(z, np.concatenate([pulled, on_bolts]), contact.w, traction, status)


def _places(wanted: Ids, among: Ids) -> sp.csr_matrix:
    """Picks ``wanted`` masters out of ``among`` (sorted), zero rows for those that are not there (held ones)."""
    at = np.searchsorted(among, wanted)
    here = np.flatnonzero(among[np.minimum(at, len(among) - 1)] == wanted)
    return sp.csr_matrix((np.ones(len(here)), (here, at[here])), shape=(len(wanted), len(among)))


def _relative(change: Array, total: Array) -> float:
    size = float(np.abs(total).max(initial=0.0))
    return float(np.abs(change).max(initial=0.0)) / size if size > 0 else 0.0
