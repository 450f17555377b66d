"""Building an assembly: new parts, faces mated, what touches found again and suggested as pairs."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import InputError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.demo import DEMOS, demo_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.mating import mated
from ulmek.study.meshes import part_mesh
from ulmek.study.new_parts import new_part
from ulmek.study.touching import suggestions
from ulmek.study.translate import translate_parts
from ulmek.verify.case import base_document, part, step

EMPTY = StudyDocument(name="new", title="New")


def _with(study: StudyDocument, kind: str, **dimensions: Any) -> StudyDocument:
    part, material = new_part(study, kind, dimensions)
    materials = [*study.materials, *([material] if material else [])]
    return study.model_copy(update={"parts": [*study.parts, part], "materials": materials})


def _mated(study: StudyDocument, own: str, other: str) -> StudyDocument:
    index, copy, placement = mated(study, own, other)
    value = placement.model_dump(mode="json")
    patch = [{"op": "replace", "path": f"/parts/{index}/placements/{copy}", "value": value}]
    return apply_edit(study, patch)[0]


@pytest.mark.parametrize("kind", RECIPES)
def test_every_new_part_stands_clear_of_the_others(kind: str) -> None:
    study = _with(_with(EMPTY, "block"), kind)
    block, new = (b.mesh for b in translate_parts(study))
    assert new.nodes[:, 0].min() > block.nodes[:, 0].max()
    assert suggestions(study) == []


def test_a_pinned_joint_is_mated_and_its_pairs_are_found() -> None:
    study = _with(EMPTY, "fork")
    study = _with(study, "lug")
    study = _with(study, "pin", shank_diameter="19.8 mm", length="60 mm")
    study = _mated(study, "lug/hole", "fork/lower.hole")
    study = _mated(study, "lug/bottom", "fork/lower.inside")
    study = _mated(study, "pin/shank", "fork/lower.hole")
    # The head bears on the lower ear from outside.
    study = _mated(study, "pin/shoulder", "fork/bottom")
    found = {(tuple(s.a), tuple(s.b)): s for s in suggestions(study)}
    assert {frozenset([*a, *b]) for a, b in found} == {
        frozenset({"lug/hole", "pin/shank"}), frozenset({"fork/lower.hole", "pin/shank"}),
        frozenset({"fork/upper.hole", "pin/shank"}), frozenset({"lug/bottom", "fork/lower.inside"}),
        frozenset({"lug/top", "fork/upper.inside"}), frozenset({"pin/shoulder", "fork/bottom"}),
    }  # fmt: skip
    gaps = {frozenset([*s.a, *s.b]): s.gap for s in found.values()}
    assert gaps[frozenset({"lug/hole", "pin/shank"})] == pytest.approx(0.1, abs=2e-3)
    assert gaps[frozenset({"lug/top", "fork/upper.inside"})] == pytest.approx(1.0)
    assert gaps[frozenset({"pin/shoulder", "fork/bottom"})] == pytest.approx(0.0, abs=1e-9)
    # Once accepted they are known, also after an edit that keeps the faces.
    taken = [s.new_pair for s in found.values()]
    # Names tell them apart, by their faces where several are between the same two parts.
    assert len({str(p["name"]) for p in taken}) == 6
    assert any("Fork lower.hole" in str(p["name"]) for p in taken)
    patch = [{"op": "add", "path": "/pairs", "value": taken}]
    patch.append({"op": "add", "path": "/parts/2/recipe/dimensions/shank_diameter", "value": "19.6 mm"})
    study, _ = apply_edit(study, patch)
    again = suggestions(study)
    assert len(again) == 6
    assert all(s.pair is not None for s in again)


def test_what_cannot_be_mated_is_refused() -> None:
    study = _with(_with(EMPTY, "plate"), "pin")
    with pytest.raises(InputError, match="a round and a flat"):
        mated(study, "pin/shank", "plate/front")
    with pytest.raises(InputError, match="one part"):
        mated(study, "plate/front", "plate/back")
    study = _with(study, "strap")
    study = _with(study, "gear")
    with pytest.raises(InputError, match="neither flat, nor round"):
        mated(study, "gear/tooth.1.left", "plate/front")


@pytest.mark.parametrize("demo", DEMOS)
def test_the_pairs_of_the_demos_are_found_and_no_others(demo: str) -> None:
    study = demo_study(demo)
    # Several teeth of one gear are several findings of one pair.
    assert {s.pair for s in suggestions(study)} == {p.id for p in study.pairs}


def test_copies_of_a_part_are_one_suggestion() -> None:
    study = _with(_with(EMPTY, "plate", hole_columns=0), "block", length="20 mm", depth="20 mm", height="20 mm")
    places = [{"at": [f"{x} mm", f"{y} mm", "20 mm"]} for x in np.arange(-100, 101, 40) for y in range(-100, 81, 40)]
    study, _ = apply_edit(study, [{"op": "replace", "path": "/parts/1/placements", "value": places[:29]}])
    bodies = translate_parts(study)
    assert len(bodies) == 30
    found = suggestions(study)
    assert [(s.a, s.b, s.places) for s in found] == [(["block/bottom"], ["plate/front"], 29)]


def test_a_part_is_meshed_freely_where_its_pattern_says_so() -> None:
    ring = {"inner_diameter": 20, "outer_diameter": 60, "thickness": 5}
    one = part("ring", "washer", ring, {"size": "5 mm"})
    meshes = []
    for pattern in ("structured", "free"):
        one["mesh"]["pattern"] = pattern
        study = base_document("ring", "Ring") | {"parts": [one], "steps": [step("rest")]}
        meshes.append(part_mesh(read_study(study).parts[0]))
    rows, free = meshes
    # In rows every corner lies on one of a few circles.
    circles = [len(np.unique(np.hypot(*m.nodes[:, :2].T).round(6))) for m in meshes]
    assert 2 * circles[0] < circles[1]
    assert free.volume() == pytest.approx(rows.volume(), rel=0.02)
    assert set(free.faces) == set(rows.faces)
