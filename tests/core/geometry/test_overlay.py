"""Outlines laid over each other: regions, what fills them, and names by layer; skins and what is inside."""

import numpy as np
import pytest

from ulmek.core.geometry.outline import Partition, Segment, circle, polygon
from ulmek.core.geometry.overlay import overlay
from ulmek.core.geometry.winding import winding


def _square(name: str, low: float, high: float) -> tuple[Segment, ...]:
    return polygon(name, [(low, low), (high, low), (high, high), (low, high)])


def test_outlines_that_cross_share_their_regions() -> None:
    regions, filled, names = overlay([_square("a", 0, 10), _square("b", 5, 15)])
    Partition.of(regions)
    area = {r.name: r.area() for r in regions}
    assert sorted(area.values()) == pytest.approx([25, 75, 75])
    assert [sum(area[n] for n in f) for f in filled] == pytest.approx([100, 100])
    assert len(filled[0] & filled[1]) == 1
    # Pieces of a side keep its name in the layer that drew it, and have none in the other.
    assert {tuple(n) for n in names.values()} == {("a", ""), ("", "b")}


def test_a_hole_that_starts_elsewhere_is_the_same_hole() -> None:
    plate, boss = _square("side", 0, 20), circle("boss", (10, 10), 8)
    hole = circle("hole", (10, 10), 5)
    turned = circle("bore", (10, 10), 5, start=0.4)
    regions, filled, names = overlay([[*plate, *hole], [*boss, *turned]])
    area = {r.name: r.area() for r in regions}
    assert sum(area[n] for n in filled[0]) == pytest.approx(400 - 25 * np.pi)
    assert sum(area[n] for n in filled[1]) == pytest.approx(39 * np.pi)
    shared = [n for n in names.values() if all(n)]
    assert {tuple(n) for n in shared} == {("hole", "bore")}
    assert len(shared) == 8
    Partition.of(regions)


def test_tangent_arcs_and_lines_bound_what_they_should() -> None:
    # A slot: two lines and two half circles, and a circle that touches it from inside at one end.
    slot = [
        Segment("low", (0, -5), (20, -5)), Segment("end", (20, -5), (20, 5), (20, 0)),
        Segment("high", (20, 5), (0, 5)), Segment("end", (0, 5), (0, -5), (0, 0)),
    ]  # fmt: skip
    regions, filled, _ = overlay([slot, circle("pin", (21, 0), 4)])
    area = {r.name: r.area() for r in regions}
    assert sum(area[n] for n in filled[0]) == pytest.approx(200 + 25 * np.pi)
    assert sum(area[n] for n in filled[1]) == pytest.approx(16 * np.pi)
    assert filled[1] < filled[0]


def test_winding_counts_once_inside_and_not_at_all_outside() -> None:
    corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], float)
    skin = corners[[[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]]]
    points = np.array([[0.1, 0.1, 0.1], [0.9, 0.9, 0.9], [-0.01, 0.2, 0.2], [0.3, 0.3, 0.3]])
    assert winding(points, skin) == pytest.approx([1, 0, 0, 1], abs=1e-12)


def test_winding_of_many_triangles_is_right_to_two_hundredths_near_and_far() -> None:
    around, up = np.meshgrid(np.linspace(0, 2 * np.pi, 81), np.linspace(0, np.pi, 41))
    ball = np.stack([np.sin(up) * np.cos(around), np.sin(up) * np.sin(around), np.cos(up)], axis=-1)
    a, b, c, d = ball[:-1, :-1], ball[1:, :-1], ball[1:, 1:], ball[:-1, 1:]
    skin = np.concatenate([np.stack([a, b, c], axis=2), np.stack([a, c, d], axis=2)]).reshape(-1, 3, 3)
    way = np.random.default_rng(1).normal(size=(400, 3))
    way /= np.linalg.norm(way, axis=1)[:, None]
    for far, inside in ((0.2, 1), (0.9, 1), (0.99, 1), (1.01, 0), (1.2, 0), (3.0, 0)):
        assert np.abs(winding(far * way, skin) - inside).max() < 0.02
