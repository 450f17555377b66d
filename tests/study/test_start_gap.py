"""The gap of a pair at the start: as the faces are drawn, node by node, and as the fit counts it."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import UlmekError
from ulmek.study.items import read_study
from ulmek.study.start_gap import start_gap
from ulmek.verify.case import base_document, block_part, part, step

PIN, HOLE = 10.0, 10.2


def _wedge() -> dict[str, Any]:
    """A block over another, turned by 0.5° about y: it overlaps on one side and stands off on the other."""
    study = base_document("wedge", "Wedge")
    low, high = block_part("low", (40, 20, 10), 5), block_part("high", (40, 20, 10), 5)
    high["placements"] = [{"at": ["0 mm", "0 mm", "10.05 mm"], "turn": {"axis": "y", "angle": "0.5 deg"}}]
    study["parts"] = [low, high]
    study["pairs"] = [{"id": "joint", "name": "Joint", "a": ["high/bottom"], "b": ["low/top"]}]
    study["steps"] = [step("load")]
    return study


def test_a_leaning_block_gaps_and_overlaps_as_it_is_drawn() -> None:
    model, found = start_gap(read_study(_wedge()), "joint", counted=False)
    x = model.nodes()[found.node, 0]
    lean = np.deg2rad(0.5)
    # Across the leaning face, its height over the flat one at x, but where it goes past the edge.
    within = np.abs(x) < 18
    assert found.gap[within] == pytest.approx((0.05 / np.cos(lean) - x * np.tan(lean))[within], abs=2e-4)
    assert found.gap.min() < -0.1 < 0.2 < found.gap.max()


@pytest.mark.parametrize(
    ("fit", "counted"),
    [({}, None), ({"fit": "overlap-removed"}, 0.0), ({"fit": "value", "interference": "0.03 mm"}, -0.03)],
)
def test_it_is_counted_as_the_fit_says(fit: dict[str, str], counted: float | None) -> None:
    study = _wedge()
    study["pairs"][0] |= fit
    drawn = start_gap(read_study(study), "joint", counted=False)[1].gap
    found = start_gap(read_study(study), "joint", counted=True)[1].gap
    if counted is None:
        assert found == pytest.approx(drawn)
    elif counted == 0.0:
        assert found == pytest.approx(np.maximum(drawn, 0.0))
    else:
        assert found == pytest.approx(counted)


def test_a_pin_in_a_wider_hole_gaps_all_round_by_half_their_difference() -> None:
    study = base_document("pin", "Pin")
    mesh = {"size": "3 mm"}
    study["parts"] = [
        part("pin", "disc", {"diameter": PIN, "thickness": 5}, mesh),
        part("ring", "washer", {"inner_diameter": HOLE, "outer_diameter": 20, "thickness": 5}, mesh),
    ]
    study["pairs"] = [{"id": "fit", "name": "Fit", "a": ["pin/rim"], "b": ["ring/bore"]}]
    study["steps"] = [step("load")]
    _, found = start_gap(read_study(study), "fit", counted=False)
    assert found.gap == pytest.approx((HOLE - PIN) / 2, rel=5e-3)  # Seen along facet normals.


def test_what_has_no_gap_to_show_says_why() -> None:
    study = _wedge()
    study["parts"][1]["placements"][0]["at"][2] = "20 mm"
    for pair, said in (("joint", "do not face each other within 1 mm"), ("none", "no pair 'none'")):
        with pytest.raises(UlmekError, match=said) as caught:
            start_gap(read_study(study), pair, counted=False)
        assert caught.value.hint
