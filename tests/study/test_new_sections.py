"""Sections of the document beyond blocks and bolts: refused with their place, translated to their numbers."""

import copy
from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import InputError, UlmekError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.geometry.revolved import RevolvedSolid
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.solid import mesh_flat
from ulmek.study.items import read_study
from ulmek.study.new_parts import spaces_of
from ulmek.study.preflight import preflight
from ulmek.study.translate import translate


def _with(study: dict[str, Any], **changes: Any) -> dict[str, Any]:
    return {**copy.deepcopy(study), **changes}


HANDLE = {"id": "grip", "name": "Grip", "at": ["0 mm", "0 mm", "30 mm"], "faces": ["slider/top"]}


@pytest.mark.parametrize(
    ("changes", "where"),
    [
        ({"space": "folded"}, "space"),
        ({"space": "plane-stress", "thickness": "0 mm"}, "thickness"),
        ({"handles": [{**HANDLE, "faces": ["slider/lid"]}]}, "handles/grip/faces/0"),
        ({"handles": [HANDLE, HANDLE]}, "handles/grip/id"),
        ({"handles": [{"id": "grip", "name": "Grip", "part": "lid"}]}, "handles/grip/part"),
        ({"handles": [{**HANDLE, "part": "slider"}]}, "handles/grip"),
        ({"springs": [{"id": "s", "name": "S", "a": "nobody", "stiffness": ["1 N/mm"] * 3}]}, "springs/s/a"),
        ({"springs": [{"id": "s", "name": "S", "a": "grip", "stiffness": ["0 N/mm"] * 3}], "handles": [HANDLE]},
         "springs/s/stiffness"),
        ({"walls": [{"id": "w", "name": "W", "kind": "cylinder"}]}, "walls/w"),
        ({"walls": [{"id": "w", "name": "W", "kind": "plane", "handle": "nobody"}]}, "walls/w/handle"),
        ({"loads": [{"id": "m", "name": "M", "kind": "moment", "faces": ["slider/top"], "direction": [0, 0, 1]}]},
         "loads/m"),
        ({"loads": [{"id": "m", "name": "M", "kind": "gravity", "direction": [0, 0, -1],
                     "values": {"press": "9.81 kg"}}]}, "loads/m"),
        ({"loads": [{"id": "p", "name": "P", "kind": "pressure", "faces": ["base/top"],
                     "courses": {"press": [{"at": 0.5, "value": "1 MPa"}, {"at": 0.2, "value": "2 MPa"}]}}]},
         "loads/p"),
        ({"bolts": [{"id": "b", "name": "B", "line": {"head": "grip", "stiffness": "1 kN/mm"}}], "handles": [HANDLE]},
         "bolts/b/line"),
        ({"materials": [{"id": "steel", "name": "Steel", "young": "210 GPa"}]}, "materials/steel"),
        ({"materials": [{"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3, "allowable": "0 MPa"}]},
         "materials/steel/allowable"),
        ({"materials": [{"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": 0.3,
                         "hardening": {"table": [{"strain": 0.1, "stress": "300 MPa"}]}}]}, "materials/steel"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_its_place(
    two_blocks: dict[str, Any], changes: dict[str, Any], where: str
) -> None:
    with pytest.raises(InputError) as refused:
        translate(read_study(_with(two_blocks, **changes)))
    assert refused.value.where.startswith(where), refused.value.where


@pytest.mark.parametrize(("recipe", "elements"), [("bolt", "tets"), ("block", "second-order")])
def test_elements_that_a_solid_cannot_have_are_refused(two_blocks: dict[str, Any], recipe: str, elements: str) -> None:
    other = {"id": "other", "name": "Other", "material": "steel", "recipe": {"kind": recipe},
             "mesh": {"size": "8 mm", "elements": elements}}  # fmt: skip
    with pytest.raises(InputError) as refused:
        translate(read_study(_with(two_blocks, parts=[*two_blocks["parts"], other])))
    assert refused.value.where == "parts/other/mesh/elements"


def test_a_pair_needs_faces_or_a_wall_and_not_both(two_blocks: dict[str, Any]) -> None:
    wall = {"id": "ground", "name": "Ground", "kind": "plane", "at": ["0 mm", "0 mm", "20 mm"]}
    both = _with(two_blocks, walls=[wall])
    both["pairs"][0]["wall"] = "ground"
    with pytest.raises(InputError, match="side B"):
        read_study(both)
    both["pairs"][0]["b"] = []
    model = translate(read_study(both))
    assert model.pairs[0].wall == model.walls[0].name == "ground"


def test_numbers_arrive_in_internal_units(two_blocks: dict[str, Any]) -> None:
    study = _with(two_blocks, handles=[{**HANDLE, "mass": "2.5 kg"}])
    study["springs"] = [{"id": "s", "name": "S", "a": "grip", "stiffness": ["1 kN/mm", "0 N/mm", "0 N/mm"],
                         "turning": ["0 N*mm/rad", "0 N*mm/rad", "3 N*m/rad"]}]  # fmt: skip
    study["materials"].append({"id": "pad", "name": "Pad", "rubber": {"c10": "0.5 MPa", "bulk": "1 GPa"},
                               "density": "1100 kg/m^3"})  # fmt: skip
    table = [{"strain": 0, "stress": "300 MPa"}, {"strain": 0.1, "stress": "0.4 GPa"}]
    study["materials"][0] |= {"hardening": {"table": table, "kinematic_share": 0.5}, "yield_stress": None}
    study["parts"][0]["material"] = "pad"
    study["steps"][1] |= {"large_motion": True, "dynamics": {"duration": "20 ms", "damping": 3}}
    study["loads"][1] |= {"courses": {"push": [{"at": 0.0, "value": "1 kN"}]}, "released": []}
    model = translate(read_study(study))
    assert model.handles[0].mass == pytest.approx(2.5e-3)
    assert model.springs[0].stiffness == (1000.0, 0.0, 0.0)
    assert model.springs[0].turning[2] == pytest.approx(3000.0)
    pad, steel = model.bodies[0].material, model.bodies[1].material
    assert isinstance(pad, Rubber)
    assert (pad.c10, pad.bulk, pad.density) == pytest.approx((0.5, 1000.0, 1.1e-9))
    assert isinstance(steel, Plastic)
    assert steel.table == ((0.0, 300.0), (0.1, 400.0))
    step = model.steps[1]
    assert step.large
    assert step.dynamics is not None
    assert step.dynamics.duration == pytest.approx(0.02)
    assert step.courses == {"push": ((0.0, 1000.0),)}


def test_torque_becomes_preload_by_the_nut_factor() -> None:
    from ulmek.demo import demo_study

    bracket = demo_study("wall-bracket").model_dump(mode="json")
    bolt = bracket["bolts"][0]
    bolt |= {"preload": {s: "107.52 N*m" for s in bolt["preload"]}, "torque": {"nut_factor": 0.16, "diameter": "16 mm"}}
    assert set(translate(read_study(bracket)).steps[0].preloads.values()) == {42000.0}
    bolt["preload"] = {s: "42 kN" for s in bolt["preload"]}
    with pytest.raises(InputError, match="moment"):
        read_study(bracket)


def test_preflight_counts_handles_springs_links_and_walls(two_blocks: dict[str, Any]) -> None:
    smooth = _with(two_blocks)
    smooth["pairs"][0]["law"] = {"may_slide": "freely"}

    def loose(study: dict[str, Any]) -> list[str]:
        return [f.text for f in preflight(read_study(study)).findings if f.code in ("loose", "apart-loose")]

    assert loose(smooth) == ["Slider is loose: it can move along x, along y and turning about z."]
    sprung = _with(smooth, handles=[HANDLE])
    sprung["springs"] = [{"id": "s", "name": "S", "a": "grip", "stiffness": ["1 N/mm", "1 N/mm", "0 N/mm"]}]
    assert loose(sprung) == ["Slider is loose: it can move turning about z."]
    held = _with(sprung)
    held["supports"].append({"id": "h", "name": "H", "kind": "components", "components": ["turn-z"], "handle": "grip"})
    assert loose(held) == []
    linked = _with(smooth, handles=[HANDLE, {**HANDLE, "id": "post", "faces": []}])
    linked["links"] = [{"id": "l", "name": "L", "a": "post", "b": "grip", "kind": "hinge", "axis": "z"}]
    linked["supports"].append({"id": "p", "name": "P", "handle": "post"})
    # A rigid handle that a link leads, on a post that is held: only the hinge's turn is left.
    assert loose(linked) == ["Slider is loose: it can move turning about z."]
    walled = _with(smooth, walls=[{"id": "ground", "name": "Ground", "kind": "plane", "at": ["0 mm", "0 mm", "20 mm"]}])
    walled["pairs"][0] |= {"b": [], "wall": "ground", "law": {"mu": 0.2}}
    assert loose(walled) == []


def test_a_section_is_flat_and_its_sides_are_edges(two_blocks: dict[str, Any]) -> None:
    flat = _with(two_blocks, space="plane-stress", thickness="3 mm")
    for part in flat["parts"]:
        part["placements"] = [{"at": ["0 mm", "40 mm" if part["id"] == "slider" else "0 mm", "0 mm"]}]
    flat["pairs"][0] |= {"a": ["slider/near"], "b": ["base/far"], "search": "60 mm"}
    flat["supports"][0]["faces"] = ["base/near"]
    for load in flat["loads"]:
        load["faces"] = ["slider/far"]
    model = translate(read_study(flat))
    assert model.thickness == 3.0
    assert all(body.mesh.kind == "quad" for body in model.bodies)
    assert np.ptp(model.nodes()[:, 2]) == 0.0
    turned = _with(flat)
    turned["parts"][0]["placements"][0]["turn"] = {"axis": "x", "angle": "90 deg"}
    with pytest.raises(InputError, match="about z"):
        translate(read_study(turned))


@pytest.mark.parametrize("kind", RECIPES)
def test_a_recipe_is_offered_where_it_has_a_part(kind: str) -> None:
    """In a plane study exactly what its mesher takes; turned profiles only where they are turned."""
    solid = RECIPES[kind].solid({})
    try:
        mesh_flat(solid, size=float(solid.volume() ** (1 / 3)) / 4, per_turn=12)
        has_section = True
    except UlmekError:
        has_section = False
    spaces = spaces_of(RECIPES[kind])
    assert ("axisymmetric" in spaces) == has_section
    assert ("plane-strain" in spaces) == (has_section and not isinstance(solid, RevolvedSolid))
    assert "solid" in spaces
