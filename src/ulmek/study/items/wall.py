"""Datum walls: rigid surfaces for parts that are not modelled."""

from typing import Literal

from pydantic import model_validator

from ulmek.core.model import Wall
from ulmek.study.items.item import HandleId, Identifier, Item, Label, Length
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import value_of


class WallUse(Item):
    """A datum wall: a rigid plane, cylinder or sphere for a part that is not modelled.

    ``at``: on the plane, on the axis, or the middle. ``direction``: out of the plane towards the parts, or
    along the axis. ``hollow``: touched from inside. ``handle``: what moves it; the ground when none.
    """

    id: Identifier
    name: Label
    kind: Literal["plane", "cylinder", "sphere"]
    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    direction: tuple[float, float, float] = (0.0, 0.0, 1.0)
    radius: Length = "0 mm"
    hollow: bool = False
    handle: HandleId | None = None

    @model_validator(mode="after")
    def _check(self) -> "WallUse":
        if not any(self.direction):
            raise ValueError("the direction of a wall has three numbers that are not all zero.")
        if self.kind != "plane" and value_of(self.radius, "length") <= 0:
            raise ValueError(f"a {self.kind} needs a radius above zero.")
        return self


def _translated(w: WallUse, _: Around) -> tuple[Wall]:
    x, y, z = (value_of(c, "length") for c in w.at)
    return (Wall(w.id, w.kind, (x, y, z), w.direction, value_of(w.radius, "length"), w.hollow, w.handle),)


KIND = Kind("wall", "Datum wall", "walls", WallUse, "walls", _translated)
