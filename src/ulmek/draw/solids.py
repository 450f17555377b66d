"""Plane and axisymmetric sections as the solids that they are of: swept through their thickness, or turned about the
axis with an opening cut out."""

import itertools

import numpy as np
from numpy.typing import NDArray

from ulmek.draw.raster import Surface

Array = NDArray[np.float64]
# What of a turn is drawn, and in how many flat pieces; the rest is the opening.
TURN, PIECES = np.deg2rad(270.0), 72
# A thickness many times the section is drawn shorter: the section is what is looked at.
LONGEST = 1.0


def as_solid(section: Surface, space: str, thickness: float) -> Surface:
    """The solid of a section (its outline are ``edges``): a space that is solid already stays as it is."""
    if space == "solid":
        return section
    if space == "axisymmetric":
        # Away from who looks at the section, so that the opening is in front of it.
        angles = -np.linspace(0.0, TURN, PIECES + 1)
        turns = [np.array([[np.cos(a), 0, np.sin(a)], [0, 1, 0], [-np.sin(a), 0, np.cos(a)]]) for a in angles]
        places = [section.points @ turn for turn in turns]
    else:
        deep = min(thickness, LONGEST * float(np.ptp(section.points, axis=0).max()))
        places = [section.points + np.array([0.0, 0.0, z]) for z in (0.0, -deep)]
    return _walls(section, places)


def _walls(section: Surface, places: list[Array]) -> Surface:
    """The section at its first and last place, and walls along its outline between all of them."""
    n = len(section.points)
    ends = [places[0], places[-1]]
    points, triangles, colours = list(ends), [section.triangles, section.triangles + n], [section.colours] * 2
    normals = [_facing(place, section.triangles) for place in ends]
    edges = [section.edges, section.edges + n]
    count = 2 * n
    for near, far in itertools.pairwise(places):
        a, b = section.edges.T
        quads = np.stack([near[a], near[b], far[b], far[a]], axis=1)
        across = np.cross(quads[:, 2] - quads[:, 0], quads[:, 3] - quads[:, 1])
        across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
        first = count + 4 * np.arange(len(quads))[:, None]
        points.append(quads.reshape(-1, 3))
        normals.append(np.repeat(across, 4, axis=0))
        colours.append(section.colours[np.stack([a, b, b, a], axis=1)].reshape(-1, 3))
        triangles += [first + np.array(corners) for corners in ((0, 1, 2), (0, 2, 3))]
        count += 4 * len(quads)
    return Surface(
        np.vstack(points), np.vstack(triangles), np.vstack(normals), np.vstack(colours), np.vstack(edges)
    )  # fmt: skip


def _facing(points: Array, triangles: NDArray[np.int64]) -> Array:
    a, b, c = (points[triangles[:, k]] for k in range(3))
    normal = np.cross(b - a, c - a).sum(axis=0)
    return np.tile(normal / max(float(np.linalg.norm(normal)), 1e-300), (len(points), 1))
