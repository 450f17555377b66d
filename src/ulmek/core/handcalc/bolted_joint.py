"""Bolted joints: tightening, load factor and separation (VDI 2230:2015, part 1; Shigley, chapter 8)."""

from dataclasses import dataclass


@dataclass(frozen=True)
class JointForces:
    """bolt, clamp: forces (N) in the bolt and between the parts; opens_at: axial load (N) that separates them."""

    bolt: float
    clamp: float
    opens_at: float


def preload_of_torque(torque: float, nut_factor: float, diameter: float) -> float:
    """Preload F = T/(K·d) in N for a tightening moment T (N·mm), nut factor K and nominal diameter d (mm).

    Shigley and Mischke (1989), eq. 8-27.

    >>> preload_of_torque(100e3, 0.2, 16.0)
    31250.0
    """
    return torque / (nut_factor * diameter)


def load_factor(bolt_stiffness: float, clamped_stiffness: float) -> float:
    """Φ = kb/(kb + kc), the share of an axial load that the bolt takes while the joint is closed."""
    return bolt_stiffness / (bolt_stiffness + clamped_stiffness)


def joint_forces(preload: float, load: float, phi: float) -> JointForces:
    """F0 + Φ·FA in the bolt until the joint opens at F0/(1 − Φ); all of FA afterwards."""
    opens_at = preload / (1 - phi)
    if load >= opens_at:
        return JointForces(load, 0.0, opens_at)
    return JointForces(preload + phi * load, preload - (1 - phi) * load, opens_at)
