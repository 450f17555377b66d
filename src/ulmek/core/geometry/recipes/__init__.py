"""All recipes by kind."""

from ulmek.core.geometry.recipes.block import BLOCK
from ulmek.core.geometry.recipes.bolt import BOLT
from ulmek.core.geometry.recipes.bracket import BRACKET
from ulmek.core.geometry.recipes.disc import DISC
from ulmek.core.geometry.recipes.fasteners import NUT, STUD, TAPPED_BLOCK
from ulmek.core.geometry.recipes.flexible import LEAF, PAWL, RATCHET, TORSION
from ulmek.core.geometry.recipes.gears import GEAR, RACK
from ulmek.core.geometry.recipes.links import FORK, LUG, STRAP
from ulmek.core.geometry.recipes.plate import PLATE
from ulmek.core.geometry.recipes.profiles import ANGLE, CHANNEL, I_BAR, RAIL, SEAL_CARRIER, SEAL_STRIP, TUBE
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Solid
from ulmek.core.geometry.recipes.rounds import BALL, BALL_SEGMENT, CROWNED_ROLLER, O_RING, TAPER_PIN
from ulmek.core.geometry.recipes.screw import SCREW
from ulmek.core.geometry.recipes.turned import COLLAR, DRUM, FLANGE, HUB, PIN, SHAFT, SHOE
from ulmek.core.geometry.recipes.washer import WASHER

# In the order in which they are offered.
RECIPES: dict[str, Recipe] = {
    r.kind: r
    for r in (
        PLATE, FLANGE, BRACKET, ANGLE, BLOCK, BOLT, SCREW, NUT, WASHER, STUD, TAPPED_BLOCK, PIN, TAPER_PIN, LUG, FORK,
        STRAP, SHAFT, HUB, DRUM, COLLAR, SHOE, DISC, CROWNED_ROLLER, BALL, BALL_SEGMENT, RAIL, GEAR, RACK, PAWL,
        RATCHET, LEAF, TORSION, SEAL_STRIP, SEAL_CARRIER, O_RING, I_BAR, CHANNEL, TUBE,
    )
}  # fmt: skip

__all__ = ["RECIPES", "Dimension", "Recipe", "Solid"]
