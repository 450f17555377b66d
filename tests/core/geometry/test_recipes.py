"""Every recipe: solids that exist are made, impossible ones are refused with the place."""

import numpy as np
import pytest

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.outline import Partition, Region, Segment, circle, polygon
from ulmek.core.geometry.recipes import RECIPES


@pytest.mark.parametrize("kind", RECIPES)
def test_limits_of_every_dimension_hold(kind: str) -> None:
    recipe = RECIPES[kind]
    for d in recipe.dimensions:
        assert d.low <= d.default <= d.high
        for outside in (d.low - max(1.0, abs(d.low)), d.high * 2 + 1, float("nan")):
            with pytest.raises(GeometryError) as caught:
                recipe.solid({d.name: outside})
            assert caught.value.where == d.name
    with pytest.raises(GeometryError, match="no dimension"):
        recipe.solid({"colour": 1.0})


@pytest.mark.parametrize(
    ("kind", "values", "where"),
    [
        ("plate", {"hole_diameter": 300.0}, "hole_diameter"),
        ("plate", {"hole_diameter": 90.0, "hole_spacing_x": 60.0}, "hole_diameter"),
        ("bracket", {"arm_thickness": 170.0}, "arm_thickness"),
        ("bracket", {"arm_height": 200.0}, "arm_height"),
        ("bracket", {"hole_spacing_x": 20.0}, "hole_diameter"),
        ("washer", {"outer_diameter": 17.0}, "outer_diameter"),
        ("bolt", {"across_flats": 16.0}, "across_flats"),
        ("plate", {"hole_columns": 1.5}, "hole_columns"),
    ],
)
def test_impossible_combinations_name_the_dimension(kind: str, values: dict[str, float], where: str) -> None:
    with pytest.raises(GeometryError) as caught:
        RECIPES[kind].solid(values)
    assert caught.value.where == where
    assert caught.value.message


def test_volumes_agree_with_hand_calculation() -> None:
    bracket = RECIPES["bracket"].solid({"hole_columns": 0, "arm_height": 100.0})
    assert bracket.volume() == pytest.approx(160 * 180 * 18 + 20 * 100 * 110)
    # A hexagon of 24 mm across flats has the area √3/2 · 24².
    bolt = RECIPES["bolt"].solid({})
    hexagon = np.sqrt(3) / 2 * 24**2
    assert bolt.volume() == pytest.approx(23 * hexagon + 38 * np.pi * 64, rel=2e-3)


def test_bad_outlines_are_refused() -> None:
    bow_tie = polygon("side", [(0, 0), (10, 10), (10, 0), (0, 10)])
    with pytest.raises(GeometryError, match="crosses itself"):
        Partition.of([Region("bow", bow_tie)])
    open_loop = (Segment("a", (0, 0), (10, 0)), Segment("b", (10, 0), (10, 9)), Segment("c", (10, 10), (0, 0)))
    with pytest.raises(GeometryError, match="open by 1 mm"):
        Partition.of([Region("gap", open_loop)])
    square = polygon("side", [(0, 0), (10, 0), (10, 10), (0, 10)])
    with pytest.raises(GeometryError, match="hole leaves it"):
        Partition.of([Region("plate", square, (circle("hole", (9, 5), 3),))])
    with pytest.raises(GeometryError, match="overlap"):
        Partition.of([Region("one", square), Region("two", polygon("s", [(5, 5), (15, 5), (15, 15), (5, 15)]))])
    with pytest.raises(GeometryError, match="counter-clockwise"):
        Partition.of([Region("back", tuple(s.reversed() for s in reversed(square)))])
