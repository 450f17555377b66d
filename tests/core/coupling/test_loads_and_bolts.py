"""Supports, loads and bolt columns: resultants by hand, columns by finite differences of the energy."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, block_body
from ulmek.core.coupling.supports import load_patterns
from ulmek.core.element import brick
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.core.model import Body, Bolt, Face, Load, Model, Support
from ulmek.core.solve.assembly import assemble, bolt_columns, first_like, surface_forces


def _block_model(*loads: Load, supports: tuple[Support, ...] = ()) -> Model:
    return Model((block_body("block", (40, 30, 20), 8),), (), (), supports, loads, ())


def test_force_is_spread_to_its_resultant_without_moment_about_the_face() -> None:
    model = _block_model(Load("pull", "force", (Face("block", "top"),), (0.0, 3.0, 4.0)))
    forces = load_patterns(model).forces[:, 0].reshape(-1, 3)
    assert np.allclose(forces.sum(axis=0), [0.0, 0.6, 0.8])
    moment = np.cross(model.nodes() - [0, 0, 20.0], forces).sum(axis=0)
    assert np.abs(moment).max() < 1e-12


@pytest.mark.parametrize(
    ("face", "area", "inward"), [("top", 1200.0, (0, 0, -1)), ("left", 600.0, (1, 0, 0)), ("far", 800.0, (0, -1, 0))]
)
def test_pressure_pushes_inwards_with_area_times_value(face: str, area: float, inward: tuple[int, int, int]) -> None:
    model = _block_model(Load("press", "pressure", (Face("block", face),)))
    forces = load_patterns(model).forces[:, 0].reshape(-1, 3)
    assert np.allclose(forces.sum(axis=0), area * np.array(inward))


def test_pressure_on_a_closed_skin_cancels() -> None:
    faces = tuple(Face("block", n) for n in ("top", "bottom", "left", "right", "near", "far"))
    forces = load_patterns(_block_model(Load("press", "pressure", faces))).forces[:, 0].reshape(-1, 3)
    assert np.abs(forces.sum(axis=0)).max() < 1e-9


def test_supports_hold_only_what_they_name_and_the_first_keeps_shared_nodes() -> None:
    guide = Support("guide", (Face("block", "left"),), (True, False, False))
    floor = Support("floor", (Face("block", "bottom"),), (True, True, True))
    model = _block_model(supports=(guide, floor))
    patterns = load_patterns(model)
    held, owner = patterns.held.reshape(-1, 3), patterns.support_of.reshape(-1, 3)
    nodes = model.nodes()
    left, bottom = nodes[:, 0] < -20 + 1e-9, nodes[:, 2] < 1e-9
    assert np.array_equal(held[:, 0], left | bottom)
    assert np.array_equal(held[:, 1], bottom)
    assert np.all(owner[left & bottom, 0] == 0)
    assert np.all(owner[left & bottom, 1] == 1)


def test_displacement_moves_its_face_along_the_signed_axis() -> None:
    patterns = load_patterns(_block_model(Load("move", "displacement", (Face("block", "top"),), (0.0, -2.0, 0.0))))
    moved = patterns.motions[:, 0].reshape(-1, 3)
    top = block_body("block", (40, 30, 20), 8).mesh.nodes[:, 2] > 20 - 1e-9
    assert np.allclose(moved[top], [0.0, -1.0, 0.0])
    assert not moved[~top].any()


def _bolt_body(name: str, *, at: float = 0.0, turn: float = 0.0) -> Body:
    mesh = mesh_layered(RECIPES["bolt"].solid({}), size=6.0, per_turn=12)
    c, s = np.cos(turn), np.sin(turn)
    nodes = mesh.nodes @ np.array([[1, 0, 0], [0, c, s], [0, -s, c]]) + [at, 0, 0]
    return Body(name, dataclasses.replace(mesh, nodes=nodes), STEEL)


@pytest.mark.parametrize("turn", [0.0, 0.7])
def test_bolt_column_is_the_gradient_of_the_energy_with_the_shortened_cut(turn: float) -> None:
    body = _bolt_body("bolt", turn=turn)
    axis = np.array([0.0, -np.sin(turn), np.cos(turn)])
    model = Model((body,), (), (Bolt("bolt", "bolt", tuple(axis)),), (), (), ())  # type: ignore[arg-type]
    columns, diagonal, chi = bolt_columns(model)
    stiffness = assemble(model)
    rng = np.random.default_rng(2)
    u, delta = rng.normal(size=stiffness.shape[0]), 0.37
    mesh = body.mesh
    elements = brick.stiffness(mesh.nodes[mesh.cells], STEEL.stiffness())

    def energy(u: np.ndarray, delta: float) -> float:
        """½ Σ uᵀKu with the bricks above the cut seeing u − χδ."""
        corner = u.reshape(-1, 3)[mesh.cells]
        on_cut = np.isin(mesh.cells[mesh.cut_above], mesh.cut_nodes)
        corner[mesh.cut_above] -= on_cut[..., None] * delta * axis
        flat = corner.reshape(len(corner), 24)
        return 0.5 * float(np.einsum("mi,mij,mj->", flat, elements, flat))

    column = columns.toarray()[:, 0]
    by_matrix = 0.5 * u @ (stiffness @ u) + delta * column @ u + 0.5 * diagonal[0] * delta**2
    assert by_matrix == pytest.approx(energy(u, delta), rel=1e-10)
    step = 1e-4
    force = (energy(u, delta + step) - energy(u, delta - step)) / (2 * step)
    assert column @ u + diagonal[0] * delta == pytest.approx(force, rel=1e-7)
    assert np.count_nonzero(chi.toarray().reshape(-1, 3).any(axis=1)) == len(mesh.cut_nodes)


def test_moving_the_whole_bolt_costs_no_bolt_force() -> None:
    model = Model((_bolt_body("bolt"),), (), (Bolt("bolt", "bolt", (0.0, 0.0, 1.0)),), (), (), ())
    column = bolt_columns(model)[0].toarray()[:, 0]
    for motion in np.eye(3):
        along = np.tile(motion, len(model.nodes()))
        assert abs(column @ along) < 1e-8 * np.abs(column).sum()


def test_copies_share_matrices_only_when_shifted() -> None:
    a = _bolt_body("a")
    shifted = dataclasses.replace(
        a, name="b", mesh=dataclasses.replace(a.mesh, nodes=a.mesh.nodes + np.array([50.0, 3.0, 0.0]))
    )
    turned = dataclasses.replace(a, name="c", mesh=dataclasses.replace(a.mesh, nodes=a.mesh.nodes[:, [1, 2, 0]]))
    model = Model((a, shifted, turned), (), (), (), (), ())
    assert [first_like(model, i) for i in range(3)] == [0, 0, 2]
    whole = assemble(model)
    n = 3 * len(a.mesh.nodes)
    assert abs(whole[:n, :n] - whole[n : 2 * n, n : 2 * n]).max() == 0.0


def test_areas_of_a_face_add_up() -> None:
    body = block_body("block", (40, 30, 20), 8)
    area, vector = surface_forces(body.mesh.nodes, body.mesh.faces["right"])
    assert area.sum() == pytest.approx(600.0)
    assert np.allclose(vector.sum(axis=0), [600.0, 0.0, 0.0])
