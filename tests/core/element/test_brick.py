"""Common element checks of the brick: rigid motions, patch test on distorted shapes, bending."""

import numpy as np
import pytest

from ulmek.core.element import brick
from ulmek.core.material.elastic import Elastic
from ulmek.core.review.recover import von_mises

HOOKE = Elastic(210e3, 0.3).stiffness()


@pytest.fixture
def distorted() -> np.ndarray:
    """A brick whose corners are moved by up to a fifth of its edge."""
    rng = np.random.default_rng(3)
    return (brick.CORNERS + rng.uniform(-0.4, 0.4, (8, 3)))[None] * 5.0


def test_rigid_motions_cost_no_force(distorted: np.ndarray) -> None:
    stiffness = brick.stiffness(distorted, HOOKE)[0]
    x = distorted[0]
    for axis in np.eye(3):
        for motion in (np.tile(axis, (8, 1)), np.cross(axis, x)):
            assert np.abs(stiffness @ motion.ravel()).max() < 1e-9 * np.abs(stiffness).max()
    eigenvalues = np.linalg.eigvalsh(stiffness)
    assert np.sum(eigenvalues < 1e-9 * eigenvalues.max()) == 6


def test_any_linear_motion_gives_its_exact_uniform_stress(distorted: np.ndarray) -> None:
    gradient = np.array([[1.0, 0.3, -0.2], [0.1, -0.7, 0.4], [0.5, 0.2, 0.9]]) * 1e-3
    strain = (gradient + gradient.T) / 2
    voigt = np.array([*np.diag(strain), 2 * strain[0, 1], 2 * strain[1, 2], 2 * strain[2, 0]])
    u = distorted @ gradient.T
    assert np.allclose(brick.stress(brick.stress_operator(distorted, HOOKE), u), HOOKE @ voigt, rtol=1e-10)


def test_pure_bending_of_one_long_brick_is_exact() -> None:
    """u = κ(xz, 0, −x²/2 …): stress E·κ·z, no locking, for a brick ten times as long as thick."""
    xyz = (brick.CORNERS * [10.0, 1.0, 1.0])[None]
    hooke = Elastic(210e3, 0.0).stiffness()
    kappa = 1e-4
    x, z = xyz[..., 0], xyz[..., 2]
    u = np.stack([kappa * x * z, 0 * x, -kappa * x**2 / 2], axis=-1)
    stress = brick.stress(brick.stress_operator(xyz, hooke), u)[0]
    z_gauss = brick.GAUSS[:, 2]
    assert np.allclose(stress[:, 0], 210e3 * kappa * z_gauss, rtol=1e-12)
    assert np.abs(stress[:, 1:]).max() < 1e-9
    energy = 0.5 * u.ravel() @ brick.stiffness(xyz, hooke)[0] @ u.ravel()
    # Beam theory: EIκ²L/2 with I = 2·2³/12, L = 20.
    assert energy == pytest.approx(0.5 * 210e3 * (16 / 12) * kappa**2 * 20, rel=1e-12)


def test_von_mises_of_simple_states() -> None:
    states = np.array([[100.0, 0, 0, 0, 0, 0], [0, 0, 0, 100.0, 0, 0], [70.0, 70, 70, 0, 0, 0]])
    assert np.allclose(von_mises(states), [100.0, 100.0 * np.sqrt(3), 0.0])
