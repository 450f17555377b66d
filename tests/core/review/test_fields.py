"""Fields in other axes, strains and energies, surfaces of equal value: against what is known of simple states."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.plane import split_into_triangles, with_mid_sides
from ulmek.core.mesh.solid import mesh_flat, mesh_solid
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.mesh.wedges import split_into_wedges
from ulmek.core.model import Material
from ulmek.core.review.components import principal_axes, spread_over
from ulmek.core.review.fields import PART_FIELDS, Body, Nodes, values_of
from ulmek.core.review.inside import Cells, surface_of_value

RING = RECIPES["washer"].solid({})
YIELDING = Plastic(210e3, 0.3, ((0.0, 355.0), (0.1, 500.0)))
STEEL, RUBBER = Elastic(210e3, 0.3, 355.0, 0.0), Rubber(0.4, 0.0, 400.0, 0.0)
TURN = Rotation.from_rotvec([0.4, -0.7, 0.2]).as_matrix()


def _nodes(mesh: VolumeMesh, moved: np.ndarray, material: Material, *, turned: bool = False) -> Nodes:
    cells = [Cells(mesh.kind, mesh.cells, np.zeros(len(mesh.cells), np.int64))]
    body = Body(slice(0, len(mesh.nodes)), np.zeros(3), TURN.T, 200.0, material)
    return Nodes(mesh.nodes, moved, [body], cells, turned)


def _voigt(tensor: np.ndarray) -> np.ndarray:
    return tensor[[0, 1, 2, 0, 1, 2], [0, 1, 2, 1, 2, 0]]


def test_a_pull_along_an_axis_of_a_turned_part() -> None:
    mesh = mesh_solid(RING, size=4.0)
    n = len(mesh.nodes)
    pull = TURN @ np.diag([120.0, 0, 0]) @ TURN.T
    stress, nodes = np.tile(_voigt(pull), (n, 1)), _nodes(mesh, np.zeros((n, 3)), STEEL)

    def value(name: str, stored: np.ndarray = stress) -> np.ndarray:
        return values_of(PART_FIELDS[name], stored, nodes)

    assert value("own_xx") == pytest.approx(120)
    assert np.abs(value("own_yy")).max() < 1e-9
    assert np.abs(value("own_xy")).max() < 1e-9
    assert value("strain_largest") == pytest.approx(120 / 210e3)
    assert value("strain_smallest") == pytest.approx(-0.3 * 120 / 210e3)
    assert value("energy") == pytest.approx(120**2 / 2 / 210e3)
    assert value("use", np.full(n, 120.0)) == pytest.approx(0.6)
    values, directions = principal_axes(stress[:1])
    assert values[0] == pytest.approx([120, 0, 0], abs=1e-9)
    assert abs(directions[0, 0] @ TURN[:, 0]) == pytest.approx(1)


def test_a_turn_about_an_axis_moves_around_it_only() -> None:
    mesh = mesh_solid(RING, size=4.0)
    axis, through = TURN[:, 2], np.array([30.0, 5, 0])
    turned = 1e-3 * np.cross(axis, mesh.nodes - through)
    nodes = Nodes(mesh.nodes, turned, _nodes(mesh, turned, STEEL).bodies, [], about=(through, axis))
    radial, hoop, axial = (
        values_of(PART_FIELDS[f"displacement_{n}"], turned, nodes) for n in ("radial", "hoop", "axial")
    )
    arm = mesh.nodes - through
    radius = np.linalg.norm(arm - np.outer(arm @ axis, axis), axis=1)
    assert hoop == pytest.approx(1e-3 * radius)
    assert np.abs(radial).max() < 1e-12
    assert np.abs(axial).max() < 1e-12


SOLIDS = {
    "bricks": mesh_solid(RING, size=4.0),
    "tets": split_bricks(mesh_solid(RING, size=4.0)),
    "wedges": split_into_wedges(mesh_solid(RING, size=4.0)),
}
SECTIONS = {
    "quads": mesh_flat(RING, size=3.0),
    "quad8": with_mid_sides(mesh_flat(RING, size=3.0)),
    "triangles": split_into_triangles(mesh_flat(RING, size=3.0)),
}


@pytest.mark.parametrize("name", [*SOLIDS, *SECTIONS])
def test_rubber_is_stretched_as_it_was_moved(name: str) -> None:
    mesh = {**SOLIDS, **SECTIONS}[name]
    flat = name in SECTIONS
    gradient = np.array([[1.3, 0.2, 0], [0.1, 0.9, 0], [0, 0, 1.0 if flat else 0.8]])
    moved = mesh.nodes @ (gradient - np.eye(3)).T
    stretches = np.sort(np.linalg.svd(gradient)[1])[::-1]
    nodes = _nodes(mesh, moved, RUBBER)
    for k, which in enumerate(("largest", "middle", "smallest")):
        found = values_of(PART_FIELDS[f"strain_{which}"], np.zeros((len(moved), 6)), nodes)
        assert found == pytest.approx(np.log(stretches[k]), abs=1e-9)
        # What yields is told by how it is stretched too: by its stress it would be the elastic part alone.
        yielded = values_of(PART_FIELDS[f"strain_{which}"], np.zeros((len(moved), 6)), _nodes(mesh, moved, YIELDING))
        assert yielded == pytest.approx(found)
    volume = stretches.prod()
    pressed = np.tile(_voigt(np.eye(3) * RUBBER.bulk * (volume - 1)), (len(moved), 1))
    energy = values_of(PART_FIELDS["energy"], pressed, nodes)
    ideal = RUBBER.c10 * (volume ** (-2 / 3) * (stretches**2).sum() - 3) + RUBBER.bulk / 2 * (volume - 1) ** 2
    assert energy == pytest.approx(ideal)
    if flat:
        # Turned about the y axis, a section that grows outwards grows around too.
        grown = mesh.nodes * [0.1, 0, 0]
        shifted = VolumeMesh(mesh.nodes + np.array([40.0, 0, 0]), mesh.cells, mesh.faces, mesh.kind)
        largest = values_of(
            PART_FIELDS["strain_middle"], np.zeros((len(moved), 6)),
            _nodes(shifted, grown + np.array([4.0, 0, 0]), RUBBER, turned=True),
        )  # fmt: skip
        assert largest == pytest.approx(np.log(1.1))


@pytest.mark.parametrize("name", SOLIDS)
def test_surfaces_of_equal_value_lie_where_the_value_is(name: str) -> None:
    mesh = SOLIDS[name]
    cells = [Cells(mesh.kind, mesh.cells, np.zeros(len(mesh.cells), np.int64))]
    radius = np.hypot(mesh.nodes[:, 0], mesh.nodes[:, 1])
    middle = (radius.min() + radius.max()) / 2
    found = surface_of_value(mesh.nodes, cells, radius, middle)
    points = found.weights @ mesh.nodes
    assert found.weights @ radius == pytest.approx(middle, rel=1e-9)
    # A cylinder, with chords in place of its arcs.
    assert np.hypot(points[:, 0], points[:, 1]) == pytest.approx(middle, rel=0.02)
    a, b, c = (points[found.triangles[:, k]] for k in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2
    assert area == pytest.approx(2 * np.pi * middle * np.ptp(mesh.nodes[:, 2]), rel=0.03)
    # It faces the way in which the field rises; where it cannot be told there is none.
    out = np.cross(b - a, c - a)
    assert (np.einsum("ni,ni->n", out[:, :2], (a + b + c)[:, :2]) > -1e-9).mean() > 0.98
    assert len(surface_of_value(mesh.nodes, cells, np.full(len(radius), np.nan), 1.0).triangles) == 0


def test_few_points_stand_for_many() -> None:
    points = np.random.default_rng(3).uniform(0, 50, (4000, 3))
    chosen = spread_over(points, 300)
    assert 100 < len(chosen) <= 300
    away = np.linalg.norm(points[:, None] - points[chosen][None], axis=2).min(axis=1)
    assert away.max() < 20
