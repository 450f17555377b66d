"""The colours of fields and parts, as the page has them (`web/src/scene/ramp.ts`; a test compares the two)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

RAMP = ("#f3ecd6", "#c4cd96", "#68a484", "#266874", "#1c2242")
SIGNED_RAMP = ("#8a3d14", "#d59a6b", "#f6f3ea", "#7fa7a3", "#1f4a5c")
ABOVE, BELOW = "#b23824", "#cfd6da"
PART_COLOURS = ("#b4beb8", "#d2bd9c", "#a9b7c0", "#c9b3a8", "#b9bf9d", "#c3b8c8")
BOLT_COLOUR = "#d9976c"


def rgb(colour: str) -> Array:
    """Red, green and blue (3,) from 0 to 1."""
    return np.array([int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])


@dataclass(frozen=True)
class Scale:
    """Values between which colours run, whether they have a sign, whether some lie beyond (``goes_beyond``), and
    whether they run by powers of ten."""

    low: float
    high: float
    is_signed: bool = False
    goes_beyond: bool = False
    is_log: bool = False

    @property
    def stops(self) -> tuple[str, ...]:
        """Colours from the lowest to the highest value, evenly."""
        return SIGNED_RAMP if self.is_signed else RAMP

    def share(self, values: Array) -> Array:
        """How far along the scale values (n,) are: 0 at its low end, 1 at its high one."""
        if not self.high > self.low:
            return np.zeros(len(values))
        if self.is_log:
            return np.asarray(np.log(np.maximum(values, self.low) / self.low) / np.log(self.high / self.low))
        return np.asarray((values - self.low) / (self.high - self.low))

    def value(self, share: float) -> float:
        """The value at a share of the scale."""
        return self.low * (self.high / self.low) ** share if self.is_log else self.low + share * (self.high - self.low)

    def colours(self, values: Array) -> Array:
        """Colours (n, 3) of values (n,)."""
        stops = np.array([rgb(c) for c in self.stops])
        share = self.share(values)
        at = np.linspace(0, 1, len(stops))
        out = np.column_stack([np.interp(share, at, stops[:, k]) for k in range(3)])
        if self.goes_beyond:
            out[share > 1 + 1e-9] = rgb(ABOVE)
            out[share < -1e-9] = rgb(BELOW)
        return out


# Powers of ten that colours have where they would begin at nothing.
DECADES = 4


def scale_of(
    values: Array, *, is_signed: bool, limits: tuple[float, float] | None = None, is_log: bool = False
) -> Scale:
    """The scale of what is shown: from nothing to the highest value, alike on both sides where values have a sign; by
    powers of ten, where it is asked for and values have none."""
    if is_log and not is_signed:
        low, high = limits or (0.0, float(values.max(initial=0.0)))
        beyond = limits is not None and bool((values > high).any() or (values < low).any())
        return Scale(max(low, high / 10**DECADES), high, goes_beyond=beyond, is_log=high > 0)
    if limits is not None:
        beyond = bool((values > limits[1]).any() or (values < limits[0]).any())
        return Scale(*limits, is_signed=is_signed, goes_beyond=beyond)
    if is_signed:
        far = float(np.abs(values).max(initial=0.0))
        return Scale(-far, far, is_signed=True)
    return Scale(min(0.0, float(values.min(initial=0.0))), float(values.max(initial=0.0)))
