"""Exact and penalty contact on the condensed system: a semi-smooth Newton (active set) iteration."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy.linalg as la
from numpy.typing import NDArray

from ulmek.core.contact.laws import NodeLaws, Status, Trial, judge, with_overlap_share
from ulmek.core.solve.condensed import Condensed
from ulmek.core.solve.plain_block import PlainBlock, Special

Array = NDArray[np.float64]

# Change of the solution, relative, below which an iteration has converged.
CONVERGED = 1e-8
# Below this, an iteration that gains nothing has reached the rounding of its own matrix.
ROUNDING_LIMITED = 1e-6
# Largest change of a relative motion in one iteration, as a share of the widest gap (or the model).
LEAP = 0.25
# Drag against leaps, as a share of the contact springs: where it begins, and how often it may rise.
LEAST_DRAG, MOST_DRAGS = 1e-10, 12
# Springs that hold what is loose for a moment, as a share of the contact springs (findings: harmless).
LOOSE_SPRING = 1e-12


@dataclass(frozen=True)
class JointState:
    """A converged state at the joint.

    z (m,): relative motions then bolt shortenings (mm). forces (m,): contact forces on w then
    bolt forces (N). w, traction (n, 3): the same per contact node, t1, t2, n (mm, MPa).
    status (n,): `Status`.
    """

    z: Array
    forces: Array
    w: Array
    traction: Array
    status: NDArray[np.int64]


@dataclass(frozen=True)
class Iteration:
    """One iteration: relative change of the solution, nodes whose status changed, unknowns solved."""

    number: int
    change: float
    status_changes: int
    unknowns: int


@dataclass(frozen=True)
class BoltControl:
    """Which bolts are force-controlled, and the wanted forces (N) or held shortenings (mm)."""

    by_force: NDArray[np.bool_]
    target: Array


class JointSolver:
    """Solves increments on one condensed system."""

    def __init__(self, system: Condensed) -> None:
        self.system = system
        self.all_laws = NodeLaws.of(system.nodes, system.interfaces)
        self.laws = self.all_laws
        self.rows = system.nodes.rows
        self.block: PlainBlock | None = None
        # Parts that slide away for an iteration would leap past every face that could stop them.
        widest = float(self.laws.gap.max(initial=0.0))
        self.leap = LEAP * (widest if widest > 1e-3 * self._length() else self._length())

    def start(self) -> JointState:
        """The state at rest: touching nodes closed and sticking, the others open."""
        n, m = len(self.system.nodes.pair), len(self.system.matrix)
        touching = self.laws.gap <= 1e-6 * self._length()
        status = np.where(touching | ~self.laws.may_open, int(Status.STICKING), int(Status.OPEN))
        return JointState(np.zeros(m), np.zeros(m), np.zeros((n, 3)), np.zeros((n, 3)), status)

    def _length(self) -> float:
        nodes = self.system.model.nodes()
        return float(np.ptp(nodes, axis=0).max())

    def solve(
        self,
        old: JointState,
        guess: JointState | None,
        values: Array,
        bolts: BoltControl,
        *,
        most: int,
        report: Callable[[Iteration], None],
        overlap_share: float = 1.0,
    ) -> JointState | None:
        """The state for load ``values``, or None when ``most`` iterations did not settle.

        ``overlap_share`` of the overlap at the start is resolved. ``guess`` (an extrapolation) gives
        the first trial; without one the old status stands.
        """
        load = self.system.loads @ values
        self.laws = with_overlap_share(self.all_laws, overlap_share)
        if guess is None:
            trial = Trial(old.status, np.zeros((len(old.w), 2)), np.ones(len(old.w)))
            trial = self._without_direction(trial)
        else:
            trial = judge(self.laws, guess.w, guess.traction, old.w, old.traction)
        before = old if guess is None else guess
        drag, last_worst = 0.0, np.inf
        for number in range(1, most + 1):
            was_dragged = drag > 0
            z, unknowns, drag = self._solve_without_leap(trial, old, before.z, load, bolts, drag)
            if not np.all(np.isfinite(z)):
                return None
            now = self._state(z, load, trial.status)
            following = judge(self.laws, now.w, now.traction, old.w, old.traction)
            change = self._change(before, now)
            flips = int(np.sum(following.status != trial.status))
            residual = self._slip_residual(following, now)
            report(Iteration(number, max(change, residual), flips, unknowns))
            settled = flips == 0 and residual < CONVERGED and not (was_dragged or drag > 0)
            # Motions large against the squeeze leave rounding in the tractions: no further gain is to be had.
            worst = max(change, residual)
            settled |= flips == 0 and worst < ROUNDING_LIMITED and worst > 0.5 * last_worst and drag == 0
            last_worst = worst
            if settled or (change < CONVERGED and residual < CONVERGED):
                return now
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
            if drag == 0 and not self.laws.is_penalty.any():
                z, unknowns = self._solve_bordered(trial, old, load, bolts)
            else:
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

    def _slip_residual(self, trial: Trial, now: JointState) -> float:
        sliding = trial.status == Status.SLIDING
        if not sliding.any():
            return 0.0
        pressure = now.traction[sliding, 2]
        wanted = (self.laws.mu[sliding] * pressure)[:, None] * trial.direction[sliding]
        wrong = np.abs(now.traction[sliding, :2] - wanted).max()
        return float(wrong / max(np.abs(now.traction).max(), 1e-9))

    def _state(self, z: Array, load: Array, status: NDArray[np.int64]) -> JointState:
        forces = self.system.matrix @ z - load
        padded = np.append(z, 0.0)
        padded_forces = np.append(forces, 0.0)
        w, traction = padded[self.rows], padded_forces[self.rows] / self.system.nodes.area[:, None]
        return JointState(z, forces, w, traction, status)

    def _solve_once(
        self, trial: Trial, old: JointState, load: Array, bolts: BoltControl, drag: float, start: Array
    ) -> tuple[Array, int]:
        """One linear solve for the rows that are not known: open, sliding, penalty, tightened bolts."""
        matrix = self.system.matrix
        n_w = self.system.n_w
        known, unknown = self._known_motions(trial, old, bolts)
        index = np.flatnonzero(unknown)
        if not len(index):
            return known, 0
        rest = load - matrix @ known
        jacobian = matrix[np.ix_(index, index)]
        right = rest[index]
        position = np.full(len(matrix), -1)
        position[index] = np.arange(len(index))
        right[position[n_w:][bolts.by_force]] += bolts.target[bolts.by_force]
        scale = self._spring_scale(index)
        jacobian[np.diag_indices(len(index))] += (LOOSE_SPRING + drag) * scale
        right += drag * scale * start[index]
        self._penalty_rows(jacobian, right, position, trial, old)
        is_unsymmetric = self._sliding_rows(jacobian, right, position, index, rest, trial, old)
        if is_unsymmetric:
            solution = la.lu_solve(
                la.lu_factor(jacobian, overwrite_a=True, check_finite=False), right, check_finite=False
            )
        else:
            solution = la.solve(jacobian, right, assume_a="sym", overwrite_a=True, check_finite=False)
        known[index] = solution
        return known, len(index)

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

    def _solve_bordered(self, trial: Trial, old: JointState, load: Array, bolts: BoltControl) -> tuple[Array, int]:
        """The same solve for exact enforcement, on a factor of the plain rows that is kept (`PlainBlock`)."""
        matrix, rows, n_w = self.system.matrix, self.rows, self.system.n_w
        known, unknown = self._known_motions(trial, old, bolts)
        sliding = np.zeros(len(matrix), bool)
        slides = trial.status == Status.SLIDING
        for k in (0, 1):
            sliding[rows[slides & (rows[:, k] >= 0), k]] = True
        plain = np.flatnonzero(unknown & ~sliding)
        if self.block is None or not self.block.suits(plain):
            scale = np.append(self.system.spring, np.zeros(len(matrix) - n_w))
            try:
                self.block = PlainBlock(matrix, plain, LOOSE_SPRING * scale)
            except np.linalg.LinAlgError:
                self.block = None
                return self._solve_once(trial, old, load, bolts, 0.0, known)
        block = self.block
        inside = block.position >= 0
        is_plain = unknown & ~sliding
        extra = np.flatnonzero(unknown & ~inside)
        removed = np.flatnonzero(inside & ~is_plain)
        normals = rows[slides & (rows[:, 2] >= 0), 2]
        watched = np.unique(normals[~inside[normals]])
        pulled = load.copy()
        pulled[n_w:][bolts.by_force] += bolts.target[bolts.by_force]
        rest = pulled - matrix @ known
        special, y = block.special(extra, removed, watched, rest, known)
        system, right = self._border(special, len(extra), len(watched), known)
        self._border_slides(system, right, special, len(extra), len(watched), trial, old)
        solution = la.lu_solve(la.lu_factor(system, overwrite_a=True, check_finite=False), right, check_finite=False)
        known[block.rows] = block.finish(y, extra, removed, solution)
        known[extra] = solution[: len(extra)]
        return known, int(unknown.sum())

    @staticmethod
    def _border(special: Special, n_extra: int, n_watched: int, known: Array) -> tuple[Array, Array]:
        """Equations of the border: no force on plain rows outside the block, known motion of rows that left it."""
        left = n_extra + n_watched
        system = np.vstack([special.force[:n_extra], special.motion[left:]])
        leaving = known[special.rows[left:]]
        right = np.concatenate([-special.force_constant[:n_extra], leaving - special.motion_constant[left:]])
        return system, right

    def _border_slides(
        self, system: Array, right: Array, special: Special, n_extra: int, n_watched: int, trial: Trial, old: JointState
    ) -> None:
        """Equations of sliding nodes, along and across as in `_sliding_rows`."""
        at = np.full(len(self.system.matrix), -1)
        at[special.rows] = np.arange(len(special.rows))
        laws, area, rows = self.laws, self.system.nodes.area, self.rows
        slides = (trial.status == Status.SLIDING) & (rows[:, 2] >= 0)

        def equation(position: NDArray[np.int64]) -> NDArray[np.int64]:
            return np.where(position < n_extra, position, position - n_watched)

        both = np.flatnonzero(slides & (rows[:, 0] >= 0) & (rows[:, 1] >= 0))
        p1, p2, pn = (at[rows[both, k]] for k in (0, 1, 2))
        s, e, mu, a = trial.direction[both], trial.ratio[both], laws.mu[both], area[both]
        q = np.column_stack([-s[:, 1], s[:, 0]])
        c = e * laws.trial[both] * a
        f, f0, m, m0 = special.force, special.force_constant, special.motion, special.motion_constant
        start = np.einsum("ij,ij->i", q, old.w[both, :2])
        one, two = equation(p1), equation(p2)
        system[one] = s[:, :1] * f[p1] + s[:, 1:] * f[p2] - mu[:, None] * f[pn]
        right[one] = -(s[:, 0] * f0[p1] + s[:, 1] * f0[p2] - mu * f0[pn])
        share = (1 - e)[:, None] * q
        drift = c[:, None] * q
        system[two] = share[:, :1] * f[p1] + share[:, 1:] * f[p2] + drift[:, :1] * m[p1] + drift[:, 1:] * m[p2]
        right[two] = c * start - (
            share[:, 0] * f0[p1] + share[:, 1] * f0[p2] + drift[:, 0] * m0[p1] + drift[:, 1] * m0[p2]
        )
        for k in (0, 1):
            alone = np.flatnonzero(slides & (rows[:, k] >= 0) & (rows[:, 1 - k] < 0))
            pt, pn = at[rows[alone, k]], at[rows[alone, 2]]
            sign, mu = np.sign(trial.direction[alone, k]), laws.mu[alone]
            line = equation(pt)
            system[line] = sign[:, None] * f[pt] - mu[:, None] * f[pn]
            right[line] = -(sign * f0[pt] - mu * f0[pn])

    @staticmethod
    def _put(target: Array, rows: NDArray[np.int64], values: Array, where: NDArray[np.bool_]) -> None:
        chosen = where & (rows >= 0)
        target[rows[chosen]] = values[chosen]

    def _spring_scale(self, index: NDArray[np.int64]) -> Array:
        scale = np.append(self.system.spring, np.zeros(len(self.system.matrix) - self.system.n_w))
        return scale[index]

    def _penalty_rows(
        self, jacobian: Array, right: Array, position: NDArray[np.int64], trial: Trial, old: JointState
    ) -> None:
        """``a λn = −aε(wn + g)`` and, sticking, ``a λt = aλt_old − aε(wt − wt_old)``."""
        laws, area = self.laws, self.system.nodes.area
        closed = laws.is_penalty & (trial.status != Status.OPEN)
        if not closed.any():
            return
        stiffness = area * laws.penalty
        for k in (0, 1, 2):
            here = np.flatnonzero(closed & (self.rows[:, k] >= 0))
            if k < 2:
                here = here[trial.status[here] == Status.STICKING]
            at = position[self.rows[here, k]]
            jacobian[at, at] += stiffness[here]
            if k == 2:
                right[at] -= stiffness[here] * laws.gap[here]
            else:
                right[at] += stiffness[here] * old.w[here, k] + area[here] * old.traction[here, k]

    def _sliding_rows(
        self,
        jacobian: Array,
        right: Array,
        position: NDArray[np.int64],
        index: NDArray[np.int64],
        rest: Array,
        trial: Trial,
        old: JointState,
    ) -> bool:
        """Replace the tangential rows of sliding nodes, along s and across q.

        Along: ``s·λt − µλn = 0``. Across, exact: ``(1−e) q·λt + e c q·(wt − wt_old) = 0``;
        penalty: ``q·λt = e (q·λt_old − ε q·(wt − wt_old))``, with e = µp/|τ| of the trial.
        """
        laws, area = self.laws, self.system.nodes.area
        both = (self.rows[:, 0] >= 0) & (self.rows[:, 1] >= 0) & (self.rows[:, 2] >= 0)
        sliding = trial.status == Status.SLIDING
        one_way = self._one_way_rows(jacobian, right, position, index, rest, trial)
        nodes = np.flatnonzero(sliding & both)
        if not len(nodes):
            return one_way
        r1, r2, rn = self.rows[nodes].T
        p1, p2 = position[r1], position[r2]
        s, e = trial.direction[nodes], trial.ratio[nodes]
        q = np.column_stack([-s[:, 1], s[:, 0]])
        mu, a = laws.mu[nodes], area[nodes]
        is_penalty = laws.is_penalty[nodes]
        stiffness = np.where(is_penalty, laws.penalty[nodes], laws.trial[nodes])
        share = np.where(is_penalty, 1.0, 1.0 - e)
        j1, j2 = jacobian[p1].copy(), jacobian[p2].copy()
        jn = self.system.matrix[np.ix_(rn, index)]
        along = s[:, :1] * j1 + s[:, 1:] * j2 - mu[:, None] * jn
        across = share[:, None] * (q[:, :1] * j1 + q[:, 1:] * j2)
        k = np.arange(len(nodes))
        across[k, p1] += e * stiffness * a * q[:, 0]
        across[k, p2] += e * stiffness * a * q[:, 1]
        jacobian[p1], jacobian[p2] = along, across
        t1, t2 = right[p1].copy(), right[p2].copy()
        right[p1] = s[:, 0] * t1 + s[:, 1] * t2 - mu * rest[rn]
        start = np.einsum("ij,ij->i", q, old.w[nodes, :2])
        carried = np.where(is_penalty, e * a * np.einsum("ij,ij->i", q, old.traction[nodes, :2]), 0.0)
        right[p2] = share * (q[:, 0] * t1 + q[:, 1] * t2) + e * stiffness * a * start + carried
        return True

    def _one_way_rows(
        self,
        jacobian: Array,
        right: Array,
        position: NDArray[np.int64],
        index: NDArray[np.int64],
        rest: Array,
        trial: Trial,
    ) -> bool:
        """Sliding nodes with one tangential row (on a symmetry plane): ``±λt − µλn = 0``."""
        found = False
        for k in (0, 1):
            alone = (self.rows[:, k] >= 0) & (self.rows[:, 1 - k] < 0) & (self.rows[:, 2] >= 0)
            nodes = np.flatnonzero((trial.status == Status.SLIDING) & alone)
            if not len(nodes):
                continue
            found = True
            rn = self.rows[nodes, 2]
            at, sign, mu = position[self.rows[nodes, k]], np.sign(trial.direction[nodes, k]), self.laws.mu[nodes]
            jacobian[at] = sign[:, None] * jacobian[at] - mu[:, None] * self.system.matrix[np.ix_(rn, index)]
            right[at] = sign * right[at] - mu * rest[rn]
        return found
