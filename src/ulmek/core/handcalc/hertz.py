"""Hertzian contact of elastic bodies without friction (Hertz 1882), in the notation of Johnson (1985)."""

from dataclasses import dataclass

import numpy as np
from scipy.special import ellipe, ellipk


@dataclass(frozen=True)
class Hertz:
    """half_width: a (mm), the longer half-axis of an ellipse. short: b (mm), equal to a for a circle and
    infinite for a line. peak: p0 (MPa). approach (mm): of distant points, None for a line, where it
    depends on the bodies. shear, shear_depth: largest shear stress below (MPa) and its depth (mm).
    """

    half_width: float
    short: float
    peak: float
    approach: float | None
    shear: float
    shear_depth: float

    @property
    def is_line(self) -> bool:
        """Whether it presses along a line."""
        return bool(np.isinf(self.short))

    @property
    def is_point(self) -> bool:
        """Whether what presses is a circle."""
        return bool(np.isclose(self.short, self.half_width, rtol=1e-6))


def contact_modulus(young_1: float, poisson_1: float, young_2: float, poisson_2: float) -> float:
    """E* = 1/((1−ν1²)/E1 + (1−ν2²)/E2) in MPa (Johnson 1985, eq. 4.12)."""
    return 1 / ((1 - poisson_1**2) / young_1 + (1 - poisson_2**2) / young_2)


def line_contact(force: float, radius: float, modulus: float) -> Hertz:
    """Parallel cylinders under ``force`` per length (N/mm), 1/R = 1/R1 + 1/R2 (Johnson 1985, eqs. 4.43–4.49).

    >>> round(line_contact(1000.0, 50.0, 115385.0).half_width, 4)
    0.7428
    """
    a = np.sqrt(4 * force * radius / (np.pi * modulus))
    peak = 2 * force / (np.pi * a)
    return Hertz(float(a), np.inf, float(peak), None, float(0.300 * peak), float(0.786 * a))


def point_contact(force: float, radius: float, modulus: float) -> Hertz:
    """Balls, or equal cylinders crossed at a right angle with R either radius (Johnson 1985, eqs. 4.22–4.24).

    Largest shear for ν = 0.3.
    """
    a = (3 * force * radius / (4 * modulus)) ** (1 / 3)
    peak = 3 * force / (2 * np.pi * a**2)
    return Hertz(float(a), float(a), float(peak), float(a**2 / radius), float(0.310 * peak), float(0.48 * a))


# Largest shear stress over the peak, and its depth over b, by the axis ratio b/a, ν = 0.3 (Johnson 1985, table 4.1).
_RATIOS, _SHEARS, _DEPTHS = (0.0, 0.2, 0.4, 0.6, 0.8, 1.0), (0.300, 0.322, 0.325, 0.323, 0.317, 0.310), (
    0.785, 0.745, 0.665, 0.590, 0.530, 0.480,
)  # fmt: skip


def relative_radii(
    one: tuple[float, float], two: tuple[float, float], angle: float
) -> tuple[float, float] | None:  # fmt: skip
    """Principal relative radii of curvature (mm, the smaller first) of two surfaces that touch, each with its principal
    curvatures (1/mm, hollow ones negative), the first directions of both at ``angle`` (rad); None where they do not
    part in every direction (Johnson 1985, eqs. 4.4 and 4.5).

    >>> [round(r, 6) for r in relative_radii((0.1, 0.0), (0.05, 0.0), 1.5707963267948966)]
    [10.0, 20.0]
    """
    mean, spread = (sum(one) + sum(two)) / 2, ((one[0] - one[1]) / 2, (two[0] - two[1]) / 2)
    half = float(np.sqrt(spread[0] ** 2 + spread[1] ** 2 + 2 * spread[0] * spread[1] * np.cos(2 * angle)))
    least = mean - half
    return (1 / (mean + half), 1 / least) if least > 1e-12 * abs(mean) else None


def ellipse_contact(force: float, radius_1: float, radius_2: float, modulus: float) -> Hertz:
    """Bodies of any principal relative radii of curvature (see `relative_radii`): of cylinders crossed at a right angle
    these are their radii (Johnson 1985, eqs. 4.26–4.29), by complete elliptic integrals.

    The axis ratio b/a solves ``(E/(b/a)² − K)/(K − E) = R_long/R_short``.
    """
    long, short = max(radius_1, radius_2), min(radius_1, radius_2)
    low, high = 1e-6, 1.0
    for _ in range(200):
        k = (low + high) / 2
        m = 1 - k**2
        big_k, big_e = ellipk(m), ellipe(m)
        found = (big_e / k**2 - big_k) / (big_k - big_e) if m > 1e-14 else 1.0
        low, high = (k, high) if found > long / short else (low, k)
    m = 1 - k**2
    equivalent = np.sqrt(long * short)
    big_k, big_e = ellipk(m), ellipe(m)
    shape = 1.0 if m < 1e-9 else (4 / (np.pi * m)) * k**1.5 * np.sqrt((big_e / k**2 - big_k) * (big_k - big_e))
    c = (3 * force * equivalent / (4 * modulus)) ** (1 / 3) * shape ** (1 / 3)
    a, b = c / np.sqrt(k), c * np.sqrt(k)
    peak = 3 * force / (2 * np.pi * a * b)
    approach = 3 * force * big_k / (2 * np.pi * a * modulus)
    shear, depth = (float(np.interp(k, _RATIOS, column)) for column in (_SHEARS, _DEPTHS))
    return Hertz(float(a), float(b), float(peak), float(approach), float(shear * peak), float(depth * b))
