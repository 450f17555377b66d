"""Parts brought to touch or into mesh, and what is then measured between them on exact geometry."""

from typing import Any

import numpy as np
import pytest

from tests.core.mesh.test_free import SHAPES
from tests.study.test_building import EMPTY, _with
from ulmek.core.errors import InputError
from ulmek.core.geometry import kernel
from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument
from ulmek.study.mating import Manner, mated
from ulmek.study.measure import measured
from ulmek.study.new_parts import part_of_file
from ulmek.study.step_files import read_step_file

THINNING = 0.05


def _mated(study: StudyDocument, own: str, other: str, manner: Manner) -> StudyDocument:
    index, copy, placement = mated(study, own, other, manner)
    path = f"/parts/{index}/placements/{copy}"
    return apply_edit(study, [{"op": "replace", "path": path, "value": placement.model_dump(mode="json")}])[0]


def _turned(study: StudyDocument, part: int, axis: str, angle: float, *at: float) -> StudyDocument:
    place = {"at": [f"{c} mm" for c in at] or ["0 mm"] * 3, "turn": {"axis": axis, "angle": f"{angle} deg"}}
    return apply_edit(study, [{"op": "replace", "path": f"/parts/{part}/placements/0", "value": place}])[0]


def _figures(study: StudyDocument, *faces: str) -> dict[str, float]:
    return {f.label: f.value for f in measured(study, list(faces)).figures}


def _teeth(study: StudyDocument, kind: str, **more: Any) -> StudyDocument:
    return _with(study, kind, module="5 mm", thinning=f"{THINNING} mm", width="10 mm", **more)


@pytest.mark.parametrize(
    ("own", "other", "apart", "flipped"),
    [
        (dict(teeth=17, wanted=5), dict(teeth=40, wanted=6), 142.5, False),
        (dict(teeth=17, wanted=5), dict(teeth=40, wanted=6), 142.5, True),
        # Shifts of 0.3 and 0.2: inv α_w = inv 20° + 2 · 0.5 · tan 20° / 41, α_w = 23.2304°.
        (dict(teeth=18, wanted=4, profile_shift=0.3), dict(teeth=23, wanted=6, profile_shift=0.2), 104.8163, True),
    ],
)
def test_gears_come_into_mesh(own: dict[str, Any], other: dict[str, Any], apart: float, flipped: bool) -> None:
    study = _teeth(EMPTY, "gear", bore_diameter="20 mm", **own)
    study = _teeth(study, "gear", bore_diameter="20 mm", **other)
    study = _turned(study, 0, "x", 180.0 if flipped else 0.0, 300.0, 40.0, 10.0 if flipped else 0.0)
    study = _turned(study, 1, "z", 17.0)
    study = _mated(study, "gear/bore", "gear-2/bore", "in-mesh")
    found = _figures(study, "gear/bore", "gear-2/bore")
    assert found["Distance of the axes"] == pytest.approx(apart, abs=1e-3)
    # A tooth stands in the middle of the gap: half of both thinnings at either flank, along the line of action.
    # Flanks are arcs, up to 7e-4 of the module off the involute at the foot.
    assert found["Gap of the parts"] == pytest.approx(THINNING * np.cos(np.deg2rad(20)), abs=7e-4 * 5)
    assert found["Overlap of the parts"] == 0.0


@pytest.mark.parametrize("wanted", [5, 6])
def test_a_rack_and_a_gear_come_into_mesh_either_way(wanted: int) -> None:
    study = _teeth(EMPTY, "gear", bore_diameter="20 mm", teeth=17, wanted=wanted, profile_shift=0.1)
    study = _turned(_teeth(study, "gear-rack", teeth=4), 0, "z", -80.0, 3.0, 60.0, 0.0)
    study = _turned(study, 1, "x", 0.0)
    for own, fixed in (("gear/bore", "gear-rack/foot"), ("gear-rack/foot", "gear/bore")):
        placed = _mated(study, own, fixed, "in-mesh")
        found = _figures(placed, "gear/bore", "gear-rack/foot")
        assert found["Distance of the axis"] == pytest.approx(42.5 + 0.5 + 1.25 * 5 + 12, abs=1e-7)
        assert found["Gap of the parts"] == pytest.approx(THINNING * np.cos(np.deg2rad(20)), abs=7e-4 * 5)
    with pytest.raises(InputError, match="no teeth"):
        mated(_with(study, "plate"), "plate/front", "gear/bore", "in-mesh")
    finer, _ = apply_edit(study, [{"op": "replace", "path": "/parts/0/recipe/dimensions/module", "value": "4 mm"}])
    with pytest.raises(InputError, match="4 mm does not mesh with one of 5 mm"):
        mated(finer, "gear/bore", "gear-rack/foot", "in-mesh")


