"""Verdicts follow from the numbers: each one is provoked by a made-up course of a run."""

from dataclasses import replace

import pytest

from ulmek.core.review.pair_fields import PairSummary
from ulmek.core.review.summary import BoltSummary, Closing, Energies, Largest, PartSummary, Summary
from ulmek.demo import demo_study
from ulmek.study.ledger import Row, build_ledger

CALM = PairSummary(
    peak_pressure=90.0, max_penetration=0.0, max_sliding=0.001, share_open=0.6, share_sliding=0.1,
    share_sticking=0.3, as_one=0.1, squeeze=0.01, yield_share=0.5, normal_force=1e5, friction_force=10.0,
    force=(0.0, 0.0, 1e5), max_gap=0.0, dissipated=0.0,
)  # fmt: skip
SOUND = PartSummary(
    max_von_mises=177.5, max_displacement=0.01, max_plastic_strain=0.0, yield_share=0.5, safety=2.0, stress_error=1.0
)


def _course(**last: float) -> list[Summary]:
    """Preload, pull and side load, one increment each; ``last`` changes pair `flange` in step 3."""
    study = demo_study("wall-bracket")
    bolts = [f"bolts#{i}" for i in (1, 2, 3, 4)]
    return [
        Summary(
            step=step, number=step + 1, time=1.0, iterations=5,
            pairs={p.id: replace(CALM, **(last if step == 2 and p.id == "flange" else {})) for p in study.pairs},
            values={"hoist-pull": 48e3 * (step > 0), "side-load": 6e3 * (step > 1)},
            parts={n: SOUND for n in ("wall-plate", "bracket", *bolts)},
            bolts={n: BoltSummary(42e3, 0.1) for n in bolts},
            carriers=(), balance=Closing(1e-12, (0.0, 0.0, 0.0), 1e5, {}), energy=Energies(0.0, {}),
            largest=Largest(0.01, 177.5),
        )
        for step in range(3)
    ]  # fmt: skip


def _flange(**last: float) -> tuple[Row, list[str]]:
    ledger = build_ledger(demo_study("wall-bracket"), _course(**last), 2)
    row = next(r for r in ledger.rows if r.id == "flange")
    return row, [r["text"] for r in ledger.remarks]


def test_a_calm_joint_is_good_everywhere() -> None:
    row, remarks = _flange()
    assert [c.grade for c in (row.pressure, row.penetration, row.sliding, row.yielding) if c] == ["good"] * 4
    assert remarks == []


def test_yield_at_or_under_the_faces_of_a_pair_is_not_passed_over() -> None:
    course = _course()
    course[-1].parts["bracket"] = replace(SOUND, max_plastic_strain=0.004)
    ledger = build_ledger(demo_study("wall-bracket"), course, 2)
    flange = next(r for r in ledger.rows if r.id == "flange").yielding
    assert flange is not None
    assert (flange.grade, flange.verdict) == (
        "watch", "Below yield at these faces, but Bracket has yielded elsewhere."
    )  # fmt: skip
    row, _ = _flange(max_plastic_strain=0.002)
    assert row.yielding is not None
    assert (row.yielding.grade, row.yielding.verdict[:40]) == ("bad", "Has yielded here: equivalent plastic str")


@pytest.mark.parametrize(
    ("kind", "value", "spoken"),
    [
        ("moment", 5e3, "5 N·m"),
        ("rotation", 0.1, "5.73 °"),
        ("gravity", 9810.0, "9.81 m/s²"),
        ("spin", 12.0, "12 rad/s"),
    ],
)
def test_every_kind_of_load_can_be_named_when_a_pair_opens(kind: str, value: float, spoken: str) -> None:
    study = demo_study("wall-bracket")
    load = study.loads[1].model_copy(update={"kind": kind})
    study = study.model_copy(update={"loads": [study.loads[0], load]})
    course = _course(share_open=0.9, share_sticking=0.0)
    course[-1].values["side-load"] = value
    assert f"side load {spoken}" in build_ledger(study, course, 2).remarks[0]["text"]


def test_opening_is_measured_against_what_was_shut_after_tightening() -> None:
    row, remarks = _flange(share_open=0.9, share_sticking=0.0)
    assert row.pressure is not None
    assert row.pressure.grade == "bad"
    assert row.pressure.verdict.startswith("Opens: 75% of what was shut has opened, from step 3, Side load")
    assert "side load 6 kN" in remarks[0]
    assert _flange(share_open=1.0, share_sticking=0.0, share_sliding=0.0)[0].pressure.verdict.startswith(
        "Has come apart"
    )  # type: ignore[union-attr]


