"""Everything that carries force has its row in the balance, with the force that statics gives it; all closes."""

from typing import Any

import pytest

from ulmek.core.review.summary import Summary
from ulmek.runs.solve import solve_study
from ulmek.study.items import read_study
from ulmek.verify.case import base_document, block_part, hold, load, step


def _last(study: dict[str, Any]) -> Summary:
    outcome = solve_study(read_study(study))
    assert outcome.status == "solved"
    assert max(s.balance.closing_error for s in outcome.summaries) < 1e-6
    return outcome.summaries[-1]


def _block(**more: Any) -> dict[str, Any]:
    """A steel block of 20 × 20 × 40 mm on the plane z = 0, a handle on its top."""
    study = base_document("carriers", "Carriers")
    study["materials"][0]["density"] = "7850 kg/m^3"
    study["parts"] = [block_part("post", (20, 20, 40), 20)]
    study["handles"] = [{"id": "grip", "name": "Grip", "at": ["0 mm", "0 mm", "40 mm"], "faces": ["post/top"]}]
    study["steps"] = [step("s")]
    return {**study, **more}


def _along(stiffness: str) -> list[str]:
    return ["0 N/mm", "0 N/mm", stiffness]


def test_a_fixed_datum_wall_carries_what_presses_on_it() -> None:
    last = _last(
        _block(
            walls=[{"id": "ground", "name": "Ground", "kind": "plane"}],
            pairs=[{"id": "seat", "name": "Seat", "a": ["post/bottom"], "b": [], "wall": "ground", "law": {"mu": 0.3}}],
            loads=[
                load("press", "force", {"s": "8 kN"}, "post/top", direction=[0, 0, -1]),
                load("push", "force", {"s": "400 N"}, "post/top", direction=[1, 0, 0]),
            ],
        )
    )
    (wall,) = last.carriers
    assert (wall.kind, wall.name, wall.is_outside) == ("wall", "ground", True)
    assert wall.force == pytest.approx((-400.0, 0.0, 8000.0), abs=1e-3)
    # The loads act at 40 mm height: the wall answers the push with 400 N · 40 mm about y.
    assert wall.moment[1] == pytest.approx(-400 * 40, rel=1e-3)


def test_a_wall_on_a_handle_hands_its_force_to_what_holds_the_handle() -> None:
    study = _block(
        walls=[{"id": "plate", "name": "Plate", "kind": "plane", "handle": "under"}],
        pairs=[{"id": "seat", "name": "Seat", "a": ["post/bottom"], "b": [], "wall": "plate", "law": {"mu": 0.3}}],
        supports=[{"id": "base", "name": "Base", "handle": "under"}],
        loads=[load("press", "force", {"s": "8 kN"}, "post/top", direction=[0, 0, -1])],
    )
    study["handles"].append({"id": "under", "name": "Under", "at": ["0 mm", "0 mm", "-10 mm"]})
    last = _last(study)
    assert last.carrier("plate").is_outside is False
    assert last.carrier("plate").force[2] == pytest.approx(8000.0, rel=1e-6)
    assert last.carrier("base").force[2] == pytest.approx(8000.0, rel=1e-6)


def test_springs_and_line_bolts_to_the_ground_and_between_handles() -> None:
    study = _block(
        supports=[hold("guide", ["x", "y", "turn-x", "turn-y", "turn-z"], handle="grip"),
                  hold("far-guide", ["x", "y", "turn-x", "turn-y", "turn-z"], handle="far")],
        springs=[
            {"id": "between", "name": "Between", "a": "grip", "b": "far", "stiffness": _along("300 N/mm")},
            {"id": "ground", "name": "Ground", "a": "far", "stiffness": _along("600 N/mm")},
        ],
        bolts=[{"id": "rod", "name": "Rod",
                "line": {"head": "grip", "direction": [0, 0, 1], "stiffness": "100 N/mm"}}],
        loads=[load("pull", "force", {"s": "900 N"}, handle="grip", direction=[0, 0, 1])],
    )  # fmt: skip
    study["handles"].append({"id": "far", "name": "Far", "at": ["0 mm", "0 mm", "90 mm"]})
    last = _last(study)
    # 300 and 600 N/mm in series are 200 N/mm, beside the rod's 100: two thirds of the pull go through the springs.
    assert last.carrier("ground").force[2] == pytest.approx(-600.0, rel=1e-6)
    assert last.carrier("between").force[2] == pytest.approx(600.0, rel=1e-6)
    assert last.carrier("rod").force[2] == pytest.approx(-300.0, rel=1e-6)
    assert [c.is_outside for c in map(last.carrier, ("ground", "between", "rod"))] == [True, False, True]


def test_links_in_a_chain_pass_on_what_hangs_on_them() -> None:
    study = _block(
        supports=[{"id": "root", "name": "Root", "faces": ["post/bottom"]}],
        links=[
            {"id": "first", "name": "First", "a": "grip", "b": "middle"},
            {"id": "second", "name": "Second", "a": "middle", "b": "end"},
        ],
        loads=[
            load("at-middle", "force", {"s": "100 N"}, handle="middle", direction=[1, 0, 0]),
            load("at-end", "force", {"s": "250 N"}, handle="end", direction=[1, 0, 0]),
        ],
    )
    study["handles"] += [
        {"id": "middle", "name": "Middle", "at": ["0 mm", "0 mm", "70 mm"]},
        {"id": "end", "name": "End", "at": ["0 mm", "0 mm", "100 mm"]},
    ]
    last = _last(study)
    # Each link holds back what acts beyond it, with its moment about the origin.
    assert last.carrier("second").force[0] == pytest.approx(-250.0, rel=1e-9)
    assert last.carrier("second").moment[1] == pytest.approx(-250 * 100, rel=1e-9)
    assert last.carrier("first").force[0] == pytest.approx(-350.0, rel=1e-9)
    assert last.carrier("first").moment[1] == pytest.approx(-(100 * 70 + 250 * 100), rel=1e-9)
    assert last.carrier("root").force[0] == pytest.approx(-350.0, rel=1e-6)


def test_inertia_and_damping_carry_what_accelerates_and_resists() -> None:
    # A free block under a steady force: m·a + c·m·v = F at the end of every increment.
    study = _block(
        supports=[hold("guide", ["x", "y", "turn-x", "turn-y", "turn-z"], handle="grip")],
        loads=[load("push", "force", {"s": "50 N"}, "post/top", direction=[0, 0, 1])],
        steps=[{**step("s", 0.1), "dynamics": {"duration": "0.002 s", "damping": 40.0}}],
    )
    last = _last(study)
    inertia, damping = last.carrier("inertia"), last.carrier("damping")
    assert inertia.force[2] + damping.force[2] == pytest.approx(-50.0, rel=1e-6)
    mass = 7.85e-9 * 20 * 20 * 40
    # Half of what pushes has gone through a ramp: v = ∫F dt / m, less what damping took (some 4 % of it).
    assert damping.force[2] == pytest.approx(-40.0 * 50.0 / 2 * 0.002, rel=0.05)
    assert last.energy.kinetic == pytest.approx((damping.force[2] / 40.0) ** 2 / (2 * mass), rel=0.02)
