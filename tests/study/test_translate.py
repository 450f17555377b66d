"""From document to core model: units, copies and turns, faces of copies, supports, loads by step."""

import copy
from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.model import Face, Model
from ulmek.demo import demo_study
from ulmek.study.items import read_study
from ulmek.study.meshes import part_mesh
from ulmek.study.translate import body_names, translate


def _bolted() -> dict[str, Any]:
    """A plate with two bolts, the second lying on its side far away."""
    bolt = {"kind": "bolt", "dimensions": {"grip": "0.5 in"}}
    turned = {"at": ["100 mm", "0 mm", "0 mm"], "turn": {"axis": "y", "angle": "90 deg"}}
    return {
        "format": "ulmek-study", "version": 2, "name": "bolted", "title": "Bolted",
        "materials": [{"id": "steel", "name": "Steel", "young": "30e6 psi", "poisson": 0.3, "yield_stress": "0.4 GPa"}],
        "parts": [
            {"id": "bolts", "name": "Bolts", "material": "steel", "recipe": bolt,
             "mesh": {"size": "6 mm", "per_turn": 12}, "placements": [{}, turned]},
        ],
        "bolts": [{"id": "set", "name": "Set", "part": "bolts", "preload": {"tighten": "9 kip"}}],
        "supports": [{"id": "hold", "name": "Hold", "faces": ["bolts/nut.end"]}],
        "loads": [
            {"id": "press", "name": "Press", "kind": "pressure", "faces": ["bolts#1/head.end"],
             "values": {"tighten": "1 ksi", "later": "off"}},
        ],
        "steps": [{"id": "tighten", "name": "Tighten"}, {"id": "later", "name": "Later"}],
    }  # fmt: skip


@pytest.fixture(scope="module")
def model() -> Model:
    return translate(read_study(_bolted()))


def test_units_become_internal_ones(model: Model) -> None:
    material = model.bodies[0].material
    assert material.young == pytest.approx(30e6 * 6.894757293e-3, rel=1e-9)
    assert material.yield_stress == pytest.approx(400.0)
    assert model.steps[0].loads["press"] == pytest.approx(6.894757293)
    assert model.steps[0].preloads["bolts#1"] == pytest.approx(9 * 4448.2216152605)
    heights = model.bodies[0].mesh.nodes[np.unique(model.bodies[0].mesh.faces["head.bearing"]), 2]
    assert np.allclose(heights, 12.7)


def test_copies_are_bodies_of_their_own_turned_then_moved(model: Model) -> None:
    assert [b.name for b in model.bodies] == ["bolts#1", "bolts#2"]
    first, second = (b.mesh.nodes for b in model.bodies)
    # 90° about y takes z to x, and x to −z.
    expected = np.column_stack([first[:, 2] + 100.0, first[:, 1], -first[:, 0]])
    assert np.allclose(second, expected, atol=1e-9)
    assert np.allclose(model.bolts[0].axis, (0, 0, 1))
    assert np.allclose(model.bolts[1].axis, (1, 0, 0), atol=1e-12)


def test_a_reference_means_all_copies_or_one(model: Model) -> None:
    assert model.supports[0].faces == (Face("bolts#1", "nut.end"), Face("bolts#2", "nut.end"))
    assert model.loads[0].faces == (Face("bolts#1", "head.end"),)


def test_steps_carry_values_offs_and_preloads(model: Model) -> None:
    assert model.steps[1].loads == {"press": 0.0}
    assert model.steps[1].preloads == {}
    assert set(model.steps[0].preloads) == {"bolts#1", "bolts#2"}


def test_supports_by_component_and_by_symmetry(two_blocks: dict[str, Any]) -> None:
    study = copy.deepcopy(two_blocks)
    study["supports"] += [
        {"id": "guide", "name": "Guide", "kind": "components", "components": ["x", "z"], "faces": ["base/left"]},
        {"id": "mirror", "name": "Mirror", "kind": "symmetry", "faces": ["base/near"]},
    ]
    supports = {s.name: s.components for s in translate(read_study(study)).supports}
    assert supports == {"floor": (True, True, True), "guide": (True, False, True), "mirror": (False, True, False)}
    study["supports"][2]["faces"] = ["base/near", "base/left"]
    with pytest.raises(InputError, match="do not lie in one plane") as caught:
        translate(read_study(study))
    assert caught.value.where == "supports/mirror/faces"
    study["supports"][1]["components"] = []
    with pytest.raises(InputError, match="no direction is held"):
        translate(read_study(study))


def test_the_same_recipe_is_meshed_once_and_another_anew() -> None:
    study = demo_study("wall-bracket")
    bracket = next(p for p in study.parts if p.id == "bracket")
    assert part_mesh(bracket) is part_mesh(bracket.model_copy())
    thicker = bracket.model_copy(
        update={
            "recipe": bracket.recipe.model_copy(
                update={"dimensions": {**bracket.recipe.dimensions, "flange_thickness": "25 mm"}}
            )
        }
    )
    assert part_mesh(thicker) is not part_mesh(bracket)
    assert set(part_mesh(thicker).faces) == set(part_mesh(bracket).faces)
    assert body_names(bracket) == ["bracket"]


def test_face_names_survive_every_change_of_dimension() -> None:
    """Supports, loads and pairs hang on these names."""
    study = demo_study("wall-bracket")
    for part in study.parts:
        before = set(part_mesh(part).faces)
        for name, value in part.recipe.dimensions.items():
            if isinstance(value, int) or name == "arm_height":
                continue  # the arm is as high as its flange already
            grown = f"{float(value.split()[0]) * 1.04:.4f} mm"
            recipe = part.recipe.model_copy(update={"dimensions": {**part.recipe.dimensions, name: grown}})
            assert set(part_mesh(part.model_copy(update={"recipe": recipe})).faces) >= before - {
                "arm.top",
                "arm.bottom",
            }


def test_a_face_size_for_a_face_that_is_not_there(two_blocks: dict[str, Any]) -> None:
    study = copy.deepcopy(two_blocks)
    study["parts"][0]["mesh"]["faces"] = {"lid": "2 mm"}
    with pytest.raises(UnknownNameError) as caught:
        translate(read_study(study))
    assert caught.value.where == "parts/base/mesh/faces"
    assert "top" in caught.value.hint


@pytest.mark.parametrize(("section", "said"), [("parts", "no parts"), ("steps", "no steps")])
def test_an_empty_study_says_what_to_add(two_blocks: dict[str, Any], section: str, said: str) -> None:
    study = {**two_blocks, section: [], "loads": [], "pairs": [], "supports": []}
    with pytest.raises(InputError, match=said) as caught:
        translate(read_study(study))
    assert caught.value.where == section
