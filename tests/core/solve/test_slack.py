"""A bolt that is a line pulls or is slack: it never pushes."""

from typing import Any

import pytest

from ulmek.core.solve.history import StepRecord
from ulmek.runs.solve import Outcome, solve_study
from ulmek.study.items import read_study
from ulmek.study.ledger import build_ledger
from ulmek.study.preflight import preflight
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


@pytest.mark.parametrize("path", ["automatic", "full"])
@pytest.mark.parametrize("ends", ["to the ground", "from the block", "to the block"])
@pytest.mark.parametrize("acts", ["pulling", "pushing"])
def test_a_spring_acts_one_way(acts: str, ends: str, path: str) -> None:
    soft, stiff, force = 100.0, 300.0, 60.0
    study = base_document("rope", "Rope", poisson=0.0)
    study["path"] = path
    study["parts"] = [part("block", "block", {"length": 10, "depth": 10, "height": 10}, {"size": "5 mm"})]
    study["supports"] = [hold("floor", ["x", "y", "z"], "block/bottom")]
    # The eye hangs 50 mm away along a slanting direction; towards it the spring lengthens.
    way = (0.6, 0.0, 0.8)
    study["handles"] = [
        {
            "id": "anchor",
            "name": "Anchor",
            "at": ["0 mm", "0 mm", "0 mm"],
            "faces": ["block/bottom"],
            "kind": "averaging",
        },
        {"id": "eye", "name": "Eye", "at": ["30 mm", "0 mm", "40 mm"]},
    ]
    two = {"to the ground": ("eye", None), "from the block": ("anchor", "eye"), "to the block": ("eye", "anchor")}[ends]
    # Which way the axis points between two ends does not matter; to the ground it says what lengthens the spring.
    axis = way if ends != "from the block" else tuple(-c for c in way)
    none = ["0 N/mm", "0 N/mm"]
    study["springs"] = [
        {"id": "all", "name": "All", "a": "eye", "stiffness": [f"{soft} N/mm"] * 3, "turning": ["1 N*m/rad"] * 3},
        {"id": "rope", "name": "Rope", "a": two[0], "b": two[1], "stiffness": [f"{stiff} N/mm", *none], "acts": acts,
         "axes": {"x": axis}},
    ]  # fmt: skip
    out_and_back = {"out": f"{force} N", "in": f"{-force} N"}
    study["loads"] = [{**load("pull", "force", out_and_back, handle="eye"), "direction": list(way)}]
    study["steps"] = [step("out", 0.5), step("in", 0.5)]
    outcome = solve_study(read_study(study))
    assert outcome.status == "solved"
    for at, sense in ((0, 1.0), (1, -1.0)):
        end = outcome.summaries[_end(outcome, at)]
        takes = (sense > 0) == (acts == "pulling")
        share = stiff / (soft + stiff) if takes else 0.0
        # What acts on the second end, or on the only one: against the motion, or on the block with it.
        on = -1.0 if two[1] != "anchor" else 1.0
        carried = end.carrier("rope").force
        assert carried == pytest.approx([on * sense * share * force * c for c in way], rel=1e-6, abs=1e-6)
        assert end.balance.closing_error < 1e-6
        assert not end.bolts


@pytest.mark.parametrize("roped", [False, True])
def test_what_hangs_on_a_rope_is_not_loose_along_it(roped: bool) -> None:
    study = base_document("hung", "Hung")
    study["parts"] = [part("block", "block", {"length": 10, "depth": 10, "height": 10}, {"size": "5 mm"})]
    study["handles"] = [{"id": "eye", "name": "Eye", "at": ["0 mm", "0 mm", "10 mm"], "faces": ["block/top"]}]
    study["supports"] = [hold("guide", ["x", "y", "turn-x", "turn-y", "turn-z"], handle="eye")]
    rope = {"id": "rope", "name": "Rope", "a": "eye", "stiffness": ["0 N/mm", "0 N/mm", "100 N/mm"], "acts": "pulling"}
    study["springs"] = [rope] if roped else []
    study["loads"] = [{**load("pull", "force", {"hang": "10 N"}, handle="eye"), "direction": [0, 0, 1]}]
    study["steps"] = [step("hang")]
    found = [f.text for f in preflight(read_study(study)).findings if f.code == "loose"]
    assert found == ([] if roped else ["Block is loose: it can move along z."])
