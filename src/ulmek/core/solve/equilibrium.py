"""What a trial state of the full path answers: forces of elements, loads with inertia, contact, what is left over."""

from dataclasses import dataclass, replace

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.contact.laws import NodeLaws
from ulmek.core.contact.nodes import ContactNodes
from ulmek.core.coupling.constraints import Constraints
from ulmek.core.coupling.loads import following_pressure, load_forces, nodal_masses
from ulmek.core.element.beam import STEP, spins_of_vectors
from ulmek.core.errors import InvertedError
from ulmek.core.layout import Layout
from ulmek.core.model import Model, Step
from ulmek.core.solve.assembly import Answer, Internal, Structure
from ulmek.core.solve.contact_now import ContactNow, ContactTracker
from ulmek.core.solve.newmark import Newmark
from ulmek.core.solve.state import State, Wanted

Array = NDArray[np.float64]

# Rounding of the forces of stiff elements, in units of machine precision times stiffness times motion.
ROUNDING = 200 * np.finfo(float).eps
# Share of the forces at the start of an increment that forces of now are never measured against less than.
BACK = 1e-3
# Forces below this share of those within are no lack of equilibrium.
LACKING = 1e-6
# Largest motion of all iterations together, as a share of the model.
FARTHEST = 1e4


@dataclass(frozen=True)
class Iterate:
    """One trial state with what it answers.

    masters: see `Constraints`. forces (3n + n_bolts,) N: on the contact rows. u (3·n_total,): mm, rad.
    tangent (3·n_total, n_masters): of u by masters. largest: force (N), against which forces without a counterpart are
    measured, the leftover.
    """

    masters: Array
    forces: Array
    u: Array
    answer: Answer
    applied: Array
    contact: ContactNow
    tangent: sp.csr_matrix
    largest: float
    leftover: float

    @property
    def pulled(self) -> Array:
        """Pair forces (3·n_total,) N on the nodes."""
        return np.asarray(self.contact.rows.T @ self.forces[: self.contact.rows.shape[0]])


@dataclass(frozen=True)
class Course:
    """One increment: where it starts, what it is to reach, and its method for inertia."""

    old: State
    wanted: Wanted
    newmark: Newmark | None

    @property
    def moved_from(self) -> Array:
        """Displacements (3·n_total,) at its start."""
        return self.old.u.ravel()

    def inertia(self, u: Array) -> Array | float:
        """Acceleration and damping per unit of mass at displacements ``u`` (mm/s²), zero in static steps."""
        if self.newmark is None:
            return 0.0
        return self.newmark.inertia(u - self.moved_from, self.old.velocity, self.old.acceleration)


@dataclass(frozen=True)
class Fading:
    """Forces (3·n_total,) N that held a state at a share ``since`` of a step, and fade until its end."""

    force: Array
    since: float

    def at(self, time: float) -> Array:
        """What is left of them at a share of the step."""
        return self.force * ((1.0 - time) / (1.0 - self.since))


