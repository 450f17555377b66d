"""Copies in rows, rings and mirror images: where they stand, how they are turned, and what cannot be."""

from typing import Any

import jsonpatch
import numpy as np
import pytest

from ulmek.core.errors import UlmekError, UnknownNameError
from ulmek.core.geometry import kernel
from ulmek.runs.solve import solve_study
from ulmek.study.copies import InRow, MirrorImage, OnRing, Pattern, copies, moved
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.step_export import placed_shape
from ulmek.study.translate import translate_parts
from ulmek.verify.case import base_document, block_part, hold, load, step


def _with(study: StudyDocument, pattern: Pattern, copy: int = 1) -> StudyDocument:
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


def _hooks() -> dict[str, Any]:
    """An angle section that is like none of its mirror images, turned askew."""
    document = base_document("hook", "Hook")
    turn = {"axis": [1.0, 2.0, 2.0], "angle": "50 deg"}
    document["parts"] = [{
        "id": "hook", "name": "Hook", "material": "steel", "mesh": {"size": "12 mm"},
        "recipe": {"kind": "angle", "dimensions": {"leg_x": "60 mm", "gusset": "0 mm"}},
        "placements": [{"at": ["40 mm", "10 mm", "-5 mm"], "turn": turn}],
    }]  # fmt: skip
    return document


@pytest.mark.parametrize("axis", ["x", "y", "z"])
def test_a_mirror_image_is_mirrored_and_its_own_image_is_the_part(axis: str) -> None:
    study = read_study(_hooks())
    mirror = MirrorImage(axis=axis, at="30 mm")
    for copy in (1, 2):
        patch = copies(study, "hook", copy, mirror)
        study = read_study(jsonpatch.apply_patch(study.model_dump(mode="json"), patch))
    assert [p.mirrored for p in study.parts[0].placements] == [False, True, False]
    one, image, again = (b.mesh for b in translate_parts(study))
    i = "xyz".index(axis)
    reflected = one.nodes.copy()
    reflected[:, i] = 60.0 - reflected[:, i]
    assert np.allclose(image.nodes, reflected, atol=1e-6)
    assert np.allclose(again.nodes, one.nodes, atol=1e-6)
    shapes = [placed_shape(study.parts[0], p) for p in study.parts[0].placements]
    assert kernel.volume(shapes[1]) == pytest.approx(kernel.volume(shapes[0]), rel=1e-9)
    assert 60.0 - kernel.box(shapes[1])[1][i] == pytest.approx(kernel.box(shapes[0])[0][i], abs=1e-4)


def test_a_mirror_image_answers_as_the_part_does() -> None:
    document = _hooks()
    document["supports"] = [hold("wall", ["x", "y", "z"], "hook/foot")]
    document["loads"] = [load("push", "pressure", {"push": "2 MPa"}, "hook/back")]
    document["steps"] = [step("push", 1.0)]
    study = read_study(document)
    both = _mirrored_too(study)
    summary = solve_study(both).summaries[-1]
    one, image = (summary.parts[f"hook#{n}"] for n in (1, 2))
    assert image.max_displacement == pytest.approx(one.max_displacement, rel=1e-9)
    assert image.max_von_mises == pytest.approx(one.max_von_mises, rel=1e-9)
    # What they push sideways against the mirror cancels.
    assert summary.carrier("wall").force[0] == pytest.approx(0.0, abs=1e-6)


def _mirrored_too(study: StudyDocument) -> StudyDocument:
    patch = copies(study, "hook", 1, MirrorImage(axis="x", at="200 mm"))
    return read_study(jsonpatch.apply_patch(study.model_dump(mode="json"), patch))


@pytest.mark.parametrize(
    ("pattern", "copy", "told"),
    [
        (InRow(count=3, step=("0 mm", "0 mm", "0 mm")), 1, "stand on each other"),
        (InRow(count=3, step=("5", "0 mm", "0 mm")), 1, "has no unit"),
        (InRow(count=200, step=("5 mm", "0 mm", "0 mm")), 2, "at most 200"),
        (InRow(count=3, step=("5 mm", "0 mm", "0 mm")), 3, "no copy 3"),
        (MirrorImage(axis="z", at="5"), 1, "has no unit"),
        (OnRing(count=3, angle="0 deg"), 1, "stand on each other"),
        (OnRing(count=3, angle="5 mm"), 1, "is not a angle"),
    ],
)
def test_what_cannot_be_copied_so_is_told(two_blocks: dict[str, Any], pattern: Pattern, copy: int, told: str) -> None:
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
