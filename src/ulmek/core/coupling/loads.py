"""Forces of loads at all triples, per unit of each load's amount."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.coupling.surface import face_sums
from ulmek.core.element.family import FAMILIES
from ulmek.core.element.response import Manner, respond
from ulmek.core.errors import InputError
from ulmek.core.layout import Layout
from ulmek.core.mesh.volume import SECOND_ORDER
from ulmek.core.model import Load, Model

Array = NDArray[np.float64]


def load_forces(model: Model, layout: Layout) -> Array:
    """Forces (3·n_total, n_loads + 1) N, moments (N·mm) at turns, in the undeformed place; last column zero.

    Raises
    ------
    InputError : gravity or spin on bodies without a density.
    """
    out = np.zeros((3 * layout.n_total, len(model.loads) + 1))
    for index, load in enumerate(model.loads):
        if not load.prescribes:
            out[:, index] = _force(model, layout, load).ravel()
    return out


def following_pressure(model: Model, layout: Layout, amounts: Array, u: Array) -> Array:
    """Forces (3·n_total,) of all pressures on the deformed faces, for displacements ``u`` (3·n_total,)."""
    out = np.zeros((layout.n_total, 3))
    moved = layout.positions[: layout.n_nodes] + u.reshape(-1, 3)[: layout.n_nodes]
    for load, amount in zip(model.loads, amounts[:-1], strict=True):
        if load.kind == "pressure" and amount != 0:
            out[: layout.n_nodes] -= amount * face_sums(model, load.faces, moved)[1]
    return out.ravel()


def _force(model: Model, layout: Layout, load: Load) -> Array:
    out = np.zeros((layout.n_total, 3))
    direction = np.array(load.direction, float)
    if load.kind == "pressure":
        out[: layout.n_nodes] = -face_sums(model, load.faces)[1]
        return out
    unit = direction / np.linalg.norm(direction)
    if load.handle is not None:
        out[layout.handles[load.handle] + (1 if load.kind == "moment" else 0)] = unit
    elif load.kind == "force":
        area, _ = face_sums(model, load.faces)
        out[: layout.n_nodes] = np.outer(area / area.sum(), unit)
    else:
        mass = nodal_masses(model, layout)
        if not mass.any():
            raise InputError(
                f"'{load.name}' acts on mass, and no part has a density.",
                where=f"loads/{load.name}",
                hint="Give the materials a density.",
            )
        if load.kind == "gravity":
            out = mass[:, None] * unit
        else:
            # Lumped masses at their nodes; exact for the resultant, second order for the field.
            arm = layout.positions - np.array(load.centre)
            out = mass[:, None] * (arm - np.outer(arm @ unit, unit))
    return out


def nodal_masses(model: Model, layout: Layout, *, for_inertia: bool = False) -> Array:
    """Lumped masses (n_total,) in t: each Gauss point's mass shared by the shape functions; point masses at handles.

    Corners of second-order elements get less than nothing in this way: right for weight, but not ``for_inertia``.
    There they share by the squares of the shape functions (Hinton, Rock and Zienkiewicz 1976).
    """
    out = np.zeros(layout.n_total)
    for body, own, first in zip(model.bodies, layout.cells, model.offsets(), strict=False):
        cells = own if body.name not in model.beam_bodies else body.mesh.cells + first
        if body.material.density == 0:
            continue
        family = FAMILIES[body.mesh.kind]
        xyz = layout.positions[cells]
        volume = respond(
            family, body.material.law(), xyz, np.zeros_like(xyz), Manner(model.space, model.thickness),
            with_tangent=False,
        ).volume  # fmt: skip
        share = volume @ family.shape
        if for_inertia and body.mesh.kind in SECOND_ORDER:
            share = volume @ family.shape**2
            share *= (volume.sum(axis=1) / share.sum(axis=1))[:, None]
        share = body.material.density * share
        np.add.at(out, cells.ravel(), share.ravel())
    for ghost, node in enumerate(layout.ghost_of.tolist()):
        if node >= 0:
            out[node] += out[layout.n_nodes + ghost]
        out[layout.n_nodes + ghost] = 0.0
    for handle in model.handles:
        out[layout.handles[handle.name]] += handle.mass
    return out
