"""The document: every fault is refused with its place, edits turn round exactly, preflight finds what is loose."""

import copy
from typing import Any

import jsonpatch
import pytest

from ulmek.core.errors import UlmekError
from ulmek.demo import demo_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.preflight import preflight
from ulmek.study.translate import translate


@pytest.fixture(scope="module")
def bracket() -> dict[str, Any]:
    return demo_study("wall-bracket").model_dump(mode="json")


THICKNESS = "/parts/1/recipe/dimensions/flange_thickness"
FLANGE = "parts/bracket/recipe/dimensions/flange_thickness"
HOLE = "/recipe/dimensions/hole_diameter"
FAULTS = [
    ("/bolts/0/preload/preload", "0 kN", "bolts/bolts/preload/preload", "preload is 0 kN"),
    ("/bolts/0/preload/preload", "-5 kN", "bolts/bolts/preload/preload", "preload is -5 kN"),
    ("/parts/0" + HOLE, "300 mm", "parts/wall-plate" + HOLE, "300 mm"),
    (THICKNESS, "-3 mm", FLANGE, "-3 mm"),
    (THICKNESS, "3 furlingtons", FLANGE, "not a known unit"),
    (THICKNESS, "3", FLANGE, "no unit"),
    ("/parts/1/recipe/kind", "anvil", "parts/bracket/recipe/kind", "no recipe 'anvil'"),
    ("/parts/1/material", "wood", "parts/bracket/material", "no material 'wood'"),
    ("/parts/1/mesh/size", "0 mm", "parts/bracket/mesh/size", "mesh size is 0"),
    ("/materials/0/young", "-210 GPa", "materials/steel-plate/young", "-210000 MPa"),
    ("/materials/0/poisson", 0.7, "materials/steel-plate/poisson", "0.7"),
    ("/pairs/0/a/0", "bracket/belly", "pairs/flange/a/0", "no face 'belly'"),
    ("/pairs/0/a/0", "bracelet/back", "pairs/flange/a/0", "no part 'bracelet'"),
    ("/pairs/0/b/0", "bracket/back", "pairs/flange/b", "both sides"),
    ("/pairs/0/law/mu", -1, "pairs/flange/law/mu", "greater than or equal to 0"),
    ("/loads/0/values/hoist-pull", "48 mm", "loads/hoist-pull", "is not a force"),
    ("/loads/0/values/tuesday", "48 kN", "loads/hoist-pull/values/tuesday", "no step 'tuesday'"),
    ("/loads/0/direction", [0, 0, 0], "loads/hoist-pull", "direction"),
    ("/bolts/0/part", "bracket", "bolts/bolts/part", "is no bolt"),
    ("/steps/0/increments/least", 0.9, "steps/preload/increments", "out of order"),
    ("/pairs/0/search", "-1 mm", "pairs/flange/search", "search distance"),
    ("/parts/1/colour", "red", "parts/bracket/colour", "Extra inputs"),
    ("/pairs/1/id", "flange", "pairs/flange/id", "two pairs have the id"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "value", "where", "said"), FAULTS)
def test_every_fault_names_its_place(bracket: dict[str, Any], path: str, value: Any, where: str, said: str) -> None:
    broken = jsonpatch.JsonPatch([{"op": "add", "path": path, "value": value}]).apply(copy.deepcopy(bracket))
    if path.endswith("/b/0"):
        broken["pairs"][0]["b"] = [value]
    with pytest.raises(UlmekError) as caught:
        translate(read_study(broken))
    assert caught.value.where.startswith(where)
    assert said in caught.value.message


@pytest.mark.parametrize(
    ("text", "where"),
    [
        ('{"format": "ulmek-study", ', "line 1 column 27"),
        ("[]", "format"),
        ('{"format": "ulmek-study", "version": 99}', "version"),
        (b"\xff\xfe\x00", "file"),
        ("[" * 200000, "file"),
    ],
)
def test_broken_files_are_refused(text: str | bytes, where: str) -> None:
    with pytest.raises(UlmekError) as caught:
        read_study(text)
    assert caught.value.where == where


def test_an_edit_and_its_inverse_cancel(bracket: dict[str, Any]) -> None:
    study = read_study(bracket)
    patch = [
        {"op": "replace", "path": "/pairs/0/law/mu", "value": 0.3},
        {"op": "remove", "path": "/loads/1"},
        {"op": "add", "path": "/steps/-", "value": {"id": "release", "name": "Release"}},
    ]
    edited, inverse = apply_edit(study, patch)
    assert edited.pairs[0].law.mu == 0.3
    back, forward = apply_edit(edited, inverse)
    assert back == study
    assert apply_edit(back, forward)[0] == edited


