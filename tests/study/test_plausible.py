"""Broken studies are told before any run: one sentence, the place, and a remedy that works."""

import copy
from collections.abc import Callable
from typing import Any

import jsonpatch
import pytest

from ulmek.runs.solve import solve_study
from ulmek.study.items import read_study
from ulmek.study.preflight import Finding, Preflight, preflight
from ulmek.verify import case

Document = dict[str, Any]


def _checked(document: Document) -> Preflight:
    return preflight(read_study(document))


def _found(document: Document, code: str) -> Finding:
    return next(f for f in _checked(document).findings if f.code == code)


def _mended(document: Document, finding: Finding) -> Document:
    """The document after the first remedy."""
    return dict(jsonpatch.apply_patch(read_study(document).model_dump(mode="json"), finding.remedies[0].edit))


def _without_support(d: Document) -> None:
    d["supports"] = []


def _lifted(d: Document) -> None:
    d["parts"][1]["placements"] = [{"at": ["0 mm", "0 mm", "20.3 mm"]}]


def _misspelt(d: Document) -> None:
    d["pairs"][0]["a"] = ["slider/botom"]


def _hole_too_large(d: Document) -> None:
    d["parts"][0]["recipe"] = {"kind": "lug", "dimensions": {"hole_diameter": "900 mm"}}


def _without_step(d: Document) -> None:
    d["steps"], d["loads"] = [], []


def _forgotten_pair(d: Document) -> None:
    d["pairs"] = []
    d["supports"].append({"id": "hold", "name": "Hold", "faces": ["slider/top"]})
    d["loads"] = d["loads"][1:]


def _idle(d: Document) -> None:
    for load in d["loads"]:
        load["values"] = {}


def _too_soft(d: Document) -> None:
    d["materials"][0]["young"] = "210 MPa"


def _moved_while_held(d: Document) -> None:
    d["loads"] = [{"id": "lift", "name": "Lift", "kind": "displacement", "faces": ["base/bottom"],
                   "direction": [0, 0, 1], "values": {"press": "0.1 mm"}}]  # fmt: skip


def _never_tightened(d: Document) -> None:
    d["parts"].append({"id": "bolts", "name": "Bolts", "material": "steel", "recipe": {"kind": "bolt"},
                       "mesh": {"size": "6 mm"}, "placements": [{"at": ["200 mm", "0 mm", "0 mm"]}]})  # fmt: skip
    d["supports"].append({"id": "far", "name": "Far", "faces": ["bolts/head.end"]})
    d["bolts"] = [{"id": "tighten", "name": "Flange bolts", "part": "bolts"}]


def _turned_far(d: Document) -> None:
    d["handles"] = [{"id": "grip", "name": "Grip", "faces": ["slider/top"], "at": ["0 mm", "0 mm", "30 mm"]}]
    d["loads"] = [{"id": "turn", "name": "Turn", "kind": "rotation", "handle": "grip", "direction": [0, 0, 1],
                   "values": {"press": "135 deg"}}]  # fmt: skip


def _led_rigidly(d: Document) -> None:
    d["handles"] = [{"id": "grip", "name": "Grip", "faces": ["slider/right"], "at": ["20 mm", "0 mm", "25 mm"]}]


def _stray(d: Document) -> None:
    d["parts"].append(
        {**d["parts"][1], "id": "stray", "name": "Stray", "placements": [{"at": ["200 mm", "0 mm", "0 mm"]}]}
    )


def _paired_twice(d: Document) -> None:
    d["pairs"].append({**d["pairs"][0], "id": "again", "name": "Again"})


def _too_many_elements(d: Document) -> None:
    d["element_budget"] = 100
    for part in d["parts"]:
        part["mesh"] = {"size": "4 mm"}


# How the study is broken: code, grade, what is said, the place, and whether a remedy mends it.
BROKEN: list[tuple[Callable[[Document], None], str, str, str, str, bool]] = [
    (_without_support, "loose", "stop", "Base is loose: it can move along x", "parts/base", True),
    (_lifted, "apart-loose", "stop", "Only Slider – base, which starts apart, could stop it.", "pairs/joint/fit", True),
    (_misspelt, "unknown-name", "stop", "part 'Slider' has no face 'botom'.", "pairs/joint/a/0", True),
    (_hole_too_large, "bad-geometry", "stop", "a hole of 900 mm leaves too little",
     "parts/base/recipe/dimensions/hole_diameter", True),
    (_without_step, "bad-input", "stop", "the study has no steps", "steps", True),
    (_forgotten_pair, "unpaired", "watch", "touch and are in no pair", "pairs", True),
    (_idle, "idle", "watch", "no load has a value", "steps", False),
    (_too_soft, "unlikely", "watch", "Young's modulus of 210 MPa", "materials/steel", True),
    (_moved_while_held, "held-and-moved", "stop", "Lift moves Base / bottom in Press, while Floor holds it there.",
     "loads/lift", True),
    (_never_tightened, "slack", "watch", "Flange bolts is never tightened.", "bolts/tighten/preload", True),
    (_turned_far, "far", "watch", "Turn turns by 135 °, but only small motion is followed in", "steps/press",
     True),
    (_stray, "unconnected", "stop", "Stray is connected to nothing", "parts/stray", True),
    (_paired_twice, "twice", "watch", "Slider – base and Again join the same faces", "pairs/again", True),
    (_too_many_elements, "budget", "watch", "more than the 100", "element_budget", True),
    (_led_rigidly, "led", "watch", "Grip leads 5 nodes of Slider – base rigidly", "handles/grip", True),
]  # fmt: skip


