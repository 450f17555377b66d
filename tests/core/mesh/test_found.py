"""Finer points that were found: every kind of part is as fine as asked around them, and no finer far away."""

from typing import Any

import numpy as np
import pytest
from scipy.spatial import cKDTree

from tests.core.mesh.test_free import _box, _cut, _cylinder
from ulmek.core.element.family import FAMILIES
from ulmek.core.mesh.free import mesh_free
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.review.refine import covering
from ulmek.study.items.part import Part
from ulmek.study.meshes import part_mesh

SIZE, FINE = 6.0, 0.8


def _edges_near(mesh: VolumeMesh, at: np.ndarray) -> float:
    """The longest edge of the elements at the node nearest to a point."""
    nearest = int(cKDTree(mesh.nodes).query(at)[1])
    corners = FAMILIES[mesh.kind].dim + 1 if FAMILIES[mesh.kind].is_simplex else 2 ** FAMILIES[mesh.kind].dim
    own = mesh.nodes[mesh.cells[(mesh.cells == nearest).any(axis=1)][:, :corners]]
    if FAMILIES[mesh.kind].is_simplex:
        return float(max(np.linalg.norm(own - np.roll(own, k, axis=1), axis=2).max() for k in range(1, corners)))
    spans = [
        own[:, i] - own[:, j] for i, j in ((0, 1), (1, 2), (2, 3), (3, 0), *(((0, 4), (1, 5)) if corners == 8 else ()))
    ]
    return float(max(np.linalg.norm(s, axis=1).max() for s in spans))


def _part(recipe: str, *, found: list[Any], elements: str = "bricks", **mesh: Any) -> Part:
    settings = {"size": f"{SIZE} mm", "per_turn": 16, "elements": elements, "found": found, **mesh}
    return Part.model_validate(
        {"id": "it", "name": "It", "material": "steel", "recipe": {"kind": recipe}, "mesh": settings}
    )


@pytest.mark.parametrize(
    ("recipe", "elements", "section"),
    [
        ("block", "bricks", False), ("plate", "bricks", False), ("block", "tets", False), ("ball", "bricks", False),
        ("taper-pin", "bricks", False), ("plate", "bricks", True), ("plate", "tets", True),
    ],
)  # fmt: skip
def test_elements_are_as_fine_as_found(recipe: str, elements: str, section: bool) -> None:
    coarse = part_mesh(_part(recipe, found=[], elements=elements), section=section)
    # A corner of the outside that is far from the middle.
    at = coarse.nodes[np.linalg.norm(coarse.nodes - coarse.nodes.mean(axis=0) + [0.3, 0.2, 0.1], axis=1).argmax()]
    fine = part_mesh(_part(recipe, found=[[*at.tolist(), FINE]], elements=elements), section=section)
    assert _edges_near(coarse, at) > 2 * FINE
    assert _edges_near(fine, at) < 2 * FINE
    assert len(coarse.cells) < len(fine.cells)


def test_layers_that_are_counted_become_more_where_something_is_found() -> None:
    counted = part_mesh(_part("block", found=[], layers=3))
    top = float(counted.nodes[:, 2].max())
    levels = {
        name: np.unique(np.round(part_mesh(_part("block", found=found, layers=3)).nodes[:, 2], 6))
        for name, found in (("none", []), ("top", [[0.0, 0.0, top, FINE]]))
    }
    assert len(levels["none"]) == 4
    assert len(levels["top"]) > 6
    assert np.diff(levels["top"])[-1] < 1.5 * FINE < np.diff(levels["top"])[0]


def test_few_points_cover_what_many_want() -> None:
    rng = np.random.default_rng(1)
    points = rng.uniform(0, 40, (4000, 3))
    wanted = 0.5 + 0.1 * np.linalg.norm(points - 20, axis=1)
    few = covering(points, wanted, 60)
    assert len(few) <= 60
    grown = few[:, 3][None] + 0.12 * np.linalg.norm(points[:, None] - few[None, :, :3], axis=2)
    field = grown.min(axis=1)
    assert (field >= 0.5 - 1e-12).all()
    assert np.quantile(field / wanted, [0.0, 1.0]) == pytest.approx([1.0, 1.6], abs=0.65)


def test_free_form_solids_are_finer_around_points_too() -> None:
    drilled = _cut(_box((0, 0, 0), 30.0, 20.0, 12.0), _cylinder((15, 10, -5), (0, 0, 1), 4.0, 30.0))
    at = np.array([0.0, 20.0, 12.0])
    coarse = mesh_free(drilled, size=SIZE)
    fine = mesh_free(drilled, size=SIZE, spots=np.array([[*at, FINE]]))
    assert _edges_near(coarse, at) > 4 * FINE
    assert _edges_near(fine, at) < 2 * FINE
    assert len(coarse.cells) < len(fine.cells) < 4 * len(coarse.cells)
