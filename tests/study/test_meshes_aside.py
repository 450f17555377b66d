"""Work done by a process of its own gives what it gives in place."""

import os
from collections.abc import Iterator

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.study import meshes
from ulmek.study import preflight as preflight_module
from ulmek.study.aside import close_workshops, open_workshops
from ulmek.study.checking import FEW, checked
from ulmek.study.items import Part, StudyDocument, read_study
from ulmek.study.meshes import forget_meshes, part_mesh
from ulmek.study.new_parts import new_part
from ulmek.study.preflight import preflight
from ulmek.verify.case import base_document, block_part, step

EMPTY = StudyDocument(name="empty", title="Empty")


@pytest.fixture
def workshop(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Every swept part counts as large."""
    monkeypatch.setattr(meshes, "MANY", 0)
    open_workshops()
    yield
    close_workshops()
    forget_meshes()


def _coarser(part: Part) -> Part:
    size = 1.7 * float(part.mesh.size.split()[0])
    return part.model_copy(update={"mesh": part.mesh.model_copy(update={"size": f"{size:g} mm", "per_turn": 16})})


def test_every_recipe_is_meshed_aside_as_in_place(workshop: None) -> None:
    parts = {kind: _coarser(new_part(EMPTY, kind, {})[0]) for kind in RECIPES}
    forget_meshes()
    aside = {kind: part_mesh(part) for kind, part in parts.items()}
    close_workshops()
    forget_meshes()
    for kind, mesh in aside.items():
        here = part_mesh(parts[kind])
        assert np.array_equal(mesh.nodes, here.nodes), kind
        assert np.array_equal(mesh.cells, here.cells), kind
        assert {n: len(f) for n, f in mesh.faces.items()} == {n: len(f) for n, f in here.faces.items()}, kind


def test_a_large_study_is_checked_aside_as_in_place_with_meshes_of_the_parts_workshop(
    workshop: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    study = base_document("stack", "Stack")
    study["parts"] = [block_part(f"block-{i}", (10, 10, 5), 5, at=5 * i) for i in range(FEW)]
    study["parts"][0]["mesh"]["size"] = "0 mm"
    study["pairs"] = [
        {"id": f"pair-{i}", "name": f"Pair {i}", "a": [f"block-{i}/top"], "b": [f"block-{i + 1}/bottom"]}
        for i in range(FEW - 1)
    ]
    study["steps"] = [step("load")]
    refused, repeated = (checked(read_study(study)) for _ in range(2))
    assert [f.where for f in refused.findings] == [f.where for f in repeated.findings] == ["parts/block-0/mesh/size"]
    study["parts"][0]["mesh"]["size"] = "5 mm"
    document, here = read_study(study), os.getpid()
    with monkeypatch.context() as meshing:
        # This process meshes each part once and does nothing else of a check.
        meshing.setattr(preflight_module, "_checked", lambda *_: pytest.fail(f"checked by {os.getpid()} of {here}"))
        made = []
        meshing.setattr(
            meshes._KEPT, "source", lambda part, section: made.append(part.id) or meshes._made(part, section)
        )
        found, again = checked(document), checked(document)
    assert made == [p.id for p in document.parts]
    assert found == again == preflight(document)
    assert [p.cover for p in found.pairs] == pytest.approx([1.0] * (FEW - 1))
