"""Axes that directions are given in: turned ones, or radial, hoop and axial about a line."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Vector = tuple[float, float, float]

# A point this near to the line of round axes, relative to the farthest, has no radial direction.
ON_LINE = 1e-9


@dataclass(frozen=True)
class Axes:
    """Three unit vectors across each other, the same everywhere; or about a line: radial, hoop and axial at each point.

    first, second, third: the vectors; of a line the third is along it and the others do not count. origin (mm): on
    the line.
    """

    first: Vector
    second: Vector
    third: Vector
    origin: Vector = (0.0, 0.0, 0.0)
    is_round: bool = False

    @staticmethod
    def along(x: Vector, y: Vector | None = None) -> "Axes":
        """Axes with the first along ``x`` and the second along what of ``y`` goes across it (None: any way across).

        Raises
        ------
        ValueError : a vector without length, or ``y`` along ``x``.
        """
        first = np.array(x, float)
        if not np.linalg.norm(first):
            raise ValueError("the direction has no length")
        first /= np.linalg.norm(first)
        other = np.array(y, float) if y is not None else np.array([0.0, 0, 1] if abs(first[2]) < 0.9 else [1.0, 0, 0])
        third = np.cross(first, other)
        if np.linalg.norm(third) < ON_LINE * max(float(np.linalg.norm(other)), 1e-300):
            raise ValueError("the second direction is along the first")
        if y is None:
            # Upright where it may choose: in a plane study the third axis is the one across the plane.
            second = np.cross(other, first)
            second /= np.linalg.norm(second)
            return Axes(_vector(first), _vector(second), _vector(np.cross(first, second)))
        third /= np.linalg.norm(third)
        return Axes(_vector(first), _vector(np.cross(third, first)), _vector(third))

    @staticmethod
    def about(origin: Vector, line: Vector) -> "Axes":
        """Radial, hoop and axial about ``line`` through ``origin`` (mm); ValueError for a line without direction."""
        plain = Axes.along(line)
        return Axes(plain.second, plain.third, plain.first, origin, is_round=True)

    def at(self, points: Array) -> Array:
        """The vectors at ``points`` (n, 3) mm, as rows (n, 3, 3); radial is any way across on the line itself."""
        plain = np.array([self.first, self.second, self.third])
        if not self.is_round:
            return np.broadcast_to(plain, (len(points), 3, 3))
        line = plain[2]
        away = points - np.array(self.origin)
        away = away - np.outer(away @ line, line)
        far = np.linalg.norm(away, axis=1, keepdims=True)
        off = far > ON_LINE * max(float(np.abs(points).max(initial=0.0)), 1.0)
        radial = np.where(off, away / np.where(off, far, 1.0), plain[0])
        return np.stack([radial, np.cross(line, radial), np.broadcast_to(line, radial.shape)], axis=1)


def axes_at(axes: Axes | None, points: Array) -> Array:
    """Axes at ``points`` (n, 3) as rows (n, 3, 3): those of the machine where none are given."""
    return np.broadcast_to(np.eye(3), (len(points), 3, 3)) if axes is None else axes.at(points)


def _vector(v: Array) -> Vector:
    # Rounding is no direction.
    x, y, z = (0.0 if abs(c) < 1e-15 else float(c) for c in v)
    return x, y, z
