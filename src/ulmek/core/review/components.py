"""Stress in other words: principal values, components about an axis, and use of strength."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.model import Body

Array = NDArray[np.float64]


def as_matrices(stress: Array) -> Array:
    """Stress tensors (n, 3, 3) MPa from (n, 6) in the order xx, yy, zz, xy, yz, zx."""
    order = np.array([[0, 3, 5], [3, 1, 4], [5, 4, 2]])
    return stress[:, order]


def principal(stress: Array) -> Array:
    """Principal stresses (n, 3) MPa, the largest first."""
    return np.asarray(np.linalg.eigvalsh(as_matrices(stress))[:, ::-1])


def principal_axes(stress: Array) -> tuple[Array, Array]:
    """Principal stresses (n, 3) MPa, the largest first, and their directions (n, 3, 3) as rows in the same order."""
    values, columns = np.linalg.eigh(as_matrices(stress))
    return values[:, ::-1], np.swapaxes(columns, 1, 2)[:, ::-1]


def spread_over(points: Array, most: int) -> NDArray[np.int64]:
    """Which of the points (n, 3) stand for all: one of each cell of the finest even grid that has at most so many."""
    span = np.ptp(points, axis=0)
    size = max(float(span.max()), 1e-300) / most
    while True:
        _, first = np.unique(np.floor((points - points.min(axis=0)) / size).astype(np.int64), axis=0, return_index=True)
        if len(first) <= most:
            return np.asarray(np.sort(first))
        size *= 1.25


def about_axis(stress: Array, points: Array, origin: Array, axis: Array) -> Array:
    """Radial, hoop and axial stress (n, 3) MPa about an axis through ``origin`` (mm) along the unit vector ``axis``.

    On the axis itself radial and hoop stress are both the mean of the two across it.
    """
    tensor = as_matrices(stress)
    arm = points - origin
    out = arm - np.outer(arm @ axis, axis)
    radius = np.linalg.norm(out, axis=1)
    on_axis = radius < 1e-9 * max(float(radius.max(initial=0.0)), 1e-300)
    r = out / np.where(on_axis, 1.0, radius)[:, None]
    hoop = np.cross(axis, r)
    along = np.einsum("i,nij,j->n", axis, tensor, axis)
    parts = [np.einsum("ni,nij,nj->n", d, tensor, d) for d in (r, hoop)]
    mean = (np.einsum("nii->n", tensor) - along) / 2
    return np.column_stack([*(np.where(on_axis, mean, p) for p in parts), along])


def in_axes(stress: Array, axes: Array) -> Array:
    """Stress (n, 6) MPa in other axes, the rows of ``axes`` (3, 3)."""
    turned = np.einsum("ai,nij,bj->nab", axes, as_matrices(stress), axes)
    return np.asarray(turned[:, [0, 1, 2, 0, 1, 2], [0, 1, 2, 1, 2, 0]])


def vectors_about_axis(vectors: Array, points: Array, origin: Array, axis: Array) -> Array:
    """Radial, hoop and axial components (n, 3) of vectors (n, 3) at points (n, 3) mm about an axis through ``origin``;
    on the axis itself all that goes across is radial."""
    arm = points - origin
    out = arm - np.outer(arm @ axis, axis)
    radius = np.linalg.norm(out, axis=1)
    on_axis = radius < 1e-9 * max(float(radius.max(initial=0.0)), 1e-300)
    r = out / np.where(on_axis, 1.0, radius)[:, None]
    along = vectors @ axis
    across = np.linalg.norm(vectors - np.outer(along, axis), axis=1)
    radial, hoop = (np.einsum("ni,ni->n", vectors, d) for d in (r, np.cross(axis, r)))
    return np.column_stack([np.where(on_axis, across, radial), np.where(on_axis, 0.0, hoop), along])


def strength(body: Body) -> float | None:
    """What von Mises stress is judged against (MPa): the allowable stress, else the yield stress, if any."""
    return body.allowable if body.allowable is not None else body.material.yield_stress


def deformation(points: Array, moved: Array) -> Array:
    """How far (n,) mm points (n, 3) mm have moved by ``moved`` (n, 3) mm beyond the rigid motion that fits it best.

    The turn is that of Kabsch (1976), so that large ones are taken out too.
    """
    middle, drift = points.mean(axis=0), moved.mean(axis=0)
    before, after = points - middle, points + moved - middle - drift
    left, _, right = np.linalg.svd(before.T @ after)
    sign = np.diag([1.0, 1.0, np.sign(np.linalg.det(left @ right)) or 1.0])
    return np.asarray(np.linalg.norm(after - before @ (left @ sign @ right), axis=1))
