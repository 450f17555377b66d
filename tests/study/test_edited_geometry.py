"""What hangs on a part stays when its dimensions, its file or its share change."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.demo import demo_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import FileUse, StudyDocument, read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.new_parts import part_of_file
from ulmek.study.preflight import preflight
from ulmek.study.rematch import with_file
from ulmek.study.step_files import read_step_file
from ulmek.study.translate import translate


def _index(study: StudyDocument, part: str) -> int:
    return next(i for i, p in enumerate(study.parts) if p.id == part)


def _faces_in_use(study: StudyDocument) -> set[tuple[str, str]]:
    refs = [r for p in study.pairs for r in (*p.a, *p.b)]
    refs += [r for item in (*study.supports, *study.loads) for r in item.faces]
    return {(r.split("/", 1)[0].split("#")[0], r.split("/", 1)[1]) for r in refs}


@pytest.mark.parametrize(
    ("demo", "changes"),
    [
        ("wall-bracket", {"wall-plate": {"thickness": "26 mm"}}),
        ("wall-bracket", {"bracket": {"hole_diameter": "18.5 mm"}, "wall-plate": {"hole_diameter": "18.5 mm"}}),
        ("pinion-sector", {"pinion": {"module": "6 mm"}, "sector": {"module": "6 mm"}}),
    ],
)
def test_a_changed_dimension_keeps_what_hangs_on_the_part(demo: str, changes: dict[str, dict[str, str]]) -> None:
    before = demo_study(demo)
    patch = [
        {"op": "add", "path": f"/parts/{_index(before, part)}/recipe/dimensions/{name}", "value": value}
        for part, values in changes.items()
        for name, value in values.items()
    ]
    after, _ = apply_edit(before, patch)
    assert _faces_in_use(after) == _faces_in_use(before)
    assert (len(after.pairs), len(after.bolts), len(after.loads)) == (
        len(before.pairs), len(before.bolts), len(before.loads)
    )  # fmt: skip
    for part, face in _faces_in_use(after):
        mesh = part_mesh(after.parts[_index(after, part)], section=after.space != "solid")
        assert len(mesh.faces[face]) > 0
    assert len(translate(after).pairs) == len(translate(before).pairs)
    for part in changes:
        old, new = (part_mesh(s.parts[_index(s, part)], section=s.space != "solid") for s in (before, after))
        assert not np.isclose(old.volume(), new.volume(), rtol=1e-4)


def _meet(mesh: VolumeMesh, one: str, other: str) -> bool:
    return len(np.intersect1d(mesh.faces[one], mesh.faces[other])) > 1


def _file(folder: Path, shape: Any, name: str = "lug.step") -> FileUse:
    kernel.write_step([("Lug", shape)], folder / name)
    (solid,) = read_step_file((folder / name).read_bytes(), name, skins=folder).solids
    assert solid.part is not None
    return solid.part


def test_an_edited_file_finds_its_faces_again(tmp_path: Path) -> None:
    empty = read_study({"format": "ulmek-study", "version": 2, "name": "lug", "title": "Lug"})
    plate = RECIPES["plate"].solid(
        {
            "width": 100,
            "height": 60,
            "thickness": 12,
            "hole_columns": 2,
            "hole_rows": 1,
            "hole_spacing_x": 60,
            "hole_diameter": 12,
        }
    )
    first = _file(tmp_path, kernel.shape_of(plate))
    part, material = part_of_file(empty, first, "Lug")
    assert material is not None
    whole = part_mesh(part)
    names = set(whole.faces)
    # Two faces side by side, their edge twice as fine as the part.
    edge = next((a, b) for a in sorted(names) for b in sorted(names) if a < b and _meet(whole, a, b))
    fine = {"|".join(edge): f"{float(part.mesh.size.split()[0]) / 2} mm"}
    part = part.model_copy(update={"mesh": part.mesh.model_copy(update={"edges": fine})})
    faces = sorted(names)
    document = empty.model_dump(mode="json") | {
        "materials": [material.model_dump(mode="json")],
        "parts": [part.model_dump(mode="json")],
        "supports": [{"id": f"s{i}", "name": f"S{i}", "faces": [f"lug/{n}"]} for i, n in enumerate(faces)],
    }
    study = read_study(document)
    # Thicker, longer, with wider holes and a third one in the middle: eight faces are still there.
    edited = RECIPES["plate"].solid({"width": 112, "height": 60, "thickness": 15, "hole_columns": 2, "hole_rows": 1,
                                     "hole_spacing_x": 66, "hole_diameter": 14})  # fmt: skip
    axes = kernel._kernel("gp").gp_Ax2(kernel._kernel("gp").gp_Pnt(0, 0, -5), kernel._kernel("gp").gp_Dir(0, 0, 1))
    bore = kernel._kernel("BRepPrimAPI").BRepPrimAPI_MakeCylinder(axes, 5.0, 40.0).Shape()
    shape = kernel._kernel("BRepAlgoAPI").BRepAlgoAPI_Cut(kernel.shape_of(edited), bore).Shape()
    patch, found = with_file(study, "lug", _file(tmp_path, shape))
    assert found.lost == []
    assert len(found.matches) == len(names) == 8
    after, _ = apply_edit(study, patch)
    ((key, size),) = after.parts[0].mesh.edges.items()
    assert size == next(iter(fine.values()))
    assert _meet(part_mesh(after.parts[0]), *key.split("|"))
    old, new = part_mesh(study.parts[0]), part_mesh(after.parts[0])
    for was, now in zip(study.supports, after.supports, strict=True):
        a, b = old.faces[was.faces[0].split("/")[1]], new.faces[now.faces[0].split("/")[1]]
        # Faces face the same way and lie on the same side of the plate; the bore in the middle is none of them.
        middle = [m.nodes[f].reshape(-1, 3).mean(axis=0) for m, f in ((old, a), (new, b))]
        assert np.linalg.norm(middle[1] - middle[0]) < 12
    # A face that is gone is lost, and said.
    _, found = with_file(study, "lug", _file(tmp_path, kernel.shape_of(RECIPES["disc"].solid({"diameter": 60}))))
    assert len(found.lost) >= 4


def test_half_a_part_meets_and_carries_half() -> None:
    study = demo_study("lifting-eye")
    index = 0
    after, _ = apply_edit(study, [{"op": "add", "path": f"/parts/{index}/recipe/kept", "value": "half"}])
    whole, half = part_mesh(study.parts[index]), part_mesh(after.parts[index])
    assert half.volume() == pytest.approx(whole.volume() / 2, rel=0.02)
    assert "cut.y" in half.faces
    assert preflight(after).size is not None
