"""Features left out: of recipes by switches, of solids of files by the kernel."""

import numpy as np
import pytest

from ulmek.core.errors import GeometryError, InputError, UlmekError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES
from ulmek.study.drop_features import Dropping, without_features
from ulmek.study.edits import apply_edit
from ulmek.study.items import FileUse, StudyDocument, read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.solids import solid_of_use
from ulmek.study.step_files import use_of_shape
from ulmek.verify.case import base_document, hold, load, step


@pytest.mark.parametrize("kind", [k for k, r in RECIPES.items() if r.features])
def test_every_feature_of_a_recipe_can_be_left_out(kind: str) -> None:
    recipe = RECIPES[kind]
    whole = recipe.solid({}).volume()
    for feature in recipe.features:
        own = [d for d in recipe.dimensions if d.drops == feature]
        plain = solid_of_use({"kind": kind, "dimensions": {}, "dropped": [feature]}, "one").volume()
        assert plain == pytest.approx(recipe.solid({d.name: 0.0 for d in own}).volume(), rel=1e-12)
        assert (plain == pytest.approx(whole, rel=1e-9)) is all(d.default == 0 for d in own)
    with pytest.raises(UlmekError, match="no feature 'ears'"):
        solid_of_use({"kind": kind, "dimensions": {}, "dropped": ["ears"]}, "one")


def _plate(*, is_swept: bool) -> StudyDocument:
    """A drilled plate of a file, held in one hole and loaded in all; with a rounded boss where nothing sweeps it."""
    shape = kernel.shape_of(RECIPES["plate"].solid({}))
    if not is_swept:
        pin = kernel.shape_of(RECIPES["disc"].solid({"diameter": 30.0, "thickness": 300.0}))
        turned = kernel.moved(pin, np.array([[0.0, 0, 1], [0, 1, 0], [-1, 0, 0]]), np.array([-100.0, 0, 20]))
        shape = kernel._fused([shape, turned])
    use: FileUse = use_of_shape(shape, name="plate.step", digest="0" * 64, index=0)[0]
    assert (use.shape is not None) is is_swept
    study = base_document("plate", "Plate")
    study["parts"] = [{
        "id": "plate", "name": "Plate", "material": "steel",
        "mesh": {"size": "30 mm", "per_turn": 16, "elements": "bricks" if is_swept else "tets"},
        "recipe": {"kind": "file", "file": use.model_dump(mode="json")},
        "placements": [{}, {"at": ["0 mm", "0 mm", "1 m"]}],
    }]  # fmt: skip
    study["steps"] = [step("push", 1.0)]
    holes = _holes(read_study(study))
    study["supports"] = [hold("foot", ["x", "y", "z"], f"plate/{holes[0]}")]
    study["loads"] = [load("push", "pressure", {"push": "2 MPa"}, *(f"plate/{h}" for h in holes))]
    return read_study(study)


def _holes(study: StudyDocument) -> list[str]:
    """Faces all of whose nodes lie round a hole of the plate."""
    mesh = part_mesh(study.parts[0])
    centres = [(x, y) for x in (-50.0, 50.0) for y in (-50.0, 50.0)]
    return [
        name for name, facets in mesh.faces.items()
        if any(np.abs(np.hypot(*(mesh.nodes[facets[:, :3].ravel()][:, :2] - c).T) - 8.75).max() < 1e-6 for c in centres)
    ]  # fmt: skip


@pytest.mark.parametrize("is_swept", [True, False])
def test_a_hole_of_a_file_is_closed_and_what_hung_on_it_goes(is_swept: bool) -> None:
    study = _plate(is_swept=is_swept)
    holes = _holes(study)
    assert len(holes) == 4
    before = part_mesh(study.parts[0])
    patch, told = without_features(study, "plate", Dropping(faces=holes[:1]))
    after, _ = apply_edit(study, patch)
    mesh = part_mesh(after.parts[0])
    assert mesh.volume() - before.volume() == pytest.approx(np.pi * 8.75**2 * 20, rel=0.03)
    assert "foot" in told
    assert not after.supports
    # The other holes keep their load, whatever they are called now.
    (push,) = after.loads
    assert {r.split("/")[1] for r in push.faces} == set(_holes(after))
    assert len(push.faces) == 3
    assert len(after.parts[0].placements) == 2


def test_what_does_not_close_is_told_and_recipes_have_switches() -> None:
    study = _plate(is_swept=True)
    mesh = part_mesh(study.parts[0])
    side = next(n for n, f in mesh.faces.items() if np.ptp(mesh.nodes[f.ravel()][:, 0]) < 1e-9)
    with pytest.raises(GeometryError, match="does not close"):
        without_features(study, "plate", Dropping(faces=[side]))
    with pytest.raises(UlmekError, match="no face 'ear'"):
        without_features(study, "plate", Dropping(faces=["ear"]))
    document = study.model_dump(mode="json")
    document["parts"][0]["recipe"] = {"kind": "plate", "dimensions": {}}
    document["supports"] = document["loads"] = []
    with pytest.raises(InputError, match="made by a recipe"):
        without_features(read_study(document), "plate", Dropping(faces=["hole.1"]))
