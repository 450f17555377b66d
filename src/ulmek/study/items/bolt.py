"""Bolts: parts or lines that are tightened."""

from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from ulmek.core.errors import InputError, UnitError
from ulmek.core.handcalc.bolted_joint import preload_of_torque
from ulmek.core.model import Bolt
from ulmek.study.items.item import HandleId, Identifier, Item, Label, Length, PartId, StepId, Stiffness
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import value_of

Strength = Literal["4.6", "5.6", "5.8", "6.8", "8.8", "10.9", "12.9"]


class LineBolt(Item):
    """A bolt that is not modelled as a solid: a line from head to foot with the stiffness E·A/L.

    ``head`` and ``foot`` are handles on what it clamps and where its thread holds; no ``foot`` means
    the ground. ``direction`` points from the foot to the head where there is no foot.
    """

    head: HandleId
    foot: HandleId | None = None
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
    (T = K·d·F); in other steps the length is kept. ``strength``: property class, by whose proof load it is judged.
    ``means``: whether that is said of the half or quarter of a bolt that is modelled, which is taken where nothing is
    said, or of the whole bolt.
    """

    id: Identifier
    name: Label
    part: PartId | None = None
    line: LineBolt | None = None
    preload: dict[StepId, str] = Field(default_factory=dict)
    torque: Tightening | None = None
    strength: Strength | None = None
    means: Literal["modelled", "whole"] | None = None

    def force_in(self, step: str, share: float = 1.0) -> float:
        """Preload (N) of a step that names one, of what is modelled: a ``share`` of the bolt."""
        part = share if self.means == "whole" else 1.0
        if self.torque is None:
            return part * value_of(self.preload[step], "force")
        moment = value_of(self.preload[step], "moment")
        return part * preload_of_torque(moment, self.torque.nut_factor, value_of(self.torque.diameter, "length"))

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


def _check_preload(use: BoltUse) -> None:
    for step, written in use.preload.items():
        if use.force_in(step) <= 0:
            raise InputError(
                f"the preload is {written}.", where=f"preload/{step}",
                hint="Tighten with a force above zero, or remove the preload to leave the bolt's length as it is.",
            )  # fmt: skip


def _translated(use: BoltUse, around: Around) -> tuple[Bolt, ...]:
    """The line, or every copy of the part, as a bolt."""
    if use.line is not None:
        return (_line_bolt(use, use.line, around),)
    assert use.part is not None
    if not len(around.mesh(use.part).cut_nodes):
        raise InputError(
            f"part '{use.part}' is no bolt: it has no cut at which it could be tightened.", where="part",
            hint="Choose a bolt, screw or stud.",
        )  # fmt: skip
    bolts = []
    for name, rotation in around.copies(use.part):
        axis = rotation @ np.array([0.0, 0.0, 1.0])
        bolts.append(Bolt(name, (float(axis[0]), float(axis[1]), float(axis[2])), body=name))
    return tuple(bolts)


def _line_bolt(use: BoltUse, line: LineBolt, around: Around) -> Bolt:
    places = {h.id: np.array([value_of(c, "length") for c in h.at]) for h in around.study.handles}
    axis = places[line.head] - places[line.foot] if line.foot is not None else np.array(line.direction, float)
    length = float(np.linalg.norm(axis))
    if length == 0:
        raise InputError("head and foot of the bolt lie at one point.", where="line", hint="Move one of the handles.")
    axis = axis / length
    stiffness = value_of(line.stiffness, "stiffness")
    if stiffness <= 0:
        raise InputError(f"the stiffness is {line.stiffness}.", where="line/stiffness")
    return Bolt(
        use.id, (float(axis[0]), float(axis[1]), float(axis[2])), head=line.head, foot=line.foot, stiffness=stiffness
    )


KIND = Kind("bolt", "Bolts", "bolts", BoltUse, "bolts", _translated, check=_check_preload)
