"""Drawn and bent parts of a document: with their dimensions, set on faces, redrawn, cut, told what is wrong."""

from typing import Any

import numpy as np
import pytest

from tests.study.joints.making import part, study_of
from ulmek.core.errors import InputError, UlmekError
from ulmek.runs.solve import solve_study
from ulmek.study.cut_parts import Cutting, cut_parts
from ulmek.study.drawing_planes import drawing_plane
from ulmek.study.drawings import traced
from ulmek.study.edits import apply_edit, edited_by
from ulmek.study.items import RecipeUse, StudyDocument, read_study
from ulmek.study.items.drawn import DrawnShape
from ulmek.study.meshes import part_mesh
from ulmek.study.new_parts import part_of_shape
from ulmek.study.rematch import with_shape
from ulmek.study.touching import suggestions
from ulmek.verify.case import base_document, hold, load, step

PLATE = {"width": "80 mm", "height": "40 mm", "thickness": "10 mm", "hole_columns": 1, "hole_rows": 1}
TONGUE: dict[str, Any] = {
    "outlines": [
        {"name": "tongue", "edges": [
            {"name": "foot", "to": ["w/2", "-w/4"], "corner": "wall/2"}, {"name": "side", "to": ["w/2", "w/4"]},
            {"name": "head", "to": ["-w/2", "w/4"], "arc": {"radius": "w"}}, {"name": "back", "to": ["-w/2", "-w/4"]},
        ]},
        {"name": "bore", "takes_out": True, "circle": {"centre": ["0 mm", "0 mm"], "diameter": "w/5"}},
    ],
    "layers": [{"name": "slab", "height": "wall", "outlines": ["tongue", "bore"]}],
}  # fmt: skip
SIZES: dict[str, str | int | float] = {"w": "40 mm", "wall": "w/5"}


def _drawn(**more: Any) -> RecipeUse:
    return RecipeUse.model_validate({"kind": "drawn", "dimensions": SIZES, "drawn": TONGUE, **more})


def _with(study: StudyDocument, recipe: RecipeUse, label: str, on: str) -> StudyDocument:
    made, _ = part_of_shape(study, recipe, label, drawing_plane(study, on).placement)
    return apply_edit(study, [{"op": "add", "path": "/parts/-", "value": made.model_dump(mode="json")}])[0]


@pytest.mark.parametrize(
    ("face", "lies"),
    [("plate/front", (0, 0, 10)), ("plate/back", (0, 0, 0)), ("plate/edge.right", (40, 0, 5)), ("yz", (0, 0, 0))],
)
def test_what_is_drawn_on_a_face_stands_on_it(face: str, lies: tuple[float, float, float]) -> None:
    study = _with(study_of(part("plate", "plate", PLATE)), _drawn(), "Tongue", face)
    plane = drawing_plane(study, face)
    if face == "plate/front":
        # The plate's outline and its hole to draw by, in the axes of the drawing.
        assert np.abs(np.vstack(plane.lines)).max(axis=0) == pytest.approx((40, 20))
        assert [(c.centre, c.diameter) for c in plane.circles] == [((0.0, 0.0), 17.5)]
    at = [float(c.split()[0]) for c in study.parts[1].placements[0].at]
    assert at == pytest.approx(lies)
    found = [s for s in suggestions(study) if {"plate", "tongue"} == {f.split("/")[0] for f in (*s.a, *s.b)}]
    if face != "yz":
        assert {face, "tongue/bottom"} == {*found[0].a, *found[0].b}


def test_planes_to_draw_on_are_flat() -> None:
    study = study_of(part("plate", "plate", PLATE))
    for on, said in (("plate/hole.1", "is not flat"), ("plate/no", "there is no face"), ("xx", "there is no face")):
        with pytest.raises(UlmekError, match=said):
            drawing_plane(study, on)
    flat = read_study({**base_document("flat", "Flat"), "space": "plane-strain"})
    with pytest.raises(InputError, match="drawn in x and y"):
        drawing_plane(flat, "yz")


