"""Regions of faces: facets near a point as a face of their own, which pairs and supports can name."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import UlmekError
from ulmek.core.mesh.facets import facet_areas
from ulmek.runs.solve import solve_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.spots import region_at
from ulmek.study.touching import suggestions
from ulmek.verify.case import base_document, block_part, hold, load, step


def _blocks(*regions: dict[str, Any], turned: bool = False) -> StudyDocument:
    study = base_document("blocks", "Blocks")
    low, high = block_part("low", (40, 40, 10), 2.5), block_part("high", (40, 40, 10), 5, at=10)
    low["regions"] = list(regions)
    if turned:
        low["placements"] = [{"at": ["5 mm", "0 mm", "0 mm"], "turn": {"axis": "z", "angle": "90 deg"}}]
    study["parts"] = [low, high]
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["low/bottom"]}]
    study["steps"] = [step("load")]
    return read_study(study)


SEAT = {"name": "seat", "of": "top", "at": ["0 mm", "0 mm", "10 mm"], "sizes": ["20 mm", "10 mm", "1 mm"]}


def test_a_region_is_what_lies_in_it_and_a_pair_bears_there_alone() -> None:
    study = _blocks(SEAT)
    mesh = part_mesh(study.parts[0])
    areas = {n: facet_areas(mesh.nodes, mesh.faces[n], thickness=1.0, turned=False).sum() for n in ("seat", "top")}
    assert areas == {"seat": pytest.approx(200), "top": pytest.approx(1400)}
    plain = study.model_dump(mode="json")
    plain["pairs"] = [{"id": "bearing", "name": "Bearing", "a": ["low/seat"], "b": ["high/bottom"]}]
    plain["supports"] += [hold("guide", ["x", "y"], "high/top")]
    plain["loads"] = [load("press", "pressure", {"load": "1 MPa"}, "high/top")]
    outcome = solve_study(read_study(plain))
    assert outcome.status == "solved", outcome.message
    pair = outcome.summaries[-1].pairs["bearing"]
    assert pair.normal_force == pytest.approx(1600, rel=1e-6)
    # 1600 N on 200 mm²: the mean is 8 MPa, more at the rim.
    assert 8 < pair.peak_pressure < 40


def test_a_region_begins_where_it_is_seen_and_is_found_as_any_face() -> None:
    study = _blocks(turned=True)
    study, undo = apply_edit(study, region_at(study, "low", 1, "top", (15.0, 5.0, 10.0)))
    # Own x of the turned block is y of the study.
    assert study.parts[0].regions[0].at == ("5 mm", "-10 mm", "10 mm")
    assert study.parts[0].regions[0].reach == "8 mm"
    names = {f for s in suggestions(study) for f in (*s.a, *s.b)}
    assert names >= {"low/region.1", "low/top", "high/bottom"}
    assert apply_edit(study, undo)[0].parts[0].regions == []


@pytest.mark.parametrize(
    ("change", "said", "where"),
    [
        ({"of": "lid"}, "no face 'lid'", "0/of"),
        ({"name": "bottom"}, "gives itself", "parts/low/regions"),
        ({"name": "left"}, "there is a face 'left' already", "0/name"),
        ({"sizes": ["90 mm", "90 mm", "9 mm"]}, "holds all of the face", "regions/0"),
        ({"sizes": ["1 mm", "1 mm", "1 mm"]}, "holds no element of the face", "regions/0"),
        ({"reach": "3 mm"}, "a reach, or else three sizes", "parts/low/regions"),
    ],
)
def test_regions_that_cannot_be_are_told(change: dict[str, Any], said: str, where: str) -> None:
    with pytest.raises(UlmekError, match=said) as caught:
        part_mesh(_blocks({**SEAT, **change}).parts[0])
    assert where.split("/")[0] in caught.value.where
    assert np.all([word in caught.value.where for word in where.split("/")])


def test_found_pairs_search_as_far_as_they_were_found() -> None:
    found = suggestions(_blocks(), distance=2.0, search="2 mm")
    assert found[0].new_pair["search"] == "2 mm"
    assert "search" not in suggestions(_blocks())[0].new_pair
