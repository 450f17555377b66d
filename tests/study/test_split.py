"""Parts split by planes: pieces fill the whole, carry what it carried, and answer as it did."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.core.mesh.test_free import _box, _cut, _cylinder
from ulmek.core.errors import InputError
from ulmek.core.geometry import kernel
from ulmek.demo import demo_study
from ulmek.runs.solve import solve_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.split import Axis, split_part
from ulmek.study.step_files import read_step_file
from ulmek.verify.case import base_document, block_part, hold, load, step


def _split(study: StudyDocument, part: str, axis: Axis, at: float) -> StudyDocument:
    return apply_edit(study, split_part(study, part, axis, at))[0]


def _bar() -> dict[str, Any]:
    study = base_document("bar", "Bar")
    study["parts"] = [block_part("bar", (100, 20, 20), 5)]
    study["supports"] = [hold("wall", ["x", "y", "z"], "bar/left")]
    study["loads"] = [load("pull", "pressure", {"pull": "-50 MPa"}, "bar/right")]
    study["steps"] = [step("pull", 1.0)]
    return study


@pytest.mark.parametrize(("axis", "at"), [("x", 12.0), ("z", 7.5)])
def test_a_split_bar_stretches_as_the_whole_one(axis: Axis, at: float) -> None:
    study = read_study(_bar())
    pieces = _split(study, "bar", axis, at)
    assert len(pieces.parts) == 2
    assert all(p.recipe.file is not None and p.recipe.file.shape is not None for p in pieces.parts)
    assert sum(part_mesh(p).volume() for p in pieces.parts) == pytest.approx(100 * 20 * 20)
    held = {r.split("/")[0] for r in pieces.supports[0].faces}
    # Along the bar one piece is held; across it both are.
    assert held == ({"bar-1"} if axis == "x" else {"bar-1", "bar-2"})
    (tie,) = pieces.pairs
    assert (tie.law.may_open, tie.law.may_slide) == (False, "no")
    # One piece twice as fine: its mesh does not match the other's, and the stress passes all the same.
    finer, _ = apply_edit(pieces, [{"op": "replace", "path": "/parts/1/mesh/size", "value": "3 mm"}])
    whole, parts = (solve_study(s).summaries[-1] for s in (study, finer))
    stretch = max(p.max_displacement for p in parts.parts.values())
    assert stretch == pytest.approx(whole.parts["bar"].max_displacement, rel=0.01)
    assert parts.carrier("wall").force[0] == pytest.approx(-50 * 400, rel=1e-9)


def test_what_no_direction_sweeps_falls_into_pieces_that_do(tmp_path: Path) -> None:
    # A hole along z on one side, one along y on the other.
    drilled = _cut(
        _box((0, 0, 0), 80.0, 30.0, 30.0), _cylinder((20, 15, -5), (0, 0, 1), 6.0, 50.0),
        _cylinder((60, -5, 15), (0, 1, 0), 6.0, 50.0),
    )  # fmt: skip
    kernel.write_step([("Link", drilled)], tmp_path / "link.step")
    (solid,) = read_step_file((tmp_path / "link.step").read_bytes(), "link.step", skins=tmp_path).solids
    assert solid.kind == "free-form"
    assert solid.part is not None
    document = base_document("link", "Link") | {
        "parts": [{
            "id": "link", "name": "Link", "material": "steel", "mesh": {"size": "6 mm", "elements": "tets"},
            "recipe": {"kind": "file", "file": solid.part.model_dump(mode="json")},
        }],
    }  # fmt: skip
    pieces = _split(read_study(document), "link", "x", 40.0)
    assert [p.recipe.file.shape is not None for p in pieces.parts if p.recipe.file] == [True, True]
    meshes = [part_mesh(p) for p in pieces.parts]
    assert [m.kind for m in meshes] == ["brick", "brick"]
    assert sum(m.volume() for m in meshes) == pytest.approx(80 * 900 - 2 * np.pi * 36 * 30, rel=2e-3)


def test_a_bracket_in_two_keeps_its_pairs_bolts_and_loads() -> None:
    study = demo_study("wall-bracket")
    pieces = _split(study, "bracket", "y", 0.0)
    assert {p.id for p in pieces.parts} >= {"bracket-1", "bracket-2"}
    assert len(pieces.pairs) == len(study.pairs) + 1
    for before, after in zip(study.pairs, pieces.pairs, strict=False):
        on_part = [r for r in (*before.a, *before.b) if r.startswith("bracket/")]
        led = {r.split("/")[0] for r in (*after.a, *after.b) if r.startswith("bracket-")}
        assert led == ({"bracket-1", "bracket-2"} if on_part else set())
    assert all(load.faces for load in pieces.loads)


def test_what_cannot_be_split_is_refused() -> None:
    study = demo_study("wall-bracket")
    with pytest.raises(InputError, match="does not cut"):
        split_part(study, "bracket", "z", 900.0)
    with pytest.raises(InputError, match="bolt that is tightened"):
        split_part(study, "bolts", "z", 5.0)
    with pytest.raises(InputError, match="no part 'lid'"):
        split_part(study, "lid", "z", 5.0)
