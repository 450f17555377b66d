"""Halves and quarters of bolts: what their preload means is asked, and the whole bolt is judged."""

import dataclasses
from typing import Any

import pytest

from ulmek.core.handcalc.threads import proof_load
from ulmek.runs.solve import solve_study
from ulmek.study.amounts import amounts
from ulmek.study.checks import hand_checks
from ulmek.study.edits import edited_by
from ulmek.study.items import read_study
from ulmek.study.ledger import build_ledger
from ulmek.study.preflight import preflight
from ulmek.study.translate import translate
from ulmek.verify.case import base_document


@pytest.fixture
def half() -> dict[str, Any]:
    """Half a bolt between its head and its thread, both held."""
    study = base_document("half-bolt", "Half a bolt")
    study["parts"] = [
        {"id": "bolts", "name": "Bolts", "material": "steel", "mesh": {"size": "4 mm", "per_turn": 12},
         "recipe": {"kind": "bolt", "dimensions": {"diameter": "16 mm"}, "kept": "half"}}
    ]  # fmt: skip
    study["supports"] = [
        {"id": "head", "name": "Head", "faces": ["bolts/head.bearing"]},
        {"id": "thread", "name": "Thread", "faces": ["bolts/nut.bearing"]},
        {"id": "plane", "name": "Plane", "kind": "symmetry", "faces": ["bolts/cut.y"]},
    ]
    study["bolts"] = [{"id": "bolts", "name": "Bolts", "part": "bolts", "preload": {"s": "60 kN"}, "strength": "8.8"}]
    study["steps"] = [{"id": "s", "name": "Tighten"}]
    return study


def test_what_the_preload_of_half_a_bolt_means_is_asked_and_answered_by_one_edit(half: dict[str, Any]) -> None:
    study = read_study(half)
    (asked,) = [f for f in preflight(study).findings if f.code == "share"]
    assert "the whole bolt would have 120 kN" in asked.text
    forces = {}
    for remedy in asked.remedies:
        said = edited_by(study, remedy.edit)
        assert not [f for f in preflight(said).findings if f.code == "share"]
        forces[said.bolts[0].means] = translate(said).steps[0].preloads["bolts"]
        assert amounts(said).bolts["bolts"]["s"] == forces[said.bolts[0].means]
    assert forces == {"whole": 30e3, "modelled": 60e3}
    whole = {**half["parts"][0], "recipe": {**half["parts"][0]["recipe"], "kept": "whole"}}
    unasked = read_study({**half, "parts": [whole], "supports": half["supports"][:2]})
    assert not [f for f in preflight(unasked).findings if f.code == "share"]


def test_half_a_bolt_is_judged_as_the_whole_one(half: dict[str, Any]) -> None:
    half["bolts"][0]["means"] = "whole"
    study = read_study(half)
    summaries = solve_study(study).summaries
    row = next(r for r in build_ledger(study, summaries, len(summaries) - 1).rows if r.kind == "bolts")
    assert row.yielding is not None
    assert row.yielding.value == pytest.approx(60e3 / proof_load(16.0, "8.8"), rel=1e-6)
    assert "60.0 kN of the whole bolt" in row.yielding.verdict
    (check,) = [c for c in hand_checks(study, translate(study), summaries) if c.kind == "bolt"]
    assert next(v for v in check.values if "Proof" in v.name).computed == pytest.approx(60e3, rel=1e-6)
    # Said of the half, the same figure is twice as much.
    told = study.bolts[0].model_copy(update={"means": "modelled"})
    other = study.model_copy(update={"bolts": [told]})
    doubled = [
        dataclasses.replace(s, bolts={n: dataclasses.replace(b, force=2 * b.force) for n, b in s.bolts.items()})
        for s in summaries
    ]
    row = next(r for r in build_ledger(other, doubled, len(doubled) - 1).rows if r.kind == "bolts")
    assert row.yielding is not None
    assert row.yielding.grade == "bad"
