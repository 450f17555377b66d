"""The full path against the condensed one, and what only it can do."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, Recorder, block_body
from ulmek.core.errors import NotConvergedError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import (
    Body,
    Bolt,
    Dynamics,
    Face,
    Handle,
    Increments,
    Load,
    Model,
    Pair,
    PairLaw,
    Spring,
    Step,
    Support,
)
from ulmek.core.review.balance import balance_of
from ulmek.core.solve import multigrid
from ulmek.core.solve.choice import choose_path, why_full
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.history import Increment, solve_history

FRICTION = PairLaw(True, "friction", 0.3)


def _solve(model: Model, way: str) -> list[Increment]:
    path, _ = choose_path(dataclasses.replace(model, path=way))  # type: ignore[arg-type]
    heard = Recorder()
    solve_history(path, heard)
    assert path.name == way
    for increment in heard.increments:
        balance = balance_of(path.system.constraints, model, increment)
        assert balance.closing_error < 1e-6
        assert max(balance.parts.values()) < 1e-6 * max(balance.scale, 1.0)
    return heard.increments


def _stack(law: PairLaw, enforcement: str) -> Model:
    lower = block_body("lower", (50, 50, 20), 13)
    upper = block_body("upper", (40, 40, 20), 9, at=20, turn=0.2)
    pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), law, 1.0, enforcement)  # type: ignore[arg-type]
    top = (Face("upper", "top"),)
    floor = Support("floor", (Face("lower", "bottom"),), (True, True, True))
    loads = (
        Load("lift", "displacement", top, (0, 0, 1)),
        Load("slide", "displacement", top, (1, 0, 0)),
        Load("side", "displacement", top, (0, 1, 0)),
    )
    moves = [{"lift": -0.01}, {"slide": 0.02}, {"slide": -0.02}, {"lift": 0.01}]
    return Model((lower, upper), (pair,), (), (floor,), loads, tuple(Step(f"s{i}", m) for i, m in enumerate(moves)))


def _bolted() -> Model:
    """A sleeve under a solid bolt's head, with a line bolt on a handle beside it, springs and a pull."""
    bolt = Body("bolt", mesh_layered(RECIPES["bolt"].solid({"grip": 40.0}), size=11.0, per_turn=10), STEEL)
    ring = {"inner_diameter": 17.0, "outer_diameter": 34.0, "thickness": 40.0}
    sleeve = Body("sleeve", mesh_layered(RECIPES["washer"].solid(ring), size=11.0, per_turn=12), STEEL)
    pairs = (
        Pair("head", (Face("bolt", "head.bearing"),), (Face("sleeve", "top"),), FRICTION, 1.0),
        Pair("nut", (Face("bolt", "nut.bearing"),), (Face("sleeve", "bottom"),), PairLaw(False, "no"), 1.0),
    )
    return Model(
        (bolt, sleeve),
        pairs,
        (Bolt("bolt", (0.0, 0.0, 1.0), body="bolt"), Bolt("tie", (0.0, 0.0, 1.0), head="eye", stiffness=5e4)),
        (Support("ground", (Face("bolt", "nut.end"),), (True, True, True)),),
        (Load("pull", "force", (Face("bolt", "head.end"),), (0.3, 0.0, 1.0)),),
        (Step("tighten", {}, {"bolt": 9e3, "tie": 2e3}), Step("pull", {"pull": 25e3})),
        handles=(Handle("eye", (30.0, 0.0, 40.0), (Face("sleeve", "rim"),), "averaging"),),
        springs=(Spring("prop", "eye", None, (200.0, 0.0, 0.0)),),
    )


def _stopped() -> Model:
    """A slider held by friction that is pushed against a stop 0.02 mm away, and drawn back."""

    def moved(body: Body, by: float) -> Body:
        return dataclasses.replace(
            body, mesh=dataclasses.replace(body.mesh, nodes=body.mesh.nodes + np.array([by, 0, 0]))
        )

    base = block_body("base", (60, 30, 15), 8)
    slider = moved(block_body("slider", (20, 30, 15), 7, at=15), -15)
    stop = moved(block_body("stop", (20, 30, 15), 9, at=15), 5.02)
    pairs = (
        Pair("slide", (Face("slider", "bottom"),), (Face("base", "top"),), PairLaw(True, "friction", 0.1), 1.0),
        Pair("weld", (Face("stop", "bottom"),), (Face("base", "top"),), PairLaw(False, "no"), 1.0),
        Pair("stop", (Face("slider", "right"),), (Face("stop", "left"),), PairLaw(True, "freely"), 1.0),
    )
    loads = (
        Load("press", "pressure", (Face("slider", "top"),)),
        Load("push", "force", (Face("slider", "top"),), (1, 0, 0)),
    )
    floor = Support("floor", (Face("base", "bottom"),), (True, True, True))
    steps = (Step("press", {"press": 20.0}), Step("push", {"push": 6e3}), Step("back", {"push": 0.0}))
    return Model((base, slider, stop), pairs, (), (floor,), loads, steps)


