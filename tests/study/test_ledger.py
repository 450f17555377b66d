"""Verdicts follow from the numbers: each one is provoked by a made-up course of a run."""

import re
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from ulmek.core.review.balance import Carrier
from ulmek.core.review.bolt_cuts import BoltCut
from ulmek.core.review.pair_fields import PairSummary
from ulmek.core.review.summary import BoltSummary, Closing, Energies, Largest, PartSummary, SingularTop, Summary
from ulmek.demo import demo_study
from ulmek.runs.solve import solve_study
from ulmek.study.edits import edited_by
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.ledger import COLUMNS, Cell, Remark, Row, build_ledger
from ulmek.study.ledger.purpose import purpose_of
from ulmek.study.translate import body_names
from ulmek.verify.case import block_part

CALM = PairSummary(
    peak_pressure=90.0, max_penetration=0.0, max_sliding=0.001, share_open=0.6, share_sliding=0.1,
    share_sticking=0.3, as_one=0.1, squeeze=0.01, yield_share=0.5, normal_force=1e5, friction_force=10.0,
    force=(0.0, 0.0, 1e5), max_gap=0.0, dissipated=0.0,
)  # fmt: skip
SOUND = PartSummary(
    max_von_mises=177.5, max_displacement=0.01, max_plastic_strain=0.0, yield_share=0.5, safety=2.0, stress_error=1.0
)


def _course(**last: Any) -> list[Summary]:
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
    return row, [r.text for r in ledger.remarks]


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
    assert f"side load {spoken}" in build_ledger(study, course, 2).remarks[0].text


def test_opening_is_measured_against_what_was_shut_after_tightening() -> None:
    row, remarks = _flange(share_open=0.9, share_sticking=0.0)
    assert row.pressure is not None
    assert row.pressure.grade == "bad"
    assert row.pressure.verdict.startswith("Opens: 75% of what was shut has opened, from step 3, Side load")
    assert "side load 6 kN" in remarks[0]
    assert _flange(share_open=1.0, share_sticking=0.0, share_sliding=0.0)[0].pressure.verdict.startswith(
        "Has come apart"
    )  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("carried", "meant", "is_told"),
    [(-30e3, "to-hold", True), (-20e3, "to-hold", False), (-30e3, "to-carry-nothing", False), (30e3, "to-hold", False)],
)
def test_a_load_that_leaves_through_what_holds_its_part_is_told(carried: float, meant: str, is_told: bool) -> None:
    prop = {"id": "prop", "name": "Prop", "faces": ["bracket/arm.end"], "kind": "fixed"}
    patch = [{"op": "add", "path": "/supports/-", "value": prop}]
    for at, pair in enumerate(demo_study("wall-bracket").pairs):
        if "bracket" in str([*pair.a, *pair.b]):
            patch.append({"op": "replace", "path": f"/pairs/{at}/meant", "value": meant})
    study = edited_by(demo_study("wall-bracket"), patch)
    course = _course()
    course[1] = replace(course[1], carriers=(Carrier("support", "prop", (0.0, 0.0, carried), (0.0, 0.0, 0.0)),))
    told = [r.text for r in build_ledger(study, course, 1).remarks if "leaves through" in r.text]
    assert bool(told) == is_told
    if told:
        assert told[0].startswith("62% of the force on Bracket leaves through 'Prop', which holds it, and not through ")
        assert "Bracket – wall plate" in told[0]


