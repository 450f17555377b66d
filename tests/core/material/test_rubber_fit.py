"""Constants of a rubber come back from tests computed with them, and their sum from the slope at rest."""

import numpy as np
import pytest

from ulmek.core.errors import InputError
from ulmek.core.material.rubber_fit import Pull, fit_rubber


@pytest.mark.parametrize(("pull", "power", "grows"), [("one way", -2, -1), ("two ways", -5, 2)])
def test_known_constants_come_back(pull: Pull, power: int, grows: int) -> None:
    strain = np.array([-0.3, 0.0, 0.2, 0.6, 1.5])
    stretch = 1 + strain
    stress = 2 * (stretch - stretch**power) * (0.35 + 0.08 * stretch**grows)
    found = fit_rubber(strain, stress, pull)
    assert (found.c10, found.c01) == pytest.approx((0.35, 0.08), rel=1e-9)
    assert found.stress == pytest.approx(stress, abs=1e-9)


def test_the_slope_at_rest_is_three_shear_moduli() -> None:
    """Pulled one way, dP/dε = 3 G = 6 (C10 + C01) at rest; a wide strip has 4 G."""
    small = np.array([-1e-5, 1e-5])
    pulled = fit_rubber(small, 6 * 0.5 * small, "one way")
    assert pulled.c10 + pulled.c01 == pytest.approx(0.5, rel=1e-4)
    strip = fit_rubber(small, 8 * 0.5 * small, "wide strip")
    assert (strip.c10, strip.c01) == (pytest.approx(0.5, rel=1e-4), 0)


def test_what_no_rubber_does_is_refused() -> None:
    for strain, stress, said in (
        ([0.1, 0.5], [-1.0, -3.0], "against"),
        ([0.0, 0.4], [0.0, 1.0], "fewer than two"),
        ([-1.5, 0.4], [-1.0, 1.0], "at or below"),
    ):
        with pytest.raises(InputError, match=said):
            fit_rubber(np.array(strain), np.array(stress), "one way")
