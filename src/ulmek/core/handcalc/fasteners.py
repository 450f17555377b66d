"""Hexagon fasteners and the holes for them: ISO 273:1979, ISO 4014:2011, ISO 4032:2012, ISO 7089:2000."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ulmek.core.errors import InputError
from ulmek.core.handcalc.threads import metric_thread

HoleSeries = Literal["fine", "medium", "coarse"]

# Nominal diameter → across flats, head height, nut height; washer: inner and outer diameter, thickness; clearance
# holes, fine, medium and coarse (mm).
_SIZES = {
    3: (5.5, 2.0, 2.4, 3.2, 7, 0.5, 3.2, 3.4, 3.6),
    4: (7, 2.8, 3.2, 4.3, 9, 0.8, 4.3, 4.5, 4.8),
    5: (8, 3.5, 4.7, 5.3, 10, 1.0, 5.3, 5.5, 5.8),
    6: (10, 4.0, 5.2, 6.4, 12, 1.6, 6.4, 6.6, 7),
    8: (13, 5.3, 6.8, 8.4, 16, 1.6, 8.4, 9, 10),
    10: (16, 6.4, 8.4, 10.5, 20, 2.0, 10.5, 11, 12),
    12: (18, 7.5, 10.8, 13, 24, 2.5, 13, 13.5, 14.5),
    16: (24, 10.0, 14.8, 17, 30, 3.0, 17, 17.5, 18.5),
    20: (30, 12.5, 18.0, 21, 37, 3.0, 21, 22, 24),
    24: (36, 15.0, 21.5, 25, 44, 4.0, 25, 26, 28),
    30: (46, 18.7, 25.6, 31, 56, 4.0, 31, 33, 35),
    36: (55, 22.5, 31.0, 37, 66, 5.0, 37, 39, 42),
    42: (65, 26.0, 34.0, 45, 78, 8.0, 43, 45, 48),
    48: (75, 30.0, 38.0, 52, 92, 8.0, 50, 52, 56),
    56: (85, 35.0, 45.0, 62, 105, 10.0, 58, 62, 66),
    64: (95, 40.0, 51.0, 70, 115, 10.0, 66, 70, 74),
}


# A hole is for a fastener whose own it comes so near (share of it).
NEAR = 0.02


@dataclass(frozen=True)
class Washer:
    """A plain washer (mm)."""

    inner: float
    outer: float
    thickness: float


@dataclass(frozen=True)
class Hexagon:
    """A hexagon bolt of a nominal ``diameter`` with its nut and washer, and the clearance holes for it (mm)."""

    diameter: float
    across_flats: float
    head_height: float
    nut_height: float
    washer: Washer
    holes: dict[HoleSeries, float]

    def bearing_area(self, hole: float) -> float:
        """Area (mm²) of the hexagon round a hole of diameter ``hole`` (mm): √3/2 s² − π/4 d²."""
        return float(np.sqrt(3) / 2 * self.across_flats**2 - np.pi / 4 * hole**2)


def hexagon(diameter: float) -> Hexagon:
    """The fastener of a nominal diameter (mm).

    Raises
    ------
    InputError : no such size.
    """
    size = _SIZES.get(int(diameter)) if diameter == int(diameter) else None
    if size is None:
        raise InputError(
            f"M{diameter:g} is no size of hexagon bolts here.", where="diameter",
            hint=f"Known: M{', M'.join(map(str, _SIZES))}.",
        )  # fmt: skip
    flats, head, nut, inner, outer, thick, fine, medium, coarse = map(float, size)
    holes: dict[HoleSeries, float] = {"fine": fine, "medium": medium, "coarse": coarse}
    return Hexagon(float(diameter), flats, head, nut, Washer(inner, outer, thick), holes)


def size_for_hole(hole: float) -> tuple[float, HoleSeries] | None:
    """The nominal diameter (mm) whose own clearance hole is nearest to a hole (mm), and the series of that; None where
    none is near.

    >>> size_for_hole(17.5), size_for_hole(12.0)
    ((16.0, 'medium'), (10.0, 'coarse'))
    """
    through = [d for d in _SIZES if d < hole]
    if not through:
        return None
    # Of those that go through, the one with a hole nearest to this one.
    off, diameter, series = min(
        (abs(hole - width), -d, name) for d in through for name, width in hexagon(d).holes.items()
    )
    return (float(-diameter), series) if off < NEAR * hole else None


def thread_for_hole(hole: float, *, within: float = 0.02) -> float | None:
    """The nominal diameter (mm) whose thread a hole (mm) is drilled or drawn for: between the minor diameter of its nut
    and its own, by ``within`` of it; None where there is none. The coarser thread comes first.

    >>> thread_for_hole(13.8), thread_for_hole(14.7), thread_for_hole(17.5)
    (16.0, 16.0, 20.0)
    """
    for d in sorted(_SIZES, reverse=True):
        if metric_thread(d).minor_of_nut * (1 - within) <= hole <= d:
            return float(d)
    return None
