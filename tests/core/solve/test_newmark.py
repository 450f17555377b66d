"""Inertia: free swings keep their energy, damping takes it away as it should."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, Recorder, block_body
from ulmek.core.model import Dynamics, Face, Handle, Increments, Load, Model, Spring, Step, Support
from ulmek.core.solve.choice import choose_path
from ulmek.core.solve.history import solve_history
from ulmek.core.solve.newmark import Newmark


def test_constant_acceleration_is_followed_exactly() -> None:
    method, g = Newmark(0.1, 0.0), 9810.0
    moved, speed = np.zeros(1), np.array([5.0])
    acceleration = np.array([g])
    for _ in range(10):
        step = speed * 0.1 + g * 0.1**2 / 2
        speed, acceleration = method.rates(step, speed, acceleration)
        moved = moved + step
    assert acceleration == pytest.approx(g)
    assert moved == pytest.approx(5.0 + g / 2)


@pytest.mark.parametrize("damping", [0.0, 60.0])
def test_a_mass_on_a_spring_swings_and_decays_with_its_damping(damping: float) -> None:
    """Amplitude e^(−ct/2) for damping c per mass; kept but for 1 % without."""
    body = block_body("mass", (20, 20, 20), 20)
    body = dataclasses.replace(body, material=dataclasses.replace(STEEL, density=8e-9))
    mass, stiffness = 8e-9 * 8000, 50.0
    period = 2 * np.pi * np.sqrt(mass / stiffness)
    hundredth = Increments(0.01, 0.01, 0.01, 1000)
    model = Model(
        (body,),
        (),
        (),
        (Support("guide", (), (True, True, False), handle="grip", turns=(True, True, True)),),
        (Load("pull", "displacement", (), (0, 0, 1.0), handle="grip"),),
        (
            Step("pull", {"pull": 1.0}, increments=Increments(1.0, 1.0, 1.0)),
            Step("swing", increments=hundredth, released=frozenset({"pull"}), dynamics=Dynamics(2 * period, damping)),
        ),
        handles=(Handle("grip", (0, 0, 0), (Face("mass", "bottom"),)),),
        springs=(Spring("spring", "grip", None, (0.0, 0.0, stiffness)),),
    )
    path, reason = choose_path(model)
    assert "inertia" in reason
    heard = Recorder()
    solve_history(path, heard)
    end = heard.increments[-1].state
    handle = path.system.constraints.layout.handles["grip"]
    # After two whole periods it is back at the top of its swing.
    assert end.u[handle, 2] == pytest.approx(np.exp(-damping * period), abs=0.03)
    energies = [
        0.5 * mass * i.state.velocity.reshape(-1, 3)[handle, 2] ** 2 + 0.5 * stiffness * i.state.u[handle, 2] ** 2
        for i in heard.increments[1:]
    ]
    assert np.all(np.diff(energies) < 1e-3 * energies[0])
    if damping == 0.0:
        assert energies[-1] == pytest.approx(energies[0], rel=0.03)


def _driven(load: Load, value: float, stiffness: float, count: int) -> tuple[list[float], float]:
    """Heights of a mass on a spring that a load acts on from the first moment of a step on, and its mass (t)."""
    body = block_body("mass", (20, 20, 20), 20)
    body = dataclasses.replace(body, material=dataclasses.replace(STEEL, density=8e-9))
    every = Increments(1 / count, 1 / count, 1 / count, 1000)
    model = Model(
        (body,), (), (),
        (Support("guide", (), (True, True, False), handle="grip", turns=(True, True, True)),),
        (load,),
        (Step("go", {load.name: value}, increments=every, courses={load.name: ((0.0, value),)},
              dynamics=Dynamics(1e-3)),),
        handles=(Handle("grip", (0, 0, 0), (), body="mass"),),
        springs=(Spring("spring", "grip", None, (0.0, 0.0, stiffness)),),
    )  # fmt: skip
    path, _ = choose_path(model)
    heard = Recorder()
    solve_history(path, heard)
    handle = path.system.constraints.layout.handles["grip"]
    return [float(i.state.u[handle, 2]) for i in heard.increments], 8e-9 * 8000


def test_a_force_that_sets_in_at_once_accelerates_at_once() -> None:
    fall, _ = _driven(Load("weight", "gravity", (), (0, 0, -1.0)), 9810.0, 1e-9, 4)
    assert fall == pytest.approx([-9810.0 / 2 * (k / 4 * 1e-3) ** 2 for k in (1, 2, 3, 4)], rel=1e-5)
    errors = []
    for count in (20, 40):
        moved, mass = _driven(Load("push", "force", (), (0, 0, 1.0), handle="grip"), 10.0, 2000.0, count)
        true = 10.0 / 2000.0 * (1 - np.cos(np.sqrt(2000.0 / mass) * 1e-3))
        errors.append(abs(moved[-1] - true) / (10.0 / 2000.0))
    # Of second order: a quarter of the error in half the increments, but for the little damping.
    assert errors[1] < 0.4 * errors[0] < 0.02
