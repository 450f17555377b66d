"""Written dimensions of a recipe as numbers: lengths in mm, angles in degrees; they may be expressions of others."""

from collections.abc import Sequence

from ulmek.core.errors import InputError
from ulmek.core.geometry.recipes import Recipe
from ulmek.study.expressions import UNITS, Dimensions, Written


def dimensions_of(recipe: Recipe, written: Written) -> Dimensions:
    """The dimensions of a recipe, of which those that are not written have their defaults."""
    defaults = {d.name: f"{d.default!r} {UNITS[d.kind]}".strip() for d in recipe.dimensions}
    return Dimensions({**defaults, **written}, {d.name: d.kind for d in recipe.dimensions})


def recipe_values(recipe: Recipe, written: Written, dropped: Sequence[str] = ()) -> dict[str, float]:
    """The values that the recipe is built with, 0 for those of ``dropped`` features; names that it does not know stay,
    for it to refuse.

    Raises
    ------
    UnitError, InputError : a dimension that cannot be read, or no such feature; ``where`` names it.
    """
    known = {d.name for d in recipe.dimensions}
    dimensions = dimensions_of(recipe, written)
    out = {name: dimensions.value(name) if name in known else 0.0 for name in written}
    for feature in dropped:
        if feature not in recipe.features:
            raise InputError(
                f"the recipe '{recipe.kind}' has no feature '{feature}' to leave out.", where="dropped",
                hint=f"It can leave out {', '.join(recipe.features) or 'nothing'}.",
            )  # fmt: skip
    return out | {d.name: 0.0 for d in recipe.dimensions if d.drops in dropped}
