"""What is too large to factor: systems of elements and contact by multigrid, against the full path."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, Recorder, block_body
from ulmek.core.errors import NotConvergedError
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.model import Body, Dynamics, Face, Handle, Increments, Load, Model, Pair, PairLaw, Step, Support
from ulmek.core.solve import choice, multigrid
from ulmek.core.solve.choice import choose_path, foresee
from ulmek.core.solve.forecast import joint_unknowns_of, memory_of, unknowns_of
from ulmek.core.solve.full_path import FullPath
from ulmek.core.solve.history import Increment, solve_history
from ulmek.core.solve.iterative import IterativeSolver

FRICTION = PairLaw(True, "friction", 0.3)


def _pressed(mesh: float, **changed: object) -> Model:
    """A block pressed on a larger one and dragged aside; ``changed``: of the upper body."""
    lower, upper = (
        block_body("lower", (60, 40, 20), mesh),
        block_body("upper", (30, 30, 15), 0.8 * mesh, at=20, turn=0.15),
    )
    upper = dataclasses.replace(upper, **changed)  # type: ignore[arg-type]
    pair = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), FRICTION, 1.0)
    top = (Face("upper", "top"),)
    floor = Support("floor", (Face("lower", "bottom"),), (True, True, True))
    loads = (Load("press", "pressure", top), Load("drag", "displacement", top, (1, 0, 0)))
    half = Increments(0.5, 0.1, 0.5)
    steps = (Step("press", {"press": 30.0}, increments=half), Step("drag", {"drag": 0.05}, increments=half))
    return Model((lower, upper), (pair,), (), (floor,), loads, steps)


def _solved(model: Model, way: str) -> tuple[FullPath, list[Increment]]:
    path, _ = choose_path(dataclasses.replace(model, path=way))  # type: ignore[arg-type]
    assert isinstance(path, FullPath)
    heard = Recorder()
    solve_history(path, heard)
    return path, heard.increments


def test_iterations_hardly_grow_with_the_mesh() -> None:
    """Four times the unknowns and more; levels are built for the first system, and anew where they serve no more."""
    each = []
    for mesh in (5.0, 2.5):
        path, increments = _solved(_pressed(mesh), "iterative")
        solver = path.linear.solver
        assert isinstance(solver, IterativeSolver)
        each.append(solver.iterations / sum(i.iterations for i in increments))
        assert 1 <= solver.factorizations <= 4
    assert each[1] < 1.6 * each[0]
    assert each[1] < 45


@pytest.mark.parametrize(
    ("name", "material"),
    [("yields", Plastic(210e3, 0.3, ((0.0, 34.0), (0.01, 200.0)))), ("rubber", Rubber(0.8, 0.2, 50.0)), ("far", STEEL)],
)
def test_what_needs_newton_comes_out_as_on_the_full_path(
    name: str, material: Plastic | Rubber, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(multigrid, "COARSEST", 100)
    model = _pressed(7.0, material=material)
    if name == "rubber":
        model = dataclasses.replace(model, steps=(dataclasses.replace(model.steps[0], loads={"press": 0.2}),))
    if name == "far":
        model = dataclasses.replace(model, steps=tuple(dataclasses.replace(s, large=True) for s in model.steps))
    (_, full), (_, found) = _solved(model, "full"), _solved(model, "iterative")
    assert [(i.step, i.time) for i in full] == [(i.step, i.time) for i in found]
    if name == "yields":
        assert full[-1].state.internal.plastic_strain()[1].max() > 1e-4
    size = float(np.abs(full[-1].state.u).max())
    for a, b in zip(full, found, strict=True):
        assert np.abs(a.state.u - b.state.u).max() < 1e-6 * size


def test_inertia_and_handles_come_out_as_on_the_full_path() -> None:
    """A bar swung by a handle on its face that lets go: turns are unknowns beside motions."""
    bar = dataclasses.replace(block_body("bar", (60, 10, 10), 3.5), material=dataclasses.replace(STEEL, density=8e-9))
    grip = Handle("grip", (30.0, 0.0, 5.0), (Face("bar", "right"),))
    root = Support("root", (Face("bar", "left"),), (True, True, True))
    bend = Load("bend", "rotation", (), (0, 1, 0), handle="grip")
    hold = Increments(1.0, 1.0, 1.0)
    tenth = Increments(0.1, 0.1, 0.1)
    steps = (
        Step("bend", {"bend": 0.01}, increments=hold),
        Step("swing", increments=tenth, released=frozenset({"bend"}), dynamics=Dynamics(2e-4, 0.0)),
    )
    model = Model((bar,), (), (), (root,), (bend,), steps, handles=(grip,))
    (_, full), (path, found) = _solved(model, "full"), _solved(model, "iterative")
    assert isinstance(path.linear.solver, IterativeSolver)
    assert len(full) == len(found) == 11
    size = max(float(np.abs(i.state.velocity).max()) for i in full)
    for a, b in zip(full, found, strict=True):
        assert np.abs(a.state.u - b.state.u).max() < 1e-6 * np.abs(full[0].state.u).max()
        assert np.abs(a.state.velocity - b.state.velocity).max() < 1e-6 * max(size, 1.0)


@pytest.mark.parametrize("at", [0, 2])
def test_a_resumed_run_ends_as_the_whole_one(at: int) -> None:
    model = dataclasses.replace(_pressed(7.0), path="iterative")
    whole, rest = Recorder(), Recorder()
    solve_history(choose_path(model)[0], whole)
    solve_history(choose_path(model)[0], rest, after=whole.increments[at])
    assert len(rest.increments) == len(whole.increments) - at - 1
    last, again = whole.increments[-1].state, rest.increments[-1].state
    assert np.abs(last.u - again.u).max() < 1e-8 * np.abs(last.u).max()


def test_what_nothing_holds_is_told_by_its_part() -> None:
    model = dataclasses.replace(_pressed(7.0), supports=(), path="iterative")
    with pytest.raises(NotConvergedError, match="'lower' can move along"):
        solve_history(choose_path(model)[0], Recorder())


def test_the_path_follows_from_size_and_memory(monkeypatch: pytest.MonkeyPatch) -> None:
    model = _pressed(7.0)
    few = unknowns_of(model), joint_unknowns_of(model)
    assert few == (3 * sum(len(b.mesh.nodes) for b in model.bodies), 3 * len(np.unique(_bottom(model.bodies[1]))))
    assert foresee(model, *few)[0] == "condensed"
    assert foresee(model, 500_000, 16_000) == ("iterative", "the joints have 16000 unknowns")
    yielding = _pressed(7.0, material=Plastic(210e3, 0.3, ((0.0, 200.0),)))
    assert foresee(yielding, *few)[0] == "full"
    way, reason = foresee(yielding, 70_000, 500)
    assert way == "iterative"
    assert "yields" in reason
    assert foresee(dataclasses.replace(model, path="full"), 500_000, 16_000) == ("full", "asked for")
    # The bolted demo at half its sizes took 4.6 GB on the condensed path, at a quarter 11.9 GB on the iterative one.
    assert memory_of("condensed", 212_964, 9_175) == pytest.approx(4.6e9, rel=0.2)
    assert memory_of("iterative", 1_411_002, 40_375) == pytest.approx(11.9e9, rel=0.2)
    monkeypatch.setattr(choice, "room", lambda: 4e9)
    assert foresee(model, 212_964, 12_055)[0] == "iterative"
    assert "GB of memory" in foresee(model, 212_964, 12_055)[1]


def _bottom(body: Body) -> np.ndarray:
    return body.mesh.faces["bottom"]
