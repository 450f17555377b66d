"""An assembly of 400 bodies and 400 pairs is solved, kept whole, reviewed, exported and opened again."""

from pathlib import Path
from typing import Any

import pytest

from ulmek.runs.solve import report_of, solve_study
from ulmek.store.export import export_result
from ulmek.store.results import open_result
from ulmek.study.items import read_study
from ulmek.study.ledger import build_ledger
from ulmek.verify.case import base_document, block_part, hold

SMOOTH = {"may_open": True, "may_slide": "freely"}
ROWS, APART, PRESSED = 20, 15.0, 2.0


def _paving() -> dict[str, Any]:
    """Stones of 10 mm in rows on a slab, each in a pair of its own, all pressed."""
    study = base_document("paving", "Paving")
    side = ROWS * APART
    study["parts"] = [block_part("slab", (side, side, 10), APART)]
    for half in range(2):
        stones = block_part(f"stones-{half}", (10, 10, 10), 10)
        stones["placements"] = [
            {"at": [f"{(i + 0.5) * APART - side / 2} mm", f"{(j + 0.5) * APART - side / 2} mm", "10 mm"]}
            for i in range(half * ROWS // 2, (half + 1) * ROWS // 2)
            for j in range(ROWS)
        ]
        study["parts"].append(stones)
    stones = [f"stones-{half}#{n + 1}" for half in range(2) for n in range(ROWS * ROWS // 2)]
    study["pairs"] = [
        {"id": f"seat-{k}", "name": f"Seat {k}", "a": [f"{stone}/bottom"], "b": ["slab/top"], "law": SMOOTH}
        for k, stone in enumerate(stones)
    ]
    study["supports"] = [
        {"id": "ground", "name": "Ground", "faces": ["slab/bottom"]},
        hold("guide", ["x", "y"], "stones-0/top", "stones-1/top"),
    ]
    study["loads"] = [
        {"id": "press", "name": "Press", "kind": "pressure", "faces": ["stones-0/top", "stones-1/top"],
         "values": {"press": f"{PRESSED} MPa"}},
    ]  # fmt: skip
    study["steps"] = [{"id": "press", "name": "Press", "increments": {"start": 1.0, "least": 0.1, "largest": 1.0}}]
    return study


def test_four_hundred_bodies_and_pairs(tmp_path: Path) -> None:
    study = read_study(_paving())
    outcome = solve_study(study, folder=tmp_path / "run")
    assert outcome.status == "solved"
    with open_result(tmp_path / "run/result.h5") as result:
        summaries = result.summaries()
        assert len(result.bodies()[0]) == ROWS * ROWS + 1
    assert len(summaries) == 1
    last = summaries[-1]
    # 2 MPa on 100 mm² each, and all of it on the ground.
    assert [p.normal_force for p in last.pairs.values()] == pytest.approx([100 * PRESSED] * ROWS * ROWS, rel=1e-6)
    assert last.carrier("ground").force[2] == pytest.approx(ROWS * ROWS * 100 * PRESSED, rel=1e-6)
    ledger = build_ledger(study, summaries, 0)
    assert len([row for row in ledger.rows if row.kind == "pair"]) == ROWS * ROWS
    assert len(report_of(study, outcome)["pairs"]) == ROWS * ROWS
    assert len(export_result(tmp_path / "run", "csv", tmp_path / "csv")) == ROWS * ROWS + 1
    assert len(export_result(tmp_path / "run", "vtu", tmp_path / "vtu")) == 1
