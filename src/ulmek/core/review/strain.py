"""Strain and elastic energy at nodes: of what stays elastic from its stress, else from the stretch of elements."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.element.family import FAMILIES
from ulmek.core.material.rubber import Rubber
from ulmek.core.review.components import as_matrices, principal
from ulmek.core.review.inside import Cells

Array = NDArray[np.float64]


def elastic_strain(stress: Array, young: float, poisson: float) -> Array:
    """Principal strains (n, 3), the largest first, of stress (n, 6) MPa by Hooke's law."""
    values = principal(stress)
    return np.asarray(((1 + poisson) * values - poisson * values.sum(axis=1, keepdims=True)) / young)


def elastic_energy(stress: Array, young: float, poisson: float) -> Array:
    """Elastic energy in a volume (n,) N·mm/mm³: half of stress times strain."""
    tensor = as_matrices(stress)
    square, trace = np.einsum("nij,nij->n", tensor, tensor), np.einsum("nii->n", tensor)
    return np.asarray(((1 + poisson) * square - poisson * trace**2) / (2 * young))


def rubber_energy(stretches: Array, stress: Array, rubber: Rubber) -> Array:
    """Elastic energy in a volume (n,) N·mm/mm³ of rubber: of its change of shape from principal ``stretches`` (n, 3),
    of its change of volume from the pressure in ``stress`` (n, 6) MPa, which says it better (see `Rubber`)."""
    volume = stretches.prod(axis=1)
    alike = stretches**2 / np.cbrt(volume)[:, None] ** 2
    first, second = alike.sum(axis=1), (1 / alike).sum(axis=1)
    pressure = stress[:, :3].mean(axis=1)
    return np.asarray(rubber.c10 * (first - 3) + rubber.c01 * (second - 3) + pressure**2 / (2 * rubber.bulk))


def stretched(of: tuple[Array, Array, list[Cells], bool], here: slice) -> Array:
    """Principal stretches (k, 3), the largest first, at the nodes ``here`` of a body: points (n, 3) mm, their motion
    (n, 3) mm, the elements of the body, and whether the section is axisymmetric about the y axis.

    The deformation gradient at Gauss points, extrapolated and averaged; in a plane section nothing stretches across.
    """
    points, moved, groups, is_axisymmetric = of
    total, count = np.zeros((len(points), 3, 3)), np.zeros(len(points))
    for group in groups:
        family = FAMILIES[group.kind]
        d = family.dim
        before, motion = points[group.nodes], moved[group.nodes]
        slope = np.einsum("gnk,mnx->mgxk", family.gradient, before[..., :d])
        change = np.einsum("gnk,mnx->mgxk", family.gradient, motion[..., :d])
        gradient = np.broadcast_to(np.eye(3), (*slope.shape[:2], 3, 3)).copy()
        gradient[..., :d, :d] += change @ np.linalg.inv(slope)
        if is_axisymmetric:
            radius, out = (np.einsum("gn,mn->mg", family.shape, v[..., 0]) for v in (before, motion))
            gradient[..., 2, 2] += out / np.where(radius > 0, radius, 1.0)
        corners = np.einsum("cg,mgxy->mcxy", family.extrapolation, gradient)
        np.add.at(total, group.nodes.ravel(), corners.reshape(-1, 3, 3))
        np.add.at(count, group.nodes.ravel(), 1.0)
    mean = total[here] / count[here, None, None]
    square = np.einsum("nki,nkj->nij", mean, mean)
    return np.sqrt(np.maximum(np.linalg.eigvalsh(square)[:, ::-1], 1e-30))
