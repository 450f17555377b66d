"""Element families: Gauss rules, shape functions and incompatible modes of bricks and quads."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.volume import Kind

Array = NDArray[np.float64]

BRICK_CORNERS = np.array(
    [[-1, -1, -1], [1, -1, -1], [1, 1, -1], [-1, 1, -1], [-1, -1, 1], [1, -1, 1], [1, 1, 1], [-1, 1, 1]], float
)
QUAD_CORNERS = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]], float)


@dataclass(frozen=True)
class Family:
    """One kind of element in its natural coordinates, with n corners and g Gauss points in d dimensions.

    shape (g, n), gradient (g, n, d), centre_gradient (n, d): shape functions. rule (g,): weights.
    modes (g, k, d): gradients of the incompatible modes 1 − ξᵢ². extrapolation (n, g): corner values
    from Gauss values.
    """

    shape: Array
    gradient: Array
    centre_gradient: Array
    rule: Array
    modes: Array
    extrapolation: Array

    @property
    def dim(self) -> int:
        """Number of displacement components that the element uses."""
        return int(self.gradient.shape[2])


def _gradients(corners: Array, at: Array) -> Array:
    """Gradients (k, n, d) of the multilinear shape functions at ``at`` (k, d)."""
    n, dim = corners.shape
    factors = 1 + at[:, None, :] * corners[None]
    out = np.empty((len(at), n, dim))
    for d in range(dim):
        others = np.prod(np.delete(factors, d, axis=2), axis=2)
        out[:, :, d] = corners[:, d] * others / 2**dim
    return out


def _multilinear(corners: Array) -> Family:
    n, dim = corners.shape
    points = corners / np.sqrt(3)
    shape = np.prod(1 + points[:, None, :] * corners[None], axis=2) / 2**dim
    modes = np.zeros((n, dim, dim))
    modes[:, range(dim), range(dim)] = -2 * points
    return Family(
        shape=shape,
        gradient=_gradients(corners, points),
        centre_gradient=_gradients(corners, np.zeros((1, dim)))[0],
        rule=np.ones(n),
        modes=modes,
        extrapolation=np.linalg.inv(shape),
    )


FAMILIES: dict[Kind, Family] = {"brick": _multilinear(BRICK_CORNERS), "quad": _multilinear(QUAD_CORNERS)}