@pytest.mark.parametrize(
    ("break_it", "code", "grade", "words", "where", "is_mended"), BROKEN, ids=[b[0].__name__ for b in BROKEN]
)
def test_a_broken_study_is_explained_with_its_place_and_a_remedy_that_works(
    two_blocks: Document, break_it: Callable[[Document], None], code: str, grade: str, words: str, where: str,
    is_mended: bool,
) -> None:  # fmt: skip
    document = copy.deepcopy(two_blocks)
    break_it(document)
    finding = _found(document, code)
    assert words in finding.text
    assert finding.text.count(". ") <= 1, "one sentence, and where it helps a second"
    assert (finding.grade, finding.where) == (grade, where)
    assert finding.hint or finding.remedies
    assert _checked(document).may_run == (grade != "stop")
    assert bool(finding.remedies) == is_mended
    if is_mended:
        after = _checked(_mended(document, finding))
        assert code not in {f.code for f in after.findings}


def test_what_is_meant_is_not_doubted(two_blocks: Document) -> None:
    """Motions let go, of other directions, small, or in steps of large motion; soft rubber; units of every size."""
    base = copy.deepcopy(two_blocks)
    lift = {"id": "lift", "name": "Lift", "kind": "displacement", "faces": ["slider/top"], "direction": [0, 0, 1]}
    base["loads"] = [{**lift, "values": {"press": "0.1 mm"}}]
    assert not {f.code for f in _checked(base).findings} & {"far", "held-and-moved", "unlikely"}
    # The slider is 10 mm thick: 12 mm is far, also where a course only passes it; not in large motion.
    for change in ({"values": {"press": "12 mm"}},
                   {"values": {"push": "0.1 mm"}, "courses": {"push": [{"at": 0.5, "value": "-1.2 cm"}]}}):  # fmt: skip
        far = copy.deepcopy(base)
        far["loads"] = [{**lift, **change}]
        finding = _found(far, "far")
        assert "beyond the thickness" in finding.hint
        assert "far" not in {f.code for f in _checked(_mended(far, finding)).findings}
        for step in far["steps"]:
            step["large_motion"] = True
        assert "far" not in {f.code for f in _checked(far).findings}
    held = copy.deepcopy(two_blocks)
    _moved_while_held(held)
    held["supports"][0] |= {"kind": "components", "components": ["x", "y"]}
    assert "held-and-moved" not in {f.code for f in _checked(held).findings}
    released = copy.deepcopy(two_blocks)
    _moved_while_held(released)
    released["supports"][0]["released"] = ["press", "push"]
    assert "held-and-moved" not in {f.code for f in _checked(released).findings}
    hard = copy.deepcopy(two_blocks)
    hard["materials"][0]["young"] = "210000 GPa"
    assert _mended(hard, _found(hard, "unlikely"))["materials"][0]["young"] == "210 GPa"
    hopeless = copy.deepcopy(two_blocks)
    hopeless["materials"][0]["young"] = "0.01 MPa"
    assert _found(hopeless, "unlikely").remedies == []


def test_pairs_are_mended_by_their_remedies(two_blocks: Document) -> None:
    overlapping, swapped, apart = (copy.deepcopy(two_blocks) for _ in range(3))
    overlapping["parts"][1]["placements"] = [{"at": ["0 mm", "0 mm", "19.9 mm"]}]
    finding = _found(overlapping, "overlap")
    assert [r.does for r in finding.remedies] == ["Remove the overlap"]
    assert "overlap" not in {f.code for f in _checked(_mended(overlapping, finding)).findings}
    # The base is 60 × 60, the slider 40 × 40: as side A the base is covered to 44 %.
    swapped["pairs"][0] |= {"a": ["base/top"], "b": ["slider/bottom"]}
    finding = _found(swapped, "cover")
    assert "44%" in finding.text
    mended = _mended(swapped, finding)
    assert (mended["pairs"][0]["a"], mended["pairs"][0]["b"]) == (["slider/bottom"], ["base/top"])
    assert "cover" not in {f.code for f in _checked(mended).findings}
    # A tie of what was cut apart is not asked to swap.
    swapped["pairs"][0]["law"] = {"may_open": False, "may_slide": "no"}
    assert "cover" not in {f.code for f in _checked(swapped).findings}
    _lifted(apart)
    apart["pairs"][0]["fit"] = "closed-up"
    assert _found(apart, "gap").text == "Slider – base is closed up at the start, drawn apart by 0.3 mm."


