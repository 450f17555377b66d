"""Bolted joints: tightening, load factor and separation (VDI 2230:2015, part 1; Shigley, chapter 8)."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

# Half angle of the cones that the clamped parts are taken for; Shigley and Mischke (1989), section 8-5.
CONE = np.deg2rad(30.0)


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


def bolt_stiffness(diameter: float, grip: float, young: float, *, has_nut: bool = True) -> float:
    """Stiffness (N/mm) of a bolt with a full shank of ``diameter`` and free length ``grip`` (mm), Young's modulus in
    MPa.

    1/k = (0.5 d + l + 0.5 d + c d)/(E A), with c = 0.4 for a nut and 0.33 for a tapped hole: VDI 2230:2015 part 1,
    eq. 73 to 80, the engaged thread counted with the area of the shank.
    """
    away = 0.5 + 0.5 + (0.4 if has_nut else 0.33)
    return float(young * np.pi / 4 * diameter**2 / (grip + away * diameter))


def cone_stiffness(bearing: float, hole: float, layers: Sequence[tuple[float, float]], *, from_both: bool) -> float:
    """Stiffness (N/mm) of clamped layers (thickness in mm, Young's modulus in MPa), from the head to the far end.

    Cones of half angle 30° open from the ``bearing`` diameter round a ``hole`` (mm): from both ends to the middle of
    the grip under a nut, from the head alone otherwise. Each slice k = π E d tan α / ln[((2 t tan α + D − d)(D + d)) /
    ((2 t tan α + D + d)(D − d))]; Shigley and Mischke (1989), eq. 8-19.
    """
    grip = sum(t for t, _ in layers)
    middle = grip / 2 if from_both else grip
    slope = 2 * np.tan(CONE)
    soft, z = 0.0, 0.0
    for thickness, young in layers:
        ends = sorted({z, z + thickness, *([middle] if z < middle < z + thickness else [])})
        for low, high in itertools.pairwise(ends):
            start = low if high <= middle + 1e-9 else grip - high
            wide, t = bearing + slope * start, high - low
            ratio = (slope * t + wide - hole) * (wide + hole) / ((slope * t + wide + hole) * (wide - hole))
            soft += float(np.log(ratio)) / (np.pi * young * hole * np.tan(CONE))
        z += thickness
    return 1 / soft
