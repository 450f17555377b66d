"""What chapters say of a study that has something of everything, and that they know every word of the document."""

import json
from pathlib import Path
from typing import Any, get_args

import pytest

from ulmek.report import of_study
from ulmek.report.blocks import Block, Table, Words
from ulmek.report.words import amount, number, share
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.items.contact import EnforcementChoice, Law
from ulmek.study.items.pair import PairUse

# The study that the page's tests use too: it has an item of every kind.
WHOLE = Path(__file__).parents[2] / "web" / "src" / "tests" / "study.json"


@pytest.fixture(scope="module")
def study() -> StudyDocument:
    return read_study(json.loads(WHOLE.read_text()))


def _table(blocks: list[Block], at: int = 0) -> Table:
    return [b for b in blocks if isinstance(b, Table)][at]


def _row(table: Table, begin: str) -> list[str]:
    return next(row for row in table.rows if row[0].startswith(begin))


def test_every_word_of_the_document_is_known() -> None:
    def choices(model: Any, field: str) -> set[str]:
        return set(get_args(model.model_fields[field].annotation))

    assert set(of_study.FITS) == choices(PairUse, "fit")
    assert set(of_study.MEANT) == choices(PairUse, "meant")
    assert set(of_study.SPACES) == choices(StudyDocument, "space")
    assert set(of_study.SLIDES) | {"friction"} == choices(Law, "may_slide")
    for method in choices(EnforcementChoice, "method"):
        assert of_study._enforced(EnforcementChoice(method=method))  # type: ignore[arg-type]


def test_pairs_say_their_law_or_that_of_their_property(study: StudyDocument) -> None:
    table = _table(of_study.pairs(study))
    assert [row[0] for row in table.rows] == [p.name for p in study.pairs]
    assert all(len(row) == len(table.head) for row in table.rows)
    on_wall = next(p for p in study.pairs if p.wall)
    wall = next(w.name for w in study.walls if w.id == on_wall.wall)
    assert _row(table, on_wall.name)[2] == f"datum wall {wall}"
    shared = study.contacts[0].model_copy(update={"law": Law(mu=0.37)})
    first = study.pairs[0].model_copy(update={"contact": shared.id, "fit": "value", "interference": "30 um"})
    changed = study.model_copy(update={"contacts": [shared], "pairs": [first]})
    row = _table(of_study.pairs(changed)).rows[0]
    assert row[3] == "may open, Coulomb friction, µ = 0.37"
    assert row[5] == "overlap 30 um"
    none = of_study.pairs(study.model_copy(update={"pairs": []}))
    assert none == [Words("No parts touch in this study.")]


def test_the_sequence_says_what_acts_holds_and_lets_go(study: StudyDocument) -> None:
    blocks = of_study.sequence(study)
    board, holds = _table(blocks), _table(blocks, 1)
    assert board.head[1:] == [f"{i + 1} {s.name}" for i, s in enumerate(study.steps)]
    assert all(len(row) == 1 + len(study.steps) for row in board.rows)
    for bolt in study.bolts:
        row = _row(board, bolt.name)
        for step, cell in zip(study.steps, row[1:], strict=True):
            assert cell == bolt.preload.get(step.id, cell)
            assert step.id in bolt.preload or cell in ("–", "length kept")
    for load in study.loads:
        row = _row(board, f"{load.name} (")
        for step, cell in zip(study.steps, row[1:], strict=True):
            if step.id in load.released:
                assert cell == "lets go"
            elif step.id in load.values:
                assert cell.endswith(load.values[step.id])
    for support in study.supports:
        cells = dict(zip((s.id for s in study.steps), _row(board, support.name)[1:], strict=True))
        assert {step for step, cell in cells.items() if cell == "–"} == set(support.released)
    named = {row[0] for row in holds.rows}
    assert named >= {i.name for i in (*study.supports, *study.loads, *study.walls, *study.handles)}
    if any(s.dynamics for s in study.steps):
        assert any(cell.startswith("over ") for cell in _row(board, "Inertia")[1:])


def test_materials_say_how_they_behave(study: StudyDocument) -> None:
    told = {m.name: of_study._behaviour(m) for m in study.materials}
    for material in study.materials:
        words = told[material.name]
        if material.rubber is not None:
            assert words.startswith("rubber, C10 ")
            assert material.rubber.c10 in words
        elif material.hardening is not None:
            assert material.hardening.table[-1].stress in words
        else:
            assert words == "elastic"


def test_closed_forms_say_what_they_rest_on_or_that_there_is_none(study: StudyDocument) -> None:
    rows = _table(of_study.closed_forms(study)).rows
    assert {row[0] for row in rows} == {j.name for j in study.joints}
    assert all(len(row) == 6 for row in rows)
    (words,) = of_study.closed_forms(study.model_copy(update={"joints": []}))
    assert isinstance(words, Words)
    assert words.text.startswith("No joint of this study was made as a whole")


def test_numbers_keep_their_figures_and_take_the_unit_of_their_size() -> None:
    assert [amount(v, "length") for v in (12.345, 0.0123, -0.5)] == ["12.3 mm", "12.3 µm", "-0.5 mm"]
    assert [amount(v, "force") for v in (999.0, 1000.0, -2.5e6)] == ["999 N", "1 kN", "-2500 kN"]
    assert amount(1500.0, "moment") == "1.5 N·m"
    assert [number(v) for v in (1.0, 0.1 + 0.2, 123456.0, 1e9)] == ["1", "0.3", "123000", "1e+09"]
    assert [share(v) for v in (1.0, 0.004, 1.234)] == ["100 %", "0.4 %", "123 %"]
