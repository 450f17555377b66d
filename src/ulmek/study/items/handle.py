"""Handles: points that hold or move faces."""

from typing import Literal

from pydantic import Field, model_validator

from ulmek.core.errors import InputError
from ulmek.core.model import Handle
from ulmek.study.items.item import BodyRef, FaceRef, Identifier, Item, Label, Length, Mass
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import value_of


class HandleUse(Item):
    """A point that moves faces as a rigid plate, or follows their average motion; alone, a free point.

    ``part``: a part (one copy, ``rollers#2``) that is rigid as a whole and moves with the handle.
    """

    id: Identifier
    name: Label
    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    faces: list[FaceRef] = Field(default_factory=list)
    part: BodyRef | None = None
    kind: Literal["rigid", "averaging"] = "rigid"
    mass: Mass = "0 kg"

    @model_validator(mode="after")
    def _check(self) -> "HandleUse":
        if self.part is not None and (self.faces or self.kind == "averaging"):
            raise ValueError("a handle of a rigid part has no faces and does not average: take them away.")
        return self


def _translated(h: HandleUse, around: Around) -> tuple[Handle]:
    x, y, z = (value_of(c, "length") for c in h.at)
    mass = value_of(h.mass, "mass")
    if mass < 0:
        raise InputError(f"the mass is {h.mass}.", where="mass", hint="It must not be negative.")
    body = None if h.part is None else around.body(h.part)
    return (Handle(h.id, (x, y, z), around.faces(h.faces, "faces"), h.kind, mass, body),)


KIND = Kind("handle", "Handle", "handles", HandleUse, "handles", _translated)