class Equilibrium:
    """Forces of one model during one step after another.

    step, constraints, laws: of the step that is solved now, set by `hold`. keeps_sections (n_pairs,): see
    `Model.keeps_sections`.
    """

    step: Step
    constraints: Constraints
    laws: NodeLaws

    def __init__(self, model: Model, layout: Layout) -> None:
        self.model, self.layout = model, layout
        self.extent = float(np.ptp(model.nodes(), axis=0).max())
        self.keeps_sections = np.array([model.keeps_sections(pair) for pair in model.pairs], bool)
        self.structure = Structure(model, layout)
        self.loads = load_forces(model, layout)
        self.masses = np.repeat(np.where(layout.is_turn, 0.0, nodal_masses(model, layout, for_inertia=True)), 3)
        self.tracker = ContactTracker(model, layout)
        self.tried: Internal = self.structure.start()
        self.fading: Fading | None = None

    def hold(self, step: Step, constraints: Constraints, nodes: ContactNodes) -> None:
        """Take over what a step holds, releases and follows."""
        self.step, self.constraints, self.nodes, self.fading = step, constraints, nodes, None
        self.tracker.forget_acting()
        laws = NodeLaws.of(nodes, self.tracker.at_start, step.released)
        if step.large:
            # Gaps are measured where the faces are: the law itself starts from none.
            laws = replace(laws, gap=np.zeros(len(laws.gap)), drawn_gap=np.zeros(len(laws.gap)))
        self.laws = laws

    @property
    def is_curved(self) -> bool:
        """Whether forces are a curved function of displacements, so that a shorter step can help."""
        return self.step.large or any(not law.is_linear for law in self.structure.laws)

    def let_go_slowly(self, state: State, time: float) -> bool:
        """Let what a converged ``state`` lacks for equilibrium, now that something holds it no more, fade over the rest
        of the step; whether it lacks anything, and did not fade already."""
        if self.fading is not None or time >= 1.0:
            return False
        c = self.constraints
        missing = (state.inside - state.applied - state.contact).ravel()
        on_masters = c.tangent(state.masters, large=self.step.large).T @ missing
        on_free = np.zeros(len(on_masters))
        kept = c.free[: len(c.free) - c.n_kept]
        on_free[kept] = on_masters[kept]
        if np.abs(on_free).max(initial=0.0) <= LACKING * np.abs(state.inside).max(initial=0.0):
            return False
        self.fading = Fading(c.along_coordinates(on_free), time)
        return True

    def contact(self, u: Array, u_old: Array, overlap_share: float) -> ContactNow:
        """Contact at displacements ``u`` (3·n_total,), see `ContactTracker.now`."""
        return self.tracker.now(
            self.nodes, self.constraints, self.laws, u, u_old=u_old, large=self.step.large, overlap_share=overlap_share
        )

    def at(self, masters: Array, forces: Array, course: Course) -> Iterate:
        """The iterate with these masters and contact forces.

        Raises
        ------
        InvertedError : an element is turned inside out, or a node is out of all proportion away.
        """
        large, wanted = self.step.large, course.wanted
        u = self.constraints.expand(masters, large=large)
        self._require_near(u)
        answer = self.structure.answer(u, course.old.internal, large=large)
        self.tried = answer.internal
        applied = self._applied(wanted.amounts, u) - self.masses * course.inertia(u)
        if self.fading is not None:
            applied = applied + self.fading.at(wanted.time)
        contact = self.contact(u, course.moved_from, wanted.overlap_share)
        tangent = self.constraints.tangent(masters, large=large)
        iterate = Iterate(masters, forces, u, answer, applied, contact, tangent, 0.0, np.inf)
        largest = self._largest(iterate, course.old)
        return replace(iterate, largest=largest, leftover=self._leftover(iterate, largest))

    def _applied(self, amounts: Array, u: Array) -> Array:
        """Loads (3·n_total,) N; in large motion pressures follow their faces."""
        applied = np.asarray(self.loads @ amounts)
        if not self.step.large:
            return applied
        pressures = [a if ld.kind == "pressure" else 0.0 for a, ld in zip(amounts, self.model.loads, strict=False)]
        resting = self.loads @ np.array([*pressures, 0.0])
        return np.asarray(applied - resting + following_pressure(self.model, self.layout, amounts, u))

    @staticmethod
    def _largest(now: Iterate, old: State) -> float:
        """The largest force of elements, loads and contact; where all of them go back to nothing, a share of those from
        which the increment started."""
        forces = (now.answer.force, now.applied, now.pulled, BACK * old.inside)
        return max(float(np.abs(force).max(initial=0.0)) for force in forces)

    def _leftover(self, now: Iterate, largest: float) -> float:
        """Forces on free masters without a counterpart, over the ``largest``."""
        inside, pulled = now.answer.force, now.pulled
        left = (now.tangent.T @ (now.applied + pulled - inside))[self.constraints.free]
        left = left[: len(left) - len(self.model.bolts)]
        assert now.answer.stiffness is not None
        stiffest = float(np.abs(now.answer.stiffness.diagonal()).max())
        floor = ROUNDING * stiffest * float(np.abs(now.u).max(initial=0.0))
        return max(float(np.abs(left).max(initial=0.0)) - floor, 0.0) / max(largest, 1e-300)

    def _require_near(self, u: Array) -> None:
        """Refuse motions from which elements could only answer numbers that are none."""
        moved = float(np.abs(u.reshape(-1, 3)[: self.layout.n_nodes]).max(initial=0.0))
        if not moved < FARTHEST * self.extent:
            raise InvertedError(
                f"a node would move by {moved:.3g} mm in one iteration, out of all proportion to the model.",
                hint="Reduce the load, or apply it in smaller increments.",
            )

    def turn_stiffness(self, now: Iterate, free: NDArray[np.int64]) -> sp.csr_matrix:
        """What the turning arms of rigid handles add: second derivatives by their turns of the work of what acts on the
        faces."""
        u = now.u.reshape(-1, 3)
        missing = (now.answer.force - now.applied - now.pulled).reshape(-1, 3)
        rigid = self.constraints.rigid
        spread = np.zeros((len(rigid.handles), 3, 3))
        np.add.at(spread, rigid.by, np.einsum("ni,nj->nij", rigid.arms, missing[rigid.nodes]))
        blocks = _work_by_turns(spread, u[rigid.handles + 1])
        turns = 3 * rigid.handles[:, None] + np.arange(3, 6)
        rows, columns = (np.broadcast_to(t, blocks.shape) for t in (turns[:, :, None], turns[:, None]))
        shape = (len(now.masters), len(now.masters))
        out = sp.csr_matrix((blocks.ravel(), (rows.ravel(), columns.ravel())), shape=shape)
        axes = self.constraints.axes[:, free]
        return sp.csr_matrix(axes.T @ out @ axes)


def _work_by_turns(spread: Array, turns: Array) -> Array:
    """Second derivatives (m, 3, 3) of ``Σ f · R(θ) r`` at rotation vectors ``turns`` (m, 3), for ``spread``
    = ``Σ r fᵀ`` (m, 3, 3).

    Central differences of the gradient ``Tᵀ Σ R r × f`` with ``T`` of `spins_of_vectors`.
    """
    near = (turns + STEP * np.vstack([np.eye(3), -np.eye(3)])[:, None]).reshape(-1, 3)
    turned = Rotation.from_rotvec(near).as_matrix() if len(near) else np.zeros((0, 3, 3))
    moved = turned @ np.tile(spread, (6, 1, 1))
    moment = np.column_stack([
        moved[:, 1, 2] - moved[:, 2, 1], moved[:, 2, 0] - moved[:, 0, 2], moved[:, 0, 1] - moved[:, 1, 0],
    ])  # fmt: skip
    gradient = np.einsum("mji,mj->mi", spins_of_vectors(near), moment).reshape(6, -1, 3)
    blocks = np.moveaxis((gradient[:3] - gradient[3:]) / (2 * STEP), 0, 1)
    return np.asarray((blocks + np.swapaxes(blocks, 1, 2)) / 2)