MODELS = {
    "stopped": _stopped,
    "friction": lambda: _stack(FRICTION, "exact"),
    "friction, penalty": lambda: _stack(FRICTION, "penalty"),
    "friction, augmented": lambda: _stack(FRICTION, "augmented"),
    "smooth": lambda: _stack(PairLaw(True, "freely"), "exact"),
    "captive": lambda: _stack(PairLaw(False, "freely"), "exact"),
    "tied": lambda: _stack(PairLaw(False, "no"), "exact"),
    "grip": lambda: _stack(PairLaw(True, "no"), "exact"),
    "bolted": _bolted,
}


@pytest.mark.parametrize("way", ["full", "iterative"])
@pytest.mark.parametrize("name", MODELS)
def test_all_paths_give_the_same_states(name: str, way: str, monkeypatch: pytest.MonkeyPatch) -> None:
    # So that small models have levels, and bolts border them.
    monkeypatch.setattr(multigrid, "COARSEST", 100)
    monkeypatch.setattr(multigrid, "LONG_ROW", 150)
    model = MODELS[name]()
    condensed, full = _solve(model, "condensed"), _solve(model, way)
    size = max(float(np.abs(i.state.u).max()) for i in condensed)
    peak = max(float(np.abs(i.joint.traction).max()) for i in condensed)
    # One path may cut an increment back at lift-off that the other takes: from there on friction remembers it.
    same = [(i.step, i.time) == (j.step, j.time) for i, j in zip(condensed, full, strict=False)]
    count = same.index(False) if False in same else len(same)
    assert count >= min(len(condensed), 12)
    for a, b in zip(condensed[:count], full[:count], strict=True):
        assert np.abs(a.state.u - b.state.u).max() < 1e-8 * size
        assert np.abs(a.joint.traction - b.joint.traction).max() < 1e-7 * peak
        assert np.allclose(a.bolt_force, b.bolt_force, rtol=1e-8)
        assert np.allclose(a.dissipated, b.dissipated, rtol=1e-6, atol=1e-9)


@pytest.mark.parametrize(
    ("name", "yielding"), [("friction", 1), ("friction, penalty", 0), ("bolted", 1), ("bolted", 0)]
)
def test_the_mixed_path_gives_the_states_of_the_full_one(name: str, yielding: int) -> None:
    """One body yields, the others are condensed; bolts that are held or tightened lie on the rim."""
    model = MODELS[name]()
    bodies = list(model.bodies)
    bodies[yielding] = dataclasses.replace(
        bodies[yielding], material=Plastic(210e3, 0.3, ((0.0, 15.0), (0.001, 150.0), (0.01, 500.0)))
    )
    model = dataclasses.replace(model, bodies=tuple(bodies))
    full, mixed = _solve(model, "full"), _solve(model, "mixed")
    size = max(float(np.abs(i.state.u).max()) for i in full)
    assert full[-1].state.internal.plastic_strain()[yielding].max() > 1e-5
    for a, b in zip(full, mixed, strict=True):
        assert np.abs(a.state.u - b.state.u).max() < 1e-8 * size
        assert np.allclose(a.bolt_force, b.bolt_force, rtol=1e-8)


def test_a_clearance_sleeps_until_its_faces_meet() -> None:
    """Then it is condensed once more; another load on the kept factor begins with it awake."""
    model = _stopped()
    path, heard = CondensedPath(model), Recorder()
    assert path.system.asleep == {"stop"}
    solve_history(path, heard)
    assert path.timing.factorizations == 2
    assert not path.system.asleep
    gap = heard.increments[-1].state.gap[path.system.nodes.pair == 2]
    assert max(i.joint.traction[path.system.nodes.pair == 2, 2].max() for i in heard.increments) > 1.0
    assert gap.min() > -1e-12
    again = CondensedPath(dataclasses.replace(model, steps=(model.steps[0],)), earlier=path)
    assert again.is_reused
    assert not again.system.asleep
    light = dataclasses.replace(model, steps=(model.steps[0], Step("push", {"push": 1e3})))
    light_path = CondensedPath(light)
    held = dataclasses.replace(model.pairs[2], law=PairLaw(False, "freely"))
    captive = CondensedPath(dataclasses.replace(light, pairs=(*model.pairs[:2], held)), earlier=light_path)
    assert not captive.is_reused
    assert not captive.system.asleep
    solve_history(light_path, Recorder())
    assert light_path.timing.factorizations == 1


