"""Free-form parts from files other writers could have made: read, meshed, held, pressed and solved."""

from pathlib import Path

import numpy as np
import pytest

from tests.core.mesh.test_free import SHAPES
from ulmek.core.geometry import kernel
from ulmek.core.geometry.recognise import face_names
from ulmek.runs.solve import solve_study
from ulmek.study.edits import apply_edit
from ulmek.study.items import read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.new_parts import part_of_file
from ulmek.study.solids import free_shape
from ulmek.study.step_files import read_step_file


# The hub, the largest of them, is meshed in `tests/core/mesh/test_free.py`.
@pytest.mark.parametrize("name", [name for name in SHAPES if name != "hub"])
def test_a_free_form_part_solves(name: str, tmp_path: Path) -> None:
    kernel.write_step([(name, SHAPES[name]())], tmp_path / "part.step")
    (solid,) = read_step_file((tmp_path / "part.step").read_bytes(), "part.step", skins=tmp_path).solids
    assert solid.kind == "free-form"
    assert solid.skin is not None
    assert solid.part is not None
    empty = read_study({"format": "ulmek-study", "version": 2, "name": "free", "title": "Free"})
    part, steel = part_of_file(empty, solid.part, name)
    assert steel is not None
    size = 1.4 * float(part.mesh.size.split()[0])
    settings = part.mesh.model_copy(update={"per_turn": 12, "size": f"{size:g} mm"})
    part = part.model_copy(update={"mesh": settings})
    mesh = part_mesh(part)
    areas = {n: _area(mesh.nodes[f[:, :3]]) for n, f in mesh.faces.items() if n.startswith("plane")}
    held, pressed = sorted(areas, key=lambda n: -areas[n])[:2]
    study = read_study(
        empty.model_dump(mode="json")
        | {
            "materials": [steel.model_dump(mode="json")],
            "parts": [part.model_dump(mode="json")],
            "supports": [{"id": "floor", "name": "Floor", "faces": [f"{name}/{held}"]}],
            "loads": [{"id": "press", "name": "Press", "kind": "pressure", "faces": [f"{name}/{pressed}"],
                       "values": {"press": "10 MPa"}}],
            "steps": [{"id": "press", "name": "Press", "increments": {"start": 1, "largest": 1}}],
        }
    )  # fmt: skip
    outcome = solve_study(study)
    assert outcome.status == "solved"
    pushed = np.linalg.norm(outcome.summaries[-1].carrier("floor").force)
    surfaces = [kernel.surface_of(f) for f in kernel.faces_of(free_shape(solid.part))]
    area = dict(zip(face_names(surfaces), (s.area for s in surfaces), strict=True))[pressed]
    assert pushed == pytest.approx(10 * area, rel=2e-3)
    # What a free-form solid cannot do is refused in words.
    wrong, _ = apply_edit(study, [{"op": "replace", "path": "/parts/0/mesh/elements", "value": "bricks"}])
    with pytest.raises(Exception, match="tetrahedra only"):
        part_mesh(wrong.parts[0])


def _area(corners: np.ndarray) -> float:
    return float(
        np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    )
