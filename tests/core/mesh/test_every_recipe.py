"""Common checks of every recipe's mesh over a grid of dimensions and sizes."""

from collections.abc import Iterator

import numpy as np
import pytest
from shapely import box

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.cut import CUT_FACES, Kept, cut_solid
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes import RECIPES, Recipe, Solid
from ulmek.core.mesh.size import PER_TURN_OF_NEW, suggested_mesh
from ulmek.core.mesh.solid import mesh_solid
from ulmek.core.mesh.sweep import Layering, mesh_layered
from ulmek.core.mesh.volume import check_mesh, free_faces

SETS = 2


def _near(recipe: Recipe, seed: int) -> dict[str, float]:
    """Dimensions about the defaults: all larger or smaller together, and each a bit by itself."""
    rng = np.random.default_rng(seed)
    scale = 10 ** rng.uniform(-0.4, 0.6)
    values = {}
    for d in recipe.dimensions:
        if d.kind == "length":
            value = d.default * scale * rng.uniform(0.75, 1.3)
        elif d.name == "sector":
            value = float(rng.choice([90, 180, 360]))
        elif d.kind == "count":
            value = d.default + rng.integers(-1, 2) if d.default > 1 else d.default
        else:
            value = d.default * rng.uniform(0.7, 1.2)
        values[d.name] = float(np.clip(value, d.low, d.high))
    return values


def _solids(recipe: Recipe) -> Iterator[Solid]:
    """Solids of `SETS` sets of dimensions that go together."""
    made = 0
    for seed in range(20 * SETS):
        try:
            solid = recipe.solid(_near(recipe, seed))
        except GeometryError:
            continue
        made += 1
        yield solid
        if made == SETS:
            return
    raise AssertionError(f"only {made} sets of dimensions of '{recipe.kind}' go together")


@pytest.mark.parametrize("kind", RECIPES)
def test_meshes_are_valid_named_and_fill_the_solid(kind: str) -> None:
    for solid in _solids(RECIPES[kind]):
        size, layers = suggested_mesh(solid)
        # Layers of a solid of one outline are all alike: two show it.
        few = 2 if isinstance(solid, LayeredSolid) and len(solid.layers) == 1 else layers
        mesh = mesh_solid(solid, size=size, layering=Layering(few), per_turn=PER_TURN_OF_NEW)
        check_mesh(mesh)
        assert mesh.scaled_jacobians().min() >= 0.3
        assert mesh.volume() == pytest.approx(solid.volume(), rel=5e-3)
        named = np.vstack(list(mesh.faces.values()))
        assert len(named) == len(free_faces(mesh.cells, mesh.kind))
        closed = np.cross(
            mesh.nodes[named[:, 2]] - mesh.nodes[named[:, 0]], mesh.nodes[named[:, 3]] - mesh.nodes[named[:, 1]]
        )
        # Outward quads of a closed skin: their area vectors cancel.
        assert np.abs(closed.sum(axis=0)).max() < 1e-9 * np.abs(closed).sum()


def test_face_size_refines_that_face_only() -> None:
    solid = RECIPES["plate"].solid({"hole_columns": 0})
    coarse = mesh_layered(solid, size=20.0)
    fine = mesh_layered(solid, size=20.0, face_sizes={"edge.left": 5.0})
    assert len(fine.faces["edge.left"]) >= 3 * len(coarse.faces["edge.left"])


def test_bolt_is_cut_across_its_whole_shank() -> None:
    solid = RECIPES["bolt"].solid({})
    mesh = mesh_layered(solid, size=4.0)
    at = mesh.nodes[mesh.cut_nodes]
    assert np.ptp(at[:, 2]) < 1e-12
    assert np.hypot(at[:, 0], at[:, 1]).max() == pytest.approx(8.0)
    assert np.all(mesh.nodes[mesh.cells[mesh.cut_above]].mean(axis=1)[:, 2] > at[0, 2])


def _beyond(solid: Solid, *, quarter: bool) -> float:
    """Volume (mm³) on the positive side of the cuts, through chords."""
    if not isinstance(solid, LayeredSolid):
        return solid.volume() / (4 if quarter else 2)
    kept = box(0 if quarter else -1e5, 0, 1e5, 1e5)
    area = {r.name: r.polygon().intersection(kept).area for r in solid.partition.regions}
    return float(sum((la.top - la.bottom) * area[name] for la in solid.layers for name in la.regions))


@pytest.mark.parametrize("kind", RECIPES)
@pytest.mark.parametrize("kept", ["half", "quarter"])
def test_halves_and_quarters_are_cut_clean(kind: str, kept: Kept) -> None:
    whole = RECIPES[kind].solid({})
    size, layers = suggested_mesh(whole)
    few = 2 if isinstance(whole, LayeredSolid) and len(whole.layers) == 1 else layers
    if kind == "fork" and kept == "quarter":
        with pytest.raises(GeometryError, match="in pieces"):
            cut_solid(whole, kept)
        return
    solid = cut_solid(whole, kept)
    assert solid.volume() == pytest.approx(_beyond(whole, quarter=kept == "quarter"), rel=2e-3)
    mesh = mesh_solid(solid, size=size, layering=Layering(few), per_turn=PER_TURN_OF_NEW)
    check_mesh(mesh)
    assert mesh.scaled_jacobians().min() >= 0.3
    assert mesh.volume() == pytest.approx(solid.volume(), rel=5e-3)
    for axis, name in enumerate(CUT_FACES):
        if name in mesh.faces:
            assert np.abs(mesh.nodes[mesh.faces[name]][:, :, axis]).max() < 1e-6
    assert mesh.nodes[:, 1].min() > -1e-6
