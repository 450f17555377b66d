"""Smooth runs of arcs, as the flank of a tooth is made of: one curve to the mesh."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.geometry.outline import Partition, Segment

# Arcs run on into each other where their slopes differ by less than about half a degree, their centres by more than
# this share of a radius, and their radii by less than this factor.
SMOOTH, SAME_CENTRE, BENDS_ALIKE = float(np.cos(np.deg2rad(0.5))), 1e-3, 6.0


def smooth_runs(partition: Partition) -> list[list[int]]:
    """Segments in runs, most of them alone: arcs of one side of paved regions alone that run on into each other with
    the same slope and another centre, and bend alike."""
    paved = np.ones(len(partition.segments), bool)
    meets: dict[tuple[int, int], set[int]] = {}
    follows: dict[int, int] = {}
    for region, loops in zip(partition.regions, partition.loops, strict=True):
        for loop in loops:
            for use, following in zip(loop, (*loop[1:], loop[0]), strict=True):
                paved[use.index] &= region.pattern == "paved"
                if use.forward and following.forward:
                    follows[use.index] = following.index
    for i, segment in enumerate(partition.segments):
        for x, y in (segment.start, segment.end):
            meets.setdefault((round(x * 1e6), round(y * 1e6)), set()).add(i)

    def runs_on(i: int, j: int) -> bool:
        a, b = partition.segments[i], partition.segments[j]
        if not (paved[i] and paved[j]) or a.centre is None or b.centre is None or a.name != b.name or a.ccw != b.ccw:
            return False
        apart = np.hypot(a.centre[0] - b.centre[0], a.centre[1] - b.centre[1])
        if apart < SAME_CENTRE * a.radius or not 1 / BENDS_ALIKE < a.radius / b.radius < BENDS_ALIKE:
            return False
        here = (round(a.end[0] * 1e6), round(a.end[1] * 1e6))
        # Where centres and end lie in line, slopes are the same.
        u, v = np.subtract(a.end, a.centre) / a.radius, np.subtract(a.end, b.centre) / b.radius
        return meets[here] == {i, j} and float(u @ v) > SMOOTH

    after = {i: j for i, j in follows.items() if i != j and runs_on(i, j)}
    begun = set(range(len(partition.segments))) - set(after.values())
    runs = []
    for first in sorted(begun):
        run = [first]
        while run[-1] in after:
            run.append(after[run[-1]])
        runs.append(run)
    # What runs on in a ring begins nowhere: each of it alone.
    known = {i for run in runs for i in run}
    return runs + [[i] for i in range(len(partition.segments)) if i not in known]


@dataclass(frozen=True)
class Curve:
    """Segments one after another, as one."""

    segments: tuple[Segment, ...]

    @property
    def length(self) -> float:
        """Along all of them (mm)."""
        return sum(s.length for s in self.segments)

    @property
    def turn(self) -> float:
        """Turns that its arcs make (1: all round)."""
        return sum(s.length / (2 * np.pi * s.radius) for s in self.segments if s.centre is not None)

    def points(self, t: NDArray[np.float64]) -> NDArray[np.float64]:
        """Points (n, 2) mm at shares ``t`` of its length."""
        if len(self.segments) == 1:
            return self.segments[0].points(t)
        ends = np.cumsum([0.0, *(s.length for s in self.segments)]) / self.length
        owner = np.clip(np.searchsorted(ends, t, side="right") - 1, 0, len(self.segments) - 1)
        out = np.empty((len(t), 2))
        for i, segment in enumerate(self.segments):
            at = owner == i
            out[at] = segment.points(np.clip((t[at] - ends[i]) / (ends[i + 1] - ends[i]), 0.0, 1.0))
        return out
