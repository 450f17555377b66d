"""A bolt that is a line pulls or is slack: it never pushes."""

from typing import Any

import pytest

from ulmek.core.solve.history import StepRecord
from ulmek.runs.solve import Outcome, solve_study
from ulmek.study.items import read_study
from ulmek.study.ledger import build_ledger
from ulmek.verify.case import base_document, hold, load, part, step

AREA, HEIGHT, BOLT, PRELOAD = 1600.0, 20.0, 1000e3, 1000.0


def _tied(path: str, **more: Any) -> Outcome:
    """A block on the ground, tied to it by a stiff line bolt; pressed by 100 kN, then let go, then pulled."""
    study = base_document("tie", "Tie", poisson=0.0)
    study["path"] = path
    study["parts"] = [part("block", "block", {"length": 40, "depth": 40, "height": HEIGHT}, {"size": "10 mm"})]
    study["supports"] = [hold("floor", ["x", "y", "z"], "block/bottom")]
    study["handles"] = [{"id": "head", "name": "Head", "at": ["0 mm", "0 mm", f"{HEIGHT} mm"], "faces": ["block/top"]}]
    press = {"press": f"{100e3 / AREA} MPa", "let-go": "0 MPa", "pull": f"{-100e3 / AREA} MPa"}
    study["loads"] = [load("press", "pressure", press, "block/top")]
    study["bolts"] = [
        {"id": "tie", "name": "Tie", "preload": {"tighten": f"{PRELOAD} N"},
         "line": {"head": "head", "direction": [0, 0, 1], "stiffness": f"{BOLT} N/mm"}}
    ]  # fmt: skip
    study["steps"] = [step("tighten"), step("press", 0.25), step("let-go", 0.5), step("pull", 0.5)]
    outcome = solve_study(read_study(study))
    assert outcome.status == "solved"
    ledger = build_ledger(read_study(study), outcome.summaries, _end(outcome, 1))
    cell = next(r for r in ledger.rows if r.kind == "bolts").yielding
    assert cell is not None
    assert "slack" in cell.verdict
    return outcome


def _end(outcome: Outcome, at: int) -> int:
    return max(i for i, s in enumerate(outcome.summaries) if s.step == at)


@pytest.mark.parametrize("path", ["automatic", "full"])
def test_a_line_bolt_goes_slack_and_pulls_again(path: str) -> None:
    outcome = _tied(path)
    block = 210e3 * AREA / HEIGHT
    at_rest, pressed, let_go, pulled = (outcome.summaries[_end(outcome, k)] for k in range(4))
    assert at_rest.bolts["tie"].force == pytest.approx(PRELOAD)
    # The block alone carries what presses it: a bolt that pushed would take 1/18 of it.
    assert pressed.bolts["tie"].force == 0.0
    floor = pressed.carrier("floor").force[2]
    assert floor == pytest.approx(100e3, rel=1e-6)
    # What it was tightened to is there again, and then it takes its share of a pull.
    assert let_go.bolts["tie"].force == pytest.approx(PRELOAD, rel=1e-6)
    assert pulled.bolts["tie"].force == pytest.approx(PRELOAD + 100e3 * BOLT / (BOLT + block), rel=1e-6)
    assert all(isinstance(s, StepRecord) and s.cutbacks == 0 for s in outcome.steps)
