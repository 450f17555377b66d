"""Mapped quadrilaterals: four-sided patches, rings between two loops, and discs with a square core."""

import numpy as np
from numpy.typing import NDArray

Grid = tuple[NDArray[np.float64], NDArray[np.int64]]


def patch(sides: list[NDArray[np.float64]]) -> Grid:
    """Transfinite patch (Gordon and Hall 1973) inside four sides run counter-clockwise.

    ``sides`` are point arrays that include both corners; opposite ones have equal lengths.
    Returns all points, row by row from the first side, and quads into them.
    """
    bottom, right, top, left = sides[0], sides[1], sides[2][::-1], sides[3][::-1]
    u = np.linspace(0, 1, len(bottom))[None, :, None]
    v = np.linspace(0, 1, len(right))[:, None, None]
    grid = (
        (1 - v) * bottom[None]
        + v * top[None]
        + (1 - u) * left[:, None]
        + u * right[:, None]
        - (1 - u) * (1 - v) * bottom[0]
        - u * (1 - v) * bottom[-1]
        - (1 - u) * v * top[0]
        - u * v * top[-1]
    )
    return grid.reshape(-1, 2), grid_quads(len(right), len(bottom))


def grid_quads(rows: int, columns: int, *, wrap: bool = False) -> NDArray[np.int64]:
    """Quads of a grid numbered row by row; ``wrap`` joins the last column to the first."""
    ids = np.arange(rows * columns).reshape(rows, columns)
    if wrap:
        ids = np.hstack([ids, ids[:, :1]])
    return np.stack([ids[:-1, :-1], ids[:-1, 1:], ids[1:, 1:], ids[1:, :-1]], axis=-1).reshape(-1, 4)


def ring(outer: NDArray[np.float64], inner: NDArray[np.float64], rows: int) -> Grid:
    """Ring between two loops of as many points, ``inner`` already turned to face ``outer``.

    Points run loop by loop from the outer one inwards; quads are counter-clockwise for
    counter-clockwise loops.
    """
    s = np.linspace(0, 1, rows + 1)[:, None, None]
    grid = (1 - s) * outer[None] + s * inner[None]
    return grid.reshape(-1, 2), grid_quads(rows + 1, len(outer), wrap=True)


def disc(outer: NDArray[np.float64], rows: int, *, reach: float = 0.6, growth: float = 1.0) -> Grid:
    """Disc inside a counter-clockwise loop of 4k points: a rounded square core and ``rows`` rings.

    The outer loop's points come first. The square goes ``reach`` of the way out; each ring is ``growth`` times as
    wide as the one inside it.
    """
    n = len(outer)
    k = n // 4
    centre = outer.mean(axis=0)
    rim = outer - centre
    along_side = np.arange(n) % k / k * 2 - 1
    # Sides drawn in by 14 %: between a square (29 %) and a circle, best for the corner quads.
    core_rim = centre + reach * rim * (0.86 + 0.14 * along_side**2)[:, None]
    points, quads = ring(outer, core_rim, rows)
    widths = growth ** np.arange(rows)[::-1]
    inward = np.concatenate([[0.0], np.cumsum(widths)]) / widths.sum()
    points = (outer + inward[:, None, None] * (core_rim - outer)).reshape(-1, 2)
    last = rows * n
    sides = [core_rim[np.arange(i * k, (i + 1) * k + 1) % n] for i in range(4)]
    core, core_quads = patch(sides)
    side = k + 1
    row, column = np.divmod(np.arange(side * side), side)
    numbers = np.empty(side * side, np.int64)
    interior = (row > 0) & (row < k) & (column > 0) & (column < k)
    numbers[interior] = last + n + np.arange(interior.sum())
    numbers[row == 0] = last + np.arange(side)
    numbers[(column == k) & (row > 0)] = last + (k + np.arange(1, side)) % n
    numbers[(row == k) & (column < k)] = last + (2 * k + np.arange(1, side))[::-1] % n
    numbers[(column == 0) & (row > 0) & (row < k)] = last + (3 * k + np.arange(1, k))[::-1] % n
    return np.vstack([points, core[interior]]), np.vstack([quads, numbers[core_quads]])
