"""Which facets of a mesh stand for a round face, and its true radius."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.geometry.layered import LayeredSolid

Array = NDArray[np.float64]

# Nodes lie on the curve they were placed on to rounding; this share of the radius tells them from others.
ON_CURVE = 1e-7


def face_arcs(solid: LayeredSolid, nodes: Array, faces: dict[str, NDArray[np.int64]]) -> dict[str, Array]:
    """Arcs (k, 7) of the facets of every round side face: point on the axis, axis, signed radius (mm).

    The radius is positive where the face bulges out of the material, negative round a hole, and 0 for flat
    facets of a face that is round in part. Faces without arcs are left out.
    """
    wanted: dict[str, list[tuple[float, float, float]]] = {}
    for layer in solid.layers:
        for segment in solid.partition.segments:
            if segment.centre is not None:
                name = solid.face_name(layer.name, "side", segment.name)
                wanted.setdefault(name, []).append((*segment.centre, segment.radius))
    found = {}
    for name, curves in wanted.items():
        if name not in faces:
            continue
        facets = faces[name]
        arcs = np.zeros((len(facets), 7))
        arcs[:, 5] = 1.0
        corners = nodes[facets][:, :, :2]
        # Curvature, with its sign, of the curves that a facet's first two corners lie on, none yet.
        bent, met = np.zeros((len(facets), 2)), np.zeros((len(facets), 2), bool)
        # Outward is to the right of the first edge, for quads seen from their bottom and for edges of sections.
        along = corners[:, 1] - corners[:, 0]
        outward = np.column_stack([along[:, 1], -along[:, 0]])
        for x, y, radius in set(curves):
            away = corners - [x, y]
            off = np.abs(np.hypot(away[..., 0], away[..., 1]) - radius) < ON_CURVE * max(radius, 1.0)
            on = off.all(axis=1)
            side = np.sign(np.einsum("nd,nd->n", away.mean(axis=1), outward))
            arcs[on, 0], arcs[on, 1], arcs[on, 6] = x, y, side[on] * radius
            near = off[:, :2] & ~met
            bent[near] = np.broadcast_to((side / radius)[:, None], near.shape)[near]
            met |= near
        across = met.all(axis=1) & (arcs[:, 6] == 0) & (bent[:, 0] * bent[:, 1] > 0)
        _lay_between(arcs, across, corners[:, :2], outward, bent.mean(axis=1))
        found[name] = arcs
    return found


def _lay_between(
    arcs: Array, across: NDArray[np.bool_], ends: Array, outward: Array, curvature: Array
) -> None:  # fmt: skip
    """Arcs of the mean curvature for facets from one arc of a smooth curve to the next: their ends lie on it, too."""
    radius = 1 / np.abs(curvature[across])
    start, end = ends[across, 0], ends[across, 1]
    chord = np.linalg.norm(end - start, axis=1)
    out = outward[across] / np.linalg.norm(outward[across], axis=1, keepdims=True)
    back = np.sqrt(np.maximum(radius**2 - chord**2 / 4, 0.0)) * np.sign(curvature[across])
    arcs[across, :2] = (start + end) / 2 - back[:, None] * out
    arcs[across, 6] = np.sign(curvature[across]) * radius
