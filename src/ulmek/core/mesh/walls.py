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
        ox, oy, oz = starts[i]
        dx, dy, dz = along[i]
        for k in range(len(corners)):
            if -(dx * normals[k, 0] + dy * normals[k, 1] + dz * normals[k, 2]) > FACING:
                continue
            ax, ay, az = corners[k, 0]
            ex, ey, ez = corners[k, 1, 0] - ax, corners[k, 1, 1] - ay, corners[k, 1, 2] - az
            fx, fy, fz = corners[k, 2, 0] - ax, corners[k, 2, 1] - ay, corners[k, 2, 2] - az
            px, py, pz = dy * fz - dz * fy, dz * fx - dx * fz, dx * fy - dy * fx
            det = ex * px + ey * py + ez * pz
            if abs(det) < 1e-300:
                continue
            sx, sy, sz = ox - ax, oy - ay, oz - az
            u = (sx * px + sy * py + sz * pz) / det
            if u < 0 or u > 1:
                continue
            qx, qy, qz = sy * ez - sz * ey, sz * ex - sx * ez, sx * ey - sy * ex
            v = (dx * qx + dy * qy + dz * qz) / det
            if v < 0 or u + v > 1:
                continue
            t = (fx * qx + fy * qy + fz * qz) / det
            if least < t < out[i]:
                out[i] = t
    return out
