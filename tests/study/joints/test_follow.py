"""Joints follow what they join and what is asked of them; what was set by hand stays, and one undo takes all back."""

import json
from typing import Any

import pytest

from tests.study.joints.making import edited, figures, joined, part, study_of
from ulmek.demo import demo_study
from ulmek.study.edits import apply_edit, difference
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.joints.begin import new_joint
from ulmek.study.joints.follow import followed
from ulmek.study.preflight import preflight
from ulmek.study.take_out import take_out
from ulmek.study.translate import translate

PLATE = {"width": "240 mm", "height": "80 mm", "thickness": "12 mm", "hole_columns": 3, "hole_rows": 1,
         "hole_spacing_x": "60 mm"}  # fmt: skip


@pytest.fixture
def lap() -> StudyDocument:
    """Two plates and three bolts."""
    return joined(study_of(part("low", "plate", PLATE), part("high", "plate", PLATE, at=(300, 0, 0))), "low", "high")


def _set(study: StudyDocument, **values: Any) -> StudyDocument:
    """The study after one edit; names of paths with two underscores in the place of slashes."""
    patch = [{"op": "add", "path": "/" + path.replace("__", "/"), "value": v} for path, v in values.items()]
    return edited(study, patch)


def test_a_thickness_a_pattern_and_a_class_are_followed_and_one_undo_brings_all_back(lap: StudyDocument) -> None:
    bolts = lap.parts[-1]
    assert (bolts.recipe.kind, bolts.recipe.dimensions["grip"], len(bolts.placements)) == ("bolt", "24 mm", 3)
    assert lap.parts[1].placements[0].at[2] == "12 mm"
    thicker = _set(lap, parts__0__recipe__dimensions__thickness="16 mm")
    assert thicker.parts[-1].recipe.dimensions["grip"] == "28 mm"
    assert thicker.parts[1].placements[0].at[2] == "16 mm"

    four = {"hole_columns": 4, "hole_spacing_x": "50 mm"}
    more = edited(thicker, [
        {"op": "add", "path": f"/parts/{n}/recipe/dimensions/{name}", "value": v}
        for n in (0, 1) for name, v in four.items()
    ])  # fmt: skip
    assert len(more.parts[-1].placements) == 4
    holes = next(p.a for p in more.pairs if p.id == "bolted-shanks-low-hole-1")
    assert holes == [f"low/hole.{k}" for k in (1, 2, 3, 4)]
    assert more.bolts[0].name.endswith("×4")

    harder = _set(more, joints__0__ask__strength="10.9")
    assert harder.materials[-1].yield_stress == "900 MPa"
    assert float(harder.bolts[0].preload["bolted-tighten"].split()[0]) > 1.4 * float(
        more.bolts[0].preload["bolted-tighten"].split()[0]
    )
    translate(harder)
    for before, after in ((lap, thicker), (thicker, more), (more, harder)):
        back, _ = apply_edit(after, difference(after, before))
        assert back == before


def test_what_is_set_by_hand_stays_until_the_joint_changes_it(lap: StudyDocument) -> None:
    by_hand = _set(lap, pairs__0__law__mu=0.3, parts__2__mesh__size="3 mm", pairs__1__name="Under the heads")
    thicker = _set(by_hand, parts__0__recipe__dimensions__thickness="16 mm")
    assert thicker.pairs[0].law.mu == 0.3
    assert thicker.parts[2].mesh.size == "3 mm"
    assert thicker.pairs[1].name == "Under the heads"
    # What was taken out by hand does not come back.
    patch, _ = take_out(thicker, "pair", "bolted-heads")
    without = _set(edited(thicker, patch), parts__0__recipe__dimensions__thickness="18 mm")
    assert "bolted-heads" not in {p.id for p in without.pairs}
    assert _set(lap, joints__0__ask__mu=0.2).pairs[0].law.mu == 0.2


