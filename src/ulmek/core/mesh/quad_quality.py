"""Quality of quadrilaterals, and smoothing that may only improve it."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ulmek.core.mesh.counts import snapped

# Elements longer than this are marked down in the smoother: Jacobian alone lets edges collapse.
LONGEST_RATIO = 2.2
# After averaging, nodes of quads below this quality are moved by direct search, so many rounds at most.
CLIMB_BELOW, CLIMB_ROUNDS = 0.8, 12


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


@njit(cache=True)
def _climb(points, quads, start, of_node, free, reach, rounds, target):  # type: ignore[no-untyped-def] # pragma: no cover
    """Move nodes whose worst quad is below ``target`` in the direction that raises it, by halving steps."""
    for _ in range(rounds):
        moved = False
        for node in range(len(points)):
            if not free[node]:
                continue
            best = 2.0
            for k in range(start[node], start[node + 1]):
                best = min(best, _quad_measure(points, quads[of_node[k]]))
            if best > target:
                continue
            step = 0.3 * reach[node]
            while step > 0.01 * reach[node]:
                x0, y0 = points[node, 0], points[node, 1]
                better = False
                for turn in range(8):
                    points[node, 0] = x0 + step * np.cos(turn * np.pi / 4)
                    points[node, 1] = y0 + step * np.sin(turn * np.pi / 4)
                    after = 2.0
                    for k in range(start[node], start[node + 1]):
                        after = min(after, _quad_measure(points, quads[of_node[k]]))
                    if after > best + 1e-4:
                        best, better, moved = after, True, True
                        break
                    points[node, 0], points[node, 1] = x0, y0
                if not better:
                    step *= 0.5
        if not moved:
            break


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
    out = snapped(points, float(np.ptp(points, axis=0).max()))
    given = out.copy()
    _smooth(out, quads, start, order // 4, near_start, pairs[:, 1].copy(), free, sweeps)
    lengths = np.hypot(*(given[pairs[:, 0]] - given[pairs[:, 1]]).T)
    reach = np.full(n, np.inf)
    np.minimum.at(reach, pairs[:, 0], lengths)
    _climb(out, quads, start, order // 4, free, reach, CLIMB_ROUNDS, CLIMB_BELOW)
    out[~free] = points[~free]
    return out
