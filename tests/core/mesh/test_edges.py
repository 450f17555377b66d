"""Finer meshes where two faces meet, graded layers, and free-form solids with thin walls."""

from typing import Any

import numpy as np
import pytest

from tests.core.mesh.test_free import SHAPES, _box, _cut, _cylinder
from ulmek.core.errors import InputError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.free import mesh_free
from ulmek.core.mesh.solid import mesh_solid
from ulmek.core.mesh.surface import mesh_surface
from ulmek.core.mesh.sweep import Layering
from ulmek.core.mesh.tet_quality import dihedrals
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.mesh.walls import wall_thickness


def _spans(mesh: VolumeMesh, one: str, other: str) -> np.ndarray[Any, np.dtype[np.float64]]:
    """Lengths (mm) of the element edges that two faces share."""
    corners = 3 if mesh.kind == "tet" else 4
    sides = [
        {
            tuple(sorted((int(f[k]), int(f[(k + 1) % corners]))))
            for f in mesh.faces[name][:, :corners]
            for k in range(corners)
        }
        for name in (one, other)
    ]
    shared = np.array(sorted(sides[0] & sides[1]))
    return np.asarray(np.linalg.norm(mesh.nodes[shared[:, 0]] - mesh.nodes[shared[:, 1]], axis=1))


@pytest.mark.parametrize(
    ("kind", "edge", "away"),
    [
        ("block", ("top", "right"), ("bottom", "left")),
        ("block", ("near", "right"), ("top", "left")),
        ("plate", ("front", "hole.1"), ("back", "edge.right")),
        ("pin", ("shoulder", "shank"), ("head.rim", "top")),
    ],
)
def test_an_edge_is_as_fine_as_wanted_and_the_rest_stays_coarse(
    kind: str, edge: tuple[str, str], away: tuple[str, str]
) -> None:
    solid = RECIPES[kind].solid({})
    plain = mesh_solid(solid, size=8.0)
    fine = mesh_solid(solid, size=8.0, edge_sizes={edge: 1.0})
    if kind == "pin":
        # Round the axis the mesh is alike everywhere: what is finer there is the profile.
        across = [_depth(m, "shoulder") for m in (plain, fine)]
        assert across[1] < 1.5
        assert across[0] > 2 * across[1]
    else:
        assert np.quantile(_spans(fine, *edge), 0.9) < 1.5
        assert np.median(_spans(fine, *away)) > 2.0
    assert fine.volume() == pytest.approx(plain.volume(), rel=0.01)


def _depth(mesh: VolumeMesh, face: str) -> float:
    """Shortest edge (mm) of the facets of a face."""
    p = mesh.nodes[mesh.faces[face]]
    return float(np.linalg.norm(p - np.roll(p, 1, axis=1), axis=2).min())


def test_faces_that_do_not_meet_have_no_edge() -> None:
    for kind, one, other in (("block", "top", "bottom"), ("plate", "hole.1", "hole.2"), ("pin", "top", "bottom")):
        with pytest.raises(InputError, match="do not meet"):
            mesh_solid(RECIPES[kind].solid({}), size=8.0, edge_sizes={(one, other): 1.0})


def test_layers_grow_from_the_first_to_the_last() -> None:
    mesh = mesh_solid(RECIPES["block"].solid({"height": 30}), size=10.0, layering=Layering(6, ratio=4.0))
    heights = np.diff(np.unique(mesh.nodes[:, 2].round(9)))
    assert len(heights) == 6
    assert heights[-1] / heights[0] == pytest.approx(4.0)
    assert heights[1:] / heights[:-1] == pytest.approx(4.0 ** (1 / 5))