@pytest.mark.parametrize(
    ("patch", "where"),
    [
        ([{"op": "replace", "path": "/pairs/99/law", "value": {}}], "patch"),
        ([{"op": "dance", "path": "/pairs"}], "patch"),
        ([{"path": "/title"}], "patch"),
        ([{"op": "replace", "path": "/parts/1/recipe/dimensions/hole_diameter", "value": "400 mm"}], "parts/bracket"),
        ([{"op": "remove", "path": "/materials/0"}], "parts/wall-plate/material"),
    ],
)
def test_edits_that_do_not_fit_are_refused(bracket: dict[str, Any], patch: list[dict[str, Any]], where: str) -> None:
    with pytest.raises(UlmekError) as caught:
        apply_edit(read_study(bracket), patch)
    assert caught.value.where.startswith(where)


def _checked(document: dict[str, Any]) -> tuple[bool, dict[str, list[str]]]:
    result = preflight(read_study(document))
    codes: dict[str, list[str]] = {}
    for finding in result.findings:
        codes.setdefault(finding.code, []).append(finding.text)
    return result.may_run, codes


def test_preflight_of_the_demo(bracket: dict[str, Any]) -> None:
    result = preflight(read_study(bracket))
    assert result.may_run
    assert result.size is not None
    assert result.size.unknowns >= 40_000
    gaps = {p.id: p.gap for p in result.pairs}
    assert gaps["flange"] == pytest.approx(0.0, abs=1e-9)
    # Half of 17.5 − 16 mm, whatever the chords cut off: the true radii count.
    assert gaps["flange-holes"] == pytest.approx(0.75, rel=1e-3)
    friction_only = [f.text for f in result.findings if f.code == "friction-only"]
    assert "Bracket is held by friction alone: it could move along x, along y and turning about z." in friction_only


def test_preflight_names_loose_parts_and_their_motions(two_blocks: dict[str, Any]) -> None:
    assert _checked(two_blocks)[0]
    unheld = {**two_blocks, "supports": []}
    may_run, codes = _checked(unheld)
    assert not may_run
    everything = "along x, along y, along z, turning about x, turning about y and turning about z"
    assert codes["loose"] == [f"{n} is loose: it can move {everything}." for n in ("Base", "Slider")]
    smooth = copy.deepcopy(two_blocks)
    smooth["pairs"][0]["law"] = {"may_open": True, "may_slide": "freely"}
    may_run, codes = _checked(smooth)
    assert not may_run
    assert codes["loose"] == ["Slider is loose: it can move along x, along y and turning about z."]
    unpaired = {**two_blocks, "pairs": []}
    codes = _checked(unpaired)[1]
    assert [t.split(":")[0] for t in codes["unconnected"]] == ["Slider is connected to nothing"]
    assert "loose" not in codes
    guided = copy.deepcopy(smooth)
    guided["supports"].append(
        {"id": "guide", "name": "Guide", "kind": "components", "components": ["y"], "faces": ["slider/near"]}
    )
    # A face held along y stops y and the turn about z; x stays free.
    assert _checked(guided)[1]["loose"] == ["Slider is loose: it can move along x."]


def test_preflight_measures_gap_and_overlap(two_blocks: dict[str, Any]) -> None:
    apart, inside, far = (copy.deepcopy(two_blocks) for _ in range(3))
    apart["parts"][1]["placements"] = [{"at": ["0 mm", "0 mm", "20.2 mm"]}]
    result = preflight(read_study(apart))
    assert result.pairs[0].gap == pytest.approx(0.2)
    loose = next(f for f in result.findings if f.code == "apart-loose")
    assert loose.body == "slider"
    assert "Only Slider – base, which starts apart, could stop it." in loose.text
    # The remedy is ready to apply, and helps.
    (remedy,) = loose.remedies
    assert remedy.edit == [{"op": "replace", "path": "/pairs/0/fit", "value": "closed-up"}]
    mended = read_study(jsonpatch.apply_patch(read_study(apart).model_dump(mode="json"), remedy.edit))
    assert preflight(mended).may_run
    inside["parts"][1]["placements"] = [{"at": ["0 mm", "0 mm", "19.9 mm"]}]
    assert "overlap of 0.1 mm" in _checked(inside)[1]["overlap"][0]
    far["parts"][1]["placements"] = [{"at": ["0 mm", "0 mm", "30 mm"]}]
    assert not _checked(far)[0]


def test_published_schema_accepts_the_demo(bracket: dict[str, Any]) -> None:
    assert StudyDocument.model_validate(bracket).model_dump(mode="json") == bracket