def test_a_drawing_is_told_as_far_as_it_goes() -> None:
    shape = DrawnShape.model_validate(TONGUE)
    drawing = traced(shape, SIZES)
    assert (drawing.dimensions, drawing.faults) == ({"w": "40 mm", "wall": "8 mm"}, [])
    side = next(e for e in drawing.edges if e.name == "side")
    assert (side.length, side.direction) == (pytest.approx(16.0), pytest.approx(90.0))
    assert [e.radius for e in drawing.edges if e.radius and e.name != "bore"] == pytest.approx([4.0, 40.0])
    assert drawing.volume == pytest.approx((drawing.area or 0) * 8)
    for sizes, said, where in (
        ({"w": "40 mm"}, "no dimension 'wall'", "drawn/layers/0/height"),
        ({**SIZES, "w": "wall"}, "made of each other", "dimensions/w"),
        ({**SIZES, "wall": "3*w"}, "more than its 40 mm", "drawn/outlines/0"),
    ):
        fault = traced(shape, sizes).faults[0]
        assert said in fault.message
        assert fault.where == where


def test_a_profile_is_drawn_for_an_axisymmetric_study_and_an_outline_for_a_plane_one() -> None:
    profile = {"outlines": [{**TONGUE["outlines"][0], "edges": [
        {"name": "foot", "to": ["w/2", "0 mm"]}, {"name": "rim", "to": ["w/2", "w/4"]},
        {"name": "lid", "to": ["0 mm", "w/4"]}, {"name": "middle", "to": ["0 mm", "0 mm"]}]}]}  # fmt: skip
    made, _ = part_of_shape(read_study({**base_document("turned", "Turned"), "space": "axisymmetric"}),
                            _drawn(drawn=profile), "Disc")  # fmt: skip
    mesh = part_mesh(made, section=True)
    assert (mesh.kind, sorted(mesh.faces), mesh.volume()) == (
        "quad",
        ["axis", "foot", "lid", "rim"],
        pytest.approx(200.0),
    )
    flat = part_mesh(made.model_copy(update={"recipe": _drawn()}), section=True)
    assert sorted(flat.faces) == ["back", "bore", "foot", "head", "side"]


def test_a_rounding_between_an_arc_and_a_line_is_told() -> None:
    ring = TONGUE["outlines"][0]
    edges = [{**e, "corner": "1 mm"} if e["name"] == "head" else e for e in ring["edges"]]
    shape = DrawnShape.model_validate({**TONGUE, "outlines": [{**ring, "edges": edges}, TONGUE["outlines"][1]]})
    assert "not between straight edges" in traced(shape, SIZES).faults[0].message


def test_faces_keep_what_hangs_on_them_when_they_are_renamed_and_redrawn() -> None:
    study = _with(study_of(part("plate", "plate", PLATE)), _drawn(), "Tongue", "plate/front")
    plain = study.model_dump(mode="json")
    plain["supports"] = [{"id": "foot", "name": "Foot", "faces": ["tongue/foot", "tongue/top"]}]
    plain["parts"][1]["mesh"]["faces"] = {"foot": "2 mm"}
    study = read_study(plain)
    ring, bore = TONGUE["outlines"]
    edges = [{**e, "name": "seat" if e["name"] == "foot" else e["name"]} for e in ring["edges"]]
    renamed = {**TONGUE, "outlines": [{**ring, "edges": edges}, bore]}
    recipe = _drawn(drawn=renamed, dimensions={**SIZES, "w": "50 mm"})
    after, undo = apply_edit(study, with_shape(study, "tongue", recipe, {"foot": "seat"}))
    assert after.supports[0].faces == ["tongue/seat", "tongue/top"]
    assert after.parts[1].mesh.faces == {"seat": "2 mm"}
    assert np.ptp(part_mesh(after.parts[1]).nodes[:, 0]) == pytest.approx(50.0)
    assert apply_edit(after, undo)[0] == study
    with pytest.raises(UlmekError, match="more than its 25 mm"):
        with_shape(study, "tongue", _drawn(dimensions={"w": "50 mm", "wall": "2*w"}), {})


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"drawn": None}, "has 'drawn'"),
        ({"kind": "plate"}, "no other, has 'drawn'"),
        ({"drawn": {**TONGUE, "outlines": [{**TONGUE["outlines"][1], "name": "top"}]}}, "gives itself"),
        ({"drawn": {**TONGUE, "outlines": [{"name": "o"}]}}, "is a circle or has edges"),
        ({"dropped": ["root fillets"]}, "no features"),
        ({"dimensions": {"w": "40 mm", "wall": "q"}}, "is not an expression"),
    ],
)  # fmt: skip
def test_recipes_that_contradict_themselves_are_refused(change: dict[str, Any], said: str) -> None:
    study = study_of(part("plate", "plate", PLATE)).model_dump(mode="json")
    use = {"kind": "drawn", "dimensions": SIZES, "drawn": TONGUE, **change}
    with pytest.raises(UlmekError, match=said):
        edited_by(read_study(study), [{"op": "replace", "path": "/parts/0/recipe", "value": use}])


