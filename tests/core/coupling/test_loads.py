"""Loads and masses: resultants by hand."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import STEEL, block_body
from ulmek.core.coupling.loads import load_forces, nodal_masses
from ulmek.core.coupling.surface import facet_sums
from ulmek.core.errors import InputError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.layout import lay_out
from ulmek.core.mesh.sweep import mesh_section
from ulmek.core.model import Body, Face, Handle, Load, Model


def _forces(*loads: Load, density: float = 0.0, handles: tuple[Handle, ...] = ()) -> tuple[Model, np.ndarray]:
    body = block_body("block", (40, 30, 20), 8)
    body = dataclasses.replace(body, material=dataclasses.replace(STEEL, density=density))
    model = Model((body,), (), (), (), loads, (), handles=handles)
    return model, load_forces(model, lay_out(model))[:, 0].reshape(-1, 3)


def test_force_is_spread_to_its_resultant_without_moment_about_the_face() -> None:
    model, forces = _forces(Load("pull", "force", (Face("block", "top"),), (0.0, 3.0, 4.0)))
    assert np.allclose(forces.sum(axis=0), [0.0, 0.6, 0.8])
    assert np.abs(np.cross(model.nodes() - [0, 0, 20.0], forces).sum(axis=0)).max() < 1e-12


@pytest.mark.parametrize(
    ("face", "area", "inward"), [("top", 1200.0, (0, 0, -1)), ("left", 600.0, (1, 0, 0)), ("far", 800.0, (0, -1, 0))]
)
def test_pressure_pushes_inwards_with_area_times_value(face: str, area: float, inward: tuple[int, int, int]) -> None:
    _, forces = _forces(Load("press", "pressure", (Face("block", face),)))
    assert np.allclose(forces.sum(axis=0), area * np.array(inward))


def test_pressure_on_a_closed_skin_cancels() -> None:
    faces = tuple(Face("block", n) for n in ("top", "bottom", "left", "right", "near", "far"))
    _, forces = _forces(Load("press", "pressure", faces))
    assert np.abs(forces.sum(axis=0)).max() < 1e-9


def test_gravity_and_spin_act_on_mass() -> None:
    weight, mass = Load("weight", "gravity", (), (0.0, 0.0, -1.0)), 8e-9 * 40 * 30 * 20
    model, forces = _forces(weight, density=8e-9, handles=(Handle("load", (100.0, 0, 0), mass=1e-3),))
    assert nodal_masses(model, lay_out(model)).sum() == pytest.approx(mass + 1e-3)
    assert np.allclose(forces.sum(axis=0), [0, 0, -(mass + 1e-3)])
    about = Load("turn", "spin", (), (0.0, 0.0, 1.0), centre=(-20.0, 0.0, 0.0))
    _, forces = _forces(about, density=8e-9)
    # The middle of the block is 20 mm from the axis.
    assert np.allclose(forces.sum(axis=0), [mass * 20.0, 0, 0], atol=1e-12)
    with pytest.raises(InputError, match="density"):
        _forces(weight)


def test_areas_of_a_face_add_up() -> None:
    body = block_body("block", (40, 30, 20), 8)
    model = Model((body,), (), (), (), (), ())
    area, vector = facet_sums(model, body.mesh.faces["right"])
    assert area.sum() == pytest.approx(600.0)
    assert np.allclose(vector.sum(axis=0), [600.0, 0.0, 0.0])


def test_edges_of_sections_count_with_thickness_or_the_full_turn() -> None:
    mesh = mesh_section(RECIPES["block"].solid({"length": 10, "depth": 6, "height": 1}), size=2.0)
    body = Body("bar", dataclasses.replace(mesh, nodes=mesh.nodes + np.array([5.0, 0, 0])), STEEL)
    flat = Model((body,), (), (), (), (), (), space="plane-stress", thickness=3.0)
    area, vector = facet_sums(flat, mesh.faces["right"])
    assert area.sum() == pytest.approx(18.0)
    assert np.allclose(vector.sum(axis=0), [18.0, 0, 0])
    turned = dataclasses.replace(flat, space="axisymmetric")
    # A cylinder of radius 10 and length 6; its end, a full disc.
    assert facet_sums(turned, mesh.faces["right"])[0].sum() == pytest.approx(2 * np.pi * 10 * 6)
    assert facet_sums(turned, mesh.faces["far"])[0].sum() == pytest.approx(np.pi * 100)