@pytest.mark.parametrize(("as_one", "far", "grade"), [(0.95, 0.001, "bad"), (0.2, 0.02, "watch"), (0.2, 0.001, "good")])
def test_sliding_as_one_is_told_from_creeping_and_from_spreading(as_one: float, far: float, grade: str) -> None:
    row, _ = _flange(share_sliding=0.4, share_sticking=0.0, as_one=as_one, max_sliding=far)
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
    ("strength", "bending", "grade", "said"),
    [
        (None, 1e3, "good", ""),
        # 42 kN over 201 mm² are 209 MPa, 100 N·m over 402 mm³ another 249: 0.71 of 640 MPa.
        (None, 100e3, "good", "With bending of 100 N·m and shear of 0 kN the edge of its shank bears 0.71 of yield."),
        (None, 200e3, "watch", "the edge of its shank bears 1.10 of yield."),
        # 42 kN over 157 mm² are 268 MPa, 100 N·m over 277 mm³ another 361: 1.09 of 580 MPa.
        ("8.8", 100e3, "watch", "the edge of its thread bears 1.09 of the proof stress."),
    ],
)
def test_what_bending_adds_to_a_bolt_is_told(strength: Any, bending: float, grade: str, said: str) -> None:
    study, course = demo_study("wall-bracket"), _course()
    study = study.model_copy(update={"bolts": [study.bolts[0].model_copy(update={"strength": strength})]})
    for name, bolt in course[2].bolts.items():
        cut = BoltCut(at=-10.0, axial=42e3, shear=0.0, bending=bending if name == "bolts#3" else 0.0, radius=8.0)
        course[2].bolts[name] = replace(bolt, worst=cut)
    ledger = build_ledger(study, course, 2)
    cell = next(r for r in ledger.rows if r.kind == "bolts").yielding
    assert cell is not None
    assert cell.grade == grade
    assert cell.verdict.endswith(said or "Stays below yield.")
    assert [r.row for r in ledger.remarks] == (["bolts"] if grade == "watch" else [])


@pytest.mark.parametrize(
    ("went", "said"), [({"turn": 0.3}, "turns by about 17°"), ({"bow": 1.5}, "bends by 1.5 times its thickness")]
)
def test_a_part_that_went_further_than_small_motion_is_true_for_is_remarked(went: dict[str, float], said: str) -> None:
    study, course = demo_study("wall-bracket"), _course()
    course[1].parts["bracket"] = course[2].parts["bracket"] = replace(SOUND, **went)
    (remark,) = build_ledger(study, course, 2).remarks
    assert remark.text.startswith(f"Bracket {said} where only small motion is followed, from step 2, Hoist pull")
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
        ("to-slide", "sliding", {**SLIDES, "as_one": 0.1, "max_sliding": 0.02}, "watch", "Faces creep against"),
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
    is_remarked = any(r.row == "flange" for r in ledger.remarks)
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
    assert not any("though" in r.text for r in ledger.remarks)


def replace_pair(summary: Summary, pair: PairSummary) -> Summary:
    """A summary in which the flange is as given."""
    return replace(summary, pairs={**summary.pairs, "flange": pair})


def _cells(study: StudyDocument, **last: Any) -> dict[str, Cell]:
    """The cells of the flange after a course of which it ends so."""
    row = next(r for r in build_ledger(study, _course(**last), 2).rows if r.id == "flange")
    return {name: cell for name in COLUMNS if (cell := getattr(row, name)) is not None}


BANDED = {"use": 0.7, "use_anywhere": 1.4, "use_anywhere_band": (1.1, 1.8), "bears": 355.0}


@pytest.mark.parametrize(
    ("use", "band", "grade", "says"),
    [
        (0.7, (0.6, 0.8), "good", "Stays below yield."),
        # Below 1 it is for sure, however near it may be.
        (0.7, (0.6, 0.95), "good", "Stays below yield."),
        (0.92, (0.86, 0.98), "watch", "Close to yield."),
        (0.7, (0.6, 1.1), "unsure", "Cannot tell on this mesh: it is between 0.6 and 1.1 of yield."),
        (0.7, (0.6, None), "unsure", "Cannot tell on this mesh: it is at least 0.6 of yield."),
        (1.2, (1.05, 1.4), "bad", "Above the yield stress"),
    ],
)
def test_a_verdict_is_given_where_the_whole_band_lies_on_one_side(
    use: float, band: tuple[float, float | None], grade: str, says: str
) -> None:
    cell = _cells(demo_study("wall-bracket"), **{**BANDED, "use": use}, use_band=band)["yielding"]
    assert (cell.grade, cell.verdict[: len(says)], cell.band) == (grade, says, band)


