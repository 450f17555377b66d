"""Involute teeth as lines and arcs: flanks as arcs through points of the involute, roots with fillets."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.outline import Point, Segment

Array = NDArray[np.float64]

# Addendum and dedendum over the module (ISO 53, profile A).
ADDENDUM, DEDENDUM = 1.0, 1.25
# Arcs along a flank: within 2e-4 of the module of the involute, 7e-4 at its foot (test_gears.py).
ARCS = 6


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
        return float(at_pitch + involute(self.pressure_angle) - involute(float(alpha)))

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
        """The involute from ``start`` at ``radius`` to the tip in arcs, each through three of its points."""
        # Closer at the foot, where an involute bends hardest: roll angles t even in t^1.5.
        first, last = (max((r / self.base_radius) ** 2 - 1, 0.0) ** 0.75 for r in (radius, self.tip_radius))
        radii = self.base_radius * np.sqrt(1 + np.linspace(first, last, 2 * ARCS + 1) ** (4 / 3))
        points = [start, *(self._point(float(r)) for r in radii[1:])]
        return [arc_through("flank", *points[k : k + 3]) for k in range(0, 2 * ARCS, 2)]


def working_distance(a: Gearing, b: Gearing) -> float:
    """Distance of the axes (mm) at which two gears mesh without play, thinning aside; Niemann and Winter 2003, 21.5.

    Raises
    ------
    GeometryError : profile shifts at which no distance does.
    """
    shifts, teeth = a.shift + b.shift, a.teeth + b.teeth
    wanted = involute(a.pressure_angle) + 2 * shifts / teeth * np.tan(a.pressure_angle)
    if wanted <= 0:
        raise GeometryError(
            f"profile shifts of {a.shift:g} and {b.shift:g} leave no room to mesh.", where="profile_shift",
            hint="Enlarge one of them.",
        )  # fmt: skip
    working = brentq(lambda angle: involute(angle) - wanted, 1e-6, 1.2, xtol=1e-15)
    return float((a.base_radius + b.base_radius) / np.cos(working))


def involute(angle: float) -> float:
    """inv α = tan α − α (rad)."""
    return float(np.tan(angle) - angle)


def arc_through(name: str, a: Point, b: Point, c: Point) -> Segment:
    """Arc from ``a`` through ``b`` to ``c``; a line where they are in line."""
    p, q = np.array(b) - a, np.array(c) - a
    across = float(p[0] * q[1] - p[1] * q[0])
    if abs(across) < 1e-9 * float(q @ q):
        return Segment(name, a, c)
    u = (q[1] * (p @ p) - p[1] * (q @ q)) / (2 * across)
    v = (p[0] * (q @ q) - q[0] * (p @ p)) / (2 * across)
    return Segment(name, a, c, (float(a[0] + u), float(a[1] + v)), across > 0)
