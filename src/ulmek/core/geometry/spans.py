"""Where the dimensions of a recipe stand on its solid: found by what a small change of each moves."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes.recipe import Recipe, Solid, Values

Array = NDArray[np.float64]
# By how much a dimension is changed to see what moves with it, and how well lengths must agree (shares of it).
CHANGE, SAME = 0.01, 1e-6


@dataclass(frozen=True)
class Span:
    """A dimension of a recipe and the two points (2, 3) mm, in the part's own axes, between which it is measured."""

    name: str
    ends: Array


def spans(recipe: Recipe, given: Values) -> list[Span]:
    """The lengths of a recipe that are seen on its solid, each between two points of it; others are left out.

    Raises
    ------
    GeometryError : as `Recipe.solid`.
    """
    values = {d.name: d.default for d in recipe.dimensions} | dict(given)
    base = _Outline.of(recipe.solid(values))
    found = []
    for d in recipe.dimensions:
        value = values[d.name]
        if d.kind != "length" or value == 0:
            continue
        for changed in (value * (1 + CHANGE), value * (1 - CHANGE)):
            try:
                after = _Outline.of(recipe.solid({**values, d.name: changed}))
            except GeometryError:
                continue
            ends = base.measured(value, after, changed)
            if ends is not None:
                found.append(Span(d.name, ends))
                break
    return found


@dataclass(frozen=True)
class _Outline:
    """What can be measured of a solid: corners (n, 2), arcs by middle (m, 2) and radius (m,), levels of layers (k,).

    Of a revolved solid the corners are radii and heights.
    """

    corners: Array
    middles: Array
    radii: Array
    levels: Array
    is_turned: bool

    @classmethod
    def of(cls, solid: Solid) -> "_Outline":
        segments = [s for r in solid.partition.regions for loop in (r.outer, *r.holes) for s in loop]
        arcs = [s for s in segments if s.centre is not None]
        is_layered = isinstance(solid, LayeredSolid)
        levels = {z for la in solid.layers for z in (la.bottom, la.top)} if isinstance(solid, LayeredSolid) else set()
        return cls(
            np.array([s.start for s in segments], dtype=float).reshape(-1, 2),
            np.array([s.centre for s in arcs], dtype=float).reshape(-1, 2),
            np.array([s.radius for s in arcs], dtype=float),
            np.array(sorted(levels)),
            not is_layered,
        )

    def measured(self, value: float, after: "_Outline", changed: float) -> Array | None:
        """The points (2, 3) between which ``value`` lies here and ``changed`` after it, the plainest to read."""
        if any(len(a) != len(b) for a, b in zip(self._lists(), after._lists(), strict=True)):
            return None
        best = min(self._fitting(value, after, changed), key=lambda f: f[0], default=None)
        return None if best is None else best[1]

    def _lists(self) -> tuple[Array, ...]:
        return self.corners, self.radii, self.levels

    def _fitting(self, value: float, after: "_Outline", changed: float) -> Iterator[tuple[tuple[float, ...], Array]]:
        """Rank and ends of everything that measures as wanted before and after."""

        def fits(before: Array, then: Array) -> NDArray[np.intp]:
            near = (np.abs(before - value) < SAME * value) & (np.abs(then - changed) < SAME * value)
            return np.argwhere(near)

        for share, rank in ((2.0, 0.0), (1.0, 1.0)):
            for (i,) in fits(share * self.radii, share * after.radii):
                (x, y), r = self.middles[i], self.radii[i]
                start = self._at(x - r, y) if share == 2 else self._at(x, y)
                yield (rank, -x, -y), np.array([start, self._at(x + r, y)])
            if self.is_turned:
                for (i,) in fits(share * self.corners[:, 0], share * after.corners[:, 0]):
                    r, z = self.corners[i]
                    yield (rank, -z), np.array([[(1 - share) * r, 0, z], [r, 0, z]])
        for i, j in fits(self._apart(self.levels), after._apart(after.levels)):
            x, y = self.corners[(self.corners @ [1.0, -1e-3]).argmax()]
            if i < j:
                yield (2.0, float(j - i)), np.array([[x, y, self.levels[i]], [x, y, self.levels[j]]])
        points, then = (np.vstack([o.corners, o.middles]) for o in (self, after))
        for axis in (0, 1):
            for i, j in fits(self._apart(points[:, axis]), self._apart(then[:, axis])):
                if i < j:
                    across = max(points[i, 1 - axis], points[j, 1 - axis])
                    ends = np.array([points[i], points[j]])
                    ends[:, 1 - axis] = across
                    aslant = abs(points[i, 1 - axis] - points[j, 1 - axis])
                    yield (3.0, round(aslant, 6), -across), np.array([self._at(*ends[0]), self._at(*ends[1])])

    def _at(self, x: float, y: float) -> list[float]:
        """A point of the outline in space: on top of layers, or turned into the plane y = 0."""
        return [x, 0.0, y] if self.is_turned else [x, y, float(self.levels[-1])]

    @staticmethod
    def _apart(values: Array) -> Array:
        return np.abs(values[:, None] - values[None])
