"""What cannot be solved ends with words that say where and what, and the last good increment stays readable."""

import re
from pathlib import Path
from typing import Any

import pytest

from ulmek.core.errors import UnitError
from ulmek.runs.solve import solve_study
from ulmek.store.results import ResultReader
from ulmek.study.items import read_study
from ulmek.verify.case import base_document, block_part, hold, load, step


def _pad(*steps: str, large: bool) -> dict[str, Any]:
    study = base_document("pad", "Rubber pad")
    study["materials"].append({"id": "gum", "name": "Gum", "rubber": {"c10": "0.5 MPa", "bulk": "50 MPa"}})
    study["parts"] = [{**block_part("pad", (20, 20, 10), 5), "material": "gum"}]
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["pad/bottom"]}]
    study["steps"] = [step(name, 0.5, large_motion=large) for name in steps]
    return study


CRUSHED = load("crush", "displacement", {"one": "1 mm", "two": "14 mm"}, "pad/top", direction=[0, 0, -1])
HURLED = load("hurl", "force", {"one": "50 N", "two": "1e25 N"}, "pad/top", direction=[0, 0, -1])


@pytest.mark.parametrize("large", [True, False])
@pytest.mark.parametrize(
    ("what", "said"),
    [
        (CRUSHED, r"element of 'pad' near \(.*\) mm is turned inside out"),
        (HURLED, "out of all proportion|inside out"),
    ],
)
def test_a_crushed_or_hurled_part_is_told_and_what_converged_stays(
    what: dict[str, Any], said: str, large: bool, tmp_path: Path
) -> None:
    study = _pad("one", "two", large=large)
    study["loads"] = [what]
    outcome = solve_study(read_study(study), folder=tmp_path)
    assert outcome.status == "not-converged"
    assert "step 'two' stopped at" in outcome.message

    assert re.search(said, outcome.message), outcome.message
    with ResultReader(tmp_path / "result.h5") as result:
        assert result.count() == len(outcome.summaries) >= 2
        assert abs(result.point_field("displacement", 1)[:, 2]).max() == pytest.approx(1.0, rel=2.0)


def test_a_part_that_nothing_holds_is_named_with_its_motions(tmp_path: Path) -> None:
    study = _pad("one", large=True)
    study["supports"] = [hold("floor", ["z"], "pad/bottom")]
    study["loads"] = [load("push", "force", {"one": "5 N"}, "pad/left", direction=[1, 0, 0])]
    outcome = solve_study(read_study(study), folder=tmp_path)
    assert outcome.status == "not-converged"
    assert "'pad' can move along x, along y, turning about z" in outcome.message


@pytest.mark.parametrize("written", ["1e400 N", "1e31 N", "-1e300 kN"])
def test_numbers_beyond_computing_are_refused_where_they_are_written(written: str) -> None:
    study = _pad("one", large=False)
    study["loads"] = [load("press", "force", {"one": written}, "pad/top", direction=[0, 0, -1])]
    with pytest.raises(UnitError, match="larger than anything"):
        read_study(study)
