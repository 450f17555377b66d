"""What the faces of a mesh are: flat, round about an axis, or part of a ball; from nodes that lie on the true face."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from ulmek.core.errors import InputError
from ulmek.core.mesh.facets import corners_of, drawn_triangles, facet_normals, is_edges
from ulmek.core.mesh.volume import VolumeMesh

Array = NDArray[np.float64]

# Nodes lie on a face of these kinds within this share of its size. Normals of facets on a round face stand across its
# axis within the second, else no cylinder is tried: facets of tetrahedra lean by 0.05 where holes cross.
ON_FACE, ACROSS = 1e-5, 0.2


@dataclass(frozen=True)
class FaceShape:
    """A flat face: its centre of area, outward normal. A round one: the point of its axis beside that, axis, radius
    (mm). Part of a ball: centre, no direction, radius. is_hollow: the material lies outside, as round a hole."""

    kind: Literal["flat", "round", "ball"]
    point: Array
    direction: Array
    radius: float = 0.0
    is_hollow: bool = False


def face_shape(mesh: VolumeMesh, name: str) -> FaceShape:
    """What a face is, from its mesh.

    Raises
    ------
    InputError : it is none of the three.
    """
    facets = mesh.faces[name]
    normals = facet_normals(mesh.nodes, facets)
    # Corners only: the middles of edges stand off the face where an element would fold.
    corners = corners_of(facets)
    nodes, centres = mesh.nodes[np.unique(corners)], mesh.nodes[corners].mean(axis=1)
    middle, size = _middle(mesh.nodes, facets), float(np.ptp(nodes, axis=0).max())
    mean = normals.mean(axis=0)
    length = float(np.linalg.norm(mean))
    if length > 0.5 and np.abs((nodes - middle) @ mean).max() < ON_FACE * size * length:
        return FaceShape("flat", middle, mean / length)
    round_face = _cylinder(nodes, normals, size)
    if round_face is not None:
        axis, point, radius = round_face
        away = centres - point
        outward = np.einsum("ij,ij->i", normals, away - np.outer(away @ axis, axis)).mean()
        return FaceShape("round", point + ((middle - point) @ axis) * axis, axis, radius, bool(outward < 0))
    ball = _ball(nodes)
    if ball is not None and np.abs(np.linalg.norm(nodes - ball[:3], axis=1) - ball[3]).max() < ON_FACE * size:
        outward = np.einsum("ij,ij->i", normals, centres - ball[:3]).mean()
        return FaceShape("ball", ball[:3], np.zeros(3), float(ball[3]), bool(outward < 0))
    raise InputError(
        f"face '{name}' is neither flat, nor round about one axis, nor part of a ball.", where="faces",
        hint="Pick another face, or place the part by numbers.",
    )  # fmt: skip


def _middle(nodes: Array, facets: NDArray[np.int64]) -> Array:
    """Centre of area of facets: that of their nodes would lie where they are finest."""
    pieces = nodes[corners_of(facets) if is_edges(facets) else drawn_triangles(facets)]
    first, *rest = (pieces[:, k] - pieces[:, 0] for k in range(1, pieces.shape[1]))
    weight = np.linalg.norm(np.cross(first, rest[0]) if rest else first, axis=1)
    return np.asarray(weight @ pieces.mean(axis=1) / weight.sum())


def _cylinder(nodes: Array, normals: Array, size: float) -> tuple[Array, Array, float] | None:
    """Axis, a point on it and radius of the cylinder through the nodes, if there is one."""
    _, spread, directions = np.linalg.svd(normals, full_matrices=False)
    if len(spread) < 3 or spread[2] > ACROSS * spread[0]:
        return None
    axis = directions[2]
    x, y = directions[0], directions[1]
    middle = nodes.mean(axis=0)
    flat = np.column_stack([(nodes - middle) @ x, (nodes - middle) @ y])
    centre, radius = _circle(flat)
    if not np.isfinite(radius) or radius > 1e4 * size:
        return None

    def off(v: Array) -> Array:
        lean = axis + v[0] * x + v[1] * y
        lean = lean / np.linalg.norm(lean)
        away = nodes - (middle + v[2] * x + v[3] * y)
        return np.asarray(np.linalg.norm(away - np.outer(away @ lean, lean), axis=1) - v[4])

    start = np.array([0.0, 0.0, centre[0], centre[1], radius])
    if np.ptp((nodes - middle) @ axis) > ON_FACE * size and np.abs(off(start)).max() > 1e-9 * size:
        start = least_squares(off, start, x_scale=[1e-3, 1e-3, size, size, size], xtol=1e-14, ftol=1e-14).x
    if np.abs(off(start)).max() > ON_FACE * size:
        return None
    axis = axis + start[0] * x + start[1] * y
    main = np.abs(axis).argmax()
    axis = axis * np.sign(axis[main]) / np.linalg.norm(axis)
    return axis, middle + start[2] * x + start[3] * y, float(start[4])


def _circle(flat: Array) -> tuple[Array, float]:
    """Centre and radius of the circle nearest to points (n, 2); Kåsa 1976."""
    system = np.column_stack([2 * flat, np.ones(len(flat))])
    found, *_ = np.linalg.lstsq(system, (flat**2).sum(axis=1), rcond=None)
    return found[:2], float(np.sqrt(max(found[2] + found[:2] @ found[:2], 0.0)))


def _ball(nodes: Array) -> Array | None:
    """Centre and radius (4,) of the sphere nearest to the nodes; None where they lie in a plane."""
    middle = nodes.mean(axis=0)
    system = np.column_stack([2 * (nodes - middle), np.ones(len(nodes))])
    found, _, rank, _ = np.linalg.lstsq(system, ((nodes - middle) ** 2).sum(axis=1), rcond=1e-9)
    if rank < 4:
        return None
    radius = np.sqrt(max(found[3] + found[:3] @ found[:3], 0.0))
    return np.append(middle + found[:3], radius)
