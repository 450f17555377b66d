"""The root of a tooth of a gear or a rack under a force at its tip."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.geometry.involute import ADDENDUM, DEDENDUM, Gearing
from ulmek.core.handcalc.teeth import tooth_fillet_factor

Array = NDArray[np.float64]

# Points along the fillet among which the weakest section is looked for.
SECTIONS = 200


@dataclass(frozen=True)
class ToothRoot:
    """The weakest section of a tooth under a force at its tip: its thickness and the arm of the force above it (mm);
    lean: of the force from across the tooth (rad); factor: of the fillet (see `tooth_fillet_factor`); form: Lewis's
    form factor Y."""

    thickness: float
    arm: float
    lean: float
    factor: float
    form: float

    def stress(self, force: float, width: float) -> float:
        """Tension (MPa) in the fillet under ``force`` (N) normal to the flank at the tip, over the face ``width`` (mm):
        bending less what presses along the tooth, with the concentration of the fillet."""
        bent = 6 * force * np.cos(self.lean) * self.arm / (width * self.thickness**2)
        return float(self.factor * (bent - force * np.sin(self.lean) / (width * self.thickness)))


def tooth_root(teeth: Gearing) -> ToothRoot:
    """The section at which a tooth as a cantilever is stressed most (Lewis 1892), along its true fillet."""
    fillet = teeth.upper_flank()[0]
    assert fillet.centre is not None
    middle = np.array(fillet.centre)
    first, last = (np.array(p) - middle for p in (fillet.start, fillet.end))
    turn = np.arctan2(first[0] * last[1] - first[1] * last[0], first @ last)
    angle = np.arctan2(first[1], first[0]) + np.linspace(0, turn, SECTIONS)
    x, y = middle[0] + np.hypot(*first) * np.cos(angle), middle[1] + np.hypot(*first) * np.sin(angle)
    tip = float(np.arccos(np.clip(teeth.base_radius / teeth.tip_radius, -1, 1)))
    lean = tip - teeth.half_angle(teeth.tip_radius)
    # The force is tangent to the base circle: where it meets the middle of the tooth its arm begins.
    return _weakest(teeth.base_radius / np.cos(lean) - x, y, lean, teeth.fillet * teeth.module, teeth.module)


def rack_root(module: float, pressure_angle: float, fillet: float, thinning: float) -> ToothRoot:
    """The same of a rack's tooth: ``module`` (mm), ``pressure_angle`` (rad), ``fillet`` of the root (modules), and by
    how much the tooth is thinned at the pitch line (mm)."""
    tan, rho = float(np.tan(pressure_angle)), fillet * module
    half, top, root = np.pi * module / 4 - thinning / 2, ADDENDUM * module, -DEDENDUM * module
    angle = np.linspace(pressure_angle, np.pi / 2, SECTIONS)
    middle = half - (root + rho) * tan + rho / np.cos(pressure_angle)
    thick, height = middle - rho * np.cos(angle), root + rho - rho * np.sin(angle)
    # The force is square to the flank: it meets the middle of the tooth below the tip.
    return _weakest(top - (half - top * tan) * tan - height, thick, pressure_angle, rho, module)


def _weakest(arm: Array, y: Array, lean: float, rho: float, module: float) -> ToothRoot:
    """Of sections with an ``arm`` above them and a half thickness ``y`` (mm) the one that bends most."""
    weakest = int(np.argmax(arm / y**2))
    thickness, above = 2 * float(y[weakest]), float(arm[weakest])
    factor = tooth_fillet_factor(thickness, rho, above)
    return ToothRoot(thickness, above, lean, factor, thickness**2 / (6 * above * module))
