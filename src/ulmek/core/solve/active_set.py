"""Exact and penalty contact on the condensed system: the contact iteration with a dense tangent."""

from collections.abc import Callable

import numpy as np
import scipy.linalg as la
from numpy.typing import NDArray

from ulmek.core.contact.laws import NodeLaws, Status, Trial, judge, with_overlap_share
from ulmek.core.contact.rules import Rules, SlipLines, rules_for
from ulmek.core.solve.condensed import Condensed
from ulmek.core.solve.contact_loop import CONVERGED, settle_contact, without_direction
from ulmek.core.solve.plain_block import Lines, PlainBlock, Scratch, Special
from ulmek.core.solve.state import Iteration, JointState, Wanted

Array = NDArray[np.float64]

# Below this, an iteration that gains nothing has reached the rounding of its own matrix.
ROUNDING_LIMITED = 1e-6
# Largest change of a relative motion in one iteration, as a share of the widest gap (or the model).
LEAP = 0.25
# Factors of plain rows kept: loads that go and come back, or a what-if, find theirs again.
MOST_BLOCKS = 1
# Drag against leaps, as a share of the contact springs: where it begins, and how often it may rise.
LEAST_DRAG, MOST_DRAGS = 1e-10, 12
# Springs that hold what is loose for a moment, as a share of the contact springs; too weak to be felt.
LOOSE_SPRING, STIFFEST_LOOSE = 1e-12, 1e-7


class JointSolver:
    """Solves increments on one condensed system."""

    def __init__(
        self,
        system: Condensed,
        released: frozenset[str] = frozenset(),
        *,
        blocks: tuple[PlainBlock, ...] = (),
    ) -> None:
        """``blocks``: factors of plain rows of the same system, found before."""
        self.system = system
        self.laws = NodeLaws.of(system.nodes, system.interfaces, released)
        self.rows = system.nodes.rows
        self.blocks = blocks
        self.scratch = blocks[0].scratch if blocks else Scratch()
        self.loose = LOOSE_SPRING
        # Parts that slide away for an iteration would leap past every face that could stop them.
        widest = float(self.laws.gap.max(initial=0.0))
        self.leap = LEAP * (widest if widest > 1e-3 * self._length() else self._length())

    def start(self) -> JointState:
        """The state at rest: touching nodes closed and sticking, the others open."""
        n, m = len(self.system.nodes.pair), len(self.system.matrix)
        touching = self.laws.gap <= 1e-6 * self._length()
        status = np.where(touching | ~self.laws.may_open, int(Status.STICKING), int(Status.OPEN))
        status[self.laws.is_off] = Status.OPEN
        return JointState(np.zeros(m), np.zeros(m), np.zeros((n, 3)), np.zeros((n, 3)), status)

    def renumbered(self, old: JointState) -> JointState:
        """``old``, found on another condensed system with the same contact nodes, in this one's rows."""
        n_w, n_bolts = self.system.n_w, len(self.system.model.bolts)
        z, forces = np.zeros(n_w + n_bolts), np.zeros(n_w + n_bolts)
        z[n_w:], forces[n_w:] = old.z[len(old.z) - n_bolts :], old.forces[len(old.forces) - n_bolts :]
        kept = self.rows >= 0
        z[self.rows[kept]] = old.w[kept]
        forces[self.rows[kept]] = (old.traction * self.system.nodes.area[:, None])[kept]
        status = np.where(self.laws.is_off, int(Status.OPEN), old.status)
        return JointState(z, forces, old.w, old.traction, status)

    def _length(self) -> float:
        nodes = self.system.model.nodes()
        return float(np.ptp(nodes, axis=0).max())

    def solve(
        self,
        old: JointState,
        guess: JointState | None,
        wanted: Wanted,
        *,
        most: int,
        report: Callable[[Iteration], None],
    ) -> JointState | None:
        """The state for what is ``wanted``, or None when ``most`` iterations did not settle.

        ``guess`` (an extrapolation) gives the first trial; without one the old status stands.
        """
        laws = with_overlap_share(self.laws, wanted.overlap_share)
        if guess is None:
            trial = without_direction(old.status)
        else:
            trial = judge(laws, guess.w, guess.traction, old.w, old.traction)
        attempt = _Attempt(self, old, guess, wanted)
        return settle_contact(attempt, laws, trial, old, most=most, report=report)

    def block(self, plain: NDArray[np.int64], stiff: Array) -> PlainBlock:
        """The kept factor that differs least from these plain rows, or a new one where none comes near.

        Raises numpy.linalg.LinAlgError when the rows are not positive definite.
        """
        suiting = [b for b in self.blocks if b.suits(plain, stiff)]
        if suiting:
            found = min(suiting, key=lambda b: b.changes(plain, stiff))
        else:
            needs_double = any(b.needs_double for b in self.blocks)
            # The oldest goes before the new one takes its room.
            self.blocks = self.blocks[: MOST_BLOCKS - 1]
            found = PlainBlock(self.system.matrix, plain, stiff, scratch=self.scratch, needs_double=needs_double)
        self.blocks = (found, *(b for b in self.blocks if b is not found))[:MOST_BLOCKS]
        return found


