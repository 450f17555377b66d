"""Contact properties: a law and an enforcement with a name, shared by many pairs."""

from typing import Annotated, Literal

from pydantic import Field

from ulmek.study.items.item import Identifier, Item, Label, Length
from ulmek.study.items.kind import Kind


class Law(Item):
    """Two switches and a number: may the pair open, may it slide."""

    may_open: bool = True
    may_slide: Literal["no", "freely", "friction"] = "friction"
    mu: Annotated[float, Field(ge=0, le=10)] = 0.15


class EnforcementChoice(Item):
    """``exact`` (no penetration), ``penalty`` with a stiffness as a multiple of E/h, or ``augmented``:
    the penalty repeated until no node penetrates by more than ``allowed``."""

    method: Literal["exact", "augmented", "penalty"] = "exact"
    allowed: Length = "0.0001 mm"
    stiffness: Annotated[float, Field(gt=0, le=1e6)] = 100.0


class ContactUse(Item):
    """A law and an enforcement that all pairs of this property have: a change of it is a change of all."""

    id: Identifier
    name: Label
    law: Law = Law()
    enforcement: EnforcementChoice = EnforcementChoice()


KIND = Kind("contact", "Contact property", "contacts", ContactUse)