def test_round_parts_touch_as_tangents() -> None:
    study = _with(_with(EMPTY, "plate", hole_columns=0), "disc", diameter="30 mm", thickness="12 mm")
    study = _with(study, "ball", diameter="16 mm")
    study = _turned(_turned(study, 1, "x", 75.0, 10.0, 5.0, 90.0), 2, "z", 0.0, -20.0, 12.0, 60.0)
    study = _mated(study, "disc/rim", "plate/front", "tangent")
    found = _figures(study, "disc/rim", "plate/front")
    assert (found["Axis to face"], found["Distance of the axis"]) == pytest.approx((0.0, 15.0), abs=1e-6)
    assert found["Gap of the parts"] == pytest.approx(0.0, abs=1e-6)
    assert found["Overlap of the parts"] == pytest.approx(0.0, abs=1e-6)
    study = _mated(study, "ball/surface", "disc/rim", "tangent")
    assert _figures(study, "ball/surface", "disc/rim")["Centre to the axis"] == pytest.approx(23.0)
    ball = _mated(study, "ball/surface", "plate/front", "tangent")
    assert _figures(ball, "ball/surface", "plate/front")["Centre to the face"] == pytest.approx(8.0)
    # Inside a hole a pin touches on the side where it is.
    study = _with(_with(study, "washer", inner_diameter="20 mm", outer_diameter="40 mm"), "pin", shank_diameter="19 mm")
    hollow = _mated(study, "pin/shank", "washer/bore", "tangent")
    assert _figures(hollow, "pin/shank", "washer/bore")["Distance of the axes"] == pytest.approx(0.5)
    with pytest.raises(InputError, match="hole cannot touch a flat"):
        mated(study, "washer/bore", "plate/front", "tangent")
    with pytest.raises(InputError, match="no tangent"):
        mated(study, "washer/top", "plate/front", "tangent")


def test_parts_in_tetrahedra_are_placed_and_measured_as_those_in_bricks() -> None:
    study = _with(_with(EMPTY, "washer", inner_diameter="20 mm"), "pin", shank_diameter="20 mm")
    tets = [{"op": "replace", "path": f"/parts/{i}/mesh/elements", "value": "tets"} for i in (0, 1)]
    study = _turned(apply_edit(study, tets)[0], 1, "x", 20.0, 30.0, 0.0, 0.0)
    placed = _mated(study, "pin/shank", "washer/bore", "flush")
    found = _figures(placed, "pin/shank", "washer/bore")
    assert (found["Angle between the axes"], found["Distance of the axes"]) == pytest.approx((0.0, 0.0), abs=1e-6)
    assert _figures(placed, "washer/bore")["Diameter"] == pytest.approx(20.0, abs=1e-6)


def test_parts_are_measured_on_exact_geometry() -> None:
    study = _with(_with(EMPTY, "plate", hole_columns=0), "disc", diameter="30 mm", thickness="12 mm")
    study = _turned(study, 1, "x", 30.0, 0.0, 0.0, 5.0)
    one = _figures(study, "disc/rim")
    assert (one["Diameter"], one["Area"]) == pytest.approx((30.0, np.pi * 30 * 12))
    assert one["Volume of Disc"] == pytest.approx(np.pi * 15**2 * 12)
    found = _figures(study, "disc/top", "plate/front")
    assert found["Angle between the faces"] == pytest.approx(30.0)
    assert found["Overlap of the parts"] > 1000
    away = _turned(study, 1, "z", 0.0, 0.0, 0.0, 40.0)
    thickness = _figures(away, "plate/front", "plate/back")["Distance of the planes"]
    apart = measured(away, ["disc/bottom", "plate/front"])
    assert {f.label: f.value for f in apart.figures}["Gap of the parts"] == pytest.approx(40.0 - thickness)
    assert apart.between is not None
    assert np.linalg.norm(np.subtract(*apart.between)) == pytest.approx(40.0 - thickness)
    assert _figures(study, "plate/front", "plate/back")["Angle between the faces"] == pytest.approx(0.0, abs=1e-9)


def test_a_free_form_part_is_measured(tmp_path: Any) -> None:
    kernel.write_step([("Fork", SHAPES["fork"]())], tmp_path / "fork.step")
    (solid,) = read_step_file((tmp_path / "fork.step").read_bytes(), "fork.step", skins=tmp_path).solids
    assert solid.part is not None
    part, steel = part_of_file(EMPTY, solid.part, "Fork")
    study = EMPTY.model_copy(update={"parts": [part], "materials": [steel]})
    # The pin's hole of 14 mm and the oil hole of 10 mm across it, as test_free draws them.
    holes = [n for n in measured_faces(study) if n.startswith("cylinder")]
    diameters = {n: _figures(study, f"fork/{n}")["Diameter"] for n in holes}
    assert sorted({round(d, 6) for d in diameters.values()}) == [10.0, 14.0]
    pin, oil = (next(n for n in holes if abs(diameters[n] - d) < 1e-3) for d in (14, 10))
    found = _figures(study, f"fork/{pin}", f"fork/{oil}")
    assert (found["Angle between the axes"], found["Distance of the axes"]) == pytest.approx((90.0, 33.0), abs=1e-5)


def measured_faces(study: StudyDocument) -> list[str]:
    from ulmek.study.translate import translate_parts

    return list(translate_parts(study)[0].mesh.faces)