def test_singular_places_are_judged_only_where_it_is_asked_for() -> None:
    study = demo_study("wall-bracket")
    asked = study.model_copy(
        update={"parts": [p.model_copy(update={"judged": "everywhere"}) for p in study.parts]}
    )  # fmt: skip
    last = {**BANDED, "use_band": (0.6, 0.8)}
    assert _cells(study, **last)["yielding"].grade == "good"
    assert _cells(asked, **last)["yielding"].grade == "bad"
    course = _course()
    top = SingularTop("contact-edge", "heads", 320.0)
    course[-1].parts["bracket"] = replace(
        SOUND, use=0.4, use_band=(0.35, 0.45), use_anywhere=0.9, use_anywhere_band=(0.7, 1.2), singular=top
    )

    def verdict(of: StudyDocument) -> tuple[str, str]:
        cell = next(r for r in build_ledger(of, course, 2).rows if r.id == "bracket").yielding
        assert cell is not None
        return cell.grade, cell.verdict

    assert verdict(study) == (
        "good",
        "Stays below yield. Not judged: 320 MPa at the edge of contact of Bolt heads – bracket, "
        "which grows with every finer mesh.",
    )
    assert verdict(asked)[0] == "unsure"


@pytest.mark.parametrize(
    ("last", "cell", "grade", "says"),
    [
        ({"across": 3, "pressure_band": (40.0, 140.0)}, "pressure", "unsure", "it presses over 3 elements"),
        ({"across": 1, "pressure_band": (0.0, None)}, "pressure", "unsure", "which is of any height"),
        ({"across": 7, "pressure_band": (85.0, 95.0)}, "pressure", "good", "Stays as shut"),
        # 0.62 of the peak that there may be is above what the parts bear; then below it.
        ({"across": 3, "pressure_band": (90.0, 600.0)}, "yielding", "unsure", "the peak of pressure is between 90"),
        ({"across": 3, "pressure_band": (90.0, 500.0)}, "yielding", "good", "Stays below yield."),
    ],
)
def test_no_tick_beside_a_peak_that_the_mesh_cannot_show(
    last: dict[str, Any], cell: str, grade: str, says: str
) -> None:
    found = _cells(demo_study("wall-bracket"), **{**BANDED, "use_band": (0.6, 0.8)}, **last)[cell]
    assert found.grade == grade
    assert says in found.verdict


def test_what_may_not_open_and_pulls_is_told() -> None:
    study = demo_study("wall-bracket")
    tied = study.pairs[0].model_copy(update={"law": study.pairs[0].law.model_copy(update={"may_open": False})})
    tied_study = study.model_copy(update={"pairs": [tied, *study.pairs[1:]]})
    assert _cells(tied_study)["pressure"].verdict == "May not open."
    pulls = _cells(tied_study, pulls=12.5)["pressure"]
    assert (pulls.grade, pulls.verdict) == (
        "watch", "May not open, and pulls with up to 12.5 MPa: left to itself it would open there."
    )  # fmt: skip


@pytest.mark.parametrize(
    ("leak", "grade", "says"),
    [(3.2, "good", "Seals: 3.2 MPa must be overcome"), (0.0, "bad", "Leaks"), (None, "unsure", "Cannot tell whether")],
)
def test_what_is_meant_to_seal_is_judged_by_the_easiest_way_through(leak: float | None, grade: str, says: str) -> None:
    study = demo_study("wall-bracket")
    seal = study.pairs[0].model_copy(update={"meant": "to-seal"})
    cell = _cells(study.model_copy(update={"pairs": [seal, *study.pairs[1:]]}), leak=leak)["pressure"]
    assert (cell.grade, cell.verdict[: len(says)]) == (grade, says)


def test_penetration_is_judged_against_the_overlap_and_the_draw_of_bolts_too() -> None:
    study = demo_study("wall-bracket")
    pressed = study.pairs[0].model_copy(update={"fit": "value", "interference": "0.005 mm"})
    fitted = study.model_copy(update={"pairs": [pressed, *study.pairs[1:]]})
    assert "of the overlap of the fit" in _cells(fitted, max_penetration=0.0004)["penetration"].verdict
    assert _cells(study, max_penetration=0.00005)["penetration"].grade == "good"
    heads = next(r for r in build_ledger(study, [*_course()[:2], _with_heads(0.003)], 2).rows if r.id == "heads")
    # Bolts are drawn by 0.1 mm: 3 % of that; what an element gives is set large enough not to count.
    assert heads.penetration is not None
    assert "of how far its bolts are drawn" in heads.penetration.verdict


