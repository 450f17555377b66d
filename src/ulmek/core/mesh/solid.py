"""Solids of any kind to bricks, and their sections to quads."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.geometry.bent import BentSolid
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes import Solid
from ulmek.core.mesh.bend import mesh_bar
from ulmek.core.mesh.edges import EdgeSizes, edge_spots
from ulmek.core.mesh.quads import PER_TURN
from ulmek.core.mesh.revolve import mesh_profile, mesh_revolved
from ulmek.core.mesh.size import NO_SPOTS
from ulmek.core.mesh.sweep import BY_SIZE, Layering, mesh_layered, mesh_section
from ulmek.core.mesh.volume import VolumeMesh

NONE_FOUND = np.zeros((0, 5))


def mesh_solid(
    solid: Solid,
    *,
    size: float,
    layering: Layering = BY_SIZE,
    face_sizes: dict[str, float] | None = None,
    edge_sizes: EdgeSizes | None = None,
    per_turn: int = PER_TURN,
    spots: NDArray[np.float64] = NO_SPOTS,
    found: NDArray[np.float64] = NONE_FOUND,
) -> VolumeMesh:
    """Bricks of a solid, finer at ``edge_sizes`` between two named faces, and at spots that were ``found`` (k, 5),
    which may lie anywhere: x, y, z, the size there and the height of layers; see `mesh_layered` and `mesh_revolved`,
    which raise, as `edge_spots` does."""
    if isinstance(solid, BentSolid):
        if edge_sizes:
            raise InputError(
                "a bent bar has no finer edges of its own.",
                where="edges",
                hint="Give a finer size to one of its faces.",
            )
        spots = np.vstack([spots, found[:, :4]])
        return mesh_bar(solid, size=size, face_sizes=face_sizes, per_turn=per_turn, spots=spots)
    along = edge_spots(edge_sizes or {}, solid)
    if isinstance(solid, LayeredSolid):
        alike = np.vstack([spots, along])
        spots = np.vstack([np.column_stack([alike, alike[:, 3]]), found])
        return mesh_layered(solid, size=size, layering=layering, face_sizes=face_sizes, per_turn=per_turn, spots=spots)
    return mesh_revolved(
        solid,
        size=size,
        face_sizes=face_sizes,
        per_turn=per_turn,
        spots=spots,
        corners=along[:, [0, 1, 3]],
        found=found[:, :4],
    )


def mesh_flat(
    solid: Solid,
    *,
    size: float,
    face_sizes: dict[str, float] | None = None,
    edge_sizes: EdgeSizes | None = None,
    per_turn: int = PER_TURN,
    spots: NDArray[np.float64] = NO_SPOTS,
    found: NDArray[np.float64] = NONE_FOUND,
) -> VolumeMesh:
    """Quads of the section of a solid: the outline of a layered one, the profile of a revolved one."""
    if isinstance(solid, BentSolid):
        raise InputError("a bent bar has no section in the plane of the study.", hint="Use it in a solid study.")
    spots = np.vstack([spots, found[:, :4], edge_spots(edge_sizes or {}, solid)])
    if isinstance(solid, LayeredSolid):
        return mesh_section(solid, size=size, face_sizes=face_sizes, per_turn=per_turn, spots=spots)
    return mesh_profile(solid, size=size, face_sizes=face_sizes, per_turn=per_turn, spots=spots)
