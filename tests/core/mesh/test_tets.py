"""Tetrahedra cut from bricks: the same solid, the same faces, every free triangle named once."""

import numpy as np
import pytest

from ulmek.core.coupling.surface import facet_sums
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.mesh.volume import check_mesh
from ulmek.core.model import Body, Model


@pytest.mark.parametrize("kind", ["block", "plate", "washer"])
def test_tets_fill_the_bricks_and_keep_their_faces(kind: str) -> None:
    bricks = mesh_layered(RECIPES[kind].solid({}), size=12.0, per_turn=16)
    tets = split_bricks(bricks)
    check_mesh(tets)
    assert len(tets.cells) == 24 * len(bricks.cells)
    # Warped brick faces are cut to their middle either way: flat facets make the same volume.
    assert tets.volume() == pytest.approx(bricks.volume(), rel=1e-9)
    assert set(tets.faces) == set(bricks.faces)
    body = Body("part", tets, Elastic(210e3, 0.3))
    model = Model((body,), (), (), (), (), ())
    for name, quads in bricks.faces.items():
        area, vector = facet_sums(model, tets.faces[name])
        old_area, old_vector = facet_sums(
            model, quads, np.vstack([bricks.nodes, np.zeros((len(tets.nodes) - len(bricks.nodes), 3))])
        )
        assert np.allclose(vector.sum(axis=0), old_vector.sum(axis=0), atol=1e-8 * old_area.sum())
        assert area.sum() == pytest.approx(old_area.sum(), rel=1e-2)
        # An even traction loads the mid-sides of second-order triangles alone.
        assert area[np.unique(tets.faces[name][:, :3])].max() < 1e-9 * area.max()
