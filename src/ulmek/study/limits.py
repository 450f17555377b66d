"""Where values on finer and finer meshes go to, and whether they go anywhere."""

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from ulmek.core.review.trust import Band

Array = NDArray[np.float64]

# Order at which errors of linear elements fall, where no third mesh tells; orders that are believed; below the least
# a value grows without end (it has no limit at all for none).
ORDER, LEAST_ORDER, MOST_ORDER = 2.0, 0.2, 4.0
# Safety on the distance from the value that meshes go to (Roache 1994, J. Fluids Eng. 116, 405–413): with an order that
# was seen on three meshes, and with one that is assumed on two.
SEEN, ASSUMED = 1.25, 3.0


def limit_of(sizes: Array, values: Array) -> tuple[float | None, Band | None, float | None]:
    """The value that ``values`` (n,) on elements of ``sizes`` (n,) go to (Richardson 1911), with a band (Roache 1994),
    and the order that the last three show; no order where two are there, or the three do not go one way."""
    if len(values) < 2 or sizes[-1] >= sizes[-2] * 0.99:
        return None, None, None
    order = order_of(sizes[-3:], values[-3:]) if len(values) >= 3 else None
    used = order if order is not None else ORDER
    ratio = (sizes[-2] / sizes[-1]) ** used
    step = float(values[-1] - values[-2])
    limit = float(values[-1] + step / (ratio - 1))
    safety = SEEN if order is not None else ASSUMED
    off = safety * abs(limit - float(values[-1]))
    if order is None and len(values) >= 3:
        # To and fro, which no order tells.
        limit, off = float(values[-1]), ASSUMED * abs(step)
    return limit, (limit - off, limit + off), order


def order_of(sizes: Array, values: Array) -> float | None:
    """Order of the way of three ``values`` on elements of three ``sizes``; None where they do not go one way, or at no
    order that is believed."""
    first, second = float(values[1] - values[0]), float(values[2] - values[1])
    if first * second <= 0 or not (sizes[0] > sizes[1] > sizes[2]):
        return None

    def off(p: float) -> float:
        return float((sizes[0] ** p - sizes[1] ** p) / (sizes[1] ** p - sizes[2] ** p)) - first / second

    if off(LEAST_ORDER) * off(MOST_ORDER) > 0:
        return None
    return float(brentq(off, LEAST_ORDER, MOST_ORDER))


def grows(sizes: Array, values: Array, least: float) -> bool:
    """Whether the last three values grow, at last by more than ``least``, and from mesh to mesh no less than what has
    no limit does."""
    h, v = sizes[-3:], values[-3:]
    first, second = float(v[1] - v[0]), float(v[2] - v[1])
    if first <= 0 or second <= least or not (h[0] > h[1] > h[2]):
        return False
    p = LEAST_ORDER
    return bool(first / second < (h[0] ** p - h[1] ** p) / (h[1] ** p - h[2] ** p))
