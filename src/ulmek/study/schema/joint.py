"""Joints of a study document: pairs and their laws, datum walls, bolts."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ulmek.core.errors import UnitError
from ulmek.core.handcalc.bolted_joint import preload_of_torque
from ulmek.study.schema.item import FaceRef, Identifier, Item, Label, Length, Stiffness
from ulmek.study.units import value_of


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
    handle: Identifier | None = None

    @model_validator(mode="after")
    def _check(self) -> "WallUse":
        if not any(self.direction):
            raise ValueError("the direction of a wall has three numbers that are not all zero.")
        if self.kind != "plane" and value_of(self.radius, "length") <= 0:
            raise ValueError(f"a {self.kind} needs a radius above zero.")
        return self


class PairUse(Item):
    """Faces that may touch each other, or a datum wall (then side B is empty).

    Side A carries the integration: the finer, fully covered side.

    ``fit`` "value" sets the overlap to ``interference`` all over (negative for a clearance).
    ``released``: steps in which the pair does not act.
    """

    id: Identifier
    name: Label
    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: list[FaceRef]
    wall: Identifier | None = None
    law: Law = Law()
    fit: Literal["as-drawn", "overlap-removed", "closed-up", "value"] = "as-drawn"
    interference: Length = "0 mm"
    search: Length = "1 mm"
    enforcement: EnforcementChoice = EnforcementChoice()
    released: list[Identifier] = Field(default_factory=list)


class LeftOut(Item):
    """Faces that touch or come close and shall be no pair."""

    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: Annotated[list[FaceRef], Field(min_length=1)]


class LineBolt(Item):
    """A bolt that is not modelled as a solid: a line from head to foot with the stiffness E·A/L.

    ``head`` and ``foot`` are handles on what it clamps and where its thread holds; no ``foot`` means
    the ground. ``direction`` points from the foot to the head where there is no foot.
    """

    head: Identifier
    foot: Identifier | None = None
    direction: tuple[float, float, float] | None = None
    stiffness: Stiffness

    @model_validator(mode="after")
    def _check(self) -> "LineBolt":
        if self.foot is None and (self.direction is None or not any(self.direction)):
            raise ValueError("a bolt into the ground needs a direction, from its foot to its head.")
        return self


class Tightening(Item):
    """How a tightening moment becomes a preload: nut factor K and nominal diameter d."""

    nut_factor: Annotated[float, Field(gt=0.05, lt=1)] = 0.2
    diameter: Length


class BoltUse(Item):
    """A part made by a bolt recipe, or a line, tightened in steps; every copy of a part is one bolt.

    ``preload`` gives the force at the end of each step named, or with ``torque`` the tightening moment
    (T = K·d·F); in other steps the length is kept.
    """

    id: Identifier
    name: Label
    part: Identifier | None = None
    line: LineBolt | None = None
    preload: dict[str, str] = Field(default_factory=dict)
    torque: Tightening | None = None

    def force_in(self, step: str) -> float:
        """Preload (N) of a step that names one."""
        if self.torque is None:
            return value_of(self.preload[step], "force")
        moment = value_of(self.preload[step], "moment")
        return preload_of_torque(moment, self.torque.nut_factor, value_of(self.torque.diameter, "length"))

    @model_validator(mode="after")
    def _check(self) -> "BoltUse":
        for step, written in self.preload.items():
            try:
                value_of(written, "force" if self.torque is None else "moment")
            except UnitError as error:
                raise ValueError(f"preload in step '{step}': {error}") from None
        if (self.part is None) == (self.line is None):
            raise ValueError("a bolt is a part or a line: give one of them.")
        return self
