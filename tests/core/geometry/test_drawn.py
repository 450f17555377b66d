"""Drawings: solids as exact as their outlines, and every fault told where it is."""

from dataclasses import replace

import numpy as np
import pytest

from ulmek.core.errors import GeometryError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.drawn import DrawnEdge, DrawnLayer, DrawnOutline, drawn_solid, faults_of
from ulmek.core.mesh.solid import mesh_flat, mesh_solid

Point = tuple[float, float]
FULL = np.pi


def _ring(*corners: Point, **edges: DrawnEdge) -> DrawnOutline:
    """Straight edges a, b, c … that end in the corners; ``edges`` stand in the place of those of their name."""
    plain = [DrawnEdge(n, c) for n, c in zip("abcdefghij", corners, strict=False)]
    return DrawnOutline("o", tuple(edges.get(e.name, e) for e in plain))


def _box(x: float = 0.0, **edges: DrawnEdge) -> DrawnOutline:
    """40 × 20 mm from (x, 0): edges a below, b right, c above, d left."""
    return _ring((x + 40, 0), (x + 40, 20), (x, 20), (x, 0), **edges)


def _round(x: float, y: float, diameter: float, name: str = "bore", *, is_hole: bool = True) -> DrawnOutline:
    return DrawnOutline(name, circle=((x, y), diameter), is_hole=is_hole)


def _layer(height: float, *outlines: str, name: str = "l") -> DrawnLayer:
    return DrawnLayer(name, height, outlines)


BOW = DrawnEdge("b", (40, 20), radius=12.0)
PART_OF_BOW = 12.0**2 * np.arcsin(10 / 12) - 10 * np.sqrt(12.0**2 - 10.0**2)


@pytest.mark.parametrize(
    ("outlines", "layers", "volume", "faces"),
    [
        ([_box()], [_layer(10, "o")], 8000, "a b bottom c d top"),
        ([_box(), _round(20, 10, 8)], [_layer(10, "o", "bore")], 8000 - 160 * FULL, "a b bore bottom c d top"),
        ([_box(b=BOW)], [_layer(10, "o")], 8000 + 10 * PART_OF_BOW, "a b bottom c d top"),
        # The same from the other side of the arc, run the other way round, and with more than half a turn.
        ([_ring((0, 20), (40, 20), (40, 0), (0, 0), c=DrawnEdge("c", (40, 0), 12.0, turns_left=False))],
         [_layer(10, "o")], 8000 + 10 * PART_OF_BOW, "a b bottom c d top"),
        ([_box(b=DrawnEdge("b", (40, 20), 12.0, is_long=True))], [_layer(10, "o")],
         8000 + 10 * (FULL * 144 - PART_OF_BOW), "a b bottom c d top"),
        ([_box(a=DrawnEdge("a", (40, 0), corner=4))], [_layer(10, "o")], 8000 - 160 + 40 * FULL, "a b bottom c d top"),
        # A hub on a base, bored through both; and a notch where the hole leaves the outline.
        ([_box(), _round(20, 10, 12, "hub", is_hole=False), _round(20, 10, 8)],
         [_layer(10, "o", "bore", name="base"), _layer(8, "hub", "bore")],
         (800 - 16 * FULL) * 10 + 20 * FULL * 8, "a b base.top bore bottom c d hub top"),
        ([_box(), _round(40, 10, 8)], [_layer(10, "o", "bore")], 8000 - 80 * FULL, "a b bore bottom c d top"),
        # Turned: a pin on its axis, a ring clear of it, a ball.
        ([_box()], None, FULL * 40**2 * 20, "a b c"),
        ([_box(5)], None, FULL * (45**2 - 5**2) * 20, "a b c d"),
        ([_ring((10, -10), (0, 0), (0, -20), a=DrawnEdge("a", (10, -10), 10.0), b=DrawnEdge("b", (0, 0), 10.0))], None,
         4000 / 3 * FULL, "a b"),
    ],
)  # fmt: skip
def test_a_drawing_is_as_large_as_its_outlines_say(
    outlines: list[DrawnOutline], layers: list[DrawnLayer] | None, volume: float, faces: str
) -> None:
    solid = drawn_solid(outlines, layers)
    assert solid.volume() == pytest.approx(volume, rel=1e-12)
    assert kernel.volume(kernel.shape_of(solid)) == pytest.approx(volume, rel=1e-7)
    mesh = mesh_solid(solid, size=4.0, per_turn=48)
    assert mesh.volume() == pytest.approx(volume, rel=0.01)
    assert " ".join(sorted(mesh.faces)) == faces
    if layers is not None and len(layers) == 1:
        assert mesh_flat(solid, size=4.0).volume() * 10 == pytest.approx(volume, rel=0.02)