@pytest.mark.parametrize(("as_one", "grade"), [(0.95, "bad"), (0.2, "watch")])
def test_sliding_as_one_is_told_from_creeping(as_one: float, grade: str) -> None:
    row, _ = _flange(share_sliding=0.4, share_sticking=0.0, as_one=as_one)
    assert row.sliding is not None
    assert row.sliding.grade == grade


@pytest.mark.parametrize(("depth", "grade"), [(0.0, "good"), (0.0005, "watch"), (0.002, "bad")])
def test_penetration_is_judged_against_the_squeeze_of_one_element(depth: float, grade: str) -> None:
    row, _ = _flange(max_penetration=depth)
    assert row.penetration is not None
    assert row.penetration.grade == grade
    assert row.penetration.value == pytest.approx(depth * 1000)


def test_bolt_use_is_force_over_shank_yield() -> None:
    ledger = build_ledger(demo_study("wall-bracket"), _course(), 2)
    cell = next(r for r in ledger.rows if r.kind == "bolts").yielding
    # 42 kN over 640 MPa · π/4 · 16² mm² = 128.7 kN.
    assert cell is not None
    assert cell.value == pytest.approx(42e3 / 128_680, rel=1e-3)


@pytest.mark.parametrize(
    ("went", "said"), [({"turn": 0.3}, "turns by about 17°"), ({"bow": 1.5}, "bends by 1.5 times its thickness")]
)
def test_a_part_that_went_further_than_small_motion_is_true_for_is_remarked(went: dict[str, float], said: str) -> None:
    study, course = demo_study("wall-bracket"), _course()
    course[1].parts["bracket"] = course[2].parts["bracket"] = replace(SOUND, **went)
    (remark,) = build_ledger(study, course, 2).remarks
    assert remark["text"].startswith(f"Bracket {said} where only small motion is followed, from step 2, Hoist pull")
    large = [s.model_copy(update={"large_motion": True}) for s in study.steps]
    assert build_ledger(study.model_copy(update={"steps": large}), course, 2).remarks == []


SLIDES = {"share_sliding": 0.4, "share_sticking": 0.0, "as_one": 0.9}


@pytest.mark.parametrize(
    ("meant", "cell", "last", "grade", "says"),
    [
        ("to-slide", "sliding", SLIDES, "good", "As it is meant: slides"),
        ("to-slide", "sliding", {}, "watch", "It holds, though it is meant to slide."),
        ("to-open", "pressure", {"share_open": 0.95}, "good", "As it is meant: opens"),
        ("to-open", "pressure", {}, "watch", "It stays shut, though it is meant to open."),
        ("to-carry-nothing", "pressure", {}, "watch", "It presses, though it is meant to carry nothing."),
        # Creeping is neither holding nor sliding as one: it is told as it is.
        ("to-slide", "sliding", {**SLIDES, "as_one": 0.1}, "watch", "Faces creep against each other everywhere"),
    ],
)  # fmt: skip
def test_a_pair_is_judged_by_what_it_is_meant_to_do(
    meant: str, cell: str, last: dict[str, float], grade: str, says: str
) -> None:
    study = demo_study("wall-bracket")
    flange = study.pairs[0].model_copy(update={"meant": meant})
    other = study.model_copy(update={"pairs": [flange, *study.pairs[1:]]})
    ledger = build_ledger(other, _course(**last), 2)
    judged = getattr(next(r for r in ledger.rows if r.id == "flange"), cell)
    assert (judged.grade, judged.verdict[: len(says)]) == (grade, says)
    is_remarked = any(r["row"] == "flange" for r in ledger.remarks)
    assert is_remarked == ("though" in judged.verdict)


@pytest.mark.parametrize(("meant", "grade"), [("to-carry-nothing", "good"), ("to-open", "none"), ("to-slide", "none")])
def test_of_a_pair_that_has_not_touched_nothing_is_claimed(meant: str, grade: str) -> None:
    """That it carries nothing is known; that it would slide or open is not."""
    study = demo_study("wall-bracket")
    flange = study.pairs[0].model_copy(update={"meant": meant})
    apart = replace(CALM, share_open=1.0, share_sliding=0.0, share_sticking=0.0)
    course = [replace_pair(s, apart) for s in _course()]
    ledger = build_ledger(study.model_copy(update={"pairs": [flange, *study.pairs[1:]]}), course, 2)
    row = next(r for r in ledger.rows if r.id == "flange")
    assert row.pressure is not None
    assert row.sliding is not None
    assert (row.pressure.grade, row.sliding.grade) == (grade, "none")
    assert not any("though" in r["text"] for r in ledger.remarks)


def replace_pair(summary: Summary, pair: PairSummary) -> Summary:
    """A summary in which the flange is as given."""
    return replace(summary, pairs={**summary.pairs, "flange": pair})
