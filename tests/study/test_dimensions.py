"""Dimensions stand on the copy that is looked at, as they are written."""

import pytest

from ulmek.core.errors import UnknownNameError
from ulmek.study.dimensions import placed_dimensions
from ulmek.study.edits import apply_edit
from ulmek.study.items import read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.spots import finer_at
from ulmek.verify.case import base_document, block_part


def test_dimensions_of_a_turned_copy_are_where_it_stands() -> None:
    document = base_document("two", "Two")
    part = block_part("bar", (100, 20, 10), 10)
    part["recipe"]["dimensions"]["length"] = "10 cm"
    part["placements"] = [{}, {"at": ["0 mm", "50 mm", "0 mm"], "turn": {"axis": "z", "angle": "90 deg"}}]
    document["parts"] = [part]
    study = read_study(document)
    length = next(d for d in placed_dimensions(study, "bar", 2) if d.name == "length")
    assert (length.label, length.written) == ("Length (x)", "10 cm")
    # Turned, the length runs along y about the place of the copy.
    assert sorted([length.start[1], length.end[1]]) == pytest.approx([0, 100])
    assert length.start[0] == pytest.approx(length.end[0])
    assert {d.name for d in placed_dimensions(study, "bar", 1)} == {"length", "depth", "height"}
    with pytest.raises(UnknownNameError, match="no copy 3"):
        placed_dimensions(study, "bar", 3)


def test_a_point_that_is_seen_on_a_mirrored_and_turned_copy_is_made_finer_on_the_part() -> None:
    document = base_document("two", "Two")
    part = block_part("bar", (100, 20, 10), 10)
    turn = {"axis": "z", "angle": "90 deg"}
    part["placements"] = [{}, {"mirrored": True, "at": ["0 mm", "50 mm", "0 mm"], "turn": turn}]
    document["parts"] = [part]
    study = read_study(document)
    # Mirrored in x, then turned, (40, 10, 5) goes to (-10, -40, 5), and with the copy to (-10, 10, 5).
    (first,) = finer_at(study, "bar", 2, (-10.0, 10.0, 5.0))
    assert first == {
        "op": "add", "path": "/parts/0/mesh/spots/-", "value": {"at": ["40 mm", "10 mm", "5 mm"], "size": "5 mm"}
    }  # fmt: skip
    coarse = part_mesh(study.parts[0])
    fine = part_mesh(apply_edit(study, [first])[0].parts[0])
    assert len(fine.cells) > len(coarse.cells)
    with pytest.raises(UnknownNameError):
        finer_at(study, "bar", 3, (0.0, 0.0, 0.0))
