"""Linear isotropic elasticity."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError


@dataclass(frozen=True)
class Elastic:
    """Young's modulus (MPa), Poisson's ratio, yield stress (MPa, None when none is given)."""

    young: float
    poisson: float
    yield_stress: float | None = None

    def __post_init__(self) -> None:
        if self.young <= 0:
            raise InputError(f"Young's modulus is {self.young:g} MPa.", where="young", hint="It must be positive.")
        if not -1 < self.poisson < 0.5:
            raise InputError(
                f"Poisson's ratio is {self.poisson:g}.", where="poisson", hint="It must lie between -1 and 0.5."
            )
        if self.yield_stress is not None and self.yield_stress <= 0:
            raise InputError(
                f"the yield stress is {self.yield_stress:g} MPa.", where="yield", hint="It must be positive."
            )

    def stiffness(self) -> NDArray[np.float64]:
        """Hooke's law as 6×6 for strains (xx, yy, zz, xy, yz, zx), shears in engineering form (MPa)."""
        lam = self.young * self.poisson / ((1 + self.poisson) * (1 - 2 * self.poisson))
        mu = self.young / (2 * (1 + self.poisson))
        out = np.zeros((6, 6))
        out[:3, :3] = lam
        out[range(3), range(3)] += 2 * mu
        out[range(3, 6), range(3, 6)] = mu
        return out