def _pushed_from_afar(two_blocks: Document) -> Document:
    """The slider 0.3 mm above the base, guided sideways and against turning, pressed down by 2 kN."""
    document = copy.deepcopy(two_blocks)
    _lifted(document)
    document["supports"].append(
        {"id": "guide", "name": "Guide", "kind": "components", "components": ["x", "y"], "faces": ["slider/near"]}
    )
    document["supports"].append(
        {"id": "level", "name": "Level", "kind": "components", "components": ["y"], "faces": ["slider/far"]}
    )
    document["loads"] = [{"id": "weight", "name": "Weight", "kind": "force", "faces": ["slider/top"],
                          "direction": [0, 0, -1], "values": {"press": "2 kN"}}]  # fmt: skip
    return document


def test_a_part_pushed_from_afar_is_brought_to_touch_in_any_of_four_ways(two_blocks: Document) -> None:
    """After each remedy nothing stops the run, and the pair carries the force: all of it, or what the spring leaves."""
    document = _pushed_from_afar(two_blocks)
    remedies = _found(document, "apart-loose").remedies
    carried = {}
    for remedy in remedies:
        study = read_study(jsonpatch.apply_patch(read_study(document).model_dump(mode="json"), remedy.edit))
        checked = preflight(study)
        assert checked.may_run, (remedy.does, [f.text for f in checked.findings if f.grade == "stop"])
        outcome = solve_study(study)
        assert outcome.status == "solved", (remedy.does, outcome.message)
        carried[remedy.does] = outcome.summaries[-1].pairs["joint"].normal_force
    assert list(carried) == [
        "Close the gap at the start", "Move it to touch, then load it", "Hold it by a soft spring",
        "Move it instead, and read the force",
    ]  # fmt: skip
    assert carried["Close the gap at the start"] == pytest.approx(2000.0, rel=1e-6)
    assert carried["Move it to touch, then load it"] == pytest.approx(2000.0, rel=1e-6)
    # The spring is stretched by the gap: a hundredth of the force stays in it.
    assert carried["Hold it by a soft spring"] == pytest.approx(2000.0 * 0.99, rel=1e-3)
    assert carried["Move it instead, and read the force"] > 100.0


def test_a_force_along_a_gap_does_not_close_it(two_blocks: Document) -> None:
    document = _pushed_from_afar(two_blocks)
    document["loads"][0]["direction"] = [1, 0, -0.1]
    assert [r.does for r in _found(document, "apart-loose").remedies] == ["Close the gap at the start"]


@pytest.mark.parametrize(("size", "is_told"), [("3 mm", True), ("0.05 mm", False)])
def test_a_contact_is_told_that_presses_over_too_few_elements(size: str, is_told: bool) -> None:
    study = case.base_document("roller", "Roller")
    fine = {"at": ["0 mm", "-15 mm", "0 mm"], "size": size}
    mesh = {"size": "5 mm", "layers": 1, "spots": [fine]}
    study["parts"] = [
        case.part("roller", "disc", {"diameter": 30, "thickness": 4}, mesh, at=(0, 15)),
        case.part("pad", "block", {"length": 40, "depth": 20, "height": 4}, {"size": "4 mm", "layers": 1}, at=(0, -10)),
    ]
    study["pairs"] = [{"id": "joint", "name": "Roller – pad", "a": ["roller/rim"], "b": ["pad/far"]}]
    study["supports"] = [case.hold("floor", ["x", "y", "z"], "pad/near"), case.hold("guide", ["x", "z"], "roller/top")]
    study["loads"] = [case.load("press", "force", {"press": "2 kN"}, "roller/top", direction=[0, -1, 0])]
    study["steps"] = [case.step("press")]
    told = [f for f in preflight(read_study(study)).findings if f.code == "coarse-contact"]
    assert bool(told) == is_told
    if is_told:
        # 2 kN on 4 mm of a roller of 15 mm: 2a = 0.57 mm by Hertz.
        assert "under 2 kN, all that acts, it presses over 0.575 mm by Hertz" in told[0].text
