"""All recipes by kind."""

from ulmek.core.geometry.recipes.block import BLOCK
from ulmek.core.geometry.recipes.bolt import BOLT
from ulmek.core.geometry.recipes.bracket import BRACKET
from ulmek.core.geometry.recipes.disc import DISC
from ulmek.core.geometry.recipes.plate import PLATE
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe
from ulmek.core.geometry.recipes.washer import WASHER

RECIPES: dict[str, Recipe] = {r.kind: r for r in (PLATE, BRACKET, BLOCK, DISC, WASHER, BOLT)}

__all__ = ["RECIPES", "Dimension", "Recipe"]
