"""Segments, loops and partitions: lengths and points by hand, shared segments found whichever way they run."""

import numpy as np
import pytest

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid
from ulmek.core.geometry.outline import Partition, Region, Segment, circle, polygon

SQUARE = polygon(["south", "east", "north", "west"], [(0, 0), (10, 0), (10, 10), (0, 10)])


@pytest.mark.parametrize(
    ("end", "ccw", "length", "middle"),
    [
        ((0.0, 5.0), True, 5 * np.pi / 2, (5 / np.sqrt(2), 5 / np.sqrt(2))),
        ((0.0, 5.0), False, 15 * np.pi / 2, (-5 / np.sqrt(2), -5 / np.sqrt(2))),
        ((-5.0, 0.0), True, 5 * np.pi, (0.0, 5.0)),
        ((-5.0, 0.0), False, 5 * np.pi, (0.0, -5.0)),
    ],
)
def test_arcs(end: tuple[float, float], ccw: bool, length: float, middle: tuple[float, float]) -> None:
    arc = Segment("arc", (5.0, 0.0), end, (0.0, 0.0), ccw)
    assert arc.length == pytest.approx(length)
    assert arc.radius == 5.0
    assert np.allclose(arc.points(np.array([0.5]))[0], middle)
    assert np.array_equal(arc.points(np.array([0.0, 1.0])), [(5.0, 0.0), end])
    assert np.allclose(arc.reversed().points(np.array([0.25])), arc.points(np.array([0.75])))


def test_lines() -> None:
    line = Segment("line", (1.0, 2.0), (4.0, 6.0))
    assert line.length == 5.0
    assert line.radius == float("inf")
    assert np.allclose(line.points(np.array([0.2])), [[1.6, 2.8]])


@pytest.mark.parametrize("arcs", [2, 3, 4, 6])
def test_a_circle_closes_and_has_its_length(arcs: int) -> None:
    loop = circle("rim", (3.0, -2.0), 7.0, arcs=arcs, start=0.4)
    assert sum(s.length for s in loop) == pytest.approx(14 * np.pi)
    assert loop[-1].end == loop[0].start
    Region("disc", loop).polygon()
    Partition.of([Region("disc", loop)])


def test_a_segment_shared_by_two_regions_is_stored_once() -> None:
    right = polygon(["south", "east", "north", "between"], [(10, 0), (20, 0), (20, 10), (10, 10)])
    partition = Partition.of([Region("left", SQUARE), Region("right", right)])
    assert len(partition.segments) == 7
    uses = [u for loops in partition.loops for loop in loops for u in loop]
    shared = [u for u in uses if u.index == 1]
    assert sorted(u.forward for u in shared) == [False, True]


def test_two_arcs_between_the_same_points_are_not_the_same() -> None:
    upper = Segment("upper", (5.0, 0.0), (-5.0, 0.0), (0.0, 0.0), True)
    lower = Segment("lower", (-5.0, 0.0), (5.0, 0.0), (0.0, 0.0), True)
    assert len(Partition.of([Region("disc", (upper, lower))]).segments) == 2


BAD_CORNERS = [((float("nan"), 0.0), "not a number"), ((float("inf"), 0.0), "not a number"), ((0.0, 0.0), "no length")]


@pytest.mark.parametrize(("corner", "said"), BAD_CORNERS)
def test_bad_numbers_are_named(corner: tuple[float, float], said: str) -> None:
    with pytest.raises(GeometryError, match=said):
        Partition.of([Region("bad", polygon("side", [(0, 0), corner, (10, 10), (0, 10)]))])


def _layers(*heights: tuple[float, float]) -> tuple[Layer, ...]:
    return tuple(Layer(f"slab{i}", a, b, frozenset({"square"})) for i, (a, b) in enumerate(heights))


@pytest.mark.parametrize(
    ("layers", "said"),
    [
        (_layers((0, 5), (6, 9)), "gap or overlap"),
        (_layers((0, 5), (4, 9)), "gap or overlap"),
        (_layers((0, 0)), "no height"),
        (_layers((0, 5), (5, 3)), "no height"),
        ((Layer("slab", 0, 5, frozenset()),), "names regions"),
        ((Layer("slab", 0, 5, frozenset({"circle"})),), "names regions"),
    ],
)
def test_layers_must_stack(layers: tuple[Layer, ...], said: str) -> None:
    partition = Partition.of([Region("square", SQUARE)])
    with pytest.raises(GeometryError, match=said):
        LayeredSolid(partition, layers, lambda layer, kind, item: item)


def test_volume_of_layers() -> None:
    solid = LayeredSolid(Partition.of([Region("square", SQUARE)]), _layers((0, 5), (5, 12)), lambda *_: "skin")
    assert solid.volume() == pytest.approx(1200.0)