def _with_heads(depth: float) -> Summary:
    last = _course()[2]
    return replace(last, pairs={**last.pairs, "heads": replace(CALM, max_penetration=depth, squeeze=1.0)})


@pytest.mark.parametrize(
    ("demo", "pair", "purpose"),
    [
        ("wall-bracket", "flange", "bolted"), ("wall-bracket", "heads", "bolted"),
        ("pinion-sector", "flanks", "geared"),
        ("lifting-eye", "in-lug", "pinned"), ("drum-sleeve", "seat", "pressed"), ("guide-roller", "track", "seated"),
    ],
)  # fmt: skip
def test_what_a_pair_is_for_is_recognised(demo: str, pair: str, purpose: str) -> None:
    study = demo_study(demo)
    assert purpose_of(study, next(p for p in study.pairs if p.id == pair)) == purpose


def test_teeth_and_pins_slide_by_nature_and_advice_names_no_bolts_where_there_are_none() -> None:
    slides = replace(CALM, share_sliding=0.4, share_sticking=0.0, as_one=0.95)
    for demo, pair, grade in (("pinion-sector", "flanks", "good"), ("guide-roller", "track", "bad")):
        study = demo_study(demo)
        bodies = {n: SOUND for p in study.parts for n in body_names(p)}
        course = [
            replace(_course()[0], step=0, pairs={p.id: slides for p in study.pairs}, parts=bodies, bolts={}, values={})
        ]
        ledger = build_ledger(study, course, 0)
        cell = next(r for r in ledger.rows if r.id == pair).sliding
        assert cell is not None
        assert cell.grade == grade
        assert not any("bolt" in r.text for r in ledger.remarks)


def test_a_load_that_leaves_by_a_support_of_the_loaded_part_is_told(two_blocks: dict[str, Any]) -> None:
    def remarks(document: dict[str, Any]) -> list[str]:
        study = read_study(document)
        summaries = solve_study(study).summaries
        return [r.text for r in build_ledger(study, summaries, len(summaries) - 1).remarks]

    assert not any("which holds it itself" in text for text in remarks(two_blocks))
    two_blocks["supports"].append({"id": "stop", "name": "Stop", "faces": ["slider/left", "slider/far"]})
    (told,) = [text for text in remarks(two_blocks) if "which holds it itself" in text]
    assert re.match(r"Slider passes \d\d% of what it hands on to Stop, which holds it itself", told)


def test_faces_that_meet_and_are_no_pair_are_told_and_the_pair_that_is_offered_holds_them(
    two_blocks: dict[str, Any],
) -> None:
    """The slider is moved by 1.5 mm against a stop that is 1 mm off."""
    two_blocks["parts"].append(block_part("stop", (10, 40, 10), 10, at=20))
    two_blocks["parts"][-1]["placements"][0]["at"][0] = "-26 mm"
    two_blocks["supports"].append({"id": "held", "name": "Held", "faces": ["stop/left"]})
    moved = {"id": "push", "name": "Push", "kind": "displacement", "faces": ["slider/right"], "direction": [-1, 0, 0]}
    two_blocks["loads"][1] = {**moved, "values": {"push": "1.5 mm"}}

    def told(document: dict[str, Any]) -> tuple[list[Remark], float]:
        study = read_study(document)
        summaries = solve_study(study).summaries
        force = summaries[-1].carrier("held").force
        said = [r for r in build_ledger(study, summaries, len(summaries) - 1).remarks if "in no pair" in r.text]
        return said, float(np.linalg.norm(force))

    (remark,), force = told(two_blocks)
    assert re.match(r"(Stop / right meets Slider / left|Slider / left meets Stop / right) in step 2, Push", remark.text)
    assert "goes 0.5 mm into it" in remark.text
    assert force < 1.0
    two_blocks["left_out"] = [{"a": ["stop/right"], "b": ["slider/left"]}]
    assert told(two_blocks)[0] == []
    two_blocks["left_out"] = []
    mended = edited_by(read_study(two_blocks), remark.remedies[0].edit)
    said, force = told(mended.model_dump(mode="json"))
    assert said == []
    assert force > 1e3
