"""Pins in lugs and forks: what they carry before they shear, bend or crush (Shigley and Mischke 1989, chapter 8)."""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class PinLimits:
    """Loads (N) across a pin at which its planes yield in shear, it yields in bending, and a hole is crushed."""

    shear: float
    bending: float
    bearing: float


def pin_limits(
    diameter: float, middle: float, outer: tuple[float, float], gap: float, *, pin_yield: float, hole_yield: float
) -> PinLimits:
    """Limits of a pin of ``diameter`` through a middle part between two ``outer`` ones (thicknesses in mm), a ``gap``
    on each side; yield stresses in MPa.

    Shear in two planes at τ = F/(2 A) = Re/√3 (von Mises). Bending as a beam that bears evenly in each part: moment
    M = F/2 (t/4 + c + a/2) at its middle, σ = 32 M/(π d³). Bearing p = F/(d t) in the part that is pressed most.
    """
    area = np.pi / 4 * diameter**2
    arm = middle / 4 + gap + max(outer) / 2
    bending = np.pi * diameter**3 / 32 * pin_yield / (arm / 2)
    bearing = min(middle, sum(outer)) * diameter * hole_yield
    return PinLimits(float(2 * area * pin_yield / np.sqrt(3)), float(bending), float(bearing))
