"""Revolved solids: an outline in r and z turned about the z axis."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.geometry.outline import Partition, Region, Segment

# Gauss points along an arc: exact to rounding for what is integrated here.
POINTS, WEIGHTS = np.polynomial.legendre.leggauss(24)
# Radius of the core about the axis over what it has to fit into; what is shorter (mm) is nothing.
CORE_SHARE, SHORT = 0.45, 1e-5
CORE, CORE_SIDE, AXIS = "core", "core.side", "axis"


@dataclass(frozen=True)
class RevolvedSolid:
    """A partition whose x is the radius and whose y is z; segments carry the names of the faces that they sweep.

    What touches the axis is the one region `CORE`, run from the axis along its bottom, up `CORE_SIDE` at a constant
    radius, back along its top, and down `AXIS`: it gets a mesh that no element touches the axis with an edge.
    """

    partition: Partition
    kept: Literal["whole", "half", "quarter"] = "whole"

    @property
    def share(self) -> int:
        """The whole over what is kept: 1, 2 (y ≥ 0) or 4 (x ≥ 0 and y ≥ 0)."""
        return {"whole": 1, "half": 2, "quarter": 4}[self.kept]

    @property
    def core(self) -> Region | None:
        """The region about the axis, if the solid reaches it."""
        return next((r for r in self.partition.regions if r.name == CORE), None)

    def volume(self) -> float:
        """Exact volume (mm³): 2π ∫ ½ r² dz round every region, or its share."""
        loops = [loop for r in self.partition.regions for loop in (r.outer, *r.holes)]
        return float(2 * np.pi / self.share * sum(_half_square(s) for loop in loops for s in loop))


def _half_square(segment: Segment) -> float:
    """``∫ ½ r² dz`` along a segment run counter-clockwise about its region (mm³)."""
    t = (POINTS + 1) / 2
    at = segment.points(t)
    if segment.centre is None:
        slope = np.full(len(t), segment.end[1] - segment.start[1])
    else:
        # dz/dt = sweep · (r − r_centre)
        sweep = segment.length / segment.radius * (1.0 if segment.ccw else -1.0)
        slope = sweep * (at[:, 0] - segment.centre[0])
    return float(np.sum(WEIGHTS / 2 * at[:, 0] ** 2 / 2 * slope))


def height_of(segment: Segment, radius: NDArray[np.float64]) -> NDArray[np.float64]:
    """z (mm) at ``radius`` on a segment that runs outwards or inwards in r."""
    at = segment.points(np.linspace(0, 1, 4001))
    order = np.argsort(at[:, 0])
    return np.asarray(np.interp(radius, at[order, 0], at[order, 1]))


def with_core(region: Region) -> Partition:
    """A profile that reaches the axis, with what is about the axis as its core.

    Raises
    ------
    GeometryError : the profile leaves no room for one.
    """
    loop = list(region.outer)
    at = next(i for i, s in enumerate(loop) if s.name == AXIS)
    chain = loop[at + 1 :] + loop[:at]
    if len(chain) == 1:
        middle = _middle(chain[0])
        chain = [replace(chain[0], end=middle), replace(chain[0], start=middle)]
    bottom, top = chain[0], chain[-1]
    inner = [s.points(np.linspace(0, 1, 33))[:, 0].min() for s in chain[1:-1]]
    radius = CORE_SHARE * min(bottom.end[0], top.start[0], *(r for r in inner if r > SHORT))
    low, high = _at_radius(bottom, radius), _at_radius(top, radius)
    core = (
        Segment(bottom.name, bottom.start, low, bottom.centre, bottom.ccw),
        Segment(CORE_SIDE, low, high),
        Segment(top.name, high, top.end, top.centre, top.ccw),
        Segment(AXIS, top.end, bottom.start),
    )
    rest = (
        Segment(bottom.name, low, bottom.end, bottom.centre, bottom.ccw), *chain[1:-1],
        Segment(top.name, top.start, high, top.centre, top.ccw), Segment(CORE_SIDE, high, low),
    )  # fmt: skip
    kept = tuple(s for s in rest if s.length > SHORT)
    return Partition.of([Region(CORE, core, pattern="mapped"), Region(region.name, kept, region.holes)])


def _at_radius(segment: Segment, radius: float) -> tuple[float, float]:
    """The point of a segment at ``radius`` from the axis."""
    if segment.centre is None:
        (ra, za), (rb, zb) = segment.start, segment.end
        return radius, float(za + (radius - ra) / (rb - ra) * (zb - za))
    away = float(np.sqrt(max(segment.radius**2 - (radius - segment.centre[0]) ** 2, 0.0)))
    choices = [(radius, segment.centre[1] + side * away) for side in (-1.0, 1.0)]
    ends = np.array([segment.start, segment.end])
    middle = ends.mean(axis=0)
    return min(choices, key=lambda p: float(np.hypot(p[0] - middle[0], p[1] - middle[1])))


def _middle(segment: Segment) -> tuple[float, float]:
    x, y = segment.points(np.array([0.5]))[0]
    return float(x), float(y)
