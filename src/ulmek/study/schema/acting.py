"""What acts in a study document, and when: handles, springs, links, supports, loads, steps."""

import itertools
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ulmek.core.errors import UnitError
from ulmek.study.schema.item import FaceRef, Identifier, Item, Label, Length, Mass, Stiffness, Time, TurningStiffness
from ulmek.study.units import Kind, value_of


class HandleUse(Item):
    """A point that moves faces as a rigid plate, or follows their average motion; alone, a free point.

    ``part``: a part (one copy, ``rollers#2``) that is rigid as a whole and moves with the handle.
    """

    id: Identifier
    name: Label
    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    faces: list[FaceRef] = Field(default_factory=list)
    part: Annotated[str, Field(pattern=r"^[a-z0-9-]+(#\d+)?$")] | None = None
    kind: Literal["rigid", "averaging"] = "rigid"
    mass: Mass = "0 kg"

    @model_validator(mode="after")
    def _check(self) -> "HandleUse":
        if self.part is not None and (self.faces or self.kind == "averaging"):
            raise ValueError("a handle of a rigid part has no faces and does not average: take them away.")
        return self


class SpringUse(Item):
    """Springs between two handles, or from one to the ground, along and about the coordinate axes."""

    id: Identifier
    name: Label
    a: Identifier
    b: Identifier | None = None
    stiffness: tuple[Stiffness, Stiffness, Stiffness]
    turning: tuple[TurningStiffness, TurningStiffness, TurningStiffness] = ("0 N*mm/rad", "0 N*mm/rad", "0 N*mm/rad")


Component = Literal["x", "y", "z", "turn-x", "turn-y", "turn-z"]


class LinkUse(Item):
    """A joint between two handles: fixed, a hinge about an axis, or a slider along one."""

    id: Identifier
    name: Label
    a: Identifier
    b: Identifier
    kind: Literal["fixed", "hinge", "slider"] = "fixed"
    axis: Literal["x", "y", "z"] = "z"


class SupportUse(Item):
    """Faces held in the marked directions, or on a symmetry plane (held along its normal); or a handle."""

    id: Identifier
    name: Label
    faces: list[FaceRef] = Field(default_factory=list)
    handle: Identifier | None = None
    kind: Literal["fixed", "components", "symmetry"] = "fixed"
    components: list[Component] = Field(default_factory=list)
    released: list[Identifier] = Field(default_factory=list)

    @model_validator(mode="after")
    def _check(self) -> "SupportUse":
        if bool(self.faces) == (self.handle is not None):
            raise ValueError("a support holds faces or a handle: give one of them.")
        return self


LoadKind = Literal["force", "pressure", "displacement", "moment", "rotation", "gravity", "spin"]
_QUANTITIES: dict[str, Kind] = {
    "force": "force", "pressure": "stress", "displacement": "length", "moment": "moment", "rotation": "angle",
    "gravity": "acceleration", "spin": "angular speed",
}  # fmt: skip


class CoursePoint(Item):
    """A value that a load passes at a share of a step; at 0 it jumps there."""

    at: Annotated[float, Field(ge=0, lt=1)]
    value: str


class LoadUse(Item):
    """A force, pressure or prescribed displacement on faces; at a handle also a moment or a rotation.

    Gravity and spin act on all parts. ``values`` gives the end value in each step named; other steps
    hold the last value. "off" takes it to zero. Within a step the value runs straight, or through the
    points of its course. ``released``: steps in which a prescribed motion lets go.
    """

    id: Identifier
    name: Label
    kind: LoadKind
    faces: list[FaceRef] = Field(default_factory=list)
    handle: Identifier | None = None
    direction: tuple[float, float, float] | None = None
    centre: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    values: dict[str, str] = Field(default_factory=dict)
    courses: dict[str, list[CoursePoint]] = Field(default_factory=dict)
    released: list[Identifier] = Field(default_factory=list)

    @property
    def quantity(self) -> Kind:
        """What the values measure."""
        return _QUANTITIES[self.kind]

    @model_validator(mode="after")
    def _check(self) -> "LoadUse":
        on_all = self.kind in ("gravity", "spin")
        if on_all and (self.faces or self.handle):
            raise ValueError(f"{self.kind} acts on all parts: take the faces and the handle away.")
        if not on_all and bool(self.faces) == (self.handle is not None):
            raise ValueError(f"a {self.kind} acts on faces or on a handle: give one of them.")
        if self.kind in ("moment", "rotation") and self.handle is None:
            raise ValueError(f"a {self.kind} acts at a handle: put one on the faces first.")
        if self.kind == "pressure" and not self.faces:
            raise ValueError("a pressure acts on faces.")
        if self.kind != "pressure" and (self.direction is None or not any(self.direction)):
            raise ValueError(f"a {self.kind} needs a direction, three numbers that are not all zero.")
        points = [(step, point.value) for step, course in self.courses.items() for point in course]
        for step, value in [*self.values.items(), *points]:
            if value != "off":
                try:
                    value_of(value, self.quantity)
                except UnitError as error:
                    raise ValueError(f"value in step '{step}': {error}") from None
        for step, course in self.courses.items():
            if any(b.at < a.at for a, b in itertools.pairwise(course)):
                raise ValueError(f"the course in step '{step}' goes back in time: put its points in order.")
        return self


class IncrementSettings(Item):
    """Sizes of increments as shares of the step, and how many at most."""

    start: float = 0.25
    least: float = 0.01
    largest: float = 0.25
    most: Annotated[int, Field(ge=1, le=1000)] = 60


class DynamicsSettings(Item):
    """Inertia in a step: its duration, and damping proportional to mass (1/s)."""

    duration: Time
    damping: Annotated[float, Field(ge=0)] = 0.0


class StepUse(Item):
    """One step of the sequence. ``large_motion`` follows large turns and strains; ``dynamics`` has inertia."""

    id: Identifier
    name: Label
    increments: IncrementSettings = IncrementSettings()
    large_motion: bool = False
    dynamics: DynamicsSettings | None = None
