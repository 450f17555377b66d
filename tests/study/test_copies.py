"""Copies in rows and rings: where they stand, how they are turned, and what cannot be."""

from typing import Any

import jsonpatch
import numpy as np
import pytest

from ulmek.core.errors import UlmekError, UnknownNameError
from ulmek.study.copies import InRow, OnRing, copies, moved
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.translate import translate_parts
from ulmek.verify.case import base_document, block_part


def _with(study: StudyDocument, pattern: InRow | OnRing, copy: int = 1) -> StudyDocument:
    patch = copies(study, "slider", copy, pattern)
    return read_study(jsonpatch.apply_patch(study.model_dump(mode="json"), patch))


def _corners(study: StudyDocument) -> list[np.ndarray]:
    """Of each copy of the slider: its corner nodes, sorted."""
    bodies = [b for b in translate_parts(study) if b.name.startswith("slider")]
    return [b.mesh.nodes[np.lexsort(b.mesh.nodes.round(6).T)] for b in bodies]


def test_a_row_steps_from_copy_to_copy(two_blocks: dict[str, Any]) -> None:
    study = _with(read_study(two_blocks), InRow(count=4, step=("1 cm", "0 mm", "-2 mm")))
    first, *others = _corners(study)
    assert len(others) == 3
    for number, nodes in enumerate(others, 1):
        assert np.allclose(nodes, first + number * np.array([10.0, 0.0, -2.0]))


@pytest.mark.parametrize(("angle", "pitch"), [("360 deg", 60.0), ("-360 deg", -60.0), ("100 deg", 20.0)])
def test_a_ring_turns_its_copies_with_it(two_blocks: dict[str, Any], angle: str, pitch: float) -> None:
    two_blocks["parts"][1]["placements"] = [
        {"at": ["50 mm", "0 mm", "20 mm"], "turn": {"axis": "x", "angle": "30 deg"}}
    ]
    ring = OnRing(count=6, axis="z", through=("10 mm", "5 mm", "0 mm"), angle=angle)
    study = _with(read_study(two_blocks), ring)
    meshes = [b.mesh.nodes for b in translate_parts(study) if b.name.startswith("slider")]
    assert len(meshes) == 6
    centre = np.array([10.0, 5.0, 0.0])
    for number, nodes in enumerate(meshes):
        a = np.deg2rad(number * pitch)
        turn = np.array([[np.cos(a), -np.sin(a), 0], [np.sin(a), np.cos(a), 0], [0, 0, 1]])
        assert np.allclose(nodes, (meshes[0] - centre) @ turn.T + centre, atol=1e-6)


def test_a_pattern_begins_at_any_copy(two_blocks: dict[str, Any]) -> None:
    study = _with(read_study(two_blocks), InRow(count=2, step=("30 mm", "0 mm", "0 mm")))
    study = _with(study, InRow(count=2, step=("0 mm", "7 mm", "0 mm")), copy=2)
    first, second, third = _corners(study)
    assert np.allclose(third - second, [0, 7, 0])
    assert np.allclose(second - first, [30, 0, 0])


@pytest.mark.parametrize(
    ("pattern", "copy", "told"),
    [
        (InRow(count=3, step=("0 mm", "0 mm", "0 mm")), 1, "stand on each other"),
        (InRow(count=3, step=("5", "0 mm", "0 mm")), 1, "has no unit"),
        (InRow(count=200, step=("5 mm", "0 mm", "0 mm")), 2, "at most 200"),
        (InRow(count=3, step=("5 mm", "0 mm", "0 mm")), 3, "no copy 3"),
        (OnRing(count=3, angle="0 deg"), 1, "stand on each other"),
        (OnRing(count=3, angle="5 mm"), 1, "is not a angle"),
    ],
)
def test_what_cannot_be_copied_so_is_told(
    two_blocks: dict[str, Any], pattern: InRow | OnRing, copy: int, told: str
) -> None:
    two_blocks["parts"][1]["placements"] *= 2
    with pytest.raises(UlmekError, match=told):
        copies(read_study(two_blocks), "slider", copy, pattern)


def test_one_copy_is_moved_and_keeps_its_turn() -> None:
    document = base_document("one", "One")
    turn = {"axis": "z", "angle": "30 deg"}
    document["parts"] = [block_part("bar", (20, 10, 10), 5)]
    document["parts"][0]["placements"] = [{}, {"at": ["1 cm", "0 mm", "2 mm"], "turn": turn}]
    study = read_study(document)
    placed = read_study(
        jsonpatch.apply_patch(study.model_dump(mode="json"), moved(study, "bar", 2, (-2.5, 0.0, 4.0)))
    ).parts[0].placements  # fmt: skip
    assert placed[0] == study.parts[0].placements[0]
    assert placed[1].at == ("7.5 mm", "0 mm", "6 mm")
    assert placed[1].turn == study.parts[0].placements[1].turn
    with pytest.raises(UnknownNameError, match="no copy 3"):
        moved(study, "bar", 3, (1.0, 0.0, 0.0))
