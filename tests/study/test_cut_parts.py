"""Parts split by planes: pieces fill the whole, carry what it carried, and answer as it did."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.core.mesh.test_free import _box, _cylinder
from tests.core.mesh.test_free import _cut as _drilled
from ulmek.core.errors import UlmekError
from ulmek.core.geometry import kernel
from ulmek.demo import demo_study
from ulmek.runs.solve import solve_study
from ulmek.study.cut_parts import Cutting, cut_parts
from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.step_files import read_step_file
from ulmek.study.translate import translate
from ulmek.verify.case import base_document, block_part, hold, load, step

AXES = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}


def _cut(study: StudyDocument, axis: str, at: float, *parts: str, **how: Any) -> tuple[StudyDocument, str]:
    cutting = Cutting(parts=list(parts), normal=AXES[axis], at=f"{at} mm", **how)
    patch, told = cut_parts(study, cutting)
    return apply_edit(study, patch)[0], told


def _split(study: StudyDocument, part: str, axis: str, at: float) -> StudyDocument:
    return _cut(study, axis, at, part, axes="own")[0]


def _bar() -> dict[str, Any]:
    study = base_document("bar", "Bar")
    study["parts"] = [block_part("bar", (100, 20, 20), 5)]
    study["supports"] = [hold("wall", ["x", "y", "z"], "bar/left")]
    study["loads"] = [load("pull", "pressure", {"pull": "-50 MPa"}, "bar/right")]
    study["steps"] = [step("pull", 1.0)]
    return study


@pytest.mark.parametrize(("axis", "at"), [("x", 12.0), ("z", 7.5)])
def test_a_split_bar_stretches_as_the_whole_one(axis: str, at: float) -> None:
    study = read_study(_bar())
    pieces = _split(study, "bar", axis, at)
    assert len(pieces.parts) == 2
    assert all(p.recipe.file is not None and p.recipe.file.shape is not None for p in pieces.parts)
    assert sum(part_mesh(p).volume() for p in pieces.parts) == pytest.approx(100 * 20 * 20)
    held = {r.split("/")[0] for r in pieces.supports[0].faces}
    # Along the bar one piece is held; across it both are.
    assert held == ({"bar-1"} if axis == "x" else {"bar-1", "bar-2"})
    # Faces keep their names.
    assert set(part_mesh(pieces.parts[0]).faces) >= {"near", "far", "parting"}
    assert ("left" in part_mesh(pieces.parts[1]).faces) is (axis == "z")
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
    drilled = _drilled(
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


def test_a_cut_through_turned_parts_keeps_half_of_everything(two_blocks: dict[str, Any]) -> None:
    two_blocks["parts"][1]["placements"][0]["turn"] = {"axis": "z", "angle": "90 deg"}
    two_blocks["loads"] = two_blocks["loads"][:1]
    whole = read_study(two_blocks)
    half, told = _cut(whole, "y", 0.0, keep="ahead", leaves="symmetry")
    assert told == ""
    quarter, _ = _cut(half, "x", 0.0, keep="behind", leaves="symmetry")
    # The base stays a recipe; the slider's own axes are turned.
    assert [p.recipe.kept for p in half.parts] == ["half", "whole"]
    assert [len(s.faces) for s in quarter.supports] == [1, 2, 2]
    assert [p.id for p in quarter.parts] == ["base", "slider"]
    results = [solve_study(s).summaries[-1] for s in (whole, half, quarter)]
    # Held apart only by what friction there is, halves and quarters carry their share and deform alike.
    for share, result in zip((1, 2, 4), results, strict=True):
        assert result.carrier("floor").force[2] == pytest.approx(20 * 1600 / share, rel=1e-6)
        moved = max(p.max_displacement for p in result.parts.values())
        assert moved == pytest.approx(max(p.max_displacement for p in results[0].parts.values()), rel=0.02)


def test_copies_beyond_the_plane_go_and_those_on_it_are_halved() -> None:
    study = demo_study("wall-bracket")
    beside, told = _cut(study, "x", 0.0, keep="ahead", leaves="symmetry")
    bolts = next(p for p in beside.parts if p.id == "bolts")
    assert len(bolts.placements) == 2
    assert "on what is left" in told
    on_bolts = {r for pair in beside.pairs for r in (*pair.a, *pair.b) if r.startswith("bolts")}
    assert on_bolts
    assert not any(r.startswith(("bolts#3", "bolts#4")) for r in on_bolts)
    copies = np.array(
        [[float(c.split()[0]) for c in p.at] for p in next(p for p in study.parts if p.id == "bolts").placements]
    )
    through, _ = _cut(study, "x", float(copies[:, 0].min()), keep="ahead", leaves="symmetry")
    assert sorted(len(p.placements) for p in through.parts if p.id.startswith("bolts")) == [2, 2]
    assert len(through.bolts) == 2
    assert {b.part for b in through.bolts} == {p.id for p in through.parts if p.id.startswith("bolts")}
    everything = len(study.supports) + len(study.loads)
    assert len(through.supports) + len(through.loads) == everything + 1


def test_a_slanting_plane_cuts_a_part_and_its_pieces_may_touch() -> None:
    study = read_study(_bar())
    patch, _ = cut_parts(study, Cutting(normal=(1, 0, 1), at="5 mm", leaves="touching"))
    pieces, _ = apply_edit(study, patch)
    (pair,) = pieces.pairs
    assert pair.law.may_open
    assert sum(part_mesh(p).volume() for p in pieces.parts) == pytest.approx(100 * 20 * 20)
    patch, _ = cut_parts(study, Cutting(normal=(1, 0, 1), at="5 mm", keep="ahead", leaves="symmetry"))
    half, _ = apply_edit(study, patch)
    (held,) = [s for s in translate(half).supports if s.is_symmetry]
    assert held.axes is not None
    assert abs(np.dot(held.axes.first, [1, 0, 1])) == pytest.approx(np.sqrt(2))


def test_what_cannot_be_cut_is_refused() -> None:
    study = demo_study("wall-bracket")
    for normal, at, parts, how, said in (
        ("z", 900.0, ["bracket"], {}, "does not cut Bracket"),
        ("z", 5.0, ["bolts"], {"axes": "own"}, "bolt that is tightened"),
        ("z", 5.0, ["lid"], {}, "no part 'lid'"),
        ("z", 900.0, [], {"keep": "ahead", "leaves": "free"}, "leaves nothing"),
        ("z", 5.0, [], {"keep": "ahead"}, "cannot leave its cut tied"),
    ):
        with pytest.raises(UlmekError, match=said):
            _cut(study, normal, at, *parts, **how)


@pytest.mark.parametrize(
    ("kind", "axis", "at", "do_match"),
    [
        ("block", "x", 3.0, True), ("block", "z", 20.0, True), ("plate", "x", 0.0, True), ("plate", "z", 8.0, True),
        # Nearer to the holes on one side than on the other.
        ("plate", "y", 20.0, True), ("shaft", "x", 0.0, True), ("shaft", "z", 60.0, True), ("lug", "y", 0.0, True),
        # The arm stands on one of them only.
        ("bracket", "z", 12.0, False),
    ],
)  # fmt: skip
def test_meshes_match_across_a_cut_where_both_sides_are_swept_alike(
    kind: str, axis: str, at: float, do_match: bool
) -> None:
    document = base_document("one", "One")
    document["parts"] = [{
        "id": "one", "name": "One", "material": "steel", "mesh": {"size": "9 mm"},
        "recipe": {"kind": kind, "dimensions": {}},
    }]  # fmt: skip
    pieces, told = _cut(read_study(document), axis, at, "one")
    assert ("The meshes match" in told) is do_match
    nodes = []
    for mesh in (part_mesh(p) for p in pieces.parts):
        cut = np.unique(np.concatenate([f.ravel() for n, f in mesh.faces.items() if n.startswith("parting")]))
        nodes.append({tuple(p) for p in (mesh.nodes[cut].round(4) + 0.0).tolist()})
    assert (nodes[0] == nodes[1]) is do_match
