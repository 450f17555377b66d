"""Loads, reactions and pair forces, and whether they close."""

import dataclasses
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.axes import axes_at
from ulmek.core.coupling.constraints import Constraints, constrain
from ulmek.core.coupling.loads import nodal_masses
from ulmek.core.layout import Layout
from ulmek.core.model import Model
from ulmek.core.review.pair_fields import pair_force
from ulmek.core.solve.history import Increment
from ulmek.core.solve.state import State

Array = NDArray[np.float64]
CarrierKind = Literal["support", "motion", "wall", "bolt", "spring", "link", "inertia", "damping"]

# Rounding of sums of element forces, relative to stiffness times motion (measured on turning parts).
ROUNDING = 200 * np.finfo(float).eps
# What nobody could measure (N): where everything has gone back to nothing, no share of it is told.
NO_FORCE = 1e-6


@dataclass(frozen=True)
class Carrier:
    """What carries force to the parts: from the ground, from their own inertia, or from one to another.

    force (3,) N and moment (3,) N·mm about the origin, as they act on the parts; of a spring or link between two
    handles, on what hangs on its second one. is_outside: it counts in the balance of the whole. about (3,) mm: where it
    acts, the middle of its nodes or its handle; moments are worth speaking of about it.
    """

    kind: CarrierKind
    name: str
    force: tuple[float, float, float]
    moment: tuple[float, float, float]
    is_outside: bool = True
    about: tuple[float, float, float] = (0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Balance:
    """Forces at one increment.

    carriers: everything that carries force, each once. applied (3,): sum of the loads (N). parts: name →
    what is left over per part (N). closing_error: the largest of the whole's leftover, relative
    to the largest force in the model. scale: that force (N).
    """

    carriers: tuple[Carrier, ...]
    applied: tuple[float, float, float]
    parts: dict[str, float]
    closing_error: float
    scale: float


def balance_of(constraints: Constraints, model: Model, increment: Increment) -> Balance:
    """Balance of the whole and of each part at one increment."""
    state, layout = increment.state, constraints.layout
    missing = state.inside - state.applied - state.contact
    tangent = constraints.tangent(state.masters, large=increment.large)
    on_masters = tangent.T @ missing.ravel()
    held = np.where(constraints.held, on_masters, 0.0)
    reaction = constraints.along_coordinates(held).reshape(-1, 3)
    moves = ~layout.is_turn
    rates = _rates(model, layout, increment)
    carriers = [
        *_held(constraints, model, increment, held),
        *_walls(model, layout, increment),
        *_bolts(model, layout, increment),
        *_springs(model, layout, state),
        *_links(model, layout, increment, missing),
        *rates,
    ]
    moved_by_mass = np.sum([c.force for c in rates], axis=0) if rates else np.zeros(3)
    applied = state.applied[moves].sum(axis=0) - moved_by_mass
    outside = np.array([c.force for c in carriers if c.is_outside]).reshape(-1, 3)
    scale = max(
        float(np.abs(state.applied[moves].sum(axis=0)).max()),
        float(np.abs(reaction[moves]).sum(axis=0).max() / 2),
        float(np.abs(outside).max(initial=0.0)),
        float(np.abs(increment.bolt_force).max(initial=0.0)),
        # Forces this small cannot be told from the rounding of the internal forces to 1e-6.
        1e6 * ROUNDING * float(np.abs(state.inside).max(initial=0.0)),
        1e6 * ROUNDING * _stiffest(model) * float(np.abs(state.u[moves]).max()),
        NO_FORCE,
    )
    leftover = applied + outside.sum(axis=0)
    if model.space != "solid":
        leftover[2] = 0.0  # what keeps a section plane is no support
    if model.space == "axisymmetric":
        leftover[0] = 0.0  # radial forces balance round the turn
    left = _left_per_part(constraints, model, state, held)
    return Balance(tuple(carriers), _three(applied), left, float(np.linalg.norm(leftover)) / scale, scale)


def _three(vector: Array) -> tuple[float, float, float]:
    return float(vector[0]), float(vector[1]), float(vector[2])


def _held(constraints: Constraints, model: Model, increment: Increment, reaction: Array) -> list[Carrier]:
    """Supports and prescribed motions; reaction (n_masters,): forces on what is held."""
    layout, u = constraints.layout, increment.state.u
    places = layout.positions + u if increment.large else layout.positions
    masks: list[tuple[CarrierKind, str, NDArray[np.bool_]]] = [
        ("support", support.name, constraints.support_of == index) for index, support in enumerate(model.supports)
    ]
    for index, load in enumerate(model.loads):
        if load.prescribes:
            masks.append(("motion", load.name, constraints.moved_by == index))
    averaged = np.diff(constraints.driven.indptr) > 0
    out = []
    for kind, name, mask in masks:
        asked = np.where(mask, reaction, 0.0)
        # What is asked of the mean of some nodes acts on these.
        on_nodes = constraints.driven.T @ asked
        on_nodes[: 3 * layout.n_total] += constraints.along_coordinates(np.where(averaged, 0.0, asked))
        own = on_nodes[: 3 * layout.n_total].reshape(-1, 3)
        force, moment = _resultant(places, layout.is_turn, own)
        nodes = np.flatnonzero(mask[: 3 * layout.n_total].reshape(-1, 3).any(axis=1))
        middle = places[nodes].mean(axis=0) if len(nodes) else np.zeros(3)
        out.append(Carrier(kind, name, _three(force), _three(moment), about=_three(middle)))
    return out


def _walls(model: Model, layout: Layout, increment: Increment) -> list[Carrier]:
    """What each datum wall presses and rubs on the parts. One that a handle moves hands it to what holds the handle,
    which carries it outside."""
    out = []
    for wall in model.walls:
        force, moment = np.zeros(3), np.zeros(3)
        for index, pair in enumerate(model.pairs):
            if pair.wall == wall.name:
                own_force, own_moment = pair_force(layout.positions, increment, index)
                force, moment = force + own_force, moment + own_moment
        out.append(Carrier("wall", wall.name, _three(force), _three(moment), wall.handle is None, wall.point))
    return out


def _bolts(model: Model, layout: Layout, increment: Increment) -> list[Carrier]:
    """Line bolts, and springs that act one way: what each pulls at its head; into the ground it counts outside."""
    out = []
    for bolt, tension in zip(model.bolts, increment.bolt_force, strict=True):
        if bolt.body is None and bolt.head is not None:
            force = -tension * np.array(bolt.axis)
            at = layout.positions[layout.handles[bolt.head]]
            is_outside = bolt.foot is None
            kind: CarrierKind = "bolt" if bolt.spring is None else "spring"
            name = bolt.spring or bolt.name
            out.append(Carrier(kind, name, _three(force), _three(np.cross(at, force)), is_outside, _three(at)))
    return out


def _springs(model: Model, layout: Layout, state: State) -> list[Carrier]:
    """Springs: to the ground, what it does to the first handle; between two, what the first does to the second."""
    out = []
    for spring in model.springs:
        a = layout.handles[spring.a]
        b = layout.handles[spring.b] if spring.b is not None else None
        stretch, turn = state.u[a], state.u[a + 1]
        if b is not None:
            stretch, turn = state.u[b] - stretch, state.u[b + 1] - turn
        at = layout.positions[a if b is None else b]
        axes = axes_at(spring.axes, layout.positions[a : a + 1])[0]
        force = -axes.T @ (np.array(spring.stiffness) * (axes @ stretch))
        moment = -axes.T @ (np.array(spring.turning) * (axes @ turn))
        moment = moment + np.cross(at, force)
        out.append(Carrier("spring", spring.name, _three(force), _three(moment), b is None, _three(at)))
    return out


def _links(model: Model, layout: Layout, increment: Increment, missing: Array) -> list[Carrier]:
    """What each link does to its second handle: what all that hangs on that handle lacks for equilibrium.

    missing (n_total, 3): forces that elements ask for and neither loads nor pairs give.
    """
    if not model.links:
        return []
    # Without links a handle's row gathers what hangs on it alone; links further down the chain are added to it. What is
    # asked of faces does not count, and may need the links.
    supports = tuple(s for s in model.supports if s.handle is not None)
    loads = tuple(load for load in model.loads if load.handle is not None)
    plain = constrain(dataclasses.replace(model, links=(), supports=supports, loads=loads), layout)
    masters = plain.masters_at(increment.state.u.ravel(), np.zeros(len(model.bolts)))
    on_masters = plain.tangent(masters, large=increment.large).T @ missing.ravel()
    lacks = plain.along_coordinates(on_masters).reshape(-1, 3)
    places = layout.positions + (increment.state.u if increment.large else 0.0)

    def through(name: str) -> tuple[Array, Array]:
        """Force and moment about the origin that hang on a handle."""
        at = layout.handles[name]
        force, moment = lacks[at], lacks[at + 1] + np.cross(places[at], lacks[at])
        for link in model.links:
            if link.a == name:
                own_force, own_moment = through(link.b)
                force, moment = force + own_force, moment + own_moment
        return force, moment

    out = []
    for link in model.links:
        force, moment = through(link.b)
        at = places[layout.handles[link.b]]
        out.append(Carrier("link", link.name, _three(force), _three(moment), is_outside=False, about=_three(at)))
    return out


def _rates(model: Model, layout: Layout, increment: Increment) -> list[Carrier]:
    """Inertia and damping of a step that has them (d'Alembert: as forces on the parts)."""
    dynamics = model.steps[increment.step].dynamics
    if dynamics is None:
        return []
    state = increment.state
    mass = np.where(layout.is_turn, 0.0, nodal_masses(model, layout, for_inertia=True))[:, None]
    out = []
    given: list[tuple[CarrierKind, Array]] = [
        ("inertia", state.acceleration.reshape(-1, 3)), ("damping", dynamics.damping * state.velocity.reshape(-1, 3)),
    ]  # fmt: skip
    for kind, rate in given:
        force, moment = _resultant(layout.positions + state.u, layout.is_turn, -mass * rate)
        out.append(Carrier(kind, kind, _three(force), _three(moment)))
    return out


def _stiffest(model: Model) -> float:
    """Stiffness (N/mm) that the rounding of a displacement is felt with: E·h of the stiffest part."""
    return max(b.material.young * float(np.ptp(b.mesh.nodes, axis=0).max()) for b in model.bodies)


def _left_per_part(constraints: Constraints, model: Model, state: State, reaction: Array) -> dict[str, float]:
    """What the forces on each part leave over (N): loads, pair forces, and what holds or leads its nodes.

    reaction (n_masters,): forces on what is held.
    """
    layout = constraints.layout
    is_free = np.zeros(len(constraints.held), bool)
    is_free[constraints.free] = True
    bolts = np.zeros(len(model.bolts))
    outside, inside = state.applied + state.contact, state.inside.copy()
    for ghost, node in enumerate(layout.ghost_of.tolist()):
        if 0 <= node < layout.n_nodes:
            inside[node] += inside[layout.n_nodes + ghost]
    # What averaging handles pass on to the nodes that they follow.
    through = np.zeros_like(outside)
    first = layout.n_nodes + len(layout.ghost_of)
    through[first:] = (outside - state.inside)[first:]
    passed = constraints.along_coordinates(constraints.matrix.T @ through.ravel()).reshape(-1, 3)
    # And those that are held or moved themselves, with what acts on them.
    on_handles = reaction + constraints.masters_at(through.ravel(), bolts)
    passed = passed + (constraints.driven.T @ on_handles)[: 3 * layout.n_total].reshape(-1, 3)
    outside = outside + passed
    # What is free has the forces from outside, what is held or led those from inside, along the axes of each.
    by_master = [constraints.masters_at(side.ravel(), bolts) for side in (outside, inside)]
    forces = constraints.along_coordinates(np.where(is_free, *by_master)).reshape(-1, 3)
    held = constraints.along_coordinates(reaction).reshape(-1, 3)
    offsets = model.offsets()
    flat = model.space != "solid"
    out = {}
    for i, body in enumerate(model.bodies):
        total = forces[offsets[i] : offsets[i + 1]].sum(axis=0)
        if body.name in model.beam_bodies:
            stations = [layout.handles[name] for name in model.beam(body.name).stations]
            on_nodes = (state.applied + state.contact)[offsets[i] : offsets[i + 1]]
            total = on_nodes.sum(axis=0) + (passed + held)[stations].sum(axis=0)
        if flat and model.space == "axisymmetric":
            total[0] = 0.0
        out[body.name] = float(np.linalg.norm(total))
    return out


def _resultant(places: Array, is_turn: NDArray[np.bool_], forces: Array) -> tuple[Array, Array]:
    moment = np.cross(places[~is_turn], forces[~is_turn]).sum(axis=0) + forces[is_turn].sum(axis=0)
    return forces[~is_turn].sum(axis=0), moment
