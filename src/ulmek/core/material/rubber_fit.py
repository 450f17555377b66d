"""Constants of a rubber from a test: Mooney–Rivlin by least squares (Mooney 1940; Rivlin 1948)."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from ulmek.core.errors import InputError

Array = NDArray[np.float64]
# How the piece was pulled: along one direction, along two alike, or wide across (its width kept).
Pull = Literal["one way", "two ways", "wide strip"]


@dataclass(frozen=True)
class RubberFit:
    """c10, c01 (MPa), and what the stresses of the fit are (n,) MPa at the strains of the test."""

    c10: float
    c01: float
    stress: Array


def fit_rubber(strain: Array, stress: Array, pull: Pull) -> RubberFit:
    """The constants that come closest to engineering strains (n,) and stresses (n,) MPa, none below zero.

    An incompressible Mooney–Rivlin rubber at the stretch λ has the engineering stress (Treloar 1975, ch. 5)
    2 (λ − λ⁻²)(C10 + C01 λ⁻¹) pulled one way, 2 (λ − λ⁻⁵)(C10 + C01 λ²) two ways, 2 (λ − λ⁻³)(C10 + C01) as a
    wide strip, which tells their sum only: all of it goes to C10. Constants above zero are stable at any stretch.

    Raises
    ------
    InputError : a stretch that cannot be, too few points, or stresses against the strains.
    """
    stretch = 1 + strain
    if np.any(stretch <= 0):
        raise InputError("a strain is at or below −1.", hint="Is it in percent? Is strain the first column?")
    moved = np.abs(strain) > 1e-9
    if np.count_nonzero(moved) < 2:
        raise InputError("the test has fewer than two points that are stretched.", hint="Give more rows.")
    basis = _basis(stretch, pull)
    if pull == "wide strip":
        basis[:, 1] = 0.0
    (c10, c01), _ = nnls(basis, stress)
    if c10 + c01 <= 0:
        raise InputError("the stresses act against the strains.", hint="Give pull and push their signs alike.")
    return RubberFit(float(c10), float(c01), basis @ [c10, c01])


def rubber_stress(fit: RubberFit, strain: Array, pull: Pull) -> Array:
    """Engineering stress (n,) MPa of a fit at other strains (n,) of the same test."""
    return np.asarray(_basis(1 + strain, pull) @ [fit.c10, fit.c01])


def _basis(stretch: Array, pull: Pull) -> Array:
    """Engineering stress (n, 2) for each constant of one."""
    power, grows = {"one way": (-2, -1), "two ways": (-5, 2), "wide strip": (-3, 0)}[pull]
    first = 2 * (stretch - stretch**power)
    return np.column_stack([first, first * stretch**grows])
