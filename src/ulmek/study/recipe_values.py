"""Written dimensions of a recipe as numbers: lengths in mm, angles in degrees."""

from collections.abc import Sequence

import numpy as np

from ulmek.core.errors import InputError, UlmekError
from ulmek.core.geometry.recipes import Recipe
from ulmek.study.units import value_of


def recipe_values(
    recipe: Recipe, written: dict[str, str | int | float], dropped: Sequence[str] = ()
) -> dict[str, float]:
    """The values that the recipe is built with, 0 for those of ``dropped`` features; names that it does not know stay,
    for it to refuse.

    Raises
    ------
    UnitError, InputError : a dimension that cannot be read, or no such feature; ``where`` names it.
    """
    kinds = {d.name: d.kind for d in recipe.dimensions}
    out = {}
    for name, text in written.items():
        kind = kinds.get(name)
        try:
            if kind == "length":
                out[name] = value_of(str(text), "length")
            elif kind == "angle":
                out[name] = float(np.rad2deg(value_of(str(text), "angle")))
            else:
                out[name] = float(text) if kind is not None else 0.0
        except UlmekError as error:
            raise error.at(name) from None
        except ValueError:
            raise InputError(f"'{text}' is not a number.", where=name, hint="Give a number without a unit.") from None
    for feature in dropped:
        if feature not in recipe.features:
            raise InputError(
                f"the recipe '{recipe.kind}' has no feature '{feature}' to leave out.", where="dropped",
                hint=f"It can leave out {', '.join(recipe.features) or 'nothing'}.",
            )  # fmt: skip
    return out | {d.name: 0.0 for d in recipe.dimensions if d.drops in dropped}
