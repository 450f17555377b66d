"""Metric threads: basic dimensions by ISO 724:1993, coarse pitches by ISO 262:1998, strength by ISO 898-1:2013."""

from dataclasses import dataclass

import numpy as np

from ulmek.core.errors import InputError

# Coarse pitches (mm) by nominal diameter (mm).
COARSE = {
    3: 0.5, 4: 0.7, 5: 0.8, 6: 1.0, 8: 1.25, 10: 1.5, 12: 1.75, 14: 2.0, 16: 2.0, 18: 2.5, 20: 2.5, 22: 2.5, 24: 3.0,
    27: 3.0, 30: 3.5, 33: 3.5, 36: 4.0, 39: 4.0, 42: 4.5, 48: 5.0, 52: 5.0, 56: 5.5, 64: 6.0,
}  # fmt: skip
# Property class → tensile strength and proof stress (MPa); 8.8 up to 16 mm and above it.
CLASSES = {
    "4.6": (400, 225),
    "5.6": (500, 280),
    "5.8": (520, 380),
    "6.8": (600, 440),
    "10.9": (1040, 830),
    "12.9": (1220, 970),
}
CLASS_8_8 = {"thin": (800, 580), "thick": (830, 600)}


@dataclass(frozen=True)
class Thread:
    """Pitch, pitch diameter, minor diameters of nut and bolt (mm), and stress area (mm²)."""

    pitch: float
    pitch_diameter: float
    minor_of_nut: float
    minor_of_bolt: float
    stress_area: float


def metric_thread(diameter: float, pitch: float | None = None) -> Thread:
    """Basic dimensions of a metric thread; the coarse pitch when none is given.

    d₂ = d − 0.649519 P, D₁ = d − 1.082532 P, d₃ = d − 1.226869 P; Aₛ = π/4 ((d₂ + d₃)/2)².

    Raises
    ------
    InputError : no coarse pitch is known for the diameter, or the pitch does not fit it.
    """
    chosen = pitch if pitch is not None else COARSE.get(int(diameter)) if diameter == int(diameter) else None
    if chosen is None:
        raise InputError(
            f"no coarse pitch is known for M{diameter:g}.", where="diameter",
            hint=f"Give the pitch, or one of M{', M'.join(map(str, COARSE))}.",
        )  # fmt: skip
    if not 0 < chosen < diameter / 2:
        raise InputError(
            f"a pitch of {chosen:g} mm does not fit M{diameter:g}.", where="pitch", hint="Give a finer one."
        )
    d2, d3 = diameter - 0.649519 * chosen, diameter - 1.226869 * chosen
    return Thread(chosen, d2, diameter - 1.082532 * chosen, d3, float(np.pi / 4 * ((d2 + d3) / 2) ** 2))


def proof_load(diameter: float, strength: str, pitch: float | None = None) -> float:
    """Proof load Sp·Aₛ (N) of a bolt of a property class, such as ``8.8``.

    Raises
    ------
    InputError : see `metric_thread`; or an unknown class.
    """
    table = {**CLASSES, "8.8": CLASS_8_8["thin" if diameter <= 16 else "thick"]}
    if strength not in table:
        raise InputError(f"property class {strength} is not known.", where="class", hint=f"Known: {', '.join(table)}.")
    return table[strength][1] * metric_thread(diameter, pitch).stress_area


def yield_strength(strength: str) -> float:
    """Nominal yield strength (MPa) of a property class: the product of its two figures, times ten (ISO 898-1:2013).

    >>> yield_strength("8.8")
    640.0
    """
    first, second = strength.split(".")
    return round(int(first) * 100 * int(second) / 10, 6)


def edge_stress(axial: float, shear: float, bending: float, area: float) -> float:
    """Von Mises stress (MPa) at the edge of a full round section of ``area`` (mm²), shear (N) as its mean.

    √((N/A + M/W)² + 3 (Q/A)²) with W = A d/8 and d = √(4A/π); of what acts at once (von Mises 1913).

    >>> edge_stress(10e3, 0.0, 0.0, 100.0)
    100.0
    """
    pulled = abs(axial) / area + abs(bending) * 8 / (area * np.sqrt(4 * area / np.pi))
    return float(np.hypot(pulled, np.sqrt(3.0) * shear / area))
