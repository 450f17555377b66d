"""Plasticity against a plain one-dimensional model and tiny steps; rubber against its energy."""

import numpy as np
import pytest

from ulmek.core.errors import InputError
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.law import INTERNAL, stress_at
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber

TABLE = ((0.0, 250.0), (0.004, 300.0), (0.02, 360.0), (0.5, 420.0))


def _follow(material: Plastic, path: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Stress and internal values at the end of a strain path (k, 6)."""
    law, internal = material.law(), np.zeros(INTERNAL)
    stress, tangent = np.zeros(6), np.zeros((6, 6))
    for strain in path:
        following = np.zeros(INTERNAL)
        stress_at(law.numbers, strain, 0.0, internal, following, stress, tangent)
        internal = following
    return stress.copy(), internal


@pytest.mark.parametrize("kinematic", [0.0, 0.35, 1.0])
def test_cycles_of_pure_shear_follow_the_plain_scalar_model(kinematic: float) -> None:
    """In shear σ = √3 τ, e = γp/√3: a scalar elastic-plastic model with the same table, in tiny steps."""
    material = Plastic(200e3, 0.3, TABLE, kinematic)
    shear = 200e3 / 2.6
    gammas = np.concatenate([np.linspace(0, 0.02, 400), np.linspace(0.02, -0.015, 700), np.linspace(-0.015, 0.01, 500)])
    stress, _ = _follow(material, np.column_stack([np.zeros((len(gammas), 3)), gammas, np.zeros((len(gammas), 2))]))
    plastic, eq, back = 0.0, 0.0, 0.0
    strains, stresses = np.array(TABLE).T
    for gamma in gammas:
        trial = np.sqrt(3) * shear * (gamma - plastic)

        def radius(at: float) -> float:
            return 250 + (1 - kinematic) * (float(np.interp(at, strains, stresses)) - 250)

        sign = np.sign(trial - back)
        low, high = 0.0, 0.05
        if abs(trial - back) > radius(eq):
            for _ in range(60):
                step = (low + high) / 2
                moved = kinematic * (np.interp(eq + step, strains, stresses) - np.interp(eq, strains, stresses))
                left = abs(trial - back) - 3 * shear * step - moved - radius(eq + step)
                low, high = (step, high) if left > 0 else (low, step)
            back += sign * kinematic * float(np.interp(eq + low, strains, stresses) - np.interp(eq, strains, stresses))
            plastic += sign * np.sqrt(3) * low
            eq += low
    assert stress[3] == pytest.approx(shear * (gammas[-1] - plastic), rel=1e-6)


def test_one_big_proportional_step_equals_many_small_ones() -> None:
    """Radial return is exact on a straight path in deviator space."""
    material = Plastic(200e3, 0.3, TABLE)
    end = np.array([0.01, -0.004, -0.006, 0.012, 0.0, 0.003])
    once, inner = _follow(material, end[None])
    often, inner_often = _follow(material, np.linspace(0, 1, 200)[1:, None] * end)
    assert np.allclose(once, often, rtol=1e-9)
    assert inner[12] == pytest.approx(inner_often[12], rel=1e-9)
    deviator = once - np.array([once[:3].mean()] * 3 + [0.0] * 3)
    mises = np.sqrt(1.5 * (deviator[:3] @ deviator[:3] + 2 * deviator[3:] @ deviator[3:]))
    assert mises == pytest.approx(np.interp(inner[12], *np.array(TABLE).T), rel=1e-8)


def test_rubber_stress_is_the_slope_of_its_energy() -> None:
    material = Rubber(0.4, 0.15, 800.0)
    law, rng = material.law(), np.random.default_rng(7)
    strain = 0.1 * rng.standard_normal(6)

    def energy(e: np.ndarray) -> float:
        c = np.array([[1 + 2 * e[0], e[3], e[5]], [e[3], 1 + 2 * e[1], e[4]], [e[5], e[4], 1 + 2 * e[2]]])
        det = np.linalg.det(c)
        i1, i2 = np.trace(c), (np.trace(c) ** 2 - np.trace(c @ c)) / 2
        return float(0.4 * (i1 * det ** (-1 / 3) - 3) + 0.15 * (i2 * det ** (-2 / 3) - 3))

    stress, tangent = np.zeros(6), np.zeros((6, 6))
    stress_at(law.numbers, strain, 0.0, np.zeros(INTERNAL), np.zeros(INTERNAL),
              stress, tangent)  # fmt: skip
    for i in range(6):
        step = np.eye(6)[i] * 1e-6
        slope = (energy(strain + step) - energy(strain - step)) / 2e-6
        assert stress[i] == pytest.approx(slope, rel=1e-6, abs=1e-8)


@pytest.mark.parametrize(
    ("make", "where"),
    [
        (lambda: Elastic(-1.0, 0.3), "young"),
        (lambda: Elastic(210e3, 0.5), "poisson"),
        (lambda: Elastic(210e3, 0.3, density=-1.0), "density"),
        (lambda: Plastic(210e3, 0.3, ((0.1, 200.0),)), "hardening"),
        (lambda: Plastic(210e3, 0.3, ((0.0, 300.0), (0.1, 200.0))), "hardening"),
        (lambda: Rubber(0.0, 0.0, 100.0), "c10"),
        (lambda: Rubber(1.0, 0.0, 2.0), "bulk"),
    ],
)
def test_constants_that_no_material_has_are_refused(make, where: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(InputError) as refused:
        make()
    assert refused.value.where == where
