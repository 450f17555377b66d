"""How thick the walls of a solid are, felt from its skin."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ulmek.core.mesh.surface import SurfaceMesh

Array = NDArray[np.float64]
# Rays sent inwards from the skin, at most, and the share of those of one face that may find its wall thinner.
MOST_RAYS, THINNER = 3000, 0.1
# What a ray meets faces it when the normals have at most this cosine: the sides of a corner do not.
FACING = -0.5
# Hits closer than this share of the extent are the ray's own triangle.
OWN = 1e-9


def wall_thickness(skin: SurfaceMesh, n_faces: int) -> Array:
    """Thickness (mm) of the wall under each face (n_faces,), infinite where there is none: rays run inwards from the
    middles of triangles to what faces them (Möller and Trumbore 1997); a tenth of the rays may find less."""
    corners = skin.nodes[skin.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    # Of every face alike, so that a small one is felt too.
    share = min(1.0, MOST_RAYS / len(corners))
    chosen = np.concatenate(
        [own[:: max(1, int(1 / share))] for f in range(n_faces) if len(own := np.flatnonzero(skin.face == f))]
    )
    extent = float(np.ptp(skin.nodes, axis=0).max())
    found = _inwards(corners[chosen].mean(axis=1), -normals[chosen], corners, normals, OWN * extent)
    out = np.full(n_faces, np.inf)
    for face in range(n_faces):
        own = found[skin.face[chosen] == face]
        if len(own):
            out[face] = np.sort(own)[int(THINNER * len(own))]
    return out


@njit(cache=True)
def _inwards(starts, along, corners, normals, least):  # type: ignore[no-untyped-def] # pragma: no cover
    """Way (mm) of each ray to the nearest triangle that faces it."""
    out = np.full(len(starts), np.inf)
    for i in range(len(starts)):
        o, d = starts[i], along[i]
        for k in range(len(corners)):
            if -(d * normals[k]).sum() > FACING:
                continue
            a = corners[k, 0]
            e, f = corners[k, 1] - a, corners[k, 2] - a
            p = np.cross(d, f)
            det = (e * p).sum()
            if abs(det) < 1e-300:
                continue
            s = o - a
            u = (s * p).sum() / det
            if u < 0 or u > 1:
                continue
            q = np.cross(s, e)
            v = (d * q).sum() / det
            if v < 0 or u + v > 1:
                continue
            t = (f * q).sum() / det
            if t > least and t < out[i]:
                out[i] = t
    return out