def test_elastic_parts_are_condensed_where_contact_is_small() -> None:
    """A yielding pin on a large block mixes; a yielding plate as large as what it lies on does not."""
    soft = Plastic(210e3, 0.3, ((0.0, 15.0), (0.01, 500.0)))
    base = block_body("base", (80, 80, 60), 7)
    for across, mesh, name in ((8.0, 4.0, "mixed"), (80.0, 7.0, "full")):
        punch = dataclasses.replace(block_body("punch", (across, across, 6), mesh, at=60), material=soft)
        pair = Pair("joint", (Face("punch", "bottom"),), (Face("base", "top"),), FRICTION, 1.0)
        floor = Support("floor", (Face("base", "bottom"),), (True, True, True))
        press = Load("press", "pressure", (Face("punch", "top"),))
        path, reason = choose_path(Model((base, punch), (pair,), (), (floor,), (press,), (Step("s", {"press": 5.0}),)))
        assert path.name == name
        assert ("condensed" in reason) == (name == "mixed")


def test_the_choice_of_path_names_its_reason() -> None:
    model = _stack(FRICTION, "exact")
    soft = dataclasses.replace(model.bodies[0], material=Plastic(210e3, 0.3, ((0.0, 200.0),)))
    rubber = dataclasses.replace(model.bodies[0], material=Rubber(0.5, 0.0, 1000.0))
    assert why_full(model) == ""
    assert "yields" in why_full(dataclasses.replace(model, bodies=(soft, model.bodies[1])))
    assert "rubber" in why_full(dataclasses.replace(model, bodies=(rubber, model.bodies[1])))
    far = tuple(dataclasses.replace(s, large=True) for s in model.steps)
    assert "large motion" in why_full(dataclasses.replace(model, steps=far))
    shaken = tuple(dataclasses.replace(s, dynamics=Dynamics(1.0)) for s in model.steps)
    assert "inertia" in why_full(dataclasses.replace(model, steps=shaken))


@pytest.mark.parametrize("way", ["condensed", "full", "iterative"])
def test_a_support_can_let_go_and_hold_again_where_the_part_then_is(way: str) -> None:
    """A bar pulled while its guide holds, then free, then held again: the guide's reaction tells."""
    bar = block_body("bar", (40, 10, 10), 10)
    root = Support("root", (Face("bar", "left"),), (True, True, True))
    guide = Support("guide", (Face("bar", "right"),), (True, False, False))
    side = Support("side", (Face("bar", "near"),), (False, True, False))
    pull = Load("pull", "force", (Face("bar", "right"),), (1.0, 0.0, 0.0))
    one = Increments(1.0, 0.1, 1.0)
    steps = (
        Step("held", {"pull": 1000.0}, increments=one),
        Step("free", {}, increments=one, released=frozenset({"guide"})),
        Step("held again", {"pull": 3000.0}, increments=one),
    )
    model = Model((bar,), (), (), (root, guide, side), (pull,), steps)
    held, free, again = _solve(model, way)
    tip = bar.mesh.nodes[:, 0] > 20 - 1e-6
    assert np.abs(held.state.u[tip, 0]).max() == 0.0
    stretch = free.state.u[tip, 0].mean()
    assert stretch == pytest.approx(1000 * 40 / (210e3 * 100), rel=0.05)
    assert again.state.u[tip, 0].mean() == pytest.approx(stretch, rel=1e-9)


def test_a_load_beyond_the_plastic_limit_is_told_and_the_last_state_kept() -> None:
    bar = block_body("bar", (40, 10, 10), 10)
    bar = dataclasses.replace(bar, material=Plastic(210e3, 0.3, ((0.0, 200.0),)))
    supports = tuple(
        Support(face, (Face("bar", face),), held)  # type: ignore[arg-type]
        for face, held in (
            ("left", (True, False, False)),
            ("near", (False, True, False)),
            ("bottom", (False, False, True)),
        )
    )
    pull = Load("pull", "force", (Face("bar", "right"),), (1.0, 0.0, 0.0))
    model = Model((bar,), (), (), supports, (pull,), (Step("pull", {"pull": 25e3}),))
    path, _ = choose_path(model)
    heard = Recorder()
    with pytest.raises(NotConvergedError, match="yields"):
        solve_history(path, heard)
    # Limit 200 MPa · 100 mm²: the last good state lies within a least increment below.
    assert 20e3 - 25e3 * 0.02 <= heard.increments[-1].values[0] <= 20e3 * (1 + 1e-8)


