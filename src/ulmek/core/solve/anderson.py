"""Iterations that converge linearly, made faster by what the last ones have shown (Anderson 1965; Walker, Ni 2011)."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Point = tuple[Array, Array]

# How many changes of the iteration are remembered.
DEPTH = 4
# Changes that point the same way to this accuracy tell nothing new.
ALIKE = 1e-6


class Anderson:
    """Remembers from where iterations went where, while nothing changes its status.

    Points are masters (mm, rad) and contact forces (N); how far an iteration still goes is told by the masters.
    """

    def __init__(self) -> None:
        self._status: NDArray[np.int64] | None = None
        self._went: list[Point] = []
        self._left: list[Array] = []

    def forget(self) -> None:
        """Begin anew: the last iteration was not taken as it was."""
        self._went, self._left = [], []

    def taken(self, status: NDArray[np.int64], start: Point, end: Point) -> Point:
        """Where to go instead of to the ``end`` to which an iteration from ``start`` leads: to the mean of the last
        ends, with weights that add up to one, for which what is left to go is least."""
        if self._status is None or not np.array_equal(status, self._status):
            self.forget()
            self._status = status.copy()
        self._went, self._left = [*self._went[-DEPTH:], end], [*self._left[-DEPTH:], end[0] - start[0]]
        if len(self._left) < 2:
            return end
        changes = np.diff(np.array(self._left), axis=0).T
        weights, *_ = np.linalg.lstsq(changes, self._left[-1], rcond=ALIKE)
        mixed = [
            last - np.diff(np.array([went[k] for went in self._went]), axis=0).T @ weights for k, last in enumerate(end)
        ]
        return mixed[0], mixed[1]
