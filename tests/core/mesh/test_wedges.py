"""Wedges cut from swept bricks: the same solid and faces, six rigid motions, beside bricks in one mesh."""

import dataclasses

import numpy as np
import pytest

from ulmek.core.coupling.surface import facet_sums
from ulmek.core.element.family import FAMILIES
from ulmek.core.element.response import Manner, respond
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.sweep import Layering, mesh_layered
from ulmek.core.mesh.volume import VolumeMesh, check_mesh, free_faces
from ulmek.core.mesh.wedges import split_into_wedges
from ulmek.core.model import Body, Model


@pytest.mark.parametrize("kind", ["block", "plate", "bracket", "bolt"])
def test_wedges_fill_the_bricks_and_keep_their_faces(kind: str) -> None:
    bricks = mesh_layered(RECIPES[kind].solid({}), size=12.0, per_turn=16)
    wedges = split_into_wedges(bricks)
    assert wedges.is_wedge.all()
    assert len(wedges.cells) == 2 * len(bricks.cells)
    assert len(wedges.cut_above) == 2 * len(bricks.cut_above)
    assert wedges.volume() == pytest.approx(bricks.volume(), rel=1e-9)
    assert wedges.scaled_jacobians().min() > 0.2
    models = [Model((Body("part", m, Elastic(210e3, 0.3)),), (), (), (), (), ()) for m in (bricks, wedges)]
    for name, quads in bricks.faces.items():
        sums = [facet_sums(models[0], quads), facet_sums(models[1], wedges.faces[name])]
        assert np.allclose(sums[0][1].sum(axis=0), sums[1][1].sum(axis=0))
        assert sums[0][0].sum() == pytest.approx(sums[1][0].sum(), rel=1e-6)


def test_a_wedge_resists_every_motion_but_the_rigid_ones() -> None:
    corners = np.array([[0, 0, 0], [1.2, 0.1, 0], [0.3, 0.9, 0], [0.1, 0, 1.1], [1.4, 0.1, 1.2], [0.4, 0.9, 1.1]])
    node = np.array([0, 1, 2, 2, 3, 4, 5, 5])
    xyz = corners[node][None]
    found = respond(FAMILIES["brick"], Elastic(210e3, 0.3).law(), xyz, np.zeros_like(xyz), Manner("solid"))
    gather = np.zeros((24, 18))
    gather[np.arange(24), (3 * node[:, None] + np.arange(3)).ravel()] = 1.0
    values = np.linalg.eigvalsh(gather.T @ found.tangent[0] @ gather)
    assert np.abs(values[:6]).max() < 1e-12 * values[-1]
    assert values[6] > 1e-3 * values[-1]


def test_a_mesh_of_bricks_and_wedges_has_the_right_free_faces() -> None:
    mesh = mesh_layered(
        RECIPES["block"].solid({"length": 20, "depth": 10, "height": 10}), size=10.0, layering=Layering(1)
    )
    wedges = split_into_wedges(mesh)
    half = len(mesh.cells) // 2
    # Bricks in one half, wedges in the other; they meet at quads.
    cells = np.vstack([mesh.cells[:half], wedges.cells[half : len(mesh.cells)], wedges.cells[len(mesh.cells) + half :]])
    free = free_faces(cells, "brick")
    mixed = VolumeMesh(mesh.nodes, cells, {"all": free})
    check_mesh(mixed)
    assert mixed.volume() == pytest.approx(2000.0)
    with pytest.raises(Exception, match="named"):
        check_mesh(dataclasses.replace(mixed, faces={"all": free[1:]}))
