"""Where a mesh has to be finer: what is known of the elements around a node."""

from collections.abc import Callable

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.sweep import Layering, mesh_layered
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.mesh.wedges import split_into_wedges
from ulmek.core.review.refine import swept_around

Cut = Callable[[VolumeMesh], VolumeMesh]


@pytest.mark.parametrize("cut", [lambda mesh: mesh, split_into_wedges, split_bricks], ids=["bricks", "wedges", "tets"])
def test_layers_matter_where_values_vary_along_a_sweep(cut: Cut) -> None:
    solid = RECIPES["block"].solid({"length": 30.0, "depth": 30.0, "height": 36.0})
    mesh = cut(mesh_layered(solid, size=3.0, layering=Layering(first=6)))
    tilted = np.array([[0.0, 0.0, 1.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
    turned = mesh.placed(tilted, np.array([4.0, 5.0, 6.0]))
    # Bricks of 3 × 3 × 6 mm, however they are cut and placed.
    for slope, varies in (([1, 0, 0], False), ([1, -1, 0.1], False), ([1, 0, 1], True), ([0, 0, 1], True)):
        found = swept_around(turned, tilted @ [0.0, 0.0, 1.0], mesh.nodes @ np.array(slope, float))
        assert found.across == pytest.approx(np.full(len(mesh.nodes), 3.0))
        assert found.high == pytest.approx(np.full(len(mesh.nodes), 6.0))
        assert (found.varies == varies).all()