BAR = {
    "section": [{"name": "side", "circle": {"centre": ["0 mm", "0 mm"], "diameter": "d"}}],
    "runs": [
        {"name": "leg", "length": "3*d"}, {"name": "bow", "radius": "1.5*d", "angle": "180 deg"},
        {"name": "leg-2", "length": "3*d"},
    ],
}  # fmt: skip


def _hooks() -> StudyDocument:
    """Two bent bars that hang in each other, their bows crossed."""
    study = base_document("hooks", "Hooks")
    recipe = {"kind": "bent", "dimensions": {"d": "10 mm"}, "bent": BAR}
    low = {"id": "low", "name": "Low", "material": "steel", "mesh": {"size": "4 mm"}, "recipe": recipe,
           "placements": [{"at": ["-15 mm", "0 mm", "0 mm"]}]}  # fmt: skip
    high = {**low, "id": "high", "name": "High", "placements": [
        {"at": ["0 mm", "-15 mm", "80 mm"], "turn": {"axis": [1, 1, 0], "angle": "180 deg"}}]}  # fmt: skip
    study["parts"] = [low, high]
    return read_study(study)


def _cut(study: StudyDocument, normal: tuple[float, float, float], at: str, **how: Any) -> StudyDocument:
    return apply_edit(study, cut_parts(study, Cutting(normal=normal, at=at, **how))[0])[0]


def test_crossed_bars_cut_in_three_planes_stay_bars_and_pass_the_pull_on() -> None:
    study = _hooks()
    for normal, at, keep, leaves in (
        ((1.0, 0.0, 0.0), "0 mm", "ahead", "symmetry"), ((0.0, 1.0, 0.0), "0 mm", "ahead", "symmetry"),
        ((0.0, 0.0, 1.0), "15 mm", "ahead", "free"),
    ):  # fmt: skip
        study = _cut(study, normal, at, keep=keep, leaves=leaves)
    assert [p.recipe.kind for p in study.parts] == ["bent", "bent"]
    assert [sorted(part_mesh(p).faces) for p in study.parts] == [
        ["bow", "cut.1", "cut.2", "cut.3", "leg-2"], ["bow", "cut.1", "cut.2", "end", "leg-2"],
    ]  # fmt: skip
    assert [s.faces for s in study.supports] == [["low/cut.1", "high/cut.1"], ["low/cut.2", "high/cut.2"]]
    (found,) = suggestions(study)
    assert ({*found.a, *found.b}, found.gap) == ({"low/bow", "high/bow"}, pytest.approx(0.0, abs=0.05))
    plain = study.model_dump(mode="json")
    plain["pairs"] = [{**found.new_pair, "fit": "closed-up"}]
    plain["supports"] += [hold("ground", ["z"], "low/cut.3")]
    plain["loads"] = [load("pull", "force", {"pull": "1 kN"}, "high/end", direction=[0, 0, 1])]
    plain["steps"] = [step("pull")]
    outcome = solve_study(read_study(plain))
    assert outcome.status == "solved", outcome.message
    assert abs(outcome.summaries[-1].pairs[found.new_pair["id"]].force[2]) == pytest.approx(1000.0, rel=1e-6)


def test_a_bar_cut_askew_is_cut_as_any_solid_and_in_two_pieces_tied() -> None:
    study = _cut(_hooks(), (0.6, 0.0, 0.8), "10 mm", parts=["low"], axes="own", keep="ahead", leaves="free")
    assert study.parts[0].recipe.kind == "file"
    tied = _cut(_hooks(), (0.0, 1.0, 0.0), "0 mm", parts=["low"])
    assert [p.recipe.kind for p in tied.parts] == ["bent", "bent", "bent"]
    assert [(p.a, p.b) for p in tied.pairs] == [(["low-1/cut.1"], ["low-2/cut.1"])]
    volumes = [part_mesh(p).volume() for p in tied.parts]
    assert volumes[0] + volumes[1] == pytest.approx(volumes[2], rel=0.01)