def test_washers_lines_and_what_was_made_before_come_and_go(lap: StudyDocument) -> None:
    washed = _set(lap, joints__0__ask__washers="both")
    assert [p.recipe.kind for p in washed.parts] == ["plate", "plate", "bolt", "washer", "washer"]
    assert washed.parts[2].recipe.dimensions["grip"] == "30 mm"
    assert len(washed.pairs) == len(lap.pairs) + 2
    lines = _set(washed, joints__0__ask__modelled="line-averaging")
    assert [p.recipe.kind for p in lines.parts] == ["plate", "plate"]
    assert [b.line is not None for b in lines.bolts] == [True] * 3
    assert [p.name for p in lines.pairs] == ["High – Low"]
    again = _set(lines, joints__0__ask__modelled="solid", joints__0__ask__washers="none")
    assert [p.recipe for p in again.parts] == [p.recipe for p in lap.parts]
    translate(again)


def test_a_joint_that_has_lost_its_hole_says_so_and_keeps_its_pieces(lap: StudyDocument) -> None:
    bare = _set(lap, parts__1__recipe__dimensions__hole_columns=0)
    assert [p.id for p in bare.parts] == [p.id for p in lap.parts]
    plain = _set(bare, parts__1__recipe__dimensions__hole_columns=3)
    assert plain.parts == lap.parts
    narrow = _set(lap, joints__0__ask__diameter="20 mm")
    (told,) = [f for f in preflight(narrow).findings if f.code == "joint"]
    assert "M20 does not go through a hole of 17.5 mm" in told.text
    assert told.where == "joints/bolted"


def test_unmaking_leaves_the_pieces_and_taking_out_takes_them(lap: StudyDocument) -> None:
    patch, _ = take_out(lap, "joint", "bolted")
    loose = edited(lap, patch)
    assert (loose.joints, loose.pairs, loose.parts) == ([], lap.pairs, lap.parts)
    patch, told = take_out(lap, "joint", "bolted", with_pieces=True)
    gone = edited(lap, patch)
    assert (len(gone.parts), gone.pairs, gone.bolts, gone.joints) == (2, [], [], [])
    assert "Also takes out" in told
    # What was unmade is gathered again, as it is.
    again = edited(loose, new_joint(loose, lap.joints[0].ask, lap.joints[0].name))
    taken, made = (s.joints[0].pieces.model_dump(exclude={"materials"}) for s in (again, lap))
    assert taken == made
    assert (again.pairs, again.parts, again.bolts) == (lap.pairs, lap.parts, lap.bolts)


def test_pieces_of_a_study_that_had_no_joints_are_gathered_into_one() -> None:
    study = demo_study("wall-bracket")
    plain = read_study(json.loads(study.model_dump_json()) | {"version": 1})
    assert plain == study
    both = joined(plain, "wall-plate/hole.1", "bracket/hole.1")
    (joint,) = both.joints
    assert set(joint.pieces.pairs.values()) >= {"heads", "nuts"}
    assert (len(joint.pieces.pairs), list(joint.pieces.bolts), list(joint.pieces.steps)) == (5, ["bolts"], ["preload"])
    before, after = (s.model_dump(exclude={"joints"}) for s in (plain, both))
    assert after == before
    # The closed form is that of what was taken in: 42 kN each, not the share of proof that a new joint begins with.
    assert (joint.ask.tightened_by, joint.ask.force) == ("force", "42 kN")
    assert figures(both)["Slides at µ 0.15 across at"].value == pytest.approx(0.15 * 4 * 42e3)
    # What is asked otherwise than it is found changes what was taken in, and no more.
    other = joined(plain, "wall-plate/hole.1", "bracket/hole.1", force="50 kN")
    assert other.bolts[0].preload == {"preload": "50 kN"}
    assert other.parts == plain.parts
    thicker = _set(both, parts__0__recipe__dimensions__thickness="24 mm")
    assert thicker.parts[2].recipe.dimensions["grip"] == "42 mm"
    assert followed(thicker, thicker) == thicker


def test_a_pin_that_is_there_is_taken_in_and_no_second_one_made() -> None:
    eye = joined(demo_study("lifting-eye"), "lug", "strap")
    (joint,) = eye.joints
    assert joint.ask.kind == "pinned"
    assert (list(joint.pieces.parts), len(eye.parts)) == (["pin"], 3)
    assert joint.ask.mu == 0.12
    assert {"in-lug", "in-strap"} <= set(joint.pieces.pairs)
