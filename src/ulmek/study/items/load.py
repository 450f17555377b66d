"""Loads and prescribed motions: what each kind acts on, what it is measured in, and how it runs over the steps."""

import itertools
from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from pydantic import Field, model_validator

from ulmek.core.errors import UnitError
from ulmek.core.model import Handle, Load, LoadKind
from ulmek.study.items.axes import AxesUse, axes_of
from ulmek.study.items.item import FaceRef, HandleId, Identifier, Item, Label, Length, StepId
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import Kind as Quantity
from ulmek.study.units import spoken, value_of


@dataclass(frozen=True)
class LoadSort:
    """What a kind of load is: its name in words, what its values measure, what it acts on, whether it has a direction,
    and whether that is an axis through its centre.

    The unit that values are spoken in is that of the quantity (`units.spoken`).
    """

    label: str
    quantity: Quantity
    acts_on: Literal["faces", "handle", "faces or handle", "all"]
    has_direction: bool = True
    is_about_axis: bool = False


SORTS: dict[LoadKind, LoadSort] = {
    "force": LoadSort("Force", "force", "faces or handle"),
    "pressure": LoadSort("Pressure", "stress", "faces", has_direction=False),
    "displacement": LoadSort("Prescribed displacement", "length", "faces or handle"),
    "radial": LoadSort("Radial motion", "length", "faces", is_about_axis=True),
    "moment": LoadSort("Moment", "moment", "handle"),
    "rotation": LoadSort("Prescribed rotation", "angle", "handle"),
    "gravity": LoadSort("Gravity", "acceleration", "all"),
    "spin": LoadSort("Spin", "angular speed", "all", is_about_axis=True),
}
assert set(SORTS) == set(get_args(LoadKind))


class CoursePoint(Item):
    """A value that a load passes at a share of a step; at 0 it jumps there."""

    at: Annotated[float, Field(ge=0, lt=1)]
    value: str


class LoadUse(Item):
    """A force, pressure, prescribed displacement or radial motion on faces; at a handle also a moment or a rotation.

    ``on_average``: a radial motion moves its faces so on the whole, and each place of them as it likes; nothing is
    stiffened.

    Gravity and spin act on all parts. ``values`` gives the end value in each step named; other steps
    hold the last value. "off" takes it to zero. Within a step the value runs straight, or through the
    points of its course. ``released``: steps in which a prescribed motion lets go.
    """

    id: Identifier
    name: Label
    kind: LoadKind
    faces: list[FaceRef] = Field(default_factory=list)
    handle: HandleId | None = None
    direction: tuple[float, float, float] | None = None
    centre: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    values: dict[StepId, str] = Field(default_factory=dict)
    courses: dict[StepId, list[CoursePoint]] = Field(default_factory=dict)
    released: list[StepId] = Field(default_factory=list)
    on_average: bool = False

    @property
    def sort(self) -> LoadSort:
        """What this kind of load is."""
        return SORTS[self.kind]

    def number(self, written: str) -> float:
        """A value of this load in internal units.

        Raises
        ------
        UnitError : see `value_of`.
        """
        return 0.0 if written == "off" else value_of(written, self.sort.quantity)

    def spoken(self, value: float) -> str:
        """A value in internal units as people say it: ``12 kN``."""
        unit, factor = spoken(self.sort.quantity)
        return f"{value * factor:.3g} {unit}"

    @model_validator(mode="after")
    def _check(self) -> "LoadUse":
        acts_on = self.sort.acts_on
        if acts_on == "all":
            if self.faces or self.handle:
                raise ValueError(f"{self.kind} acts on all parts: take the faces and the handle away.")
        elif acts_on == "handle" and self.handle is None:
            raise ValueError(f"a {self.kind} acts at a handle: put one on the faces first.")
        elif acts_on == "faces" and not self.faces:
            raise ValueError(f"a {self.kind} acts on faces.")
        elif bool(self.faces) == (self.handle is not None):
            raise ValueError(f"a {self.kind} acts on faces or on a handle: give one of them.")
        if self.sort.has_direction and (self.direction is None or not any(self.direction)):
            raise ValueError(f"a {self.kind} needs a direction, three numbers that are not all zero.")
        if self.on_average and self.kind != "radial":
            raise ValueError(f"a {self.kind} is not on average: move an averaging handle on the faces instead.")
        points = [(step, point.value) for step, course in self.courses.items() for point in course]
        for step, value in [*self.values.items(), *points]:
            try:
                self.number(value)
            except UnitError as error:
                raise ValueError(f"value in step '{step}': {error}") from None
        for step, course in self.courses.items():
            if any(b.at < a.at for a, b in itertools.pairwise(course)):
                raise ValueError(f"the course in step '{step}' goes back in time: put its points in order.")
        return self


def _translated(ld: LoadUse, around: Around) -> tuple[Load]:
    x, y, z = (value_of(c, "length") for c in ld.centre)
    if ld.on_average:
        # Its faces follow a handle that the study does not know: `mean_handles`.
        return (Load(ld.id, "displacement", (), (1.0, 0.0, 0.0), mean_name(ld)),)
    found = around.faces(ld.faces, "faces")
    return (Load(ld.id, ld.kind, found, ld.direction or (0.0, 0.0, 0.0), ld.handle, (x, y, z)),)


def mean_name(load: LoadUse) -> str:
    """What the handle is called whose first component is the mean radial motion of a load's faces."""
    return f"{load.id} (on average)"


def mean_handle(load: LoadUse, around: Around) -> Handle:
    """The handle that the faces of a radial motion on average follow."""
    x, y, z = (value_of(c, "length") for c in load.centre)
    axes = axes_of(AxesUse(kind="round", centre=load.centre, line=load.direction or (0.0, 0.0, 0.0)))
    return Handle(mean_name(load), (x, y, z), around.faces(load.faces, "faces"), "radial", axes=axes)


KIND = Kind("load", "Load", "loads", LoadUse, "loads", _translated)
