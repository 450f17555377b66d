"""Stress and tangent at one material point: elastic, J2 plastic and rubber, for the element kernel."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ulmek.core.small_matrices import inverse_of, product

Array = NDArray[np.float64]

# Internal values of a material point: plastic strain (6), back stress (6), equivalent plastic strain.
INTERNAL = 13
# Stress this little beyond yield, relative, still counts as elastic: a state that ended on the yield surface
# begins its next increment elastically, so that unloading is found.
ON_SURFACE = 1e-9
ELASTIC, PLASTIC, RUBBER = 0, 1, 2


class LawNumbers(NamedTuple):
    """What kernels need of a `Law`, see there."""

    number: int
    hooke: Array
    constants: Array
    table: Array


@dataclass(frozen=True)
class Law:
    """A material as the kernel wants it.

    number: `ELASTIC`, `PLASTIC` or `RUBBER`. hooke (6, 6) MPa. constants: kinematic share for
    plasticity; C10, C01 and bulk modulus (MPa) for rubber. table (n, 2): equivalent plastic strain
    and yield stress (MPa).
    """

    number: int
    hooke: Array
    constants: Array
    table: Array

    @property
    def numbers(self) -> LawNumbers:
        """For kernels."""
        return LawNumbers(self.number, self.hooke, self.constants, self.table)

    @property
    def is_rubber(self) -> bool:
        """Whether the material is a rubber."""
        return self.number == RUBBER

    @property
    def is_linear(self) -> bool:
        """Whether stress is proportional to strain."""
        return self.number == ELASTIC


@njit(cache=True, error_model="numpy")
def stress_at(law, strain, dilatation, internal, internal_out, stress, tangent):  # type: ignore[no-untyped-def] # pragma: no cover
    """Stress (6,), tangent (6, 6) and new internal values for ``strain`` (6,); law: `LawNumbers`.

    Gives whether the tangent is another than ``law.hooke``.
    """
    internal_out[:] = internal
    if law.number == RUBBER:
        _rubber(law.constants, strain, dilatation, stress, tangent)
        return True
    if law.number == PLASTIC:
        return _plastic(law.hooke, law.constants[0], law.table, strain, internal, internal_out, stress, tangent)
    for i in range(6):
        stress[i] = 0.0
        for j in range(6):
            stress[i] += law.hooke[i, j] * strain[j]
            tangent[i, j] = law.hooke[i, j]
    return False


@njit(cache=True, error_model="numpy")
def yield_stress_at(table, plastic):  # type: ignore[no-untyped-def] # pragma: no cover
    """Yield stress (MPa) and its slope at equivalent plastic strain ``plastic``; flat beyond the table."""
    for i in range(len(table) - 1):
        if plastic < table[i + 1, 0]:
            slope = (table[i + 1, 1] - table[i, 1]) / (table[i + 1, 0] - table[i, 0])
            return table[i, 1] + slope * (plastic - table[i, 0]), slope
    return table[len(table) - 1, 1], 0.0


@njit(cache=True, error_model="numpy")
def _plastic(hooke, kinematic, table, strain, internal, internal_out, stress, tangent):  # type: ignore[no-untyped-def] # pragma: no cover
    """Radial return with isotropic and kinematic hardening (Simo and Hughes 1998, box 3.2); whether it yields."""
    shear = hooke[3, 3]
    elastic = strain - internal[:6]
    relative = np.empty(6)
    mean = 0.0
    for i in range(6):
        stress[i] = 0.0
        for j in range(6):
            stress[i] += hooke[i, j] * elastic[j]
            tangent[i, j] = hooke[i, j]
    mean = (stress[0] + stress[1] + stress[2]) / 3
    size = 0.0
    for i in range(6):
        relative[i] = stress[i] - (mean if i < 3 else 0.0) - internal[6 + i]
        size += relative[i] ** 2 * (1.0 if i < 3 else 2.0)
    size = np.sqrt(size)
    root, before = np.sqrt(2 / 3), internal[12]
    first, _ = yield_stress_at(table, before)
    initial = table[0, 1]
    # Radius of the yield surface: Y0 and the isotropic share of the hardening so far.
    radius = initial + (1 - kinematic) * (first - initial)
    if size <= root * radius * (1 + ON_SURFACE):
        return False
    # ‖ξ‖ − 2GΔγ = √⅔ [Y(e₁) − κ (Y(e₀) − Y0)], e₁ = e₀ + √⅔ Δγ: piecewise linear, one Newton step a segment.
    step, slope = 0.0, 0.0
    for _ in range(len(table) + 4):
        now, slope = yield_stress_at(table, before + root * step)
        miss = size - 2 * shear * step - root * (now - kinematic * (first - initial))
        change = miss / (2 * shear + 2 / 3 * slope)
        step += change
        if abs(change) <= 1e-14 * step:
            break
    now, slope = yield_stress_at(table, before + root * step)
    shrink = 1 - 2 * shear * step / size
    curb = 1 / (1 + slope / (3 * shear)) - (1 - shrink)
    direction = relative / size
    for i in range(6):
        stress[i] -= 2 * shear * step * direction[i]
        internal_out[i] = internal[i] + step * direction[i] * (1.0 if i < 3 else 2.0)
        internal_out[6 + i] = internal[6 + i] + root * kinematic * (now - first) * direction[i]
        for j in range(6):
            deviator = (1.0 if i == j else 0.0) - (1 / 3 if i < 3 and j < 3 else 0.0)
            if i == j and i >= 3:
                deviator = 0.5
            tangent[i, j] += 2 * shear * ((shrink - 1) * deviator - curb * direction[i] * direction[j])
    internal_out[12] = before + root * step
    return True


@njit(cache=True, error_model="numpy")
def _rubber(constants, strain, dilatation, stress, tangent):  # type: ignore[no-untyped-def] # pragma: no cover
    """Mooney–Rivlin with the pressure ``κ·dilatation`` (Holzapfel 2000, sections 6.4 to 6.6).

    Second Piola–Kirchhoff stress and material tangent at constant pressure, from the Green strain.
    """
    c10, c01, bulk = constants[0], constants[1], constants[2]
    c = np.empty((3, 3))
    c[0, 0], c[1, 1], c[2, 2] = 1 + 2 * strain[0], 1 + 2 * strain[1], 1 + 2 * strain[2]
    c[0, 1] = c[1, 0] = strain[3]
    c[1, 2] = c[2, 1] = strain[4]
    c[2, 0] = c[0, 2] = strain[5]
    inverse, square = np.empty((3, 3)), np.empty((3, 3))
    det = inverse_of(c, inverse)
    j = np.sqrt(det)
    i1 = c[0, 0] + c[1, 1] + c[2, 2]
    product(c, c, square)
    i2 = (i1 * i1 - square[0, 0] - square[1, 1] - square[2, 2]) / 2
    a, b, p = 2 * c10 * det ** (-1 / 3), 2 * c01 * det ** (-2 / 3), bulk * dilatation * j
    one = np.eye(3)
    second = i1 * one - c
    pairs = ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (2, 0))
    for r in range(6):
        k, m = pairs[r]
        stress[r] = a * (one[k, m] - i1 / 3 * inverse[k, m]) + b * (second[k, m] - 2 / 3 * i2 * inverse[k, m])
        stress[r] += p * inverse[k, m]
        for s in range(6):
            q, t = pairs[s]
            cross = (inverse[k, q] * inverse[m, t] + inverse[k, t] * inverse[m, q]) / 2
            unit = (one[k, q] * one[m, t] + one[k, t] * one[m, q]) / 2
            both = inverse[k, m] * inverse[q, t]
            value = (
                2 * a * (-(inverse[k, m] * one[q, t] + one[k, m] * inverse[q, t]) / 3 + i1 / 9 * both + i1 / 3 * cross)
            )
            value += 2 * b * (
                one[k, m] * one[q, t] - unit
                - 2 / 3 * (inverse[k, m] * second[q, t] + second[k, m] * inverse[q, t])
                + 4 / 9 * i2 * both + 2 / 3 * i2 * cross
            )  # fmt: skip
            tangent[r, s] = value + p * (both - 2 * cross)
