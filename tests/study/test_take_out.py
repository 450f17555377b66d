"""Taking an item out takes what cannot be without it, says so, and leaves a study that checks."""

import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any, get_args

import pytest
from pydantic import BaseModel

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.demo import DEMOS, demo_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import KINDS, KindName, StudyDocument, items_of, read_study
from ulmek.study.items.item import Refers
from ulmek.study.items.references import with_references
from ulmek.study.preflight import preflight
from ulmek.study.take_out import take_out
from ulmek.study.variants import OF_ASKING


@pytest.fixture
def full(two_blocks: dict[str, Any]) -> StudyDocument:
    """Two blocks with an item of every kind, most of which hang on the slider."""
    return read_study({
        **two_blocks,
        "handles": [
            {"id": "grip", "name": "Grip", "faces": ["slider/top"]},
            {"id": "post", "name": "Post"},
            {"id": "both", "name": "Both", "faces": ["slider/left", "base/left"], "kind": "averaging"},
        ],
        "springs": [{"id": "soft", "name": "Soft", "a": "grip", "stiffness": ["1 N/mm"] * 3}],
        "links": [{"id": "rod", "name": "Rod", "a": "post", "b": "grip"}],
        "walls": [{"id": "wall", "name": "Wall", "kind": "plane", "handle": "post"}],
        "pairs": [
            *two_blocks["pairs"],
            {"id": "stop", "name": "Stop", "a": ["slider/right", "base/right"], "b": [], "wall": "wall",
             "released": ["push"]},
        ],
        "left_out": [{"a": ["slider/near"], "b": ["base/near"]}],
        "bolts": [{"id": "line", "name": "Line", "line": {"head": "grip", "direction": [0, 0, 1],
                   "stiffness": "10 kN/mm"}, "preload": {"press": "1 kN"}}],
        "supports": [
            *two_blocks["supports"],
            {"id": "guide", "name": "Guide", "kind": "components", "components": ["y"],
             "faces": ["base/near", "slider/near"]},
        ],
    })  # fmt: skip


def test_a_part_goes_with_all_that_hangs_on_it(full: StudyDocument) -> None:
    patch, told = take_out(full, "part", "slider")
    edited, inverse = apply_edit(full, patch)
    assert "slider" not in json.dumps(edited.model_dump())
    ids = {kind: [i.id for i in items_of(edited, kind)] for kind in KINDS if KINDS[kind].is_named}
    assert ids["handle"] == ["post", "both"]
    assert (ids["spring"], ids["link"], ids["bolt"], ids["load"]) == ([], [], [], [])
    assert ids["pair"] == ["stop"]
    assert edited.left_out == []
    assert edited.pairs[0].a == ["base/right"]
    assert edited.supports[1].faces == ["base/near"]
    assert told == (
        "Also takes out pair Slider – base, bolts Line, handle Grip, spring Soft, link Rod, load Press and load Push. "
        "Changes pair Stop, handle Both and support Guide."
    )
    assert apply_edit(edited, inverse)[0] == full
    # What is left can be checked: nothing in it refers to what is not there.
    assert "slider" not in " ".join(f.text for f in preflight(edited).findings)


def test_a_step_leaves_the_tables_that_name_it(full: StudyDocument) -> None:
    edited, _ = apply_edit(full, take_out(full, "step", "push")[0])
    assert [s.id for s in edited.steps] == ["press"]
    assert edited.loads[1].values == {}
    assert edited.pairs[1].released == []


def test_a_wall_goes_with_its_handle_and_its_pair_with_it(full: StudyDocument) -> None:
    edited, _ = apply_edit(full, take_out(full, "handle", "post")[0])
    assert (edited.walls, [p.id for p in edited.pairs], edited.links) == ([], ["joint"], [])


def test_what_is_needed_stays_and_what_is_not_there_is_told(full: StudyDocument) -> None:
    with pytest.raises(InputError, match="is the material of Base"):
        take_out(full, "material", "steel")
    with pytest.raises(UnknownNameError, match="no spring 'hard'"):
        take_out(full, "spring", "hard")


@pytest.mark.parametrize("demo", DEMOS)
def test_any_item_of_any_demo_can_be_taken_out(demo: str) -> None:
    study = demo_study(demo)
    for kind in KINDS.values():
        for item in items_of(study, kind.name) if kind.is_named and kind.name != "material" else []:
            name: Any = kind.name
            edited, inverse = apply_edit(study, take_out(study, name, item.id)[0])
            assert item.id not in [i.id for i in items_of(edited, kind.name)]
            assert apply_edit(edited, inverse)[0] == study


def test_references_are_renamed_and_spread_wherever_they_stand(full: StudyDocument) -> None:
    def change(refers: Refers, written: str) -> tuple[str, ...]:
        return ("slider-1/right", "slider-2/right") if written == "slider/right" else (written,)

    stop = with_references(full.pairs[1], change)
    assert stop is not None
    assert stop.a == ["slider-1/right", "slider-2/right", "base/right"]
    assert with_references(full.pairs[1], lambda _, w: (w,)) == full.pairs[1]


def test_the_table_of_kinds_is_the_document(full: StudyDocument) -> None:
    """A new kind that is forgotten in the table, the document or the page's list of names is told here."""
    lists = {n for n, f in StudyDocument.model_fields.items() if "list[" in str(f.annotation)}
    assert {k.list for k in KINDS.values()} == lists - set(OF_ASKING)
    assert set(get_args(KindName)) == set(KINDS)
    for kind in KINDS.values():
        assert f"list[{kind.item.__module__}.{kind.item.__name__}]" in str(
            StudyDocument.model_fields[kind.list].annotation
        )
        # Every module of a kind is in the table.
    folder = Path(__file__).parents[2] / "src/ulmek/study/items"
    having = {p.stem for p in folder.glob("*.py") if re.search(r"^KIND = ", p.read_text(), re.M)}
    assert having == {k.name.replace("-", "_") for k in KINDS.values()}


def _named(model: type[BaseModel], seen: set[type[BaseModel]]) -> Iterator[tuple[str, str]]:
    """Fields of an item and of what it holds whose types are an item's name or a face, and how the type reads."""
    if model in seen:
        return
    seen.add(model)
    for name, field in model.model_fields.items():
        kind = f"{field.annotation} {field.metadata}"
        if re.search(r"a-z0-9\]\[a-z0-9-\]|#\\\\d", kind) and name not in ("id", "edges"):
            yield f"{model.__name__}.{name}", kind
        for inner in _models_in(field.annotation):
            yield from _named(inner, seen)


def _models_in(kind: Any) -> Iterator[type[BaseModel]]:
    if isinstance(kind, type) and issubclass(kind, BaseModel):
        yield kind
    for arg in get_args(kind):
        yield from _models_in(arg)


def test_whatever_names_another_item_says_so_in_its_type() -> None:
    """A field that names an item by a bare id would be missed when that is checked, taken out or renamed."""
    named = [found for kind in KINDS.values() for found in _named(kind.item, set())]
    assert len(named) > 20
    assert [field for field, kind in named if "Refers" not in kind] == []
