"""Every recipe is meshed by a process of its own as it is in place."""

from collections.abc import Iterator

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.study import meshes
from ulmek.study.aside import close_workshop, open_workshop
from ulmek.study.items import Part, StudyDocument
from ulmek.study.meshes import forget_meshes, part_mesh
from ulmek.study.new_parts import new_part

EMPTY = StudyDocument(name="empty", title="Empty")


@pytest.fixture
def workshop(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Every swept part counts as large."""
    monkeypatch.setattr(meshes, "MANY", 0)
    open_workshop()
    yield
    close_workshop()
    forget_meshes()


def _coarser(part: Part) -> Part:
    size = 1.7 * float(part.mesh.size.split()[0])
    return part.model_copy(update={"mesh": part.mesh.model_copy(update={"size": f"{size:g} mm", "per_turn": 16})})


def test_every_recipe_is_meshed_aside_as_in_place(workshop: None) -> None:
    parts = {kind: _coarser(new_part(EMPTY, kind, {})[0]) for kind in RECIPES}
    forget_meshes()
    aside = {kind: part_mesh(part) for kind, part in parts.items()}
    close_workshop()
    forget_meshes()
    for kind, mesh in aside.items():
        here = part_mesh(parts[kind])
        assert np.array_equal(mesh.nodes, here.nodes), kind
        assert np.array_equal(mesh.cells, here.cells), kind
        assert {n: len(f) for n, f in mesh.faces.items()} == {n: len(f) for n, f in here.faces.items()}, kind
