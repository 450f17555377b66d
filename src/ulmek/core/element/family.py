"""Element families: Gauss rules, shape functions and incompatible modes of solid and plane elements."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.volume import Kind

Array = NDArray[np.float64]
Function = Callable[[Array], Array]

BRICK_CORNERS = np.array(
    [[-1, -1, -1], [1, -1, -1], [1, 1, -1], [-1, 1, -1], [-1, -1, 1], [1, -1, 1], [1, 1, 1], [-1, 1, 1]], float
)
QUAD_CORNERS = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]], float)


class Quadrature(NamedTuple):
    """What kernels need of a family, see there."""

    shape: Array
    gradient: Array
    centre_gradient: Array
    rule: Array
    modes: Array


@dataclass(frozen=True)
class Family:
    """One kind of element in its natural coordinates, with n corners and g Gauss points in d dimensions.

    shape (g, n), gradient (g, n, d), centre_gradient (n, d): shape functions. rule (g,): weights.
    modes (g, k, d): gradients of the incompatible modes 1 − ξᵢ². extrapolation (n, g): corner values
    from Gauss values. shape_at, gradient_at: both at any natural coordinates (k, d), as (k, n) and (k, n, d).
    is_simplex: natural coordinates ≥ 0 with a sum ≤ 1, else from −1 to 1.
    """

    shape: Array
    gradient: Array
    centre_gradient: Array
    rule: Array
    modes: Array
    extrapolation: Array
    shape_at: Function
    gradient_at: Function
    is_simplex: bool = False

    @property
    def quadrature(self) -> Quadrature:
        """For kernels."""
        return Quadrature(self.shape, self.gradient, self.centre_gradient, self.rule, self.modes)

    @property
    def dim(self) -> int:
        """Number of displacement components that the element uses."""
        return int(self.gradient.shape[2])

    def outside(self, at: Array) -> Array:
        """How far natural coordinates (k, d) lie outside the element (k,): zero or less within."""
        beyond: Array = np.abs(at).max(axis=1) - 1
        if self.is_simplex:
            beyond = np.maximum((-at).max(axis=1), at.sum(axis=1) - 1)
        return beyond


def _gradients(corners: Array, at: Array) -> Array:
    """Gradients (k, n, d) of the multilinear shape functions at ``at`` (k, d)."""
    n, dim = corners.shape
    factors = 1 + at[:, None, :] * corners[None]
    out = np.empty((len(at), n, dim))
    for d in range(dim):
        others = np.prod(np.delete(factors, d, axis=2), axis=2)
        out[:, :, d] = corners[:, d] * others / 2**dim
    return out


def _barycentric(at: Array) -> Array:
    return np.hstack([1 - at.sum(axis=1, keepdims=True), at])


def _multilinear(corners: Array) -> Family:
    n, dim = corners.shape
    points = corners / np.sqrt(3)

    def shape_at(at: Array) -> Array:
        return np.asarray(np.prod(1 + at[:, None, :] * corners[None], axis=2) / 2**dim)

    shape: Array = shape_at(points)
    modes = np.zeros((n, dim, dim))
    modes[:, range(dim), range(dim)] = -2 * points
    return Family(
        shape=shape,
        gradient=_gradients(corners, points),
        centre_gradient=_gradients(corners, np.zeros((1, dim)))[0],
        rule=np.ones(n),
        modes=modes,
        extrapolation=np.asarray(np.linalg.inv(shape), float),
        shape_at=shape_at,
        gradient_at=partial(_gradients, corners),
    )


def _tetrahedron() -> Family:
    """Ten nodes, corners then mid-sides 01, 12, 20, 03, 13, 23; four Gauss points (Keast 1986, degree 2)."""
    a, b = (5 + 3 * np.sqrt(5)) / 20, (5 - np.sqrt(5)) / 20
    points = np.full((4, 4), b) + (a - b) * np.eye(4)
    # Barycentric coordinates L and their gradients in ξ = (L1, L2, L3).
    slopes = np.vstack([-np.ones((1, 3)), np.eye(3)])
    edges = np.array([[0, 1], [1, 2], [2, 0], [0, 3], [1, 3], [2, 3]])

    def shape(at: Array) -> Array:
        return np.hstack([at * (2 * at - 1), 4 * at[:, edges[:, 0]] * at[:, edges[:, 1]]])

    def gradient(at: Array) -> Array:
        corner = (4 * at - 1)[:, :, None] * slopes[None]
        first, second = at[:, edges[:, 0], None], at[:, edges[:, 1], None]
        middle = 4 * (first * slopes[edges[:, 1]] + second * slopes[edges[:, 0]])
        return np.concatenate([corner, middle], axis=1)

    to_corners = np.linalg.inv(points)
    extrapolation = np.vstack([to_corners, (to_corners[edges[:, 0]] + to_corners[edges[:, 1]]) / 2])
    return Family(
        shape=shape(points),
        gradient=gradient(points),
        centre_gradient=gradient(np.full((1, 4), 0.25))[0],
        rule=np.full(4, 1 / 24),
        modes=np.zeros((4, 0, 3)),
        extrapolation=extrapolation,
        shape_at=lambda at: shape(_barycentric(at)),
        gradient_at=lambda at: gradient(_barycentric(at)),
        is_simplex=True,
    )


def _eight_node_quad() -> Family:
    """Corners, then mid-sides 01, 12, 23, 30 (serendipity; Zienkiewicz and Taylor 2000, section 8.6); 3×3 points."""
    line, weight = np.polynomial.legendre.leggauss(3)
    points = np.array([[x, y] for x in line for y in line])
    c = QUAD_CORNERS

    def gradient(at: Array) -> Array:
        out = np.empty((len(at), 8, 2))
        x, y = at[:, :1], at[:, 1:]
        a, b = 1 + x * c[:, 0], 1 + y * c[:, 1]
        out[:, :4, 0] = c[:, 0] * b * (2 * x * c[:, 0] + y * c[:, 1]) / 4
        out[:, :4, 1] = c[:, 1] * a * (x * c[:, 0] + 2 * y * c[:, 1]) / 4
        for k, sign in ((0, -1.0), (2, 1.0)):
            out[:, 4 + k, 0], out[:, 4 + k, 1] = (-x * (1 + sign * y))[:, 0], (sign * (1 - x**2) / 2)[:, 0]
        for k, sign in ((1, 1.0), (3, -1.0)):
            out[:, 4 + k, 0], out[:, 4 + k, 1] = (sign * (1 - y**2) / 2)[:, 0], (-y * (1 + sign * x))[:, 0]
        return out

    def shape(at: Array) -> Array:
        x, y = at[:, :1], at[:, 1:]
        a, b = 1 + x * c[:, 0], 1 + y * c[:, 1]
        corner = a * b * (x * c[:, 0] + y * c[:, 1] - 1) / 4
        middle = [(1 - x**2) * (1 - y), (1 - y**2) * (1 + x), (1 - x**2) * (1 + y), (1 - y**2) * (1 - x)]
        return np.hstack([corner, np.hstack(middle) / 2])

    # Stress is taken bilinear over the element: the least-squares fit through the Gauss points.
    def bilinear(at: Array) -> Array:
        return np.column_stack([np.ones(len(at)), at, at[:, 0] * at[:, 1]])

    all_nodes = np.vstack([c, (c + np.roll(c, -1, axis=0)) / 2])
    return Family(
        shape=shape(points),
        gradient=gradient(points),
        centre_gradient=gradient(np.zeros((1, 2)))[0],
        rule=np.outer(weight, weight).ravel(),
        modes=np.zeros((9, 0, 2)),
        extrapolation=bilinear(all_nodes) @ np.linalg.pinv(bilinear(points)),
        shape_at=shape,
        gradient_at=gradient,
    )


def _six_node_triangle() -> Family:
    """Corners, then mid-sides 01, 12, 20; three Gauss points of degree 2 (Dunavant 1985)."""
    points = np.full((3, 3), 1 / 6) + np.eye(3) / 2
    slopes = np.array([[-1.0, -1.0], [1.0, 0.0], [0.0, 1.0]])
    edges = np.array([[0, 1], [1, 2], [2, 0]])

    def shape(at: Array) -> Array:
        return np.hstack([at * (2 * at - 1), 4 * at[:, edges[:, 0]] * at[:, edges[:, 1]]])

    def gradient(at: Array) -> Array:
        corner = (4 * at - 1)[:, :, None] * slopes[None]
        first, second = at[:, edges[:, 0], None], at[:, edges[:, 1], None]
        return np.concatenate([corner, 4 * (first * slopes[edges[:, 1]] + second * slopes[edges[:, 0]])], axis=1)

    to_corners = np.linalg.inv(points)
    return Family(
        shape=shape(points),
        gradient=gradient(points),
        centre_gradient=gradient(np.full((1, 3), 1 / 3))[0],
        rule=np.full(3, 1 / 6),
        modes=np.zeros((3, 0, 2)),
        extrapolation=np.vstack([to_corners, (to_corners[edges[:, 0]] + to_corners[edges[:, 1]]) / 2]),
        shape_at=lambda at: shape(_barycentric(at)),
        gradient_at=lambda at: gradient(_barycentric(at)),
        is_simplex=True,
    )


FAMILIES: dict[Kind, Family] = {
    "brick": _multilinear(BRICK_CORNERS),
    "tet": _tetrahedron(),
    "quad": _multilinear(QUAD_CORNERS),
    "quad8": _eight_node_quad(),
    "triangle": _six_node_triangle(),
}
