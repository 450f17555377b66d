"""Springs between handles, or from a handle to the ground."""

from ulmek.core.errors import InputError
from ulmek.core.model import Spring
from ulmek.study.items.axes import TurnedAxes, axes_of
from ulmek.study.items.item import HandleId, Identifier, Item, Label, Stiffness, TurningStiffness
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import value_of


class SpringUse(Item):
    """Springs between two handles, or from one to the ground, along and about the coordinate axes, or its own."""

    id: Identifier
    name: Label
    a: HandleId
    b: HandleId | None = None
    stiffness: tuple[Stiffness, Stiffness, Stiffness]
    turning: tuple[TurningStiffness, TurningStiffness, TurningStiffness] = ("0 N*mm/rad", "0 N*mm/rad", "0 N*mm/rad")
    axes: TurnedAxes | None = None


def _translated(s: SpringUse, _: Around) -> tuple[Spring]:
    along = [value_of(k, "stiffness") for k in s.stiffness]
    about = [value_of(k, "turning stiffness") for k in s.turning]
    if min(*along, *about) < 0 or max(*along, *about) == 0:
        raise InputError("a spring needs stiffnesses that are not negative, and one above zero.", where="stiffness")
    return (Spring(s.id, s.a, s.b, (along[0], along[1], along[2]), (about[0], about[1], about[2]), axes_of(s.axes)),)


KIND = Kind("spring", "Spring", "springs", SpringUse, "springs", _translated)
