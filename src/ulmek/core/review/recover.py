"""Stress at nodes: Gauss values extrapolated to corners and averaged inside each body."""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.element import brick
from ulmek.core.model import Model
from ulmek.core.solve.assembly import first_like

Array = NDArray[np.float64]


@dataclass(frozen=True)
class _BodyRecovery:
    """What one body needs again and again: element operators, and the average at its nodes (n, 8m)."""

    operator: Array
    average: sp.csr_matrix


class StressRecovery:
    """Recovers nodal stress of one model; the element operators are made once."""

    def __init__(self, model: Model) -> None:
        self.model = model
        self.offsets = model.offsets()
        self.bodies: list[_BodyRecovery] = []
        for i in range(len(model.bodies)):
            first = first_like(model, i)
            self.bodies.append(self.bodies[first] if first < i else self._prepare(i))

    def _prepare(self, index: int) -> _BodyRecovery:
        body = self.model.bodies[index]
        mesh = body.mesh
        xyz = mesh.nodes[mesh.bricks]
        weight = np.repeat(brick.volumes(xyz), 8)
        rows, columns = mesh.bricks.ravel(), np.arange(mesh.bricks.size)
        average = sp.csr_matrix((weight, (rows, columns)), shape=(len(mesh.nodes), mesh.bricks.size))
        total = np.asarray(average.sum(axis=1)).ravel()
        return _BodyRecovery(
            brick.stress_operator(xyz, body.material.stiffness()), sp.csr_matrix(sp.diags(1 / total) @ average)
        )

    def nodal_stress(self, u: Array, shortening: Array) -> Array:
        """Stress (n_nodes, 6) MPa, order xx, yy, zz, xy, yz, zx, weighted by element volume.

        u (n_nodes, 3) mm; shortening (n_bolts,) mm: the bricks above a bolt's cut see it.
        """
        model = self.model
        delta = {b.body: (value, np.array(b.axis)) for b, value in zip(model.bolts, shortening, strict=True)}
        out = np.empty((len(u), 6))
        for i, (body, recovery) in enumerate(zip(model.bodies, self.bodies, strict=True)):
            mesh = body.mesh
            here = slice(self.offsets[i], self.offsets[i + 1])
            corner = u[here][mesh.bricks]
            if body.name in delta:
                value, axis = delta[body.name]
                on_cut = np.isin(mesh.bricks[mesh.cut_above], mesh.cut_nodes)
                corner[mesh.cut_above] -= on_cut[..., None] * value * axis
            at_corner = np.matmul(brick.EXTRAPOLATION, brick.stress(recovery.operator, corner))
            out[here] = recovery.average @ at_corner.reshape(-1, 6)
        return out


def von_mises(stress: Array) -> Array:
    """Von Mises stress (n,) MPa from (n, 6)."""
    xx, yy, zz, xy, yz, zx = stress.T
    return np.asarray(np.sqrt(0.5 * ((xx - yy) ** 2 + (yy - zz) ** 2 + (zz - xx) ** 2) + 3 * (xy**2 + yz**2 + zx**2)))
