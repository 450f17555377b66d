"""Exact and penalty contact on the condensed system: a semi-smooth Newton (active set) iteration."""

from collections.abc import Callable

import numpy as np
import scipy.linalg as la
from numpy.typing import NDArray

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
from ulmek.core.solve.condensed import Condensed
from ulmek.core.solve.plain_block import Lines, PlainBlock, Scratch, Special
from ulmek.core.solve.state import BoltControl, Iteration, JointState

Array = NDArray[np.float64]

# Change of the solution, relative, below which an iteration has converged.
CONVERGED = 1e-8
# Below this, an iteration that gains nothing has reached the rounding of its own matrix.
ROUNDING_LIMITED = 1e-6
# Largest change of a relative motion in one iteration, as a share of the widest gap (or the model).
LEAP = 0.25
# Augmentation repeats the iteration; so many times the iterations of one are allowed.
MORE_FOR_AUGMENTED = 4
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
        self.all_laws = NodeLaws.of(system.nodes, system.interfaces, released)
        self.laws = self.all_laws
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
        amounts: Array,
        bolts: BoltControl,
        *,
        most: int,
        report: Callable[[Iteration], None],
        overlap_share: float = 1.0,
    ) -> JointState | None:
        """The state for load ``amounts``, or None when ``most`` iterations did not settle.

        ``overlap_share`` of the overlap at the start is resolved. ``guess`` (an extrapolation) gives
        the first trial; without one the old status stands.
        """
        load = self.system.loads @ amounts
        self.laws = with_overlap_share(self.all_laws, overlap_share)
        if guess is None:
            trial = Trial(old.status, np.zeros((len(old.w), 2)), np.ones(len(old.w)))
            trial = self._without_direction(trial)
        else:
            trial = judge(self.laws, guess.w, guess.traction, old.w, old.traction)
        before = old if guess is None else guess
        drag, last_worst = 0.0, np.inf
        if self.laws.is_augmented.any():
            most *= MORE_FOR_AUGMENTED
        for number in range(1, most + 1):
            was_dragged = drag > 0
            z, unknowns, drag = self._solve_without_leap(trial, old, before.z, load, bolts, drag)
            if not np.all(np.isfinite(z)):
                return None
            now = self._state(z, load, trial.status)
            following = caught_between(trial, judge(self.laws, now.w, now.traction, old.w, old.traction))
            change = self._change(before, now)
            flips = int(np.sum(following.status != trial.status))
            residual = slip_residual(self.laws, following, now.traction)
            report(Iteration(number, max(change, residual), flips, unknowns))
            settled = flips == 0 and residual < CONVERGED and not (was_dragged or drag > 0)
            # Motions large against the squeeze leave rounding in the tractions: no further gain is to be had.
            worst = max(change, residual)
            settled |= flips == 0 and worst < ROUNDING_LIMITED and worst > 0.5 * last_worst and drag == 0
            last_worst = worst
            if settled or (change < CONVERGED and residual < CONVERGED):
                closer = augmented(self.laws, now.w, now.traction, now.status)
                if closer is None:
                    return now
                self.laws = closer
                following = judge(closer, now.w, now.traction, old.w, old.traction)
            before, trial = now, following
        return None

    def _solve_without_leap(
        self, trial: Trial, old: JointState, start: Array, load: Array, bolts: BoltControl, drag: float
    ) -> tuple[Array, int, float]:
        """One linear solve, dragged towards ``start`` as much as it takes not to leap.

        When everything that holds a part slides, the tangent is singular and a full step would
        leap past every face that could stop the part, or even backwards. A drag in the direction
        of motion gives it the sense of the force left over; it vanishes as the steps do, so the
        converged state is exact. Returns the solution, its unknowns, and the next drag.
        """
        z, unknowns = start, 0
        for _ in range(MOST_DRAGS):
            z, unknowns = self._solve_once(trial, old, load, bolts, drag, start)
            size = float(np.abs(z - start)[: self.system.n_w].max(initial=0.0))
            if size <= self.leap:
                return z, unknowns, drag / 30 if drag > LEAST_DRAG else 0.0
            drag = max(drag, LEAST_DRAG) * min(max(2 * size / self.leap, 4.0), 1e3)
        return z, unknowns, drag

    def _without_direction(self, trial: Trial) -> Trial:
        status = trial.status.copy()
        status[status == Status.SLIDING] = Status.STICKING
        return Trial(status, trial.direction, trial.ratio)

    def _change(self, a: JointState, b: JointState) -> float:
        motion = np.max(np.abs(b.z - a.z), initial=0.0) / max(np.max(np.abs(b.z), initial=0.0), 1e-12)
        force = np.max(np.abs(b.traction - a.traction), initial=0.0) / max(
            np.max(np.abs(b.traction), initial=0.0), 1e-9
        )
        return float(max(motion, force))

    def _state(self, z: Array, load: Array, status: NDArray[np.int64]) -> JointState:
        forces = self._times(z) - load
        padded = np.append(z, 0.0)
        padded_forces = np.append(forces, 0.0)
        w, traction = padded[self.rows], padded_forces[self.rows] / self.system.nodes.area[:, None]
        return JointState(z, forces, w, traction, status)

    def _known_motions(self, trial: Trial, old: JointState, bolts: BoltControl) -> tuple[Array, NDArray[np.bool_]]:
        """Motions that the status of each node prescribes (zero elsewhere), and which rows stay unknown."""
        rows, laws, n_w = self.rows, self.laws, self.system.n_w
        is_open, slides = trial.status == Status.OPEN, trial.status == Status.SLIDING
        known = np.zeros(len(self.system.matrix))
        self._put(known, rows[:, 2], -laws.gap, ~is_open & ~laws.is_penalty)
        stuck = ~is_open & ~slides & ~laws.is_penalty
        for t in (0, 1):
            self._put(known, rows[:, t], old.w[:, t], stuck)
        known[n_w:][~bolts.by_force] = bolts.target[~bolts.by_force]
        unknown = np.zeros(len(known), bool)
        unknown[n_w:] = bolts.by_force
        for k in (0, 1, 2):
            solve_here = is_open | laws.is_penalty | (slides if k < 2 else np.zeros_like(slides))
            unknown[rows[solve_here & (rows[:, k] >= 0), k]] = True
        known[unknown] = 0.0
        return known, unknown

    def _springs(
        self, trial: Trial, old: JointState, bolts: BoltControl, drag: float, start: Array, unknown: NDArray[np.bool_]
    ) -> tuple[Array, Array]:
        """Stiffness k and pull p of every unknown row's equation ``(A z − f) + k z = p``.

        Drag and loose springs on all; ``aλn = −aε(wn + g)`` and, sticking, ``aλt = aλt_old −
        aε(wt − wt_old)`` for penalty; the wanted force for bolts that are tightened.
        """
        laws, area, rows, n_w = self.laws, self.system.nodes.area, self.rows, self.system.n_w
        scale = np.append(self.system.spring, np.zeros(len(unknown) - n_w))
        stiff = np.where(unknown, (self.loose + drag) * scale, 0.0)
        pull = np.where(unknown, drag * scale * start, 0.0)
        pull[n_w:][bolts.by_force] += bolts.target[bolts.by_force]
        closed = laws.is_penalty & (trial.status != Status.OPEN)
        for k in (0, 1, 2):
            here = np.flatnonzero(closed & (rows[:, k] >= 0) & ((trial.status == Status.STICKING) | (k == 2)))
            at, spring = rows[here, k], area[here] * laws.penalty[here]
            stiff[at] += spring
            if k == 2:
                pull[at] -= spring * laws.gap[here]
            else:
                pull[at] += spring * old.w[here, k] + area[here] * old.traction[here, k]
        return stiff, pull

    def _solve_once(
        self, trial: Trial, old: JointState, load: Array, bolts: BoltControl, drag: float, start: Array
    ) -> tuple[Array, int]:
        """One linear solve for the rows that are not known, on a kept factor of the plain rows (`PlainBlock`)."""
        matrix, rows = self.system.matrix, self.rows
        known, unknown = self._known_motions(trial, old, bolts)
        stiff, pull = self._springs(trial, old, bolts, drag, start, unknown)
        slides = (trial.status == Status.SLIDING) & (rows[:, 2] >= 0)
        sliding = np.zeros(len(matrix), bool)
        for k in (0, 1):
            sliding[rows[slides & (rows[:, k] >= 0), k]] = True
        is_plain = unknown & ~sliding
        try:
            block = self._block(np.flatnonzero(is_plain), stiff)
        except np.linalg.LinAlgError:
            # A part that hangs in the air, and rounding beyond the loose springs: stiffen them.
            if self.loose > STIFFEST_LOOSE:
                return np.full(len(matrix), np.nan), 0
            self.loose *= 100
            return self._solve_once(trial, old, load, bolts, drag, start)
        inside = block.position >= 0
        extra = np.flatnonzero(unknown & ~inside)
        leaves = inside & ~is_plain
        leaves[block.rows[block.is_altered(block.rows, stiff)]] = True
        normals = np.zeros(len(matrix), bool)
        normals[rows[slides, 2]] = True
        # A penalty normal is itself a plain row: as one that leaves, its force can be spoken of.
        removed = np.flatnonzero(leaves | (normals & inside))
        watched = np.flatnonzero(normals & ~inside & ~unknown)
        # What is known of rows of B is solved for, with a force of their own: it must not count twice.
        outside = np.where(inside, 0.0, known)
        special, y = block.special(extra, removed, watched, load - self._times(outside), pull, known)
        lines = self._lines(special, unknown, known, stiff, pull)
        self._slide(lines, special, stiff, pull, slides, trial, old)
        solution = block.solve(special, lines)
        known[block.rows] = block.finish(y, special, solution)
        known[extra] = solution[: len(extra)]
        return known, int(unknown.sum())

    def _block(self, plain: NDArray[np.int64], stiff: Array) -> PlainBlock:
        """The kept factor that differs least from these plain rows, or a new one where none comes near."""
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

    def _times(self, z: Array) -> Array:
        """``A z``, reading half of the symmetric matrix."""
        return np.asarray(la.blas.dsymv(1.0, self.system.matrix.T, z)) if len(z) else z

    def _lines(self, special: Special, unknown: NDArray[np.bool_], known: Array, stiff: Array, pull: Array) -> Lines:
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

    def _slide(
        self,
        lines: Lines,
        special: Special,
        stiff: Array,
        pull: Array,
        slides: NDArray[np.bool_],
        trial: Trial,
        old: JointState,
    ) -> None:
        """Equations of sliding nodes instead, along s and across q.

        Along: ``s·λt − µλn = 0``. Across, exact: ``(1−e) q·λt + e c q·(wt − wt_old) = 0``; penalty:
        ``q·λt = e (q·λt_old − ε q·(wt − wt_old))``, with e = µp/|τ| of the trial. Tangential forces
        are with drag and loose springs ``F + k M − p``; normal ones are pair forces alone.
        """
        at = np.full(len(self.system.matrix), -1)
        at[special.rows] = np.arange(len(special.rows))
        line_of = np.full(len(special.rows), -1)
        line_of[special.lines] = np.arange(len(special.lines))
        laws, area, rows = self.laws, self.system.nodes.area, self.rows
        both = np.flatnonzero(slides & (rows[:, 0] >= 0) & (rows[:, 1] >= 0))
        s, e, mu, a = trial.direction[both], trial.ratio[both], laws.mu[both], area[both]
        q = np.column_stack([-s[:, 1], s[:, 0]])
        is_penalty = laws.is_penalty[both]
        c = (e * np.where(is_penalty, laws.penalty[both], laws.trial[both]) * a)[:, None]
        tangents = rows[both, :2]
        springs, pulls = stiff[tangents], pull[tangents]
        one, two = line_of[at[tangents[:, 0]]], line_of[at[tangents[:, 1]]]
        lines.at[one] = lines.at[two] = at[rows[both]]
        lines.force[one] = np.column_stack([s, -mu])
        lines.motion[one, :2], lines.motion[one, 2] = s * springs, 0.0
        lines.right[one] = np.einsum("ij,ij->i", s, pulls)
        across = np.where(is_penalty, 1.0, 1 - e)[:, None] * q
        lines.force[two, :2], lines.force[two, 2] = across, 0.0
        lines.motion[two, :2], lines.motion[two, 2] = across * springs + c * q, 0.0
        carried = np.where(is_penalty, e * a * np.einsum("ij,ij->i", q, old.traction[both, :2]), 0.0)
        lines.right[two] = np.einsum("ij,ij->i", c * q, old.w[both, :2]) + carried
        lines.right[two] += np.einsum("ij,ij->i", across, pulls)
        for k in (0, 1):
            # On a symmetry plane one tangential row is left: ±λt − µλn = 0.
            alone = np.flatnonzero(slides & (rows[:, k] >= 0) & (rows[:, 1 - k] < 0))
            own = rows[alone, k]
            sign, line = np.sign(trial.direction[alone, k]), line_of[at[own]]
            lines.at[line] = np.column_stack([at[own], at[rows[alone, 2]], np.zeros(len(alone), np.int64)])
            lines.force[line] = np.column_stack([sign, -laws.mu[alone], np.zeros(len(alone))])
            lines.motion[line] = np.column_stack([sign * stiff[own], np.zeros((len(alone), 2))])
            lines.right[line] = sign * pull[own]

    @staticmethod
    def _put(target: Array, rows: NDArray[np.int64], values: Array, where: NDArray[np.bool_]) -> None:
        chosen = where & (rows >= 0)
        target[rows[chosen]] = values[chosen]
