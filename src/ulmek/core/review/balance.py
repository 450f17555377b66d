"""Loads, reactions and pair forces, and whether they close."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.coupling.constraints import Constraints
from ulmek.core.model import Model
from ulmek.core.solve.history import Increment
from ulmek.core.solve.layout import Layout
from ulmek.core.solve.state import State

Array = NDArray[np.float64]

# Rounding of sums of element forces, relative to stiffness times motion (measured on turning parts).
ROUNDING = 200 * np.finfo(float).eps


@dataclass(frozen=True)
class Balance:
    """Forces at one increment.

    reactions: name of support or prescribed displacement → (force (3,), moment about the origin
    (3,)), N and N·mm, as they act on the parts. applied (3,): sum of the loads. parts: name →
    what is left over per part (N). closing_error: the largest of the whole's leftover, relative
    to the largest force in the model. scale: that force (N).
    """

    reactions: dict[str, tuple[Array, Array]]
    applied: Array
    parts: dict[str, float]
    closing_error: float
    scale: float


def balance_of(constraints: Constraints, model: Model, increment: Increment) -> Balance:
    """Balance of the whole and of each part at one increment."""
    state, layout = increment.state, constraints.layout
    missing = state.inside - state.applied - state.contact
    tangent = constraints.tangent(state.masters, large=increment.large)
    on_masters = tangent.T @ missing.ravel()
    reaction = np.where(constraints.held, on_masters, 0.0)[: 3 * layout.n_total].reshape(-1, 3)
    places = layout.positions + state.u if increment.large else layout.positions
    moves = ~layout.is_turn
    reactions = _ground_forces(model, layout, increment)
    grounded = np.sum([force for force, _ in reactions.values()], axis=0) if reactions else np.zeros(3)
    owner = constraints.support_of[: 3 * layout.n_total].reshape(-1, 3)
    for index, support in enumerate(model.supports):
        reactions[support.name] = _resultant(places, layout.is_turn, np.where(owner == index, reaction, 0.0))
    for index, load in enumerate(model.loads):
        if load.prescribes:
            moved = constraints.motions[: 3 * layout.n_total, index].reshape(-1, 3) != 0
            reactions[load.name] = _resultant(places, layout.is_turn, np.where(moved, reaction, 0.0))
    applied = state.applied[moves].sum(axis=0)
    scale = max(
        float(np.abs(applied).max()),
        float(np.abs(reaction[moves]).sum(axis=0).max() / 2),
        float(np.abs(increment.bolt_force).max(initial=0.0)),
        # Forces this small cannot be told from the rounding of the internal forces to 1e-6.
        1e6 * ROUNDING * float(np.abs(state.inside).max(initial=0.0)),
        1e6 * ROUNDING * _stiffest(model) * float(np.abs(state.u[moves]).max()),
        np.finfo(float).tiny,
    )
    leftover = applied + reaction[moves].sum(axis=0) + grounded
    if model.space == "axisymmetric":
        leftover[0] = 0.0  # radial forces balance round the turn
    left = _left_per_part(constraints, model, state, reaction)
    return Balance(reactions, applied, left, float(np.linalg.norm(leftover)) / scale, scale)


def _ground_forces(model: Model, layout: Layout, increment: Increment) -> dict[str, tuple[Array, Array]]:
    """What the ground does through springs and line bolts: name → force, moment about the origin."""
    out = {}
    u = increment.state.u
    for spring in model.springs:
        if spring.b is None:
            first = layout.handles[spring.a]
            force = -np.array(spring.stiffness) * u[first]
            moment = -np.array(spring.turning) * u[first + 1]
            out[spring.name] = force, np.cross(layout.positions[first], force) + moment
    for bolt, tension in zip(model.bolts, increment.bolt_force, strict=True):
        if bolt.body is None and bolt.foot is None and bolt.head is not None:
            force = -tension * np.array(bolt.axis)
            out[bolt.name] = force, np.cross(layout.positions[layout.handles[bolt.head]], force)
    return out


def _stiffest(model: Model) -> float:
    """Stiffness (N/mm) that the rounding of a displacement is felt with: E·h of the stiffest part."""
    return max(b.material.young * float(np.ptp(b.mesh.nodes, axis=0).max()) for b in model.bodies)


def _left_per_part(constraints: Constraints, model: Model, state: State, reaction: Array) -> dict[str, float]:
    """What the forces on each part leave over (N): loads, pair forces, and what holds or leads its nodes.

    reaction (n_total, 3): forces on what is held.
    """
    layout = constraints.layout
    is_free = np.zeros(len(constraints.held), bool)
    is_free[constraints.free] = True
    by_triple = is_free[: 3 * layout.n_total].reshape(-1, 3)
    outside, inside = state.applied + state.contact, state.inside.copy()
    for ghost, node in enumerate(layout.ghost_of.tolist()):
        if 0 <= node < layout.n_nodes:
            inside[node] += inside[layout.n_nodes + ghost]
    # What averaging handles pass on to the nodes that they follow.
    through = np.zeros_like(outside)
    first = layout.n_nodes + len(layout.ghost_of)
    through[first:] = (outside - state.inside)[first:]
    passed = (constraints.matrix.T @ through.ravel())[: 3 * layout.n_total].reshape(-1, 3)
    outside = outside + passed
    forces = np.where(by_triple, outside, inside)
    offsets = model.offsets()
    flat = model.space != "solid"
    out = {}
    for i, body in enumerate(model.bodies):
        total = forces[offsets[i] : offsets[i + 1]].sum(axis=0)
        if body.name in model.beam_bodies:
            stations = [layout.handles[name] for name in model.beam(body.name).stations]
            on_nodes = (state.applied + state.contact)[offsets[i] : offsets[i + 1]]
            total = on_nodes.sum(axis=0) + (passed + reaction)[stations].sum(axis=0)
        if flat and model.space == "axisymmetric":
            total[0] = 0.0
        out[body.name] = float(np.linalg.norm(total))
    return out


def _resultant(places: Array, is_turn: NDArray[np.bool_], forces: Array) -> tuple[Array, Array]:
    moment = np.cross(places[~is_turn], forces[~is_turn]).sum(axis=0) + forces[is_turn].sum(axis=0)
    return forces[~is_turn].sum(axis=0), moment