def test_a_block_that_slides_takes_hardly_more_iterations_where_large_motion_is_followed() -> None:
    """Pressed, then dragged aside: what slides goes on sliding; faces that turn are caught up."""
    lower, upper = block_body("lower", (60, 40, 20), 8), block_body("upper", (30, 30, 15), 6, at=20, turn=0.15)
    pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), FRICTION, 1.0)
    top = (Face("upper", "top"),)
    floor = Support("floor", (Face("lower", "bottom"),), (True, True, True))
    loads = (Load("press", "pressure", top), Load("drag", "displacement", top, (1, 0, 0)),
             Load("side", "displacement", top, (0, 1, 0)))  # fmt: skip

    def iterations(*, large: bool) -> int:
        steps = (Step("press", {"press": 20.0}, large=large), Step("drag", {"drag": 2.0}, large=large))
        model = Model((lower, upper), (pair,), (), (floor,), loads, steps)
        return sum(i.iterations for i in _solve(model, "full"))

    assert iterations(large=True) < 2 * iterations(large=False)


def test_rubber_keeps_its_volume_while_it_is_squeezed() -> None:
    """A pad between rough plates, to three fifths of its height: it bulges."""
    pad = dataclasses.replace(block_body("pad", (20, 20, 10), 5), material=Rubber(0.5, 0.0, 500.0))
    top = (Face("pad", "top"),)
    floor = Support("floor", (Face("pad", "bottom"),), (True, True, True))
    loads = (Load("squeeze", "displacement", top, (0, 0, -1)), Load("x", "displacement", top, (1, 0, 0)),
             Load("y", "displacement", top, (0, 1, 0)))  # fmt: skip
    model = Model((pad,), (), (), (floor,), loads, (Step("s", {"squeeze": 4.0}, large=True),))
    path, _ = choose_path(model)
    heard = Recorder()
    solve_history(path, heard)
    end = heard.increments[-1].state.u[: len(pad.mesh.nodes)]
    volume = VolumeMesh(pad.mesh.nodes + end, pad.mesh.cells, pad.mesh.faces).volume()
    assert volume == pytest.approx(20 * 20 * 10, rel=0.01)


@pytest.mark.parametrize("way", ["condensed", "full"])
@pytest.mark.parametrize("at", [1, 4, 6])
def test_resumed_after_any_increment_a_run_ends_in_the_same_state(way: str, at: int) -> None:
    model = dataclasses.replace(_stack(FRICTION, "exact"), path=way)  # type: ignore[arg-type]
    model = dataclasses.replace(model, steps=model.steps[:3])
    whole, rest = Recorder(), Recorder()
    solve_history(choose_path(model)[0], whole)
    solve_history(choose_path(model)[0], rest, after=whole.increments[at])
    assert len(rest.increments) == len(whole.increments) - at - 1
    for a, b in zip(whole.increments[at + 1 :], rest.increments, strict=True):
        assert (a.step, a.time, a.number) == (b.step, b.time, b.number)
        assert np.abs(a.state.u - b.state.u).max() < 1e-10 * np.abs(a.state.u).max()
        assert np.allclose(a.slid_path, b.slid_path, atol=1e-12)
        assert np.allclose(a.dissipated, b.dissipated, rtol=1e-9)


def test_a_load_passes_the_points_of_its_course_and_may_jump() -> None:
    step = Step("s", {"pull": 10.0}, courses={"pull": ((0.0, 4.0), (0.3, 8.0))})
    assert [step.value("pull", t, 1.0, 10.0) for t in (0.15, 0.3, 1.0)] == [6.0, 8.0, 10.0]
    assert step.value("push", 0.5, 0.0, 3.0) == 1.5
    bar = block_body("bar", (40, 10, 10), 10)
    root, pull = (
        Support("root", (Face("bar", "left"),), (True, True, True)),
        Load("pull", "force", (Face("bar", "right"),), (1.0, 0.0, 0.0)),
    )
    increments = _solve(Model((bar,), (), (), (root,), (pull,), (step,)), "condensed")
    # Increments of a quarter, but one ends where the course bends.
    assert 0.3 in [i.time for i in increments]
    assert [float(i.values[0]) for i in increments if i.time == 0.3] == [8.0]


