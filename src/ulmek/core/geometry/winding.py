"""Inside or outside of a closed skin of triangles."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ulmek.core.shared_out import share_out

Array = NDArray[np.float64]


def winding(points: Array, corners: Array) -> Array:
    """How often the triangles ``corners`` (m, 3, 3) wind round each of ``points`` (n, 3): 1 inside, 0 outside.

    Solid angles after Van Oosterom and Strackee (1983).
    """
    out = np.zeros(len(points))
    share_out(_winding, len(points), np.ascontiguousarray(points), np.ascontiguousarray(corners), out)
    return out


@njit(cache=True, nogil=True)
def _winding(first, last, points, corners, out):  # type: ignore[no-untyped-def] # pragma: no cover
    for k in range(first, last):
        x, y, z = points[k]
        total = 0.0
        for t in range(len(corners)):
            ax, ay, az = corners[t, 0, 0] - x, corners[t, 0, 1] - y, corners[t, 0, 2] - z
            bx, by, bz = corners[t, 1, 0] - x, corners[t, 1, 1] - y, corners[t, 1, 2] - z
            cx, cy, cz = corners[t, 2, 0] - x, corners[t, 2, 1] - y, corners[t, 2, 2] - z
            la, lb = np.sqrt(ax * ax + ay * ay + az * az), np.sqrt(bx * bx + by * by + bz * bz)
            lc = np.sqrt(cx * cx + cy * cy + cz * cz)
            triple = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
            below = la * lb * lc + (ax * bx + ay * by + az * bz) * lc
            below += (bx * cx + by * cy + bz * cz) * la + (cx * ax + cy * ay + cz * az) * lb
            total += np.arctan2(triple, below)
        out[k] = total / (2 * np.pi)
