"""Written dimensions of a recipe as numbers: lengths in mm, angles in degrees."""

import numpy as np

from ulmek.core.errors import InputError, UlmekError
from ulmek.core.geometry.recipes import Recipe
from ulmek.study.units import value_of


def recipe_values(recipe: Recipe, written: dict[str, str | int | float]) -> dict[str, float]:
    """The values that the recipe is built with; names that it does not know stay, for it to refuse.

    Raises
    ------
    UnitError, InputError : a dimension that cannot be read; ``where`` names it.
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
    return out
