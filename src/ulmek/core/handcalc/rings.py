"""Thick rings and tubes (Lamé 1852), press fits and spinning discs."""

import numpy as np


def ring_hoop_stress(pressure: float, inner: float, outer: float, at: float, *, inside: bool = True) -> float:
    """Hoop stress (MPa) at radius ``at`` of a ring under ``pressure`` (MPa) inside or outside; radii in mm.

    σ = p a²/(b² − a²) (1 + b²/r²) inside; −p b²/(b² − a²) (1 + a²/r²) outside (Timoshenko and Goodier 1970, art. 28).
    """
    if inside:
        return pressure * inner**2 / (outer**2 - inner**2) * (1 + outer**2 / at**2)
    return -pressure * outer**2 / (outer**2 - inner**2) * (1 + inner**2 / at**2)


def press_fit_pressure(
    interference: float,
    inner: float,
    joint: float,
    outer: float,
    *,
    shaft: tuple[float, float],
    hub: tuple[float, float],
) -> float:
    """Pressure (MPa) of a ring on a shaft by radial ``interference`` (mm); (E, ν) of ``shaft`` and ``hub``.

    p = δ / (b [ (1/Ei)((b² + a²)/(b² − a²) − νi) + (1/Eo)((c² + b²)/(c² − b²) + νo) ]), plane stress.
    """
    a, b, c = inner, joint, outer
    give_shaft = ((b**2 + a**2) / (b**2 - a**2) - shaft[1]) / shaft[0]
    give_hub = ((c**2 + b**2) / (c**2 - b**2) + hub[1]) / hub[0]
    return interference / (b * (give_shaft + give_hub))


def press_fit_grip(pressure: float, joint: float, length: float, mu: float) -> tuple[float, float]:
    """Axial force (N) and torque (N·mm) that a press fit holds: µ·p·2πbL, and times b."""
    force = mu * pressure * 2 * np.pi * joint * length
    return float(force), float(force * joint)


def spinning_ring_stress(density: float, speed: float, inner: float, outer: float, poisson: float) -> float:
    """Hoop stress (MPa) at the bore of a flat ring turning at ``speed`` (rad/s), or in the middle of a full disc;
    density in t/mm³.

    (3+ν)/4 · ρω² [b² + (1−ν)/(3+ν) a²], half of it without a bore (Timoshenko and Goodier 1970, article 32).
    """
    if inner == 0:
        return (3 + poisson) / 8 * density * speed**2 * outer**2
    return (3 + poisson) / 4 * density * speed**2 * (outer**2 + (1 - poisson) / (3 + poisson) * inner**2)
