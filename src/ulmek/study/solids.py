"""The solids of parts: by a recipe, drawn, bent, swept or free-form from a file."""

import base64
import zlib
from dataclasses import replace
from typing import Any

import numpy as np

from ulmek.core.errors import GeometryError, InputError, UnknownNameError, located
from ulmek.core.geometry import kernel
from ulmek.core.geometry.cut import cut_solid
from ulmek.core.geometry.kernel import Shape
from ulmek.core.geometry.recipes import RECIPES, Solid
from ulmek.core.geometry.recognise import Recognised
from ulmek.core.geometry.stored import from_plain
from ulmek.study.drawings import bent_bar, drawn_solid
from ulmek.study.items import FileUse, Part, RecipeUse
from ulmek.study.items.part import REFERENCE
from ulmek.study.recipe_values import recipe_values

# Bytes that the STEP text of one solid may have.
LARGEST_FILE = 64_000_000


def part_solid(part: Part) -> Recognised:
    """The solid of a part in axes of its own, and where these stand in the part's; raises as `part_mesh`."""
    use = part.recipe.model_dump()
    own = swept_of_file(use) if use.get("file") else Recognised(solid_of_use(use, part.id), np.eye(3), np.zeros(3))
    return replace(own, solid=solid_of_use(use, part.id))


def solid_of_use(recipe_use: dict[str, Any], part_id: str) -> Solid:
    """The solid of a recipe with its written dimensions."""
    kept = recipe_use.get("kept", "whole")
    if is_free_form(recipe_use):
        raise InputError("a free-form solid is not swept.", where=f"parts/{part_id}/recipe", hint="Use a solid study.")
    if recipe_use.get("file"):
        return located(f"parts/{part_id}/recipe", lambda: cut_solid(swept_of_file(recipe_use).solid, kept))
    if recipe_use.get("drawn") or recipe_use.get("bent"):
        return located(f"parts/{part_id}/recipe", lambda: cut_solid(_drawn_or_bent(RecipeUse(**recipe_use)), kept))
    recipe = RECIPES.get(recipe_use["kind"])
    if recipe is None:
        raise UnknownNameError(
            f"there is no recipe '{recipe_use['kind']}'.",
            where=f"parts/{part_id}/recipe/kind",
            hint=f"Known: {', '.join(RECIPES)}.",
        )
    place = f"parts/{part_id}/recipe/dimensions"
    values = located(place, recipe_values, recipe, recipe_use["dimensions"], recipe_use.get("dropped", []))
    return located(place, lambda: cut_solid(recipe.solid(values), kept))


def _drawn_or_bent(use: RecipeUse) -> Solid:
    if use.drawn is not None:
        return drawn_solid(use.drawn, use.dimensions)
    assert use.bent is not None
    return bent_bar(use.bent, use.dimensions)


def is_free_form(recipe_use: dict[str, Any]) -> bool:
    """Whether a part's solid comes from a file and is neither extruded nor revolved."""
    return bool(recipe_use.get("file") and recipe_use["file"].get("content"))


def free_shape(file: FileUse) -> Shape:
    """The exact shape of a free-form solid.

    Raises
    ------
    GeometryError : the content is damaged.
    """
    solids, _ = kernel.read_step(unpacked(file.content or ""))
    return solids[0].shape


def packed(step: bytes) -> str:
    """A STEP file as documents that stand alone carry it."""
    return base64.b64encode(zlib.compress(step, 9)).decode()


def unpacked(content: str) -> bytes:
    """The STEP file that a document carries.

    Raises
    ------
    GeometryError : the content is damaged, or not in the document.
    """
    if content.startswith(REFERENCE):
        raise GeometryError(
            "the document only names the solid of the file, and does not carry it.",
            hint="Save the study again from the page, or with GET /api/studies/{id}/file.",
        )
    try:
        return zlib.decompressobj().decompress(base64.b64decode(content, validate=True), LARGEST_FILE)
    except (ValueError, zlib.error):
        raise GeometryError("the solid of the file is damaged.", hint="Read the file again.") from None


def free_volume(file: FileUse) -> float:
    """Volume (mm³) of a free-form solid; raises as `free_shape`."""
    return kernel.volume(free_shape(file))


def swept_of_file(recipe_use: dict[str, Any]) -> Recognised:
    """The solid of a file, in axes of its own."""
    return from_plain(recipe_use["file"]["shape"])
