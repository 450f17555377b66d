"""Stress at nodes: Gauss values extrapolated to corners and averaged inside each body."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.element import brick
from ulmek.core.model import Model

Array = NDArray[np.float64]


def nodal_stress(model: Model, u: Array, shortening: Array) -> Array:
    """Stress (n_nodes, 6) MPa, order xx, yy, zz, xy, yz, zx, weighted by element volume.

    u (n_nodes, 3) mm; shortening (n_bolts,) mm: the bricks above a bolt's cut see it.
    """
    offsets = model.offsets()
    out = np.zeros((len(u), 6))
    delta = {bolt.body: (value, np.array(bolt.axis)) for bolt, value in zip(model.bolts, shortening, strict=True)}
    for i, body in enumerate(model.bodies):
        mesh = body.mesh
        local = u[offsets[i] : offsets[i + 1]]
        corner = local[mesh.bricks]
        if body.name in delta:
            value, axis = delta[body.name]
            on_cut = np.isin(mesh.bricks[mesh.cut_above], mesh.cut_nodes)
            corner[mesh.cut_above] -= on_cut[..., None] * value * axis
        xyz = mesh.nodes[mesh.bricks]
        at_corner = np.einsum("cg,mgs->mcs", brick.EXTRAPOLATION, brick.stress(xyz, body.material.stiffness(), corner))
        volume = brick.volumes(xyz)
        total, weight = np.zeros((len(local), 6)), np.zeros(len(local))
        for k in range(8):
            np.add.at(total, mesh.bricks[:, k], volume[:, None] * at_corner[:, k])
            np.add.at(weight, mesh.bricks[:, k], volume)
        out[offsets[i] : offsets[i + 1]] = total / weight[:, None]
    return out


def von_mises(stress: Array) -> Array:
    """Von Mises stress (n,) MPa from (n, 6)."""
    xx, yy, zz, xy, yz, zx = stress.T
    return np.asarray(np.sqrt(0.5 * ((xx - yy) ** 2 + (yy - zz) ** 2 + (zz - xx) ** 2) + 3 * (xy**2 + yz**2 + zx**2)))
