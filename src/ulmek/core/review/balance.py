"""Loads, reactions and pair forces, and whether they close."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.solve.condensed import Condensed
from ulmek.core.solve.history import Increment

Array = NDArray[np.float64]


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


def balance_of(system: Condensed, increment: Increment) -> Balance:
    """Balance of the whole and of each part at one increment."""
    model, patterns = system.model, system.patterns
    nodes = model.nodes()
    loads = (patterns.forces @ increment.values).reshape(-1, 3)
    contact = np.asarray(system.gather.T @ increment.joint.forces[: system.n_w]).reshape(-1, 3)
    internal = system.internal_forces(increment.u, increment.shortening)
    reaction = np.where(patterns.held.reshape(-1, 3), internal - loads - contact, 0.0)
    outside = loads + reaction
    reactions = {}
    owner = patterns.support_of.reshape(-1, 3)
    for index, support in enumerate(model.supports):
        reactions[support.name] = _resultant(nodes, np.where(owner == index, reaction, 0.0))
    for index, load in enumerate(model.loads):
        if load.kind == "displacement":
            moved = patterns.motions[:, index].reshape(-1, 3) != 0
            reactions[load.name] = _resultant(nodes, np.where(moved, reaction, 0.0))
    scale = max(
        float(np.abs(loads.sum(axis=0)).max()),
        float(np.abs(reaction).sum(axis=0).max() / 2),
        float(np.abs(increment.bolt_force).max(initial=0.0)),
        # Forces this small cannot be told from the rounding of the internal forces to 1e-6.
        1e6 * np.finfo(float).eps * float(system.stiffness.diagonal().max() * np.abs(increment.u).max()),
        np.finfo(float).tiny,
    )
    offsets = model.offsets()
    per_node = outside + contact
    left = {
        body.name: float(np.linalg.norm(per_node[offsets[i] : offsets[i + 1]].sum(axis=0)))
        for i, body in enumerate(model.bodies)
    }
    closing = float(np.linalg.norm(outside.sum(axis=0))) / scale
    return Balance(reactions, loads.sum(axis=0), left, closing, scale)


def _resultant(nodes: Array, forces: Array) -> tuple[Array, Array]:
    return forces.sum(axis=0), np.cross(nodes, forces).sum(axis=0)
