"""Planes of symmetry that a study does not keep to are told before the run."""

from typing import Any

import jsonpatch
import pytest

from ulmek.study.finding import Finding
from ulmek.study.items import read_study
from ulmek.study.preflight import preflight
from ulmek.verify.case import base_document, block_part, hold, load, step, symmetry


def _bar() -> dict[str, Any]:
    """Half of a bar, held in the plane x = -20 mm where it was cut."""
    study = base_document("bar", "Bar")
    study["parts"] = [block_part("bar", (40, 10, 10), 5)]
    study["supports"] = [hold("foot", ["y", "z"], "bar/left"), symmetry("mirror", "bar/left")]
    study["loads"] = [load("pull", "pressure", {"pull": "-1 MPa"}, "bar/right")]
    study["steps"] = [step("pull")]
    return study


def _found(document: dict[str, Any]) -> list[Finding]:
    codes = {"whole", "doubled", "twice", "open-half"}
    return [f for f in preflight(read_study(document)).findings if f.code in codes]


def test_what_keeps_to_its_planes_is_left_in_peace() -> None:
    assert _found(_bar()) == []


@pytest.mark.parametrize(
    ("length", "at", "code", "said"),
    [
        (40.0, -20.0, "whole", "Clamp 1 and Clamp 2 go through x = -20 mm, the plane of Mirror."),
        (10.0, -40.0, "doubled", "Clamp 1 and Clamp 2 lie beyond x = -20 mm, the plane of Mirror."),
    ],
)
def test_parts_that_go_through_a_plane_of_symmetry_or_lie_beyond_it(
    length: float, at: float, code: str, said: str
) -> None:
    study = _bar()
    clamp = block_part("clamp", (length, 10, 10), 5)
    clamp["placements"] = [{"at": [f"{at} mm", "0 mm", f"{z} mm"]} for z in (10, -10)]
    study["parts"].append(clamp)
    (finding,) = _found(study)
    assert (finding.code, finding.text, finding.where) == (code, said, "supports/mirror")


def test_a_face_that_is_held_twice_as_symmetry_is_held_once() -> None:
    study = _bar()
    study["supports"].append(symmetry("again", "bar/left"))
    (finding,) = _found(study)
    assert finding.text == "Mirror and Again both hold Bar / left as symmetry."
    assert _found(_mended(study, finding)) == []


def test_half_of_a_part_whose_cut_nothing_holds() -> None:
    study = _bar()
    study["parts"][0]["recipe"]["kept"] = "quarter"
    study["supports"] = [hold("foot", ["x", "y", "z"], "bar/right")]
    study["loads"] = [load("pull", "pressure", {"pull": "-1 MPa"}, "bar/top")]
    (finding,) = _found(study)
    assert finding.text == "only a quarter of Bar is modelled, and nothing holds its cut."
    mended = _mended(study, finding)
    assert _found(mended) == []
    assert [s["kind"] for s in mended["supports"]] == ["components", "symmetry", "symmetry"]


def test_half_of_a_plane_section_is_told_by_the_mesh_that_it_has() -> None:
    study = _bar() | {"space": "plane-stress"}
    study["parts"][0]["recipe"]["kept"] = "half"
    study["parts"][0]["mesh"]["elements"] = "second-order"
    study["supports"] = [hold("foot", ["x", "y"], "bar/right")]
    study["loads"] = [load("pull", "pressure", {"pull": "-1 MPa"}, "bar/left")]
    (finding,) = _found(study)
    assert finding.text == "only a half of Bar is modelled, and nothing holds its cut."


def _mended(document: dict[str, Any], finding: Finding) -> dict[str, Any]:
    return dict(jsonpatch.apply_patch(read_study(document).model_dump(mode="json"), finding.remedies[0].edit))