@pytest.mark.parametrize("way", ["condensed", "full", "iterative"])
def test_the_mean_of_a_face_is_moved_as_far_as_the_force_that_moves_it_moves_it(way: str) -> None:
    """An averaging handle that is moved, with its turns held, stiffens nothing: the same state as by its reactions."""
    model = _stack(FRICTION, "exact")
    grip = Handle("grip", (3.0, -2.0, 45.0), (Face("upper", "top"),), "averaging")
    press = Load("press", "force", (), (0, 0, -1), handle="grip")
    push = Load("push", "force", (), (0.6, 0.8, 0), handle="grip")
    steps = (Step("press", {"press": 5e3}), Step("push", {"push": 800.0}))
    by_force = dataclasses.replace(model, handles=(grip,), loads=(press, push), steps=steps)
    pushed = _solve(by_force, way)
    row = len(model.nodes())
    ends = [next(i for i in pushed if i.step == k and i.time == 1.0) for k in (0, 1)]
    down, aside = (i.state.u[row] for i in ends)
    loads = tuple(
        Load(n, "displacement", (), d, handle="grip") for n, d in (("x", (1, 0, 0)), ("y", (0, 1, 0)), ("z", (0, 0, 1)))
    )
    turned = tuple(
        Load(f"turn-{n}", "rotation", (), d, handle="grip")
        for n, d in (("x", (1, 0, 0)), ("y", (0, 1, 0)), ("z", (0, 0, 1)))
    )
    told = [dict(zip(("x", "y", "z"), v.tolist(), strict=True)) for v in (down, aside)]
    also = [dict(zip(("turn-x", "turn-y", "turn-z"), i.state.u[row + 1].tolist(), strict=True)) for i in ends]
    steps = tuple(Step(n, a | b) for n, a, b in zip(("press", "push"), told, also, strict=True))
    moved = dataclasses.replace(by_force, loads=(*loads, *turned), steps=steps)
    path, _ = choose_path(dataclasses.replace(moved, path=way))  # type: ignore[arg-type]
    heard = Recorder()
    solve_history(path, heard)
    last = heard.increments[-1]
    assert np.abs(last.state.u - pushed[-1].state.u).max() < 1e-6 * np.abs(pushed[-1].state.u).max()
    balance = balance_of(path.system.constraints, moved, last)
    assert balance.closing_error < 1e-6
    assert max(balance.parts.values()) < 1e-6 * balance.scale
    forces = {c.name: np.array(c.force) for c in balance.carriers}
    assert forces["x"] + forces["y"] + forces["z"] == pytest.approx([480.0, 640.0, -5e3], abs=0.01)


def test_a_mean_that_is_held_is_let_go_where_it_is() -> None:
    bar, far = block_body("bar", (40, 10, 10), 5), (Face("bar", "right"),)
    grip = Handle("grip", (20.0, 0.0, 5.0), far, "averaging")
    root = Support("root", (Face("bar", "left"),), (True, True, True))
    held = Support("held", (), (False, False, True), handle="grip")
    pull = Load("pull", "force", (), (1, 0, 0), handle="grip")
    lift = Load("lift", "force", (), (0, 0, 1), handle="grip")
    steps = (
        Step("both", {"pull": 1e3, "lift": 100.0}), Step("free", {}, released=frozenset({"held"})),
        Step("again", {"lift": 0.0}),
    )  # fmt: skip
    model = Model((bar,), (), (), (root, held), (pull, lift), steps, handles=(grip,))
    row = len(model.nodes())
    for way in ("condensed", "full"):
        ends = [i.state.u[row] for i in _solve(model, way) if i.time == 1.0]
        assert abs(ends[0][2]) < 1e-12
        assert ends[0][0] == pytest.approx(1e3 * 40 / (210e3 * 100), rel=0.02)
        # Let go, it bends as a beam does, 100 L³/3EI with its shear; held again, it stays where it was.
        bent = 100 * (40**3 / (3 * 210e3 * 10**4 / 12) + 1.2 * 40 / (210e3 / 2.6 * 100))
        assert ends[1][2] == pytest.approx(bent, rel=0.05)
        assert ends[2][2] == pytest.approx(ends[1][2], rel=1e-9)
