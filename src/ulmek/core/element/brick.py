"""8-node brick with incompatible modes, which does not lock in bending.

Taylor, Beresford and Wilson (1976), "A non-conforming element for stress analysis", with the
gradients of the three extra modes taken at the centre Jacobian and scaled by det J0 / det J, so
that the patch test holds for any shape. The nine mode amplitudes are condensed element by element.
"""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

CORNERS = np.array(
    [[-1, -1, -1], [1, -1, -1], [1, 1, -1], [-1, 1, -1], [-1, -1, 1], [1, -1, 1], [1, 1, 1], [-1, 1, 1]], float
)
GAUSS = CORNERS / np.sqrt(3)
# Elements handled at once: keeps the temporary arrays near 100 MB.
CHUNK = 4096


def shape_values(xi: Array) -> Array:
    """Trilinear shape functions at ``xi`` (k, 3), shape (k, 8)."""
    return np.asarray(np.prod(1 + xi[:, None, :] * CORNERS[None], axis=2) / 8)


def _shape_gradients(xi: Array) -> Array:
    out = np.empty((8, 3))
    for d in range(3):
        a, b = (d + 1) % 3, (d + 2) % 3
        out[:, d] = CORNERS[:, d] * (1 + xi[a] * CORNERS[:, a]) * (1 + xi[b] * CORNERS[:, b]) / 8
    return out


def _strain_matrix(gradient: Array) -> Array:
    """Strain rows (xx, yy, zz, xy, yz, zx) for gradients (m, k, 3): shape (m, 6, 3k)."""
    m, k = gradient.shape[:2]
    b = np.zeros((m, 6, k, 3))
    x, y, z = gradient[..., 0], gradient[..., 1], gradient[..., 2]
    b[:, 0, :, 0], b[:, 1, :, 1], b[:, 2, :, 2] = x, y, z
    b[:, 3, :, 0], b[:, 3, :, 1] = y, x
    b[:, 4, :, 1], b[:, 4, :, 2] = z, y
    b[:, 5, :, 2], b[:, 5, :, 0] = x, z
    return b.reshape(m, 6, 3 * k)


def _at_gauss_points(xyz: Array) -> Iterator[tuple[Array, Array, Array]]:
    """(B, B of the modes, det J) at each of the eight Gauss points, for corners ``xyz`` (m, 8, 3)."""
    centre = np.einsum("nd,mnx->mdx", _shape_gradients(np.zeros(3)), xyz)
    det0, inverse0 = np.linalg.det(centre), np.linalg.inv(centre)
    for xi in GAUSS:
        local = _shape_gradients(xi)
        jacobian = np.einsum("nd,mnx->mdx", local, xyz)
        det = np.linalg.det(jacobian)
        gradient = np.einsum("mxd,nd->mnx", np.linalg.inv(jacobian), local)
        modes = -2 * xi[None, :, None] * np.swapaxes(inverse0, 1, 2) * (det0 / det)[:, None, None]
        yield _strain_matrix(gradient), _strain_matrix(modes), det


def _chunks(count: int) -> Iterator[slice]:
    for start in range(0, count, CHUNK):
        yield slice(start, min(start + CHUNK, count))


def stiffness(xyz: Array, hooke: Array) -> Array:
    """Element stiffness (m, 24, 24) in N/mm for corners ``xyz`` (m, 8, 3) mm and ``hooke`` (6, 6) MPa."""
    out = np.empty((len(xyz), 24, 24))
    for part in _chunks(len(xyz)):
        k_uu, k_ua, k_aa = _blocks(xyz[part], hooke)
        out[part] = k_uu - k_ua @ np.linalg.solve(k_aa, np.swapaxes(k_ua, 1, 2))
    return out


def _blocks(xyz: Array, hooke: Array) -> tuple[Array, Array, Array]:
    m = len(xyz)
    k_uu, k_ua, k_aa = np.zeros((m, 24, 24)), np.zeros((m, 24, 9)), np.zeros((m, 9, 9))
    for b, b_modes, det in _at_gauss_points(xyz):
        db = (hooke @ b) * det[:, None, None]
        db_modes = (hooke @ b_modes) * det[:, None, None]
        bt = np.swapaxes(b, 1, 2)
        k_uu += bt @ db
        k_ua += bt @ db_modes
        k_aa += np.swapaxes(b_modes, 1, 2) @ db_modes
    return k_uu, k_ua, k_aa


def stress_operator(xyz: Array, hooke: Array) -> Array:
    """Stress at the Gauss points per corner displacement, (m, 8, 6, 24) MPa/mm, modes condensed."""
    out = np.empty((len(xyz), 8, 6, 24))
    for part in _chunks(len(xyz)):
        _, k_ua, k_aa = _blocks(xyz[part], hooke)
        modes = -np.linalg.solve(k_aa, np.swapaxes(k_ua, 1, 2))
        for g, (b, b_modes, _) in enumerate(_at_gauss_points(xyz[part])):
            out[part, g] = hooke @ (b + b_modes @ modes)
    return out


def stress(operator: Array, u: Array) -> Array:
    """Stress at the Gauss points (m, 8, 6) MPa for corner displacements ``u`` (m, 8, 3) mm."""
    m = len(operator)
    return np.asarray((operator.reshape(m, 48, 24) @ u.reshape(m, 24, 1)).reshape(m, 8, 6))


# Corner values from Gauss values: trilinear through the eight Gauss points.
EXTRAPOLATION = np.asarray(np.linalg.inv(shape_values(GAUSS)), float)


def volumes(xyz: Array) -> Array:
    """Volumes (m,) in mm³."""
    total = np.zeros(len(xyz))
    for xi in GAUSS:
        total += np.linalg.det(np.einsum("nd,mnx->mdx", _shape_gradients(xi), xyz))
    return total
