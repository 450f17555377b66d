"""Drawn parts and bent bars: outlines of lines and arcs, layers, runs, and planes that cut a bar.

Entries are quantities with their unit, or expressions of the dimensions of the part ("2*wall + 1 mm").
"""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from ulmek.study.items.item import Item, Length

Entry = Annotated[str, Field(min_length=1, max_length=120)]
# What the program itself calls faces and edges of solids.
RESERVED = {"top", "bottom", "start", "end", "core", "core.side", "axis"}


def _free_label(name: str) -> str:
    if name in RESERVED or name.startswith("cut."):
        raise ValueError(f"'{name}' is a name that the program gives itself: choose another for the edge.")
    return name


FaceLabel = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9.-]{0,39}$"), AfterValidator(_free_label)]
Name = Annotated[str, Field(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=24)]


class DrawnArc(Item):
    """An arc in the place of a straight edge: its radius, the side that it turns to on its way, and whether it is the
    one of more than half a turn."""

    radius: Entry
    turns: Literal["left", "right"] = "left"
    is_long: bool = False


class DrawnEdge(Item):
    """An edge of a ring, from the end of the one before it; ``corner`` rounds the corner at its end."""

    name: FaceLabel
    to: tuple[Entry, Entry]
    arc: DrawnArc | None = None
    corner: Entry | None = None


class DrawnCircle(Item):
    """A circle."""

    centre: tuple[Entry, Entry]
    diameter: Entry


class DrawnOutline(Item):
    """A ring of edges or a circle: material, or what is taken out of it. A circle's face is called as the outline."""

    name: FaceLabel
    takes_out: bool = False
    edges: Annotated[list[DrawnEdge], Field(max_length=400)] = Field(default_factory=list)
    circle: DrawnCircle | None = None

    @model_validator(mode="after")
    def _check(self) -> "DrawnOutline":
        if (self.circle is None) == (not self.edges):
            raise ValueError(f"the outline '{self.name}' is a circle or has edges: give one of the two.")
        return self


Outlines = Annotated[list[DrawnOutline], Field(min_length=1, max_length=100)]


class DrawnLayer(Item):
    """A height and the outlines that give it its shape; layers stand on each other from z = 0."""

    name: Name
    height: Entry
    outlines: Annotated[list[FaceLabel], Field(max_length=100)]


class DrawnShape(Item):
    """Outlines given height in layers, or without layers turned about their line x = 0."""

    outlines: Outlines
    layers: Annotated[list[DrawnLayer], Field(max_length=50)] = Field(default_factory=list)


class BarRun(Item):
    """A straight run of a ``length``; or a bend by its ``angle`` at the ``radius`` of its path, ``towards`` a direction
    turned from the x axis of the section to its y axis."""

    name: Name
    length: Entry | None = None
    radius: Entry | None = None
    angle: Entry | None = None
    towards: Entry = "0 deg"

    @model_validator(mode="after")
    def _check(self) -> "BarRun":
        if (self.length is None) == (self.radius is None) or (self.radius is None) != (self.angle is None):
            raise ValueError(f"the run '{self.name}' has a length, or else a radius and an angle.")
        return self


class BarCut(Item):
    """A plane in the part's own axes: what of the bar lies on the side of its normal stays."""

    normal: tuple[float, float, float]
    at: Length


class BentShape(Item):
    """A section, drawn about the origin, swept along runs that begin in the origin along z, and cut by planes."""

    section: Outlines
    runs: Annotated[list[BarRun], Field(min_length=1, max_length=200)]
    cuts: Annotated[list[BarCut], Field(max_length=6)] = Field(default_factory=list)
