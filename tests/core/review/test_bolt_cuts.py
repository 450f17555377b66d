"""What passes through the shank of a bolt, against a rod held at its foot."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.review.bolt_cuts import BoltCut
from ulmek.runs.solve import solve_study
from ulmek.study.items import read_study
from ulmek.verify.case import base_document, hold, load, part, step, symmetry

AXIAL, ACROSS, RADIUS, FREE, HEAD = 4000.0, 300.0, 8.0, 40.0, 10.0


def _rod(half: bool, **more: Any) -> dict[str, Any]:
    """A stud along z held at the end of its foot, pulled along and pushed along x at the end of its head."""
    study = base_document("stud", "Stud")
    rod = {"diameter": 2 * RADIUS, "free_length": FREE, "foot_length": 10, "head_length": HEAD}
    stud = part("stud", "stud", rod, {"size": "4 mm"})
    if half:
        stud["recipe"]["kept"] = "half"
    study["parts"] = [stud]
    study["supports"] = [hold("foot", ["x", "y", "z"], "stud/foot.end")]
    share = 0.5 if half else 1.0
    for name, amount, way in (("pull", AXIAL, [0, 0, 1]), ("push", ACROSS, [1, 0, 0])):
        one = load(name, "force", {"act": f"{share * amount} N"}, "stud/head.end", direction=way)
        study["loads"] = [*study.get("loads", []), one]
    study["bolts"] = [{"id": "stud", "name": "Stud", "part": "stud"}]
    study["steps"] = [step("act", **more)]
    if half:
        study["supports"].append(symmetry("middle", "stud/cut.y"))
    return study


def _cut(study: dict[str, Any]) -> BoltCut:
    outcome = solve_study(read_study(study))
    assert outcome.status == "solved", outcome.message
    cut = outcome.summaries[-1].bolts["stud"].worst
    assert cut is not None
    return cut


@pytest.mark.parametrize("half", [False, True])
def test_tension_shear_and_bending_are_those_of_a_rod(half: bool) -> None:
    cut, share = _cut(_rod(half)), 0.5 if half else 1.0
    # Where it is held bending is largest: one layer above, as what holds it acts on the end itself.
    arm = FREE / 2 + HEAD - cut.at
    assert FREE + HEAD < arm <= FREE + HEAD + 10.0
    assert cut.axial == pytest.approx(share * AXIAL, rel=1e-6)
    assert cut.shear == pytest.approx(share * ACROSS, rel=1e-6)
    assert cut.bending == pytest.approx(share * ACROSS * arm, rel=1e-3)
    area = np.pi * RADIUS**2
    pulled = share * (AXIAL / area + ACROSS * arm * 4 / (area * RADIUS))
    assert cut.stress == pytest.approx(np.sqrt(pulled**2 + 3 * (share * ACROSS / area) ** 2), rel=1e-3)


def test_in_large_motion_cuts_go_with_the_bolt() -> None:
    """A slender rod bent far over by a force across it: what passes is seen along and across its own way."""
    study = _rod(half=False, size=0.25, large_motion=True)
    study["loads"] = [load("push", "force", {"act": "60 kN"}, "stud/head.end", direction=[1, 0, 0])]
    outcome = solve_study(read_study(study))
    cut = outcome.summaries[-1].bolts["stud"].worst
    assert cut is not None
    assert np.hypot(cut.axial, cut.shear) == pytest.approx(60e3, rel=1e-6)
    assert cut.axial > 1000.0
