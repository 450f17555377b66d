"""Contact pairs: two sets of faces, or one and a datum wall, with what they may do."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ulmek.core.errors import InputError
from ulmek.core.model import Pair, PairLaw
from ulmek.study.items.contact import EnforcementChoice, Law
from ulmek.study.items.item import ContactId, FaceRef, Identifier, Item, Label, Length, StepId, WallId
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import value_of


class PairUse(Item):
    """Faces that may touch each other, or a datum wall (then side B is empty).

    Side A carries the integration: the finer, fully covered side.

    ``contact``: the property whose law and enforcement the pair has, whatever is written here of them.
    ``fit`` "value" sets the overlap to ``interference`` all over (negative for a clearance).
    ``meant``: what verdicts judge it by. ``released``: steps in which the pair does not act.
    """

    id: Identifier
    name: Label
    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: list[FaceRef]
    wall: WallId | None = None
    contact: ContactId | None = None
    law: Law = Law()
    fit: Literal["as-drawn", "overlap-removed", "closed-up", "value"] = "as-drawn"
    interference: Length = "0 mm"
    search: Length = "1 mm"
    enforcement: EnforcementChoice = EnforcementChoice()
    meant: Literal["to-hold", "to-slide", "to-open", "to-seal", "to-carry-nothing"] = "to-hold"
    released: list[StepId] = Field(default_factory=list)

    @model_validator(mode="after")
    def _check(self) -> "PairUse":
        if bool(self.b) == (self.wall is not None):
            raise ValueError("a pair has faces or a datum wall on its side B: give one of them.")
        return self


def _translated(p: PairUse, around: Around) -> tuple[Pair]:
    mu = p.law.mu if p.law.may_slide == "friction" else 0.0
    search = value_of(p.search, "length")
    if search <= 0:
        raise InputError(f"the search distance is {p.search}.", where="search", hint="Give a distance above zero.")
    side_a, side_b = around.faces(p.a, "a"), around.faces(p.b, "b")
    both = set(side_a) & set(side_b)
    if both:
        face = next(iter(both))
        raise InputError(f"face '{face.body}/{face.name}' is on both sides.", where="b", hint="Take it off one side.")
    return (
        Pair(
            name=p.id,
            side_a=side_a,
            side_b=side_b,
            law=PairLaw(p.law.may_open, p.law.may_slide, mu),
            search=search,
            enforcement=p.enforcement.method,
            penalty=p.enforcement.stiffness,
            wall=p.wall,
            allowed=value_of(p.enforcement.allowed, "length"),
            fit=p.fit,
            interference=value_of(p.interference, "length"),
        ),
    )


KIND = Kind("pair", "Pair", "pairs", PairUse, "pairs", _translated)
