"""J2 plasticity: yields by von Mises stress and hardens along a table."""

from dataclasses import dataclass

import numpy as np

from ulmek.core.errors import InputError
from ulmek.core.material.elastic import check_elastic, hooke
from ulmek.core.material.law import PLASTIC, Law


@dataclass(frozen=True)
class Plastic:
    """Young's modulus (MPa), Poisson's ratio, and the hardening ``table``: rows of (equivalent plastic
    strain, yield stress in MPa), the first at strain 0. ``kinematic_share`` (0…1) of the hardening moves
    the yield surface, the rest widens it. density (t/mm³).
    """

    young: float
    poisson: float
    table: tuple[tuple[float, float], ...]
    kinematic_share: float = 0.0
    density: float = 0.0

    def __post_init__(self) -> None:
        check_elastic(self.young, self.poisson, self.density)
        strain, stress = np.array(self.table).T
        if strain[0] != 0 or np.any(np.diff(strain) <= 0):
            raise InputError(
                "the plastic strains of the hardening table do not begin at 0 and rise.",
                where="hardening",
                hint="Give rows in the order of plastic strain, the first at 0.",
            )
        if np.any(stress <= 0) or np.any(np.diff(stress) < 0):
            raise InputError(
                "a yield stress of the hardening table is not positive, or falls.",
                where="hardening",
                hint="Give yield stresses above zero that do not fall with strain.",
            )

    @property
    def yield_stress(self) -> float:
        """First yield stress (MPa)."""
        return self.table[0][1]

    def law(self) -> Law:
        """The material for the element kernel."""
        constants = np.array([self.kinematic_share, 0.0, 0.0])
        return Law(PLASTIC, hooke(self.young, self.poisson), constants, np.array(self.table, float))
