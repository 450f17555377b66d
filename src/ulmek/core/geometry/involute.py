"""Involute teeth as lines and arcs: flanks as arcs that share their tangents, roots with fillets."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.outline import Point, Segment

Array = NDArray[np.float64]

# Addendum and dedendum over the module (ISO 53, profile A).
ADDENDUM, DEDENDUM = 1.0, 1.25
# Pairs of arcs along a flank: within 1e-4 of the module of the involute, 2e-3 at its foot (test_gears.py).
PAIRS = 3


@dataclass(frozen=True)
class Gearing:
    """Teeth of one spur gear: number, module (mm), pressure angle (rad), profile shift (modules), fillet (modules),
    thinning of the teeth at the pitch circle for backlash (mm)."""

    teeth: int
    module: float
    pressure_angle: float
    shift: float = 0.0
    fillet: float = 0.38
    thinning: float = 0.0

    @property
    def pitch_radius(self) -> float:
        """Radius of the pitch circle (mm)."""
        return self.teeth * self.module / 2

    @property
    def base_radius(self) -> float:
        """Radius of the base circle (mm)."""
        return self.pitch_radius * float(np.cos(self.pressure_angle))

    @property
    def tip_radius(self) -> float:
        """Radius of the tip circle (mm)."""
        return self.pitch_radius + self.module * (ADDENDUM + self.shift)

    @property
    def root_radius(self) -> float:
        """Radius of the root circle (mm)."""
        return self.pitch_radius - self.module * (DEDENDUM - self.shift)

    def half_angle(self, radius: float) -> float:
        """Half the angle of a tooth at ``radius`` outside the base circle (rad); Niemann and Winter 2003, 21.4."""
        at_pitch = np.pi / (2 * self.teeth) + 2 * self.shift * np.tan(self.pressure_angle) / self.teeth
        at_pitch -= self.thinning / (2 * self.pitch_radius)
        alpha = np.arccos(np.clip(self.base_radius / radius, -1, 1))
        return float(at_pitch + _involute(self.pressure_angle) - _involute(float(alpha)))

    def upper_flank(self) -> list[Segment]:
        """The flank of a tooth about the x axis on its +y side, root arc's end to tip: fillet, straight part, arcs.

        Raises
        ------
        GeometryError : pointed teeth, or a fillet that does not fit.
        """
        if self.half_angle(self.tip_radius) * self.tip_radius < 0.02 * self.module:
            raise GeometryError(
                f"{self.teeth} teeth with a profile shift of {self.shift:g} come to a point.", where="profile_shift",
                hint="Reduce the profile shift.",
            )  # fmt: skip
        rho = self.fillet * self.module
        start, centre, foot = self._fillet(rho)
        out = [Segment("flank", foot, start, centre, True)]
        radius = float(np.hypot(*start))
        here = start
        if radius < self.base_radius * (1 - 1e-9):
            here = self._point(self.base_radius)
            out.append(Segment("flank", start, here))
            radius = self.base_radius
        return out + self._arcs(here, radius)

    def _point(self, radius: float) -> Point:
        angle = self.half_angle(max(radius, self.base_radius))
        return float(radius * np.cos(angle)), float(radius * np.sin(angle))

    def _outward(self, radius: float) -> Array:
        """Unit normal out of the tooth at ``radius``: tangent to the base circle, or across the straight part."""
        angle = self.half_angle(max(radius, self.base_radius))
        lean = float(np.arccos(np.clip(self.base_radius / max(radius, self.base_radius), -1, 1)))
        # At the base circle the flank runs along the radius; further out it leans back by the angle there.
        direction = angle - lean + np.pi / 2
        return np.array([np.cos(direction), np.sin(direction)])

    def _fillet(self, rho: float) -> tuple[Point, Point, Point]:
        """Where the fillet meets the flank, its centre, and where it meets the root circle."""
        root = self.root_radius
        if root <= 0.2 * self.module:
            raise GeometryError("the root circle has no radius.", where="teeth", hint="Take more teeth.")

        def beyond(radius: float) -> float:
            c = np.array(self._point(radius)) + rho * self._outward(radius)
            return float(np.hypot(*c)) - (root + rho)

        low, high = root * (1 + 1e-9), self.pitch_radius
        if beyond(low) > 0 or beyond(high) < 0:
            raise GeometryError(
                f"a root fillet of {self.fillet:g} modules does not fit.", where="root_fillet", hint="Reduce it."
            )
        radius = float(brentq(beyond, low, high, xtol=1e-12))
        start = self._point(radius)
        centre = np.array(start) + rho * self._outward(radius)
        if np.arctan2(centre[1], centre[0]) > np.pi / self.teeth * (1 - 1e-6):
            raise GeometryError(
                f"root fillets of {self.fillet:g} modules overlap between the teeth.",
                where="root_fillet",
                hint="Reduce them.",
            )
        foot = centre * root / np.hypot(*centre)
        return start, (float(centre[0]), float(centre[1])), (float(foot[0]), float(foot[1]))

    def _arcs(self, start: Point, radius: float) -> list[Segment]:
        """The involute from ``start`` at ``radius`` to the tip in arcs that share their tangents."""
        base = self.base_radius
        # Closer at the foot, where an involute bends hardest: roll angles t even in t^1.5.
        first, last = (max((r / base) ** 2 - 1, 0.0) ** 0.75 for r in (radius, self.tip_radius))
        radii = base * np.sqrt(1 + np.linspace(first, last, PAIRS + 1) ** (4 / 3))
        points = [start, *(self._point(float(r)) for r in radii[1:])]
        normals = [self._outward(float(r)) for r in radii]
        out = []
        for k in range(PAIRS):
            out += two_arcs("flank", points[k], _tangent(normals[k]), points[k + 1], _tangent(normals[k + 1]))
        return out


def _tangent(outward: Array) -> Array:
    """Direction towards the tip on the +y side of a tooth."""
    return np.array([outward[1], -outward[0]])


def _involute(angle: float) -> float:
    return float(np.tan(angle) - angle)


def two_arcs(name: str, a: Point, along_a: Array, b: Point, along_b: Array) -> list[Segment]:
    """Two arcs from ``a`` to ``b`` with unit tangents there, of equal tangent lengths (Bolton 1975)."""
    p, q = np.array(a), np.array(b)
    v, t = q - p, along_a + along_b
    denominator = 2 * (1 - along_a @ along_b)
    if denominator < 1e-12:
        d = float(v @ v / (4 * (v @ along_b)))
    else:
        d = float((-(v @ t) + np.sqrt((v @ t) ** 2 + denominator * (v @ v))) / denominator)
    middle = (p + q + d * (along_a - along_b)) / 2
    return [_arc(name, p, along_a, middle), _arc(name, q, -along_b, middle).reversed()]


def _arc(name: str, start: Array, along: Array, end: Array) -> Segment:
    """Arc that leaves ``start`` along ``along`` and reaches ``end``; a line where it is straight."""
    chord, normal = end - start, np.array([-along[1], along[0]])
    across = float(chord @ normal)
    ends = ((float(start[0]), float(start[1])), (float(end[0]), float(end[1])))
    if abs(across) < 1e-9 * float(np.hypot(*chord)):
        return Segment(name, *ends)
    radius = float(chord @ chord) / (2 * across)
    centre = start + radius * normal
    return Segment(name, *ends, (float(centre[0]), float(centre[1])), radius > 0)
