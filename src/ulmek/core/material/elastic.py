"""Linear isotropic elasticity."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.keys import value
from ulmek.core.material.law import ELASTIC, Law


@dataclass(frozen=True)
class Elastic:
    """Young's modulus (MPa), Poisson's ratio, yield stress (MPa, None when none is given), density (t/mm³)."""

    young: float
    poisson: float
    yield_stress: float | None = value(default=None)
    density: float = 0.0

    def __post_init__(self) -> None:
        check_elastic(self.young, self.poisson, self.density)
        if self.yield_stress is not None and self.yield_stress <= 0:
            raise InputError(
                f"the yield stress is {self.yield_stress:g} MPa.", where="yield", hint="It must be positive."
            )

    def stiffness(self) -> NDArray[np.float64]:
        """Hooke's law as 6×6 for strains (xx, yy, zz, xy, yz, zx), shears in engineering form (MPa)."""
        return hooke(self.young, self.poisson)

    def law(self) -> Law:
        """The material for the element kernel."""
        return Law(ELASTIC, self.stiffness(), np.zeros(3), np.zeros((1, 2)))


def check_elastic(young: float, poisson: float, density: float) -> None:
    """Refuse elastic constants that no material has.

    Raises
    ------
    InputError : naming the constant.
    """
    if not 0 < young < np.inf:
        raise InputError(f"Young's modulus is {young:g} MPa.", where="young", hint="It must be positive.")
    if not -1 < poisson < 0.5:
        raise InputError(f"Poisson's ratio is {poisson:g}.", where="poisson", hint="It must lie between -1 and 0.5.")
    if not 0 <= density < np.inf:
        raise InputError(f"the density is {density:g} t/mm³.", where="density", hint="It must not be negative.")


def hooke(young: float, poisson: float) -> NDArray[np.float64]:
    """Hooke's law (6, 6) MPa for strains (xx, yy, zz, xy, yz, zx), shears in engineering form."""
    lam = young * poisson / ((1 + poisson) * (1 - 2 * poisson))
    mu = young / (2 * (1 + poisson))
    out = np.zeros((6, 6))
    out[:3, :3] = lam
    out[range(3), range(3)] += 2 * mu
    out[range(3, 6), range(3, 6)] = mu
    return out
