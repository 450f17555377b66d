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
    """Values between which colours run, whether they have a sign, and whether some lie beyond (``goes_beyond``)."""

    low: float
    high: float
    is_signed: bool = False
    goes_beyond: bool = False

    @property
    def stops(self) -> tuple[str, ...]:
        """Colours from the lowest to the highest value, evenly."""
        return SIGNED_RAMP if self.is_signed else RAMP

    def colours(self, values: Array) -> Array:
        """Colours (n, 3) of values (n,)."""
        stops = np.array([rgb(c) for c in self.stops])
        span = self.high - self.low
        share = (values - self.low) / span if span > 0 else np.zeros(len(values))
        at = np.linspace(0, 1, len(stops))
        out = np.column_stack([np.interp(share, at, stops[:, k]) for k in range(3)])
        if self.goes_beyond:
            out[share > 1 + 1e-9] = rgb(ABOVE)
            out[share < -1e-9] = rgb(BELOW)
        return out


def scale_of(values: Array, *, is_signed: bool, limits: tuple[float, float] | None = None) -> Scale:
    """The scale of what is shown: from nothing to the highest value, alike on both sides where values have a sign."""
    if limits is not None:
        beyond = bool((values > limits[1]).any() or (values < limits[0]).any())
        return Scale(*limits, is_signed=is_signed, goes_beyond=beyond)
    if is_signed:
        far = float(np.abs(values).max(initial=0.0))
        return Scale(-far, far, is_signed=True)
    return Scale(min(0.0, float(values.min(initial=0.0))), float(values.max(initial=0.0)))
