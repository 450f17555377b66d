"""What passes through a solid bolt: axial force, shear and bending at every cut across its shank."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.handcalc.threads import edge_stress
from ulmek.core.model import Body, Bolt, Model

Array = NDArray[np.float64]
# Nodes nearer than this share of the radius along the axis lie in one cut; those farther out belong to no shank.
SAME_CUT, ON_SHANK = 1e-3, 1e-3


@dataclass(frozen=True)
class BoltCut:
    """What passes through one cut of a bolt, of what is modelled of it.

    at (mm): along its axis towards the head, from where it is tightened. axial (N): tension; shear (N) across;
    bending (N·mm) about the axis' point there. radius (mm) of the shank.
    """

    at: float
    axial: float
    shear: float
    bending: float
    radius: float

    @property
    def stress(self) -> float:
        """What is modelled, at the edge of the whole round shank (MPa), see `edge_stress`."""
        return edge_stress(self.axial, self.shear, self.bending, np.pi * self.radius**2)


@dataclass(frozen=True)
class _Shank:
    """Where a body is a round shank: a point of its axis, its radius (mm), its axis, and its cuts in order.

    order (n,): nodes of the body along the axis. ends (k,): how many of them lie up to and with each cut. cuts (k,) mm
    along the axis from the tightening cut. across (j, 3): normals of the planes of symmetry that halve it.
    """

    point: Array
    radius: float
    axis: Array
    order: NDArray[np.int64]
    ends: NDArray[np.int64]
    cuts: Array
    across: Array


def worst_cut(model: Model, bolt: Bolt, u: Array, force: Array, *, large: bool) -> BoltCut | None:
    """The cut of a solid bolt at which tension, bending and shear together stress its shank most; None where the body
    is no round shank at its tightening cut.

    u (n_nodes, 3) mm, force (n_nodes, 3) N: see `Recovered`. What is beyond a cut is in equilibrium, so that its forces
    are what passes through, exactly. Of a half or quarter of a bolt what the mirrored parts cancel is left out.
    """
    assert bolt.body is not None
    index = model.body_index(bolt.body)
    shank = _shank(model, model.bodies[index], bolt)
    if shank is None:
        return None
    first = int(model.offsets()[index])
    nodes = first + shank.order
    at = model.nodes()[nodes] + (u[nodes] if large else 0.0)
    acting = force[nodes]
    # Sums of all that lies beyond each cut.
    beyond = acting.sum(axis=0) - np.cumsum(acting, axis=0)[shank.ends - 1]
    turned = np.cross(at, acting)
    moment = turned.sum(axis=0) - np.cumsum(turned, axis=0)[shank.ends - 1]
    middle = shank.point + shank.cuts[:, None] * shank.axis
    axis = shank.axis
    if large:
        starts = np.concatenate([[0], shank.ends[:-1]])
        middle = middle + np.array([u[nodes[a:b]].mean(axis=0) for a, b in zip(starts, shank.ends, strict=True)])
        axis = (middle[-1] - middle[0]) / np.linalg.norm(middle[-1] - middle[0])
    about = moment - np.cross(middle, beyond)
    axial = beyond @ axis
    shear, bending = beyond - axial[:, None] * axis, about - (about @ axis)[:, None] * axis
    if len(shank.across) == 1:
        normal = shank.across[0]
        shear, bending = shear - (shear @ normal)[:, None] * normal, (bending @ normal)[:, None] * normal
    elif len(shank.across) > 1:
        shear, bending = 0.0 * shear, 0.0 * bending
    sizes = np.linalg.norm(shear, axis=1), np.linalg.norm(bending, axis=1)
    found = [
        BoltCut(float(s), float(n), float(q), float(m), shank.radius)
        for s, n, q, m in zip(shank.cuts, axial, *sizes, strict=True)
    ]
    return max(found, key=lambda cut: cut.stress)


def _shank(model: Model, body: Body, bolt: Bolt) -> _Shank | None:
    mesh, axis = body.mesh, np.array(bolt.axis)
    on_cut = np.zeros(len(mesh.nodes), bool)
    on_cut[mesh.cut_nodes] = True
    arcs = [arc for name, rows in mesh.arcs.items() for arc in rows[on_cut[mesh.faces[name]].any(axis=1)] if arc[6] > 0]
    if not arcs:
        return None
    line, radius = arcs[0][:3], float(arcs[0][6])
    level = float((mesh.nodes[mesh.cut_nodes] @ axis).mean())
    along = mesh.nodes @ axis - level
    point = line + (level - line @ axis) * axis
    away = np.linalg.norm(mesh.nodes - point - along[:, None] * axis, axis=1)
    order = np.argsort(along, kind="stable")
    ends = np.flatnonzero(np.diff(along[order], append=np.inf) > SAME_CUT * radius) + 1
    starts = np.concatenate([[0], ends[:-1]])
    farthest = np.maximum.reduceat(away[order], starts)
    # The shank is what goes on from the tightening cut without getting wider.
    slim = farthest <= radius * (1 + ON_SHANK)
    here = int(np.argmin(np.abs(along[order][ends - 1])))
    low = here - int(np.argmin(np.append(slim[here::-1], False))) + 1
    high = here + int(np.argmin(np.append(slim[here:], False)))
    if low >= high:
        return None
    chosen = slice(low, high)
    first = int(model.offsets()[model.body_index(body.name)])
    across: list[Array] = []
    planes = model.across_symmetry
    for node in np.intersect1d(np.arange(first, first + len(mesh.nodes)), list(planes)).tolist():
        for normal in planes[node]:
            if abs(normal @ axis) < ON_SHANK and all(abs(normal @ n) < 1 - ON_SHANK for n in across):
                across.append(normal)
    return _Shank(point, radius, axis, order, ends[chosen], along[order][ends[chosen] - 1], np.array(across))