@pytest.mark.parametrize(
    ("outlines", "layers", "said", "edges", "at"),
    [
        ([_ring((40, 0))], [_layer(1, "o")], "is open", (), None),
        ([_ring((40, 0), (0, 20), (40, 20), (0, 0))], [_layer(1, "o")], "'b' and 'd' meet", (1, 3), (20, 10)),
        ([_ring((40, 0), (20, 10), (40, 20), (0, 20), (20, 10), (0, 0))], [_layer(1, "o")], "touch", (1, 4), (20, 10)),
        ([_ring((40, 0), (40, 20), (40, 5), (0, 20), (0, 0))], [_layer(1, "o")], "'b' and 'c' meet", (1, 2), (40, 5)),
        ([_box(b=DrawnEdge("b", (40, 20), 5.0))], [_layer(1, "o")], "cannot span the 20 mm", (1,), (40, 20)),
        ([_box(b=DrawnEdge("b", (40, 0)))], [_layer(1, "o")], "has no length", (1,), (40, 0)),
        ([_box(d=DrawnEdge("d", (0, 0), 10.0, turns_left=False))], [_layer(1, "o")], "turns back", (2, 3), (0, 20)),
        ([_box(a=DrawnEdge("a", (40, 0), corner=15), b=DrawnEdge("b", (40, 20), corner=15))], [_layer(1, "o")],
         "more than its 20 mm", (1,), (40, 20)),
        ([_ring((40, 0), (20, 0), (0, 0))], [_layer(1, "o")], "meet at|turns back", (0, 1), (20, 0)),
        ([_box(), _round(36, 10, 8)], [_layer(1, "o", "bore")], "only touch", (), (40, 10)),
        ([_box(), replace(_ring((40, 10), (30, 14), (30, 6)), name="cut", is_hole=True)], [_layer(1, "o", "cut")],
         "a hole only touches", (), (40, 10)),
        ([_box(), _round(20, 10, 30)], [_layer(1, "o", "bore")], "falls in 2 pieces", (), None),
        ([_box(), _round(20, 10, 90)], [_layer(1, "o", "bore")], "leaves nothing", (), None),
        ([_round(20, 10, 90)], [_layer(1, "bore")], "no outline gives the layer material", (), None),
        ([_box(), _round(80, 10, 8, "far", is_hole=False)], [_layer(1, "o"), _layer(1, "far")],
         "does not stand", (), None),
        ([_box()], [_layer(0, "o")], "no height", (), None),
        ([_box()], [_layer(1, "p")], "no outline 'p'", (), None),
        ([_box(), _box()], [_layer(1, "o")], "two outlines are called 'o'", (), None),
        ([_box(-5)], None, "goes over the axis", (0,), (-5, 0)),
        ([_ring((10, -5), (10, 15), (0, 10), (5, 5), (0, 0))], None, "touches the axis in one point", (2,), (0, 10)),
        ([_round(3, 0, 6, "o", is_hole=False)], None, "touches the axis in one point", (0,), (0, 0)),
    ],
)  # fmt: skip
def test_what_no_solid_can_have_is_told_at_its_place(
    outlines: list[DrawnOutline], layers: list[DrawnLayer] | None, said: str, edges: tuple[int, ...],
    at: Point | None,
) -> None:  # fmt: skip
    faults = faults_of(outlines, layers)
    assert any(word in faults[0].message for word in said.split("|"))
    assert faults[0].edges == edges
    assert faults[0].hint
    if at is not None:
        assert faults[0].at == pytest.approx(at, abs=1e-9)
    with pytest.raises(GeometryError):
        drawn_solid(outlines, layers)
