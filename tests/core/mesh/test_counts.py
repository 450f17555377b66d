"""The same part in millimetres and in inches has the same mesh."""

import pytest
from scipy.spatial import cKDTree

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.solid import mesh_solid

INCH = 25.4


@pytest.mark.parametrize("name", ["block", "washer", "pin", "lug", "drum", "angle", "ball", "fork"])
def test_meshes_do_not_flip_on_rounding(name: str) -> None:
    recipe = RECIPES[name]
    lengths = {d.name: float(d.default) for d in recipe.dimensions if d.kind == "length"}
    # Through inches and back every length is off in its last digit, this way or that.
    rounded = {key: value / INCH * INCH for key, value in lengths.items()}
    far = max(lengths.values())
    # Many of these sizes lie half way between two numbers of elements.
    for share in (2.5, 4.5, 5, 7.5, 10):
        size = far / share
        other = size / INCH * INCH
        plain = mesh_solid(recipe.solid(lengths), size=size)
        for made in (
            mesh_solid(recipe.solid(rounded), size=other),
            mesh_solid(recipe.solid(rounded), size=other * (1 + 1e-13)),
            mesh_solid(recipe.solid(rounded), size=other * (1 - 1e-13)),
        ):
            assert made.cells.shape == plain.cells.shape
            # The same nodes, in whatever order.
            assert cKDTree(plain.nodes).query(made.nodes)[0].max() < 1e-6 * far
