"""Fits and threads against the figures of their standards."""

import pytest

from ulmek.core.errors import InputError
from ulmek.core.handcalc.fits import fit_limits
from ulmek.core.handcalc.threads import metric_thread, proof_load


@pytest.mark.parametrize(
    ("fit", "diameter", "shaft", "overlap"),
    [
        # Deviations of the shaft in µm; overlap of the radii at least and at most in µm.
        ("H7/g6", 40.0, (-25, -9), (-25, -4.5)),
        ("H7/h6", 50.0, (-16, 0), (-20.5, 0)),
        ("H7/k6", 50.0, (2, 18), (-11.5, 9)),
        ("H7/p6", 60.0, (32, 51), (1, 25.5)),
        ("H7/s6", 60.0, (53, 72), (11.5, 36)),
        ("H7/s6", 70.0, (59, 78), (14.5, 39)),
        ("H8/f7", 25.0, (-41, -20), (-37, -10)),
    ],
)
def test_limits_of_common_fits(
    fit: str, diameter: float, shaft: tuple[float, float], overlap: tuple[float, float]
) -> None:
    found = fit_limits(fit, diameter)
    assert [1000 * d for d in found.shaft] == pytest.approx(shaft)
    assert [1000 * found.least_overlap, 1000 * found.most_overlap] == pytest.approx(overlap)


@pytest.mark.parametrize(
    ("fit", "diameter"), [("G7/h6", 20.0), ("H7/s6", 600.0), ("H3/s6", 20.0), ("H7/k9", 20.0), ("H7/z6", 9.0)]
)
def test_fits_that_are_not_in_the_tables_are_refused(fit: str, diameter: float) -> None:
    with pytest.raises(InputError) as refused:
        fit_limits(fit, diameter)
    assert refused.value.hint


def test_threads_have_the_figures_of_their_standard() -> None:
    # M16: d2 14.701, D1 13.835, As 157 mm²; M20: 245 mm²; M10×1: 64.5 mm².
    thread = metric_thread(16)
    assert (thread.pitch_diameter, thread.minor_of_nut) == pytest.approx((14.701, 13.835), abs=5e-4)
    assert thread.stress_area == pytest.approx(157, abs=0.5)
    assert metric_thread(20).stress_area == pytest.approx(245, abs=0.5)
    assert metric_thread(10, 1.0).stress_area == pytest.approx(64.5, abs=0.1)
    # Proof loads of ISO 898-1, table 5: M16 8.8 91.0 kN, M20 10.9 203 kN.
    assert proof_load(16, "8.8") == pytest.approx(91.0e3, rel=2e-3)
    assert proof_load(20, "10.9") == pytest.approx(203e3, rel=3e-3)
    for wrong in (lambda: metric_thread(17), lambda: metric_thread(8, 5.0), lambda: proof_load(16, "9.1")):
        with pytest.raises(InputError):
            wrong()
