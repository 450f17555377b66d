"""Second-order sections made from quads: the same area and edges, mid-sides in the middle, inertia above zero."""

import numpy as np
import pytest

from ulmek.core.coupling.loads import nodal_masses
from ulmek.core.coupling.surface import facet_sums
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.layout import lay_out
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.plane import split_into_triangles, with_mid_sides
from ulmek.core.mesh.sweep import mesh_section
from ulmek.core.mesh.volume import VolumeMesh, check_mesh
from ulmek.core.model import Body, Model


def _model(mesh: VolumeMesh) -> Model:
    body = Body("part", mesh, Elastic(210e3, 0.3, density=8e-9))
    return Model((body,), (), (), (), (), (), space="plane-stress", thickness=3.0)


@pytest.mark.parametrize("kind", ["plate", "disc", "washer"])
@pytest.mark.parametrize("further", [with_mid_sides, split_into_triangles])
def test_second_order_sections_keep_area_edges_and_mass(kind: str, further) -> None:  # type: ignore[no-untyped-def]
    quads = mesh_section(RECIPES[kind].solid({}), size=9.0)
    mesh = further(quads)
    check_mesh(mesh)
    assert mesh.volume() == pytest.approx(quads.volume(), rel=1e-12)
    assert set(mesh.faces) == set(quads.faces)
    model = _model(mesh)
    for name, edges in mesh.faces.items():
        assert np.allclose(mesh.nodes[edges[:, 2]], mesh.nodes[edges[:, :2]].mean(axis=1))
        _, vector = facet_sums(model, edges)
        _, before = facet_sums(_model(quads), quads.faces[name])
        assert np.allclose(vector.sum(axis=0), before.sum(axis=0), atol=1e-9)
    layout, mass = lay_out(model), 8e-9 * 3.0 * quads.volume()
    inertia = nodal_masses(model, layout, for_inertia=True)
    assert inertia.min() > 0
    assert inertia.sum() == pytest.approx(mass)
    assert nodal_masses(model, layout).sum() == pytest.approx(mass)
