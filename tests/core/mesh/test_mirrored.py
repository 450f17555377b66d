"""Mirror images of meshes: whole, outward, and of the same volume, for every kind of element."""

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.facets import facet_normals
from ulmek.core.mesh.plane import split_into_triangles, with_mid_sides
from ulmek.core.mesh.solid import mesh_flat, mesh_solid
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.mesh.volume import ELEMENTS, VolumeMesh, check_mesh
from ulmek.core.mesh.wedges import split_into_wedges

# A turn about no axis of the coordinates, of a mirror image.
MIRROR = np.array([[0.0, 0.6, 0.8], [0.0, 0.8, -0.6], [1.0, 0.0, 0.0]])
IN_PLANE = np.array([[-0.6, 0.8, 0.0], [0.8, 0.6, 0.0], [0.0, 0.0, 1.0]])


def _meshes() -> dict[str, VolumeMesh]:
    solid = RECIPES["lug"].solid({})
    bricks, flat = mesh_solid(solid, size=8.0, per_turn=16), mesh_flat(solid, size=8.0, per_turn=16)
    return {
        "brick": bricks, "wedge": split_into_wedges(bricks), "tet": split_bricks(bricks),
        "quad": flat, "quad8": with_mid_sides(flat), "triangle": split_into_triangles(flat),
    }  # fmt: skip


def test_every_kind_of_element_is_mirrored() -> None:
    meshes = _meshes()
    assert {m.kind for m in meshes.values()} == set(ELEMENTS)
    for kind, mesh in meshes.items():
        axes = IN_PLANE if ELEMENTS[mesh.kind].is_plane else MIRROR
        image = mesh.placed(axes, np.array([3.0, -2.0, 0.0]))
        check_mesh(image)
        assert image.volume() == pytest.approx(mesh.volume(), rel=1e-12), kind
        assert np.array_equal(image.is_wedge, mesh.is_wedge) or mesh.kind != "brick"
        assert np.allclose(image.scaled_jacobians(), mesh.scaled_jacobians(), atol=1e-9), kind
        for name, facets in mesh.faces.items():
            turned = facet_normals(mesh.nodes, facets) @ axes.T
            assert np.allclose(facet_normals(image.nodes, image.faces[name]), turned, atol=1e-9), (kind, name)
