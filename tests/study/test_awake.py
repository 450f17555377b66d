"""Parts left out of the analysis: what hangs on them sleeps, is told, and comes back as it was."""

import jsonpatch
import pytest

from ulmek.core.errors import InputError
from ulmek.runs.solve import solve_study
from ulmek.study.awake import asleep, awake, on_the_whole
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.ledger import build_ledger
from ulmek.study.preflight import preflight
from ulmek.study.touching import suggestions
from ulmek.study.translate import translate

STEEL = {"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3}
FRICTION = {"may_open": True, "may_slide": "friction", "mu": 0.2}


def _block(part_id: str, name: str, at: str, **more: object) -> dict[str, object]:
    return {
        "id": part_id, "name": name, "material": "steel", "mesh": {"size": "10 mm"},
        "recipe": {"kind": "block", "dimensions": {"length": "20 mm", "depth": "20 mm", "height": "10 mm"}},
        "placements": [{"at": ["0 mm", "0 mm", at]}], **more,
    }  # fmt: skip


def _stack(**left_out: bool) -> StudyDocument:
    """Three blocks on each other; the lowest is held, the upper two are pressed."""
    blocks = [("cover", "Cover", "20 mm"), ("plate", "Plate", "10 mm"), ("foot", "Foot", "0 mm")]
    return read_study(
        {
            "format": "ulmek-study", "version": 2, "name": "stack", "title": "Stack", "materials": [STEEL],
            "parts": [_block(*b, in_analysis=not left_out.get(b[0], False)) for b in blocks],
            "pairs": [
                {"id": "upper", "name": "Cover – plate", "a": ["cover/bottom"], "b": ["plate/top"], "law": FRICTION},
                {"id": "lower", "name": "Plate – foot", "a": ["plate/bottom"], "b": ["foot/top"], "law": FRICTION},
            ],
            "handles": [{"id": "grip", "name": "Grip", "faces": ["cover/top"], "at": ["0 mm", "0 mm", "30 mm"]}],
            "supports": [
                {"id": "ground", "name": "Ground", "kind": "fixed", "faces": ["foot/bottom"]},
                {"id": "side", "name": "Side", "kind": "components", "faces": ["cover/near", "plate/near"],
                 "components": ["y"]},
                {"id": "grip-held", "name": "Grip held", "kind": "components", "handle": "grip", "components": ["x"]},
            ],
            "loads": [
                {"id": "push", "name": "Push", "kind": "force", "faces": ["plate/top"], "direction": [0, 0, -1],
                 "values": {"press": "100 N"}},
                {"id": "weight", "name": "Weight", "kind": "force", "faces": ["cover/top"], "direction": [0, 0, -1],
                 "values": {"press": "50 N"}},
            ],
            "steps": [{"id": "press", "name": "Press"}],
        }
    )  # fmt: skip


def test_what_hangs_on_a_part_sleeps_with_it_and_is_told() -> None:
    study = _stack(cover=True)
    assert asleep(study) == {
        "part": ["cover"], "pair": ["upper"], "handle": ["grip"], "support": ["grip-held"], "load": ["weight"],
    }  # fmt: skip
    left = awake(study)
    assert [s.faces for s in left.supports] == [["foot/bottom"], ["plate/near"]]
    (told,) = [f.text for f in preflight(study).findings if f.code == "left-out"]
    assert told == (
        "Left out of the analysis: Cover. With it sleep pair Cover – plate, handle Grip, support Grip held and load "
        "Weight. Without it act support Side."
    )
    # Nothing is lost: taken in again, the document is as it was.
    whole = study.model_dump(mode="json")
    whole["parts"][0]["in_analysis"] = True
    assert read_study(whole) == _stack()
    assert asleep(_stack()) == {}


def test_a_run_without_a_part_gives_what_a_study_without_it_gives() -> None:
    study, without = _stack(cover=True), awake(_stack(cover=True))
    assert [b.name for b in translate(study).bodies] == ["plate", "foot"]
    outcome, plain = solve_study(study), solve_study(without)
    assert outcome.status == "solved"
    assert outcome.summaries[-1].pairs["lower"].normal_force == pytest.approx(100.0, rel=1e-6)
    assert outcome.summaries == plain.summaries
    assert [row.id for row in build_ledger(study, outcome.summaries, 0).rows] == ["lower", "plate", "foot"]


def test_a_step_that_is_left_out_is_as_if_it_were_not_there() -> None:
    plain = _stack().model_dump(mode="json")
    more = jsonpatch.apply_patch(plain, [
        {"op": "add", "path": "/steps/-", "value": {"id": "shove", "name": "Shove", "in_analysis": False}},
        {"op": "add", "path": "/loads/0/values/shove", "value": "900 N"},
        {"op": "add", "path": "/supports/1/released", "value": ["shove"]},
    ])  # fmt: skip
    study = read_study(more)
    assert awake(study) == read_study(plain)
    assert asleep(study) == {"step": ["shove"]}
    (told,) = [f.text for f in preflight(study).findings if f.code == "left-out"]
    assert told == "Left out of the analysis: Shove. Without it act support Side and load Push."
    with pytest.raises(InputError, match="every step is left out"):
        awake(read_study(jsonpatch.apply_patch(more, [{"op": "add", "path": "/steps/0/in_analysis", "value": False}])))


def test_remedies_reach_the_right_items_of_the_whole_study() -> None:
    """The first pair of what is awake is the second of the study: its remedy must change that one."""
    apart = _stack(cover=True).model_dump(mode="json")
    apart["parts"][1]["placements"][0]["at"][2] = "10.5 mm"
    apart["supports"][1]["components"] = ["x"]
    study = read_study(apart)
    (remedy,) = next(f for f in preflight(study).findings if f.code == "apart-loose").remedies[:1]
    assert remedy.edit == [{"op": "replace", "path": "/pairs/1/fit", "value": "closed-up"}]
    mended = read_study(jsonpatch.apply_patch(apart, remedy.edit))
    assert [p.fit for p in mended.pairs] == ["as-drawn", "closed-up"]
    swap = [{"op": "move", "from": "/pairs/0/a", "path": "/pairs/0/was_a"}]
    assert on_the_whole(swap, study, awake(study)) == [{"op": "move", "from": "/pairs/1/a", "path": "/pairs/1/was_a"}]


def test_no_pair_is_proposed_with_a_part_that_is_left_out() -> None:
    loose = _stack(cover=True).model_dump(mode="json") | {"pairs": []}
    assert [s.new_pair["name"] for s in suggestions(read_study(loose))] == ["Plate – Foot"]


def test_a_study_of_nothing_but_parts_left_out_is_refused() -> None:
    nothing = _stack(cover=True, plate=True, foot=True)
    with pytest.raises(InputError, match="every part is left out"):
        awake(nothing)
    (stop,) = preflight(nothing).findings
    assert stop.grade == "stop"
    assert stop.hint == "Take one of them into the analysis."
