"""Rubber: Mooney–Rivlin, neo-Hookean when its second constant is zero; nearly incompressible."""

from dataclasses import dataclass

import numpy as np

from ulmek.core.errors import InputError
from ulmek.core.material.elastic import hooke
from ulmek.core.material.law import RUBBER, Law


@dataclass(frozen=True)
class Rubber:
    """W = C10 (Ī1 − 3) + C01 (Ī2 − 3) + κ/2 (J − 1)², constants in MPa (Rivlin 1948); density in t/mm³."""

    c10: float
    c01: float
    bulk: float
    density: float = 0.0

    def __post_init__(self) -> None:
        if not self.c10 + self.c01 > 0:
            raise InputError(
                f"C10 + C01 is {self.c10 + self.c01:g} MPa.", where="c10", hint="Half the shear modulus: above zero."
            )
        if not self.bulk > 4 * (self.c10 + self.c01):
            raise InputError(
                f"the bulk modulus {self.bulk:g} MPa is not large against the shear modulus.",
                where="bulk",
                hint="Rubber has some 500 to 2000 times its shear modulus.",
            )

    @property
    def young(self) -> float:
        """Young's modulus for small strains (MPa)."""
        shear = 2 * (self.c10 + self.c01)
        return 9 * self.bulk * shear / (3 * self.bulk + shear)

    @property
    def poisson(self) -> float:
        """Poisson's ratio for small strains."""
        shear = 2 * (self.c10 + self.c01)
        return (3 * self.bulk - 2 * shear) / (6 * self.bulk + 2 * shear)

    @property
    def yield_stress(self) -> None:
        """Rubber does not yield."""

    def law(self) -> Law:
        """The material for the element kernel."""
        constants = np.array([self.c10, self.c01, self.bulk])
        return Law(RUBBER, hooke(self.young, self.poisson), constants, np.zeros((1, 2)))
