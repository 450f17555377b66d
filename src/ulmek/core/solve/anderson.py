"""Iterations that converge linearly, made faster by what the last ones have shown (Anderson 1965; Walker, Ni 2011)."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Point = tuple[Array, Array]

# How many changes of the iteration are remembered.
DEPTH = 4
# Changes that point the same way to this accuracy tell nothing new.
ALIKE = 1e-6
# An iteration is slow that leaves more than this share of what was left, twice in a row about the same.
SLOW, ABOUT = 0.1, 0.4


class Anderson:
    """Remembers from where iterations went where, while nothing changes its status.

    Points are masters (mm, rad) and contact forces (N); how far an iteration still goes is told by the masters. What
    converges as Newton's method should is left alone.
    """

    def __init__(self) -> None:
        self._status: NDArray[np.int64] | None = None
        self._went: list[Point] = []
        self._left: list[Array] = []
        self._shares: list[float] = []
        self._is_slow = False

    def forget(self) -> None:
        """Begin anew: the last iteration was not taken as it was."""
        self._went, self._left, self._shares, self._is_slow = [], [], [], False

    def taken(self, status: NDArray[np.int64], start: Point, end: Point) -> Point:
        """Where to go instead of to the ``end`` to which an iteration from ``start`` leads: to the mean of the last
        ends, with weights that add up to one, for which what is left to go is least."""
        left = end[0] - start[0]
        if self._status is None or not np.array_equal(status, self._status):
            self.forget()
            self._status = status.copy()
        if self._left:
            self._note(float(np.linalg.norm(left)) / max(float(np.linalg.norm(self._left[-1])), 1e-300))
        self._went, self._left = [*self._went[-DEPTH:], end], [*self._left[-DEPTH:], left]
        if not self._is_slow:
            return end
        changes = np.diff(np.array(self._left), axis=0).T
        weights, *_ = np.linalg.lstsq(changes, left, rcond=ALIKE)
        mixed = [
            last - np.diff(np.array([went[k] for went in self._went]), axis=0).T @ weights for k, last in enumerate(end)
        ]
        return mixed[0], mixed[1]

    def _note(self, share: float) -> None:
        """Judge the pace by the share that the last iteration has left."""
        if share >= 1.0:
            self.forget()
            return
        before = self._shares[-1] if self._shares else 0.0
        self._is_slow = self._is_slow or (min(share, before) > SLOW and abs(share - before) < ABOUT)
        self._shares.append(share)
