"""What a pair is for: the kind of joint that it is a piece of, or is recognised as."""

from typing import Literal

from ulmek.study.items import StudyDocument
from ulmek.study.items.item import part_of
from ulmek.study.items.pair import PairUse
from ulmek.study.units import value_of

Purpose = Literal["bolted", "pinned", "pressed", "geared", "seated", "guided", "hinged", "on-wall"]
GEARS, PINS = {"gear", "gear-rack"}, {"pin", "taper-pin"}


def purpose_of(study: StudyDocument, pair: PairUse) -> Purpose:
    """The kind of the joint that a pair is a piece of; else teeth by their recipe, an overlap as a press fit, what
    a bolt bears on as bolted, a pin by its recipe; else seated."""
    for joint in study.joints:
        if pair.id in joint.pieces.pairs:
            return joint.ask.kind
    if pair.wall is not None:
        return "on-wall"
    sides = [{part_of(ref) for ref in side} for side in (pair.a, pair.b)]
    recipes = {part.id: part.recipe.kind for part in study.parts}
    if all(any(recipes.get(name) in GEARS for name in side) for side in sides):
        return "geared"
    if pair.fit == "value" and value_of(pair.interference, "length") > 0:
        return "pressed"
    both = sides[0] | sides[1]
    if both & {bolt.part for bolt in study.bolts if bolt.part is not None}:
        return "bolted"
    if any(recipes.get(name) in PINS for name in both):
        return "pinned"
    # Between parts that bolts draw together.
    clamped: set[str] = set()
    for other in study.pairs:
        names = {part_of(ref) for ref in (*other.a, *other.b)}
        if names & {bolt.part for bolt in study.bolts if bolt.part is not None}:
            clamped |= names
    return "bolted" if both <= clamped and clamped else "seated"


def is_tightened(study: StudyDocument) -> set[str]:
    """Steps in which a bolt is tightened."""
    return {step for bolt in study.bolts for step in bolt.preload}


# What is said of the pressure between beams.
AT_A_POINT = "beams keep their sections, and touch at a point on any mesh."
INSTEAD = "Take what is reckoned by hand, or choose bricks."


def are_beams(study: StudyDocument, pair: PairUse) -> bool:
    """Whether both sides of a pair are beams, between which pressure has no peak."""
    beams = {p.id for p in study.parts if p.mesh.elements == "beam"}
    return bool(pair.b) and all(part_of(ref) in beams for ref in (*pair.a, *pair.b))
