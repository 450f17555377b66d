"""Common checks of every element, space and material: tangent by differences, patch test, rigid turns, bending."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from ulmek.core.element.family import BRICK_CORNERS, FAMILIES, QUAD_CORNERS
from ulmek.core.element.response import Manner, Space, n_modes, respond
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.tets import TET_EDGES
from ulmek.core.mesh.volume import PLANE, Kind
from ulmek.core.model import Material
from ulmek.core.review.recover import von_mises

STEEL = Elastic(210e3, 0.3)
MATERIALS: dict[str, Material] = {
    "elastic": STEEL,
    "plastic": Plastic(210e3, 0.3, ((0, 250), (0.01, 350), (0.1, 400)), 0.4),
    "rubber": Rubber(0.4, 0.1, 500.0),
}
SPACES: list[tuple[Kind, Space]] = [
    ("brick", "solid"),
    ("tet", "solid"),
    ("quad", "plane-strain"),
    ("quad", "plane-stress"),
    ("quad8", "plane-strain"),
    ("quad8", "plane-stress"),
    ("triangle", "plane-stress"),
    ("quad", "axisymmetric"),
    ("quad8", "axisymmetric"),
    ("triangle", "axisymmetric"),
]


def _distorted(kind: Kind, rng: np.random.Generator) -> np.ndarray:
    """Three elements whose corners are moved by up to a fifth of the edge, off the axis."""
    if kind == "brick":
        return (BRICK_CORNERS + rng.uniform(-0.4, 0.4, (3, 8, 3))) * 5.0
    if kind == "tet":
        corners = np.array([[0, 0, 0], [2, 0, 0], [0, 2, 0], [0, 0, 2.0]]) + rng.uniform(-0.3, 0.3, (3, 4, 3))
        middles = corners[:, TET_EDGES].mean(axis=2) + rng.uniform(-0.05, 0.05, (3, 6, 3))
        return np.concatenate([corners, middles], axis=1) * 5.0
    corners = QUAD_CORNERS if kind != "triangle" else QUAD_CORNERS[:3]
    flat = corners + rng.uniform(-0.3, 0.3, (3, len(corners), 2)) + [3.0, 0.0]
    if kind != "quad":
        middles = (flat + np.roll(flat, -1, axis=1)) / 2
        flat = np.concatenate([flat, middles + rng.uniform(-0.05, 0.05, middles.shape)], axis=1)
    return np.concatenate([flat, np.zeros((3, flat.shape[1], 1))], axis=2) * 5.0


@pytest.mark.parametrize("large", [False, True])
@pytest.mark.parametrize("material", MATERIALS)
@pytest.mark.parametrize(("kind", "space"), SPACES)
def test_tangent_is_the_derivative_of_the_forces(kind: Kind, space: Space, material: str, large: bool) -> None:
    if material == "rubber" and (space == "plane-stress" or not large):
        pytest.skip("rubber is followed in large motion, and not in plane stress")
    family, law, rng = FAMILIES[kind], MATERIALS[material].law(), np.random.default_rng(1)
    xyz = _distorted(kind, rng)
    u = (0.2 if material == "rubber" else 0.05) * rng.standard_normal(xyz.shape)
    u[..., family.dim :] = 0.0

    def force(at: np.ndarray) -> np.ndarray:
        return respond(family, law, xyz, at, Manner(space, 2.0, large), with_tangent=False).force

    found = respond(family, law, xyz, u, Manner(space, 2.0, large))
    assert found.faulty == -1
    if material == "plastic":
        assert found.internal[..., 12].max() > 1e-3
    step = 1e-5
    for node in range(xyz.shape[1]):
        for c in range(family.dim):
            ahead, behind = u.copy(), u.copy()
            ahead[:, node, c] += step
            behind[:, node, c] -= step
            column = (force(ahead) - force(behind)) / (2 * step)
            wrong = np.abs(column - found.tangent[:, :, node * family.dim + c]).max()
            # Central differences: rounding 1e-16/1e-5 of the forces, and the kinks of the table.
            assert wrong < 1e-6 * np.abs(found.tangent).max()


@pytest.mark.parametrize(("kind", "space"), [s for s in SPACES if s[1] != "axisymmetric"])
def test_any_linear_motion_gives_its_exact_uniform_stress(kind: Kind, space: Space) -> None:
    xyz = _distorted(kind, np.random.default_rng(3))
    gradient = np.array([[1.0, 0.3, -0.2], [0.1, -0.7, 0.4], [0.5, 0.2, 0.9]]) * 1e-3
    if kind in PLANE:
        gradient[2], gradient[:, 2] = 0.0, 0.0
    strain = (gradient + gradient.T) / 2
    voigt = np.array([*np.diag(strain), 2 * strain[0, 1], 2 * strain[1, 2], 2 * strain[2, 0]])
    if space == "plane-stress":
        voigt[2] = -0.3 / 0.7 * (voigt[0] + voigt[1])
    found = respond(FAMILIES[kind], STEEL.law(), xyz, xyz @ gradient.T, Manner(space))
    assert np.allclose(found.stress, STEEL.stiffness() @ voigt, rtol=1e-9, atol=1e-9)


@pytest.mark.parametrize(("kind", "space"), [s for s in SPACES if s[1] != "axisymmetric"])
@pytest.mark.parametrize("material", MATERIALS)
def test_a_rigid_turn_gives_no_stress_in_large_motion(kind: Kind, space: Space, material: str) -> None:
    if material == "rubber" and space == "plane-stress":
        pytest.skip("rubber has no plane stress")
    xyz = _distorted(kind, np.random.default_rng(4))
    turn = Rotation.from_rotvec([0, 0, 2.3] if kind in PLANE else [1.0, -0.7, 1.9]).as_matrix()
    moved = respond(
        FAMILIES[kind], MATERIALS[material].law(), xyz, xyz @ turn.T - xyz + [3.0, 1.0, 0.0], Manner(space, large=True)
    )
    assert np.abs(moved.stress).max() < 1e-9 * 210e3


@pytest.mark.parametrize(
    ("kind", "space", "rigid"), [("brick", "solid", 6), ("tet", "solid", 6), *((k, "plane-strain", 3) for k in PLANE)]
)
def test_stiffness_has_rigid_motions_only(kind: Kind, space: Space, rigid: int) -> None:
    xyz = _distorted(kind, np.random.default_rng(3))
    stiffness = respond(FAMILIES[kind], STEEL.law(), xyz, np.zeros_like(xyz), Manner(space)).tangent[0]
    values = np.linalg.eigvalsh(stiffness)
    assert np.sum(values < 1e-9 * values.max()) == rigid


@pytest.mark.parametrize(("kind", "space"), [("brick", "solid"), ("quad", "plane-stress"), ("quad", "plane-strain")])
def test_pure_bending_of_one_long_element_is_exact(kind: Kind, space: Space) -> None:
    """u = κ(x·s, −x²/2): stress E·κ·s, energy EIκ²L/2 with I = 2·2³/12, for an element ten times as long as thick."""
    corners, across = (BRICK_CORNERS, 2) if kind == "brick" else (np.pad(QUAD_CORNERS, ((0, 0), (0, 1))), 1)
    xyz = (corners * [10.0, 1.0, 1.0])[None]
    kappa, family = 1e-4, FAMILIES[kind]
    x, s = xyz[..., 0], xyz[..., across]
    u = np.zeros_like(xyz)
    u[..., 0], u[..., across] = kappa * x * s, -kappa * x**2 / 2
    found = respond(family, Elastic(210e3, 0.0).law(), xyz, u, Manner(space, 2.0))
    at_gauss = family.shape @ s[0]
    assert np.allclose(found.stress[0, :, 0], 210e3 * kappa * at_gauss, rtol=1e-12)
    assert np.abs(found.stress[0, :, 1:]).max() < 1e-9
    energy = 0.5 * u[0, :, : family.dim].ravel() @ found.force[0]
    assert energy == pytest.approx(0.5 * 210e3 * (16 / 12) * kappa**2 * 20, rel=1e-12)


def test_an_element_turned_inside_out_is_named() -> None:
    xyz = _distorted("brick", np.random.default_rng(5))
    u = np.zeros_like(xyz)
    u[1] = -2.2 * xyz[1] * [1, 0, 0]
    assert respond(FAMILIES["brick"], STEEL.law(), xyz, u, Manner("solid", large=True)).faulty == 1


def test_plane_stress_has_a_free_thickness_strain_at_every_gauss_point() -> None:
    assert n_modes(FAMILIES["quad"], STEEL.law(), "plane-stress") == n_modes(
        FAMILIES["quad"], STEEL.law(), "plane-strain"
    ) + len(FAMILIES["quad"].rule)


def test_von_mises_of_simple_states() -> None:
    states = np.array([[100.0, 0, 0, 0, 0, 0], [0, 0, 0, 100.0, 0, 0], [70.0, 70, 70, 0, 0, 0]])
    assert np.allclose(von_mises(states), [100.0, 100.0 * np.sqrt(3), 0.0])