class _Attempt:
    """One increment on the condensed system (see `contact_loop.Attempt`)."""

    is_bare = None

    def __init__(self, solver: JointSolver, old: JointState, guess: JointState | None, wanted: Wanted) -> None:
        self.system, self.rows, self.leap = solver.system, solver.system.nodes.rows, solver.leap
        self.solver, self.old, self.bolts = solver, old, wanted.bolts
        self.load = self.system.loads @ wanted.amounts
        self.before = old if guess is None else guess
        self.drag, self.is_dragged = 0.0, False
        self.worst = self.last_worst = np.inf
        self.change, self.unknowns = np.inf, 0

    def solve(self, laws: NodeLaws, trial: Trial) -> JointState | None:
        """See `contact_loop.Attempt`."""
        was_dragged = self.drag > 0
        rules = rules_for(
            laws, trial, area=self.system.nodes.area, acts=self.rows >= 0, w_old=self.old.w,
            traction_old=self.old.traction,
        )  # fmt: skip
        z, self.unknowns, self.drag = self._solve_without_leap(rules)
        if not np.all(np.isfinite(z)):
            return None
        self.is_dragged = was_dragged or self.drag > 0
        now = self._state(z, trial.status)
        self.change, self.before = self._change(self.before, now), now
        return now

    def has_settled(self, flips: int, residual: float) -> bool:
        """See `contact_loop.Attempt`."""
        self.last_worst, self.worst = self.worst, max(self.change, residual)
        if self.worst < CONVERGED:
            return True
        # Motions large against the squeeze leave rounding in the tractions: no further gain is to be had.
        is_rounding = self.worst < ROUNDING_LIMITED and self.worst > 0.5 * self.last_worst and self.drag == 0
        return flips == 0 and ((residual < CONVERGED and not self.is_dragged) or is_rounding)

    def may_go_on(self, number: int, most: int, flips: int) -> bool:
        """See `contact_loop.Attempt`."""
        del flips
        return number < most

    def _solve_without_leap(self, rules: Rules) -> tuple[Array, int, float]:
        """One linear solve, dragged towards the iterate before as much as it takes not to leap.

        When everything that holds a part slides, the tangent is singular and a full step would
        leap past every face that could stop the part, or even backwards. A drag in the direction
        of motion gives it the sense of the force left over; it vanishes as the steps do, so the
        converged state is exact. Returns the solution, its unknowns, and the next drag.
        """
        start, drag = self.before.z, self.drag
        z, unknowns = start, 0
        for _ in range(MOST_DRAGS):
            z, unknowns = self._solve_once(rules, drag)
            size = float(np.abs(z - start)[: self.system.n_w].max(initial=0.0))
            if size <= self.leap:
                return z, unknowns, drag / 30 if drag > LEAST_DRAG else 0.0
            drag = max(drag, LEAST_DRAG) * min(max(2 * size / self.leap, 4.0), 1e3)
        return z, unknowns, drag

    def _change(self, a: JointState, b: JointState) -> float:
        motion = np.max(np.abs(b.z - a.z), initial=0.0) / max(np.max(np.abs(b.z), initial=0.0), 1e-12)
        force = np.max(np.abs(b.traction - a.traction), initial=0.0) / max(
            np.max(np.abs(b.traction), initial=0.0), 1e-9
        )
        return float(max(motion, force))

    def _state(self, z: Array, status: NDArray[np.int64]) -> JointState:
        forces = self._times(z) - self.load
        padded = np.append(z, 0.0)
        padded_forces = np.append(forces, 0.0)
        w, traction = padded[self.rows], padded_forces[self.rows] / self.system.nodes.area[:, None]
        return JointState(z, forces, w, traction, status)

    def _known_motions(self, rules: Rules) -> tuple[Array, NDArray[np.bool_]]:
        """Motions that are held (zero elsewhere), and which rows stay unknown."""
        n_w, bolts = self.system.n_w, self.bolts
        known, unknown = np.zeros(len(self.system.matrix)), np.zeros(len(self.system.matrix), bool)
        known[self.rows[rules.holds]] = rules.place[rules.holds]
        known[n_w:] = np.where(bolts.by_force, 0.0, bolts.target)
        unknown[n_w:] = bolts.by_force
        unknown[self.rows[(self.rows >= 0) & ~rules.holds]] = True
        return known, unknown

    def _springs(self, rules: Rules, drag: float, unknown: NDArray[np.bool_]) -> tuple[Array, Array]:
        """Stiffness k and pull p of every unknown row's equation ``(A z − f) + k z = p``.

        Those of the rules, drag and loose springs on all, the wanted force for bolts that are tightened.
        """
        n_w, bolts = self.system.n_w, self.bolts
        scale = np.append(self.system.spring, np.zeros(len(unknown) - n_w))
        stiff = np.where(unknown, (self.solver.loose + drag) * scale, 0.0)
        pull = np.where(unknown, drag * scale * self.before.z, 0.0)
        pull[n_w:][bolts.by_force] += bolts.target[bolts.by_force]
        pushes = rules.stiff > 0
        stiff[self.rows[pushes]] += rules.stiff[pushes]
        pull[self.rows[pushes]] += rules.pull[pushes]
        return stiff, pull

    def _solve_once(self, rules: Rules, drag: float) -> tuple[Array, int]:
        """One linear solve for the rows that are not known, on a kept factor of the plain rows (`PlainBlock`)."""
        matrix, rows = self.system.matrix, self.rows
        known, unknown = self._known_motions(rules)
        stiff, pull = self._springs(rules, drag, unknown)
        sliding = np.zeros(len(matrix), bool)
        sliding[rows[rules.slips.node, rules.slips.row]] = True
        is_plain = unknown & ~sliding
        try:
            block = self.solver.block(np.flatnonzero(is_plain), stiff)
        except np.linalg.LinAlgError:
            # A part that hangs in the air, and rounding beyond the loose springs: stiffen them.
            if self.solver.loose > STIFFEST_LOOSE:
                return np.full(len(matrix), np.nan), 0
            self.solver.loose *= 100
            return self._solve_once(rules, drag)
        inside = block.position >= 0
        extra = np.flatnonzero(unknown & ~inside)
        leaves = inside & ~is_plain
        leaves[block.rows[block.is_altered(block.rows, stiff)]] = True
        normals = np.zeros(len(matrix), bool)
        normals[rows[rules.slides, 2]] = True
        # A penalty normal is itself a plain row: as one that leaves, its force can be spoken of.
        removed = np.flatnonzero(leaves | (normals & inside))
        watched = np.flatnonzero(normals & ~inside & ~unknown)
        # What is known of rows of B is solved for, with a force of their own: it must not count twice.
        outside = np.where(inside, 0.0, known)
        special, y = block.special(extra, removed, watched, self.load - self._times(outside), pull, known)
        lines = self._lines(special, unknown, known, stiff, pull)
        self._put_slips(lines, special, rules.slips, stiff, pull)
        solution = block.solve(special, lines)
        known[block.rows] = block.finish(y, special, solution)
        known[extra] = solution[: len(extra)]
        return known, int(unknown.sum())

    def _times(self, z: Array) -> Array:
        """``A z``, reading half of the symmetric matrix."""
        return np.asarray(la.blas.dsymv(1.0, self.system.matrix.T, z)) if len(z) else z

    @staticmethod
    def _lines(special: Special, unknown: NDArray[np.bool_], known: Array, stiff: Array, pull: Array) -> Lines:
        """Plain equations ``force + k·motion = p`` for unknown rows, ``motion = known`` for the others."""
        where = special.lines
        rows = special.rows[where]
        moves = unknown[rows]
        at = np.zeros((len(rows), 3), np.int64)
        force, motion = np.zeros((2, len(rows), 3))
        at[:, 0] = where
        force[:, 0] = moves
        motion[:, 0] = np.where(moves, stiff[rows], 1.0)
        return Lines(at, force, motion, np.where(moves, pull[rows], known[rows]))

    def _put_slips(self, lines: Lines, special: Special, slips: SlipLines, stiff: Array, pull: Array) -> None:
        """Equations of sliding nodes instead of their plain ones.

        Their tangential forces are with drag and loose springs ``F + k M − p``; normal ones are pair forces alone.
        """
        at = np.full(len(self.system.matrix), -1)
        at[special.rows] = np.arange(len(special.rows))
        line_of = np.full(len(special.rows), -1)
        line_of[special.lines] = np.arange(len(special.lines))
        three = self.rows[slips.node]
        line = line_of[at[self.rows[slips.node, slips.row]]]
        # A row that does not act has no part in a line; any special row may stand for it.
        lines.at[line] = np.where(three >= 0, at[three], 0)
        lines.force[line], lines.motion[line] = slips.force, slips.motion
        tangents, on_tangents = three[:, :2], slips.force[:, :2]
        lines.motion[line, :2] += on_tangents * np.where(tangents >= 0, stiff[tangents], 0.0)
        lines.right[line] = slips.right + (on_tangents * np.where(tangents >= 0, pull[tangents], 0.0)).sum(axis=1)
