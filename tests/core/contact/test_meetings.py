"""Faces in no pair that meet, found by where they are now and where they were at the start."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, Recorder, block_body
from ulmek.core.contact.meetings import Meeting, Meetings
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.layout import lay_out
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.solid import mesh_flat
from ulmek.core.model import Body, Face, Handle, Increments, Load, Model, Pair, PairLaw, Step, Support, Wall
from ulmek.core.solve.choice import choose_path
from ulmek.core.solve.history import solve_history

LOWER, UPPER = block_body("lower", (40, 40, 10), 5), block_body("upper", (20, 20, 10), 4, at=12)
SEAT = Pair("seat", (Face("upper", "bottom"),), (Face("lower", "top"),), PairLaw(True, "freely"), 1.0)


def _met(model: Model, moves: dict[str, np.ndarray]) -> tuple[Meeting, ...]:
    layout = lay_out(model)
    u = np.zeros((layout.n_total, 3))
    for body, start in zip(model.bodies, model.offsets(), strict=False):
        if body.name in moves:
            u[start : start + len(body.mesh.nodes)] = moves[body.name]
    for name, row in layout.handles.items():
        u[row] = moves.get(name, 0.0)
    return Meetings(model, layout).found(u)


def _model(*bodies: Body, pairs: tuple[Pair, ...] = (), **more: object) -> Model:
    return Model(bodies, pairs, (), (), (), (), **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("down", "pairs", "depth"), [(1.9, (), None), (2.5, (), 0.5), (2.5, (SEAT,), None), (0.0, (), None)]
)
def test_a_block_that_goes_into_another_is_told_unless_they_are_a_pair(
    down: float, pairs: tuple[Pair, ...], depth: float | None
) -> None:
    found = _met(_model(LOWER, UPPER, pairs=pairs), {"upper": np.array([0, 0, -down])})
    if depth is None:
        assert found == ()
        return
    (one,) = [m for m in found if {m.a.name, m.b.name if m.b else ""} == {"bottom", "top"}]
    assert one.depth == pytest.approx(depth, rel=1e-9)
    # The nodes of the smaller face are within the larger one.
    assert one.nodes >= len(np.unique(UPPER.mesh.faces["bottom"]))
    assert one.at[2] == pytest.approx(12 - down)


def test_what_was_drawn_in_each_other_and_what_lies_behind_a_thin_plate_has_not_met() -> None:
    sunk = dataclasses.replace(UPPER, mesh=UPPER.mesh.placed(np.eye(3), np.array([0, 0, -2.5])))
    assert _met(_model(LOWER, sunk), {"upper": np.array([0, 0, -0.2])}) == ()
    # Bent and squeezed, its two sides are nearer to each other than its facets are large, but on no wrong side.
    plate = block_body("plate", (40, 40, 3), 8)
    x, z = plate.mesh.nodes[:, 0], plate.mesh.nodes[:, 2]
    bent = np.column_stack([np.zeros_like(x), np.zeros_like(x), 0.01 * x**2 - 0.4 * z])
    assert _met(_model(plate), {"plate": bent}) == ()


def test_a_slot_that_closes_is_told_of_one_part() -> None:
    """The two lips of a body are two blocks here that count as one."""
    upper = UPPER.mesh.nodes
    whole = dataclasses.replace(
        LOWER.mesh,
        nodes=np.vstack([LOWER.mesh.nodes, upper]),
        cells=np.vstack([LOWER.mesh.cells, UPPER.mesh.cells + len(LOWER.mesh.nodes)]),
        faces=LOWER.mesh.faces | {f"lip.{n}": f + len(LOWER.mesh.nodes) for n, f in UPPER.mesh.faces.items()},
    )
    model = _model(Body("clamp", whole, STEEL))
    closing = np.zeros((len(whole.nodes), 3))
    closing[len(LOWER.mesh.nodes) :, 2] = -2.1
    (one,) = [
        m for m in _met(model, {"clamp": closing}) if m.b is not None and {m.a.name, m.b.name} == {"lip.bottom", "top"}
    ]
    assert one.depth == pytest.approx(0.1, rel=1e-9)
    assert _met(model, {"clamp": closing * 0.95}) == ()


def test_the_side_of_a_part_that_tips_over_meets_the_wall_that_its_foot_stands_on() -> None:
    wall = Wall("floor", "plane", (0, 0, 12), (0, 0, 1), handle="lift")
    foot = Pair("foot", (Face("upper", "bottom"),), (), PairLaw(True, "freely"), 1.0, wall="floor")
    model = _model(LOWER, UPPER, pairs=(foot,), walls=(wall,), handles=(Handle("lift", (0, 0, 12)),))
    x, z = UPPER.mesh.nodes[:, 0], UPPER.mesh.nodes[:, 2] - 12
    # Laid on its side about its edge, and a little deeper: z of the right side is 12 − 0.3.
    edge = x.max()
    tipped = np.column_stack([edge + z - x, np.zeros_like(x), (edge - x) - z - 0.3])
    lowered = np.array([0.0, 0.0, -1.0])
    (one,) = [m for m in _met(model, {"upper": tipped}) if m.wall is not None]
    assert (one.a.name, one.wall, round(one.depth, 9)) == ("right", "floor", 0.3)
    # The lower block is in no pair with the wall and lies behind it: not told. A wall that moves away is not met.
    assert [m for m in _met(model, {"upper": tipped, "lift": lowered}) if m.wall is not None] == []


def _flat(name: str, size: tuple[float, float], mesh: float, at: float, material: object) -> Body:
    solid = RECIPES["block"].solid({"length": size[0], "depth": size[1], "height": 1.0})
    flat = mesh_flat(solid, size=mesh)
    low, high = flat.nodes.min(axis=0), flat.nodes.max(axis=0)
    nodes = flat.nodes - np.array([(low[0] + high[0]) / 2, low[1] - at, 0.0])
    return Body(name, dataclasses.replace(flat, nodes=nodes), material)  # type: ignore[arg-type]


def test_rubber_that_folds_onto_its_platen_is_told_and_held_by_the_pair_that_is_offered() -> None:
    pad = _flat("pad", (20, 20), 2.0, 10, Rubber(0.5, 0.0, 100.0))
    platen = _flat("platen", (60, 10), 5.0, 0, STEEL)
    seat = Pair("seat", (Face("pad", "near"),), (Face("platen", "far"),), PairLaw(True, "no"), 2.0)
    top = (Face("pad", "far"),)
    loads = (Load("down", "displacement", top, (0, -1, 0)), Load("across", "displacement", top, (1, 0, 0)))
    floor = Support("floor", (Face("platen", "near"),), (True, True, False))
    step = Step("squeeze", {"down": 7.4}, increments=Increments(0.05, 0.001, 0.1, 200), large=True)

    def met(*pairs: Pair) -> list[Meeting]:
        model = Model((pad, platen), pairs, (), (floor,), loads, (step,), space="plane-strain")
        path, _ = choose_path(model)
        heard = Recorder()
        solve_history(path, heard)
        watched = Meetings(model, path.system.constraints.layout)
        return [m for i in heard.increments for m in watched.found(i.state.u)]

    folded = met(seat)
    assert {(m.a.name, m.b.name if m.b else "") for m in folded} == {("left", "far"), ("right", "far")}
    law = PairLaw(True, "friction", 0.5)
    sides = [
        Pair(side, (Face("pad", side),), (Face("platen", "far"),), law, folded[0].size) for side in ("left", "right")
    ]
    assert met(seat, *sides) == []