def test_layers_are_counted_through_what_a_face_bounds() -> None:
    hub = RECIPES["hub"].solid({})
    plain = mesh_solid(hub, size=10.0)
    slabs = {round(z, 9) for layer in hub.layers for z in (layer.bottom, layer.top)}
    assert len(slabs) == 3
    sides = {n: np.unique(plain.nodes[f.ravel(), 2].round(9)) for n, f in plain.faces.items()}
    rim = next(n for n, z in sides.items() if set(z) & slabs == set(sorted(slabs)[1:]))
    for face, slab in ((rim, 1), (next(n for n, z in sides.items() if set(z) == {max(slabs)}), 1)):
        mesh = mesh_solid(hub, size=10.0, layering=Layering(through={face: 7}))
        levels = np.unique(mesh.nodes[:, 2].round(9))
        bottom, top = sorted(slabs)[slab : slab + 2]
        assert np.count_nonzero((levels >= bottom) & (levels < top)) == 7, face
        assert np.count_nonzero(levels < bottom) == np.count_nonzero(np.unique(plain.nodes[:, 2].round(9)) < bottom)
    # Along the bore, which bounds both, they are shared by height; the count of the first slab then yields.
    bore = next(n for n, z in sides.items() if slabs <= set(z))
    mesh = mesh_solid(hub, size=10.0, layering=Layering(2, through={bore: 9}))
    assert abs(len(np.unique(mesh.nodes[:, 2].round(9))) - 10) <= 1


def test_a_free_form_edge_is_as_fine_as_wanted() -> None:
    shape = SHAPES["fork"]()
    plain = mesh_free(shape, size=6.0)
    planes = [n for n in plain.faces if n.startswith("plane")]
    meeting = [(a, b) for a in planes for b in planes if a < b and _meet(plain, a, b)]
    edge = max(meeting, key=lambda e: _spans(plain, *e).sum())
    fine = mesh_free(shape, size=6.0, edge_sizes={edge: 1.5})
    assert np.median(_spans(plain, *edge)) > 3.0
    assert _spans(fine, *edge).max() < 1.6
    assert len(fine.cells) < 8 * len(plain.cells)


def _meet(mesh: VolumeMesh, one: str, other: str) -> bool:
    return len(np.intersect1d(mesh.faces[one][:, :3], mesh.faces[other][:, :3])) > 1


def test_walls_thinner_than_the_size_are_meshed_as_fine_as_they_are_thick() -> None:
    # An open box with walls of 2 mm, holes across it: no direction sweeps it. 40·30·20 − 36·26·18, less the holes.
    box = _cut(_box((0, 0, 0), 40.0, 30.0, 20.0), _box((2, 2, 2), 36.0, 26.0, 30.0))
    shape = _cut(box, _cylinder((20, -5, 11), (0, 1, 0), 5.0, 60.0), _cylinder((20, 15, -5), (0, 0, 1), 5.0, 10.0))
    mesh = mesh_free(shape, size=8.0)
    exact = 40 * 30 * 20 - 36 * 26 * 18 - np.pi * 2 * 3 * 25
    assert mesh.volume() == pytest.approx(exact, rel=1e-3)
    assert dihedrals(mesh.nodes, mesh.cells[:, :4]).min() > 8.0


def test_both_sides_of_a_wall_are_meshed_unlike_each_other() -> None:
    # A gusset of 6 mm between plates of 8 mm, at a size beyond both: skins alike on both sides gave flat elements.
    mesh = mesh_free(SHAPES["bracket"](), size=12.0)
    assert dihedrals(mesh.nodes, mesh.cells[:, :4]).min() > 8.0


def test_walls_are_as_thick_as_what_faces_them_is_far() -> None:
    skin = mesh_surface(_box((0, 0, 0), 50.0, 30.0, 4.0), size=5.0)
    felt = wall_thickness(skin, 6)
    assert sorted(felt) == pytest.approx([4.0, 4.0, 30.0, 30.0, 50.0, 50.0])
    # Through a hole there is no wall: what a ray from its side meets is the rim of the plate.
    drilled = _cut(_box((0, 0, 0), 50.0, 30.0, 4.0), _cylinder((25, 15, -5), (0, 0, 1), 5.0, 20.0))
    felt = wall_thickness(mesh_surface(drilled, size=5.0), 7)
    assert np.sort(felt)[:2] == pytest.approx([4.0, 4.0])
    assert np.sort(felt)[2] > 9.0
