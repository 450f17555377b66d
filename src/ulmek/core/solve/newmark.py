"""Implicit dynamics: Newmark's method with a little numerical damping."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.model import Dynamics

Array = NDArray[np.float64]

# γ − ½: damps what the increments do not resolve; 1 % of a period resolved by 40 increments.
NUMERICAL_DAMPING = 0.005


@dataclass(frozen=True)
class Newmark:
    """Newmark (1959) with γ = ½ + d and β = ¼ (1 + d)² for one increment of ``seconds``; damping in 1/s."""

    seconds: float
    damping: float
    gamma: float = 0.5 + NUMERICAL_DAMPING
    beta: float = 0.25 * (1 + NUMERICAL_DAMPING) ** 2

    @staticmethod
    def of(dynamics: Dynamics | None, seconds: float, *, anew: bool = False) -> "Newmark | None":
        """The method for an increment, None in static steps. One that goes ``anew``, after forces have jumped, has the
        acceleration of its end throughout (γ = 1, β = ½): what was before it says nothing. One such increment leaves
        the whole of second order, and a constant acceleration is exact.
        """
        if dynamics is None:
            return None
        return Newmark(seconds, dynamics.damping, 1.0, 0.5) if anew else Newmark(seconds, dynamics.damping)

    @property
    def stiffness(self) -> float:
        """∂(acceleration + damping·velocity)/∂displacement (1/s²)."""
        return 1 / (self.beta * self.seconds**2) + self.damping * self.gamma / (self.beta * self.seconds)

    def rates(self, moved: Array, velocity: Array, acceleration: Array) -> tuple[Array, Array]:
        """Velocity (mm/s) and acceleration (mm/s²) at the end, for the increment's displacement ``moved`` (mm)."""
        b, t = self.beta, self.seconds
        after = (moved - t * velocity) / (b * t**2) - (0.5 / b - 1) * acceleration
        return velocity + t * ((1 - self.gamma) * acceleration + self.gamma * after), after

    def inertia(self, moved: Array, velocity: Array, acceleration: Array) -> Array:
        """Acceleration and damping per unit of mass (mm/s²)."""
        new_velocity, after = self.rates(moved, velocity, acceleration)
        return np.asarray(after + self.damping * new_velocity)
