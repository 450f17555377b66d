"""Preflight and the pair finder on assemblies: what touches unpaired, joined twice, nested, doubled; thirty parts."""

import copy
from typing import Any

import pytest

from ulmek.demo import demo_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.preflight import preflight
from ulmek.study.spoken import in_words
from ulmek.study.touching import suggestions


def _part(name: str, recipe: str, size: str, at: tuple[float, float, float], **dimensions: float) -> dict[str, Any]:
    return {
        "id": name, "name": name, "material": "steel", "mesh": {"size": size},
        "recipe": {"kind": recipe, "dimensions": {k: f"{v} mm" for k, v in dimensions.items()}},
        "placements": [{"at": [f"{c} mm" for c in at]}],
    }  # fmt: skip


def _study(*parts: dict[str, Any]) -> StudyDocument:
    steel = {"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3}
    return read_study({
        "format": "ulmek-study", "version": 2, "name": "row", "title": "Row", "materials": [steel], "parts": parts,
        "steps": [{"id": "load", "name": "Load"}],
    })  # fmt: skip


def _codes(study: StudyDocument) -> dict[str, int]:
    codes = [f.code for f in preflight(study).findings]
    return {c: codes.count(c) for c in codes}


def test_thirty_parts_have_exactly_the_pairs_that_touch() -> None:
    rail = _part("rail", "block", "15 mm", (0, 0, -20), length=660, depth=60, height=20)
    parts = [rail]
    for i in range(10):
        x = -300 + 66 * i
        parts.append(_part(f"ring-{i}", "washer", "6 mm", (x, 0, 0), inner_diameter=17, outer_diameter=30, thickness=4))
        parts.append(_part(f"foot-{i}", "disc", "6 mm", (x, 0, 4), diameter=28, thickness=10))
        if i < 9:
            parts.append(_part(f"stop-{i}", "block", "8 mm", (x + 33, 0, 2.5), length=20, depth=30, height=15))
    study = _study(*parts)
    assert len(study.parts) == 30
    found = {frozenset(r.split("/")[0] for r in (*s.a, *s.b)) for s in suggestions(study, distance=2.0)}
    expected = {frozenset((f"ring-{i}", other)) for i in range(10) for other in ("rail", f"foot-{i}")}
    assert found == expected
    # Wide enough, the search finds what hangs 2.5 mm above the rail as well.
    assert len(suggestions(study, distance=3.0)) == len(expected) + 9


def test_preflight_tells_unpaired_doubled_and_nested_bodies() -> None:
    base = _part("base", "block", "8 mm", (0, 0, -20), length=60, depth=60, height=20)
    study = _study(base, _part("foot", "disc", "5 mm", (0, 0, 0), diameter=30, thickness=10))
    (finding,) = [f for f in preflight(study).findings if f.code == "unpaired"]
    assert "foot / bottom" in finding.text
    paired, _ = apply_edit(study, finding.remedies[0].edit)
    assert "unpaired" not in _codes(paired)
    sides = {"a": ["base/top"], "b": ["foot/bottom"]}
    left, _ = apply_edit(study, [{"op": "add", "path": "/left_out/-", "value": sides}])
    assert "unpaired" not in _codes(left)
    twice, _ = apply_edit(paired, [{"op": "add", "path": "/pairs/-", "value": {
        "id": "again", "name": "Again", **sides}}])  # fmt: skip
    assert _codes(twice)["twice"] == 1
    nested = _study(base, _part("core", "disc", "4 mm", (0, 0, -15), diameter=20, thickness=8))
    doubled = _study(base, {**base, "id": "base-2", "name": "base 2"})
    (inside,) = [f for f in preflight(nested).findings if f.code == "nested"]
    assert "core lies inside base" in inside.text
    (same,) = [f for f in preflight(doubled).findings if f.code == "nested"]
    assert "twice in one place" in same.text


@pytest.mark.parametrize("demo", ["wall-bracket", "drum-sleeve"])
def test_sound_assemblies_raise_no_false_alarm(demo: str) -> None:
    assert not {"unpaired", "twice", "nested"} & set(_codes(demo_study(demo)))


def test_an_overlap_acts_and_so_does_an_overlap_by_value(two_blocks: dict[str, Any]) -> None:
    still = {**two_blocks, "loads": []}

    def codes(study: dict[str, Any]) -> set[str]:
        return {f.code for f in preflight(read_study(study)).findings}

    assert "idle" in codes(still)
    pressed = copy.deepcopy(still)
    pressed["parts"][1]["placements"] = [{"at": ["0 mm", "0 mm", "19.9 mm"]}]
    assert "idle" not in codes(pressed)
    by_value = copy.deepcopy(still)
    by_value["pairs"][0] |= {"fit": "value", "interference": "0.02 mm"}
    assert "idle" not in codes(by_value)


def test_messages_say_names_where_users_know_names(two_blocks: dict[str, Any]) -> None:
    study = read_study(two_blocks)
    assert in_words(study, "pair 'joint' slides away; part 'slider#2' and 'base/top', step 'push', 'nobody'.") == (
        "pair 'Slider – base' slides away; part 'Slider 2' and 'Base / top', step 'Push', 'nobody'."
    )
    wrong = {**two_blocks, "pairs": [{**two_blocks["pairs"][0], "a": ["slider/belly"]}]}
    assert preflight(read_study(wrong)).findings[0].text == "part 'Slider' has no face 'belly'."
    unpaired = preflight(read_study({**two_blocks, "pairs": []})).findings
    touching = next(f.text for f in unpaired if f.code == "unpaired")
    assert "Base / top" in touching
    assert "Slider / bottom" in touching
