"""Quality of quadrilaterals, and smoothing that may only improve it."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

# Elements longer than this are marked down in the smoother: Jacobian alone lets edges collapse.
LONGEST_RATIO = 2.2


@njit(cache=True)
def _quad_measure(points: NDArray[np.float64], quad: NDArray[np.int64]) -> float:  # pragma: no cover
    worst = 2.0
    longest, shortest = 0.0, 1e300
    for i in range(4):
        a, b = quad[i], quad[(i + 1) % 4]
        length = np.hypot(points[b, 0] - points[a, 0], points[b, 1] - points[a, 1])
        longest, shortest = max(longest, length), min(shortest, length)
    for i in range(4):
        o, a, b = quad[i], quad[(i + 1) % 4], quad[(i + 3) % 4]
        ax, ay = points[a, 0] - points[o, 0], points[a, 1] - points[o, 1]
        bx, by = points[b, 0] - points[o, 0], points[b, 1] - points[o, 1]
        product = np.hypot(ax, ay) * np.hypot(bx, by)
        if product <= 0.0:
            return -1.0
        worst = min(worst, (ax * by - ay * bx) / product)
    return worst * min(1.0, LONGEST_RATIO * shortest / longest)


@njit(cache=True)
def scaled_jacobian(points: NDArray[np.float64], quads: NDArray[np.int64]) -> NDArray[np.float64]:
    """Least sine of the four corner angles of each quad, negative when folded; shape (n_quads,)."""
    out = np.empty(len(quads))
    for q in range(len(quads)):
        worst = 2.0
        for i in range(4):
            o, a, b = quads[q, i], quads[q, (i + 1) % 4], quads[q, (i + 3) % 4]
            ax, ay = points[a, 0] - points[o, 0], points[a, 1] - points[o, 1]
            bx, by = points[b, 0] - points[o, 0], points[b, 1] - points[o, 1]
            product = max(np.hypot(ax, ay) * np.hypot(bx, by), 1e-300)
            worst = min(worst, (ax * by - ay * bx) / product)
        out[q] = worst
    return out


@njit(cache=True)
def _smooth(points, quads, start, of_node, near_start, near, free, sweeps):  # type: ignore[no-untyped-def] # pragma: no cover
    old = np.empty(2)
    for _ in range(sweeps):
        for node in range(len(points)):
            if not free[node]:
                continue
            before = 2.0
            for k in range(start[node], start[node + 1]):
                before = min(before, _quad_measure(points, quads[of_node[k]]))
            x = y = 0.0
            count = near_start[node + 1] - near_start[node]
            for k in range(near_start[node], near_start[node + 1]):
                x += points[near[k], 0] / count
                y += points[near[k], 1] / count
            old[:] = points[node]
            step = 1.0
            for _try in range(3):
                points[node, 0] = old[0] + step * (x - old[0])
                points[node, 1] = old[1] + step * (y - old[1])
                after = 2.0
                for k in range(start[node], start[node + 1]):
                    after = min(after, _quad_measure(points, quads[of_node[k]]))
                if after > before or after > 0.9:
                    break
                points[node] = old
                step *= 0.5


def smooth(
    points: NDArray[np.float64], quads: NDArray[np.int64], free: NDArray[np.bool_], *, sweeps: int = 25
) -> NDArray[np.float64]:
    """Move ``free`` nodes towards the mean of their neighbours where no touching quad gets worse.

    Returns new points; a node moves only if the least quality around it rises (or stays above 0.9).
    """
    n = len(points)
    flat = quads.ravel()
    order = np.argsort(flat, kind="stable")
    start = np.searchsorted(flat[order], np.arange(n + 1))
    pairs = np.vstack([np.column_stack([quads[:, i], quads[:, (i + 1) % 4]]) for i in range(4)])
    pairs = np.unique(np.vstack([pairs, pairs[:, ::-1]]), axis=0)
    near_start = np.searchsorted(pairs[:, 0], np.arange(n + 1))
    out = points.copy()
    _smooth(out, quads, start, order // 4, near_start, pairs[:, 1].copy(), free, sweeps)
    return out
