"""Boundary nodes: every segment sampled once, with counts that its regions can use.

Arcs that run on smoothly from one to the next, as along the flank of a tooth, are sampled as one curve: elements are as
long there as is wanted, not as arcs are.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.geometry.outline import Partition, Region
from ulmek.core.mesh.counts import enough, nearest_count
from ulmek.core.mesh.runs import Curve, smooth_runs
from ulmek.core.mesh.size import SizeField


@dataclass(frozen=True)
class BoundaryNodes:
    """Points (n, 2) of all boundary nodes and, per segment, their numbers from start to end.

    Each segment carries an even number of edges: every second node is a corner of the coarse
    mesh, the nodes between are its mid-edges. Of segments sampled as one curve the first carries all edges, the others
    none: they have the last node alone.
    """

    points: NDArray[np.float64]
    of_segment: tuple[NDArray[np.int64], ...]


def sample_boundary(partition: Partition, size: SizeField, *, per_turn: int) -> BoundaryNodes:
    """Sample every segment at half the coarse spacing 2h, coupled counts made equal."""
    runs = smooth_runs(partition)
    curves = [Curve(tuple(partition.segments[i] for i in run)) for run in runs]
    coarse = np.array([_coarse_count(c, size, per_turn) for c in curves])
    run_of = {i: number for number, run in enumerate(runs) for i in run}
    for group in _groups(partition):
        of_group = np.unique([run_of[i] for i in group])
        coarse[of_group] = coarse[of_group].max()
    numbers: dict[tuple[int, int], int] = {}
    points: list[NDArray[np.float64]] = []
    of_segment = [np.zeros(0, np.int64) for _ in partition.segments]
    for run, curve, count in zip(runs, curves, coarse, strict=True):
        t = _graded_parameters(curve, size, int(count))
        xy = curve.points(t)
        ids = []
        for k, p in enumerate(xy):
            key = (round(p[0] * 1e6), round(p[1] * 1e6))
            if 0 < k < len(xy) - 1 or key not in numbers:
                numbers[key] = len(points)
                points.append(p)
            ids.append(numbers[key])
        for i in run:
            of_segment[i] = np.array(ids[-1:])
        of_segment[run[0]] = np.array(ids)
    return BoundaryNodes(np.array(points), tuple(of_segment))


def _coarse_count(curve: Curve, size: SizeField, per_turn: int) -> int:
    t = np.linspace(0, 1, 33)
    density = 1.0 / size(curve.points(t))
    count = max(1, nearest_count(curve.length * float(np.trapezoid(density, t)) / 2))
    return max(count, enough(curve.turn * per_turn / 2)) if curve.turn > 0 else count


def _graded_parameters(curve: Curve, size: SizeField, coarse: int) -> NDArray[np.float64]:
    t = np.linspace(0, 1, 257)
    density = 1.0 / size(curve.points(t))
    walked = np.concatenate([[0], np.cumsum((density[1:] + density[:-1]) / 2)])
    corners = np.interp(np.linspace(0, 1, coarse + 1), walked / walked[-1], t)
    fine = np.empty(2 * coarse + 1)
    fine[::2] = corners
    fine[1::2] = (corners[1:] + corners[:-1]) / 2
    return fine


def _groups(partition: Partition) -> list[NDArray[np.int64]]:
    """Segments whose counts must agree: opposite sides of mapped regions, facing sides of rings."""
    parent = np.arange(len(partition.segments))

    def root(i: int) -> int:
        while parent[i] != i:
            i = int(parent[i])
        return i

    for region, loops in zip(partition.regions, partition.loops, strict=True):
        for a, b in _coupled(region, [[u.index for u in loop] for loop in loops]):
            parent[root(a)] = root(b)
    roots = np.array([root(i) for i in range(len(parent))])
    return [np.flatnonzero(roots == r) for r in np.unique(roots)]


def _coupled(region: Region, loops: list[list[int]]) -> list[tuple[int, int]]:
    if region.pattern == "mapped" and len(loops[0]) == 4:
        a, b, c, d = loops[0]
        return [(a, c), (b, d)]
    if region.pattern in ("ring", "disc"):
        first = loops[0][0]
        return [(first, i) for loop in loops for i in loop]
    return []
