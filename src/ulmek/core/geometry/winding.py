"""Inside or outside of a closed skin of triangles."""

from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ulmek.core.shared_out import share_out

Array = NDArray[np.float64]

# Triangles of one bundle at most; bundles farther off than so many of their radii count as one.
BUNDLE, FAR = 32, 4.0


class _Bundles(NamedTuple):
    """Triangles that lie together: ends of each bundle among all (k,), and of each its middle (k, 3), the square of the
    distance from which it counts as one (k,), and its area with its direction (k, 3)."""

    ends: NDArray[np.int64]
    middle: Array
    far: Array
    area: Array


def winding(points: Array, corners: Array) -> Array:
    """How often the triangles ``corners`` (m, 3, 3) wind round each of ``points`` (n, 3): 1 inside, 0 outside, to two
    hundredths.

    Solid angles after Van Oosterom and Strackee (1983); of what is far by the dipoles of bundles of triangles (Barill
    and others 2018, ACM TOG 37, 43).
    """
    out = np.zeros(len(points))
    order, ends = _bundled(corners.mean(axis=1))
    sorted_corners = np.ascontiguousarray(corners[order])
    share_out(_winding, len(points), np.ascontiguousarray(points), sorted_corners, _of(sorted_corners, ends), out)
    return out


def _bundled(middles: Array) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """An order of all triangles and the ends of the bundles in it: halved across the longest side until small."""
    out: list[NDArray[np.int64]] = []
    waiting = [np.arange(len(middles))]
    while waiting:
        here = waiting.pop()
        if len(here) <= BUNDLE:
            out.append(here)
            continue
        axis = int(np.ptp(middles[here], axis=0).argmax())
        half = len(here) // 2
        parted = here[np.argpartition(middles[here, axis], half)]
        waiting += [parted[half:], parted[:half]]
    return np.concatenate(out), np.cumsum([len(b) for b in out])


def _of(corners: Array, ends: NDArray[np.int64]) -> _Bundles:
    starts = np.concatenate([[0], ends[:-1]])
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    size = np.linalg.norm(area, axis=1)[:, None] + 1e-300
    middle = np.add.reduceat(size * corners.mean(axis=1), starts) / np.add.reduceat(size, starts)
    away = np.linalg.norm(corners - np.repeat(middle, ends - starts, axis=0)[:, None], axis=2).max(axis=1)
    return _Bundles(ends, middle, (FAR * np.maximum.reduceat(away, starts)) ** 2, np.add.reduceat(area, starts))


@njit(cache=True, nogil=True)
def _winding(first, last, points, corners, bundles, out):  # type: ignore[no-untyped-def] # pragma: no cover
    for k in range(first, last):
        x, y, z = points[k]
        total, start = 0.0, 0
        for b in range(len(bundles.ends)):
            end = bundles.ends[b]
            dx, dy, dz = bundles.middle[b, 0] - x, bundles.middle[b, 1] - y, bundles.middle[b, 2] - z
            square = dx * dx + dy * dy + dz * dz
            if square > bundles.far[b]:
                seen = dx * bundles.area[b, 0] + dy * bundles.area[b, 1] + dz * bundles.area[b, 2]
                total += seen / (2 * square * np.sqrt(square))
                start = end
                continue
            for t in range(start, end):
                ax, ay, az = corners[t, 0, 0] - x, corners[t, 0, 1] - y, corners[t, 0, 2] - z
                bx, by, bz = corners[t, 1, 0] - x, corners[t, 1, 1] - y, corners[t, 1, 2] - z
                cx, cy, cz = corners[t, 2, 0] - x, corners[t, 2, 1] - y, corners[t, 2, 2] - z
                la, lb = np.sqrt(ax * ax + ay * ay + az * az), np.sqrt(bx * bx + by * by + bz * bz)
                lc = np.sqrt(cx * cx + cy * cy + cz * cz)
                triple = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
                below = la * lb * lc + (ax * bx + ay * by + az * bz) * lc
                below += (bx * cx + by * cy + bz * cz) * la + (cx * ax + cy * ay + cz * az) * lb
                total += np.arctan2(triple, below)
            start = end
        out[k] = total / (2 * np.pi)
