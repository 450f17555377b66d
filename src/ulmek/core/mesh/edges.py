"""Edges of swept solids, where two named faces meet: finer spots of the mesh along them."""

import itertools

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.outline import Segment
from ulmek.core.geometry.revolved import RevolvedSolid
from ulmek.core.mesh.counts import enough
from ulmek.core.mesh.size import NO_SPOTS

Array = NDArray[np.float64]
EdgeSizes = dict[tuple[str, str], float]

# Spots along one segment of an edge, at most.
MOST = 400
# Ends of segments closer than this (mm) are one corner.
SAME = 1e-7


def edge_spots(sizes: EdgeSizes, solid: LayeredSolid | RevolvedSolid) -> Array:
    """Spots (k, 4), x, y, z and size (mm), along the edges between two named faces; of a revolved solid they lie in
    its profile: radius, height, 0 and size.

    Raises
    ------
    InputError : two faces that do not meet in an edge.
    """
    found = [NO_SPOTS]
    for (one, other), size in sizes.items():
        if isinstance(solid, RevolvedSolid):
            points = _corners_of_profile(solid, one, other)
        else:
            points = [
                *_rims(solid, one, other, size), *_rims(solid, other, one, size), *_uprights(solid, one, other, size)
            ]  # fmt: skip
        if not points:
            raise no_edge(one, other)
        places = np.vstack(points)
        found.append(np.column_stack([places, np.full(len(places), size)]))
    return np.vstack(found)


def no_edge(one: str, other: str) -> InputError:
    """The error of two faces that do not meet."""
    return InputError(
        f"the faces '{one}' and '{other}' do not meet in an edge.", where="edges", hint="Name two faces side by side."
    )


def _steps(length: float, size: float) -> Array:
    return np.linspace(0, 1, min(MOST, max(2, enough(length / size) + 1)))


def _rims(solid: LayeredSolid, side: str, flat: str, size: float) -> list[Array]:
    """Points of the segments of a side face at the heights at which a flat face ends there."""
    points = []
    for layer in solid.layers:
        heights = {"bottom": layer.bottom, "top": layer.top}
        ends = {
            (z, region)
            for above in solid.layers
            for region in above.regions
            for kind, z in (("bottom", above.bottom), ("top", above.top))
            if solid.face_name(above.name, kind, region) == flat and z in heights.values()
        }
        for segment in solid.partition.segments:
            if solid.face_name(layer.name, "side", segment.name) != side:
                continue
            for z, region in ends:
                if _bounds(solid, region, segment):
                    along = segment.points(_steps(segment.length, size))
                    points.append(np.column_stack([along, np.full(len(along), z)]))
    return points


def _bounds(solid: LayeredSolid, region: str, segment: Segment) -> bool:
    own = next(r for r in solid.partition.regions if r.name == region)
    ends = {segment.start, segment.end}
    return any({s.start, s.end} == ends and s.name == segment.name for loop in (own.outer, *own.holes) for s in loop)


def _uprights(solid: LayeredSolid, one: str, other: str, size: float) -> list[Array]:
    """Points up the corner at which two side faces meet."""
    points = []
    for layer in solid.layers:
        sides = [
            [s for s in solid.partition.segments if solid.face_name(layer.name, "side", s.name) == n]
            for n in (one, other)
        ]
        for a, b in itertools.product(*sides):
            for x, y in _shared(a, b):
                height = layer.top - layer.bottom
                z = layer.bottom + _steps(height, size) * height
                points.append(np.column_stack([np.full(len(z), x), np.full(len(z), y), z]))
    return points


def _shared(a: Segment, b: Segment) -> list[tuple[float, float]]:
    return [p for p, q in itertools.product((a.start, a.end), (b.start, b.end)) if np.hypot(*np.subtract(p, q)) < SAME]


def _corners_of_profile(solid: RevolvedSolid, one: str, other: str) -> list[Array]:
    of = [[s for s in solid.partition.segments if s.name == n] for n in (one, other)]
    return [np.array([[r, z, 0.0]]) for a, b in itertools.product(*of) for r, z in _shared(a, b)]
