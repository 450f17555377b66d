"""Numbers of elements from lengths over sizes, which rounding of the lengths does not flip: 50 mm and 1.9685 in over
the same size give as many."""

import numpy as np
from numpy.typing import NDArray

# So much of an element is rounding of what was measured, along edges and in sums over them.
ROUNDING = 1e-6


def nearest_count(share: float) -> int:
    """The whole number nearest to ``share``; of one half way between two the even one, however it was rounded.

    >>> nearest_count(2.5 + 1e-12), nearest_count(2.5 - 1e-12), nearest_count(3.5 - 1e-12), nearest_count(2.51)
    (2, 2, 4, 3)
    """
    halves = round(2 * share)
    return round(halves / 2 if abs(2 * share - halves) < 2 * ROUNDING else share)


def enough(share: float) -> int:
    """The least whole number that is no less than ``share``, but for rounding.

    >>> enough(3.0 + 1e-12), enough(3.0), enough(3.01)
    (3, 3, 4)
    """
    return int(np.ceil(share - ROUNDING))


# Coordinates and sizes are told apart by this share of the largest extent; shifted off the round numbers of drawings.
GRAIN, SHIFT = 1e-9, 0.3719


def snapped(values: NDArray[np.float64], extent: float) -> NDArray[np.float64]:
    """Lengths (mm) on a grain of ``extent``, so that what only rounding tells apart is the same number: then no choice
    between equals that rests on them is left to rounding.

    >>> a, b = np.array([12.5, 1 / 3]), np.array([12.5 + 2e-14, 1 / 3 - 1e-16])
    >>> bool((snapped(a, 100.0) == snapped(b, 100.0 + 1e-13)).all())
    True
    """
    # The grain itself must not come from rounding: a power of two near the share.
    grain = 2.0 ** np.round(np.log2(GRAIN * extent) + SHIFT)
    return np.asarray((np.round(values / grain + SHIFT) - SHIFT) * grain)
