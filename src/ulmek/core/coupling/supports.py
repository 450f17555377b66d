"""Supports and loads as held unknowns and load patterns."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.model import Load, Model
from ulmek.core.solve.assembly import surface_forces

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Patterns:
    """Held unknowns and, per load at value 1, its forces and its held displacements.

    held (n_dofs,) bool. support_of (n_dofs,): index of the support that holds it, −1 when none.
    forces, motions (n_dofs, n_loads): N and mm per unit of the load's value.
    """

    held: NDArray[np.bool_]
    support_of: NDArray[np.int64]
    forces: Array
    motions: Array


def load_patterns(model: Model) -> Patterns:
    """Patterns of all supports and loads.

    Raises
    ------
    InputError : two supports or displacements hold the same nodes in contradictory ways.
    """
    nodes = model.nodes()
    n = 3 * len(nodes)
    held, support_of = np.zeros(n, bool), np.full(n, -1)
    forces, motions = np.zeros((n, len(model.loads))), np.zeros((n, len(model.loads)))
    for index, support in enumerate(model.supports):
        at = np.unique(model.quads(support.faces))
        for component in np.flatnonzero(support.components):
            dofs = 3 * at + component
            support_of[dofs[~held[dofs]]] = index
            held[dofs] = True
    for index, load in enumerate(model.loads):
        quads = model.quads(load.faces)
        if load.kind == "displacement":
            _move(load, np.unique(quads), held, support_of, motions[:, index])
        else:
            forces[:, index] = _push(load, nodes, quads)
    return Patterns(held, support_of, forces, motions)


def _push(load: Load, nodes: Array, quads: NDArray[np.int64]) -> Array:
    area, vector = surface_forces(nodes, quads)
    if load.kind == "pressure":
        return -vector.ravel()
    direction = np.array(load.direction)
    return np.outer(area / area.sum(), direction / np.linalg.norm(direction)).ravel()


def _move(
    load: Load, at: NDArray[np.int64], held: NDArray[np.bool_], support_of: NDArray[np.int64], motion: Array
) -> None:
    direction = np.array(load.direction)
    component = int(np.argmax(np.abs(direction)))
    if abs(abs(direction[component]) - np.linalg.norm(direction)) > 1e-9:
        raise InputError(
            f"the displacement '{load.name}' is not along a coordinate axis.",
            where=f"loads/{load.name}/direction",
            hint="Give one axis; use two displacements for two directions.",
        )
    dofs = 3 * at + component
    taken = held[dofs] & (support_of[dofs] >= 0)
    if taken.any():
        raise InputError(
            f"the displacement '{load.name}' moves {int(taken.sum())} nodes that a support holds the same way.",
            where=f"loads/{load.name}",
            hint="Free that component of the support or choose another face.",
        )
    held[dofs] = True
    motion[dofs] = np.sign(direction[component])
