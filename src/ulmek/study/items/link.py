"""Links: one handle follows another."""

from typing import Literal

from ulmek.core.model import Link
from ulmek.study.items.axes import AxesUse, Direction, axes_of
from ulmek.study.items.item import AXES, HandleId, Identifier, Item, Label
from ulmek.study.items.kind import Around, Kind


class LinkUse(Item):
    """A joint between two handles: fixed, a hinge about an axis, or a slider along one: a coordinate axis, or any."""

    id: Identifier
    name: Label
    a: HandleId
    b: HandleId
    kind: Literal["fixed", "hinge", "slider"] = "fixed"
    axis: Literal["x", "y", "z"] | Direction = "z"


def _translated(link: LinkUse, _: Around) -> tuple[Link]:
    held = [True] * 6
    axes = None if isinstance(link.axis, str) else axes_of(AxesUse(x=link.axis))
    along = AXES[link.axis] if isinstance(link.axis, str) else 0
    if link.kind == "hinge":
        held[3 + along] = False
    elif link.kind == "slider":
        held[along] = False
    return (Link(link.id, link.a, link.b, (held[0], held[1], held[2], held[3], held[4], held[5]), axes),)


KIND = Kind("link", "Link", "links", LinkUse, "links", _translated)
