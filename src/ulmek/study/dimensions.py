"""Dimensions of a part as they stand on it in the assembly."""

import numpy as np
from pydantic import BaseModel

from ulmek.core.errors import UnknownNameError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.geometry.spans import spans
from ulmek.study.copies import copied_part
from ulmek.study.drawings import named_dimensions
from ulmek.study.items import StudyDocument
from ulmek.study.recipe_values import dimensions_of, recipe_values
from ulmek.study.translate import placed_axes
from ulmek.study.units import value_of

Point = tuple[float, float, float]


class PlacedDimension(BaseModel):
    """A length of a recipe, as it is written, and the points (mm) between which it lies in the study."""

    name: str
    label: str
    written: str
    start: Point
    end: Point


def placed_dimensions(study: StudyDocument, part_id: str, copy: int) -> list[PlacedDimension]:
    """The lengths of a part that are seen on one copy (counted from 1) of it; none for solids of files.

    Raises
    ------
    UnknownNameError : no such part or copy. UlmekError : dimensions that no solid can have.
    """
    _, part = copied_part(study, part_id, copy)
    recipe = RECIPES.get(part.recipe.kind)
    if recipe is None or study.space != "solid":
        return []
    placement = part.placements[copy - 1]
    turn, at = placed_axes(placement), np.array([value_of(c, "length") for c in placement.at])
    dimensions = {d.name: d for d in recipe.dimensions}
    found = []
    for span in spans(recipe, recipe_values(recipe, part.recipe.dimensions, part.recipe.dropped)):
        (x, y, z), (u, v, w) = (span.ends @ turn.T + at).tolist()
        written = part.recipe.dimensions.get(span.name, f"{dimensions[span.name].default:g} mm")
        found.append(
            PlacedDimension(
                name=span.name, label=dimensions[span.name].label, written=str(written), start=(x, y, z), end=(u, v, w)
            )
        )
    return found


def expression_values(study: StudyDocument, part_id: str) -> dict[str, str]:
    """What the dimensions of a part come to that are written as expressions, with their units.

    Raises
    ------
    UnknownNameError : no such part. UlmekError : a dimension that cannot be read.
    """
    part = next((p for p in study.parts if p.id == part_id), None)
    if part is None:
        raise UnknownNameError(f"there is no part '{part_id}'.", where="parts")
    recipe, written = RECIPES.get(part.recipe.kind), part.recipe.dimensions
    dimensions = named_dimensions(written) if recipe is None else dimensions_of(recipe, written)
    return {n: dimensions.said(n) for n, text in written.items() if dimensions.is_expression(str(text))}
