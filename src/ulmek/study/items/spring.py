"""Springs between handles, or from a handle to the ground."""

from typing import Literal

import numpy as np

from ulmek.core.axes import axes_at
from ulmek.core.errors import InputError
from ulmek.core.model import Bolt, Spring
from ulmek.study.items.axes import TurnedAxes, axes_of
from ulmek.study.items.item import HandleId, Identifier, Item, Label, Stiffness, TurningStiffness
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import value_of


class SpringUse(Item):
    """Springs between two handles, or from one to the ground, along and about the coordinate axes, or its own.

    ``acts``: both ways; or along its one direction only pulling, as a rope does, or only pushing, as a stop does. To
    the ground it lengthens where the handle goes along the direction.
    """

    id: Identifier
    name: Label
    a: HandleId
    b: HandleId | None = None
    stiffness: tuple[Stiffness, Stiffness, Stiffness]
    turning: tuple[TurningStiffness, TurningStiffness, TurningStiffness] = ("0 N*mm/rad", "0 N*mm/rad", "0 N*mm/rad")
    axes: TurnedAxes | None = None
    acts: Literal["both", "pulling", "pushing"] = "both"


# Ends nearer to each other along a direction than this share of their distance lie side by side.
SIDE_BY_SIDE = 1e-3


def _translated(s: SpringUse, _: Around) -> tuple[Spring, ...]:
    along, about = _stiffnesses(s)
    axes = axes_of(s.axes)
    both = Spring(s.id, s.a, s.b, (along[0], along[1], along[2]), (about[0], about[1], about[2]), axes)
    return (both,) if s.acts == "both" else ()


def one_way(s: SpringUse, around: Around) -> Bolt:
    """A spring that only pulls or pushes, as a line that pulls; one that pushes pulls from the other side.

    Raises
    ------
    InputError : not one direction alone has a stiffness, or both ends lie side by side in that direction.
    """
    along, about = _stiffnesses(s)
    if np.count_nonzero(along) != 1 or any(about):
        raise InputError(
            f"a spring that acts only {s.acts} has one direction.", where="stiffness",
            hint="Give one stiffness along an axis and leave the others at zero; several such springs may act at once.",
        )  # fmt: skip
    places = {h.id: np.array([value_of(c, "length") for c in h.at]) for h in around.study.handles}
    component = int(np.flatnonzero(along)[0])
    direction = axes_at(axes_of(s.axes), places[s.a][None])[0, component]
    # Where both ends move apart the second goes along the direction, or to the ground the only one.
    far, near = (s.a, None) if s.b is None else (s.b, s.a)
    if s.b is not None:
        apart = places[s.b] - places[s.a]
        if abs(apart @ direction) <= SIDE_BY_SIDE * np.linalg.norm(apart):
            raise InputError(
                "its ends lie side by side across its direction, so that none can say when it lengthens.", where="axes",
                hint="Let its direction run from one end to the other, or move one of them.",
            )  # fmt: skip
        direction = direction * np.sign(apart @ direction)
    sense = 1.0 if s.acts == "pulling" else -1.0
    x, y, z = (sense * direction).tolist()
    return Bolt(f"spring {s.id}", (x, y, z), head=far, foot=near, stiffness=along[component], spring=s.id)


def _stiffnesses(s: SpringUse) -> tuple[list[float], list[float]]:
    along = [value_of(k, "stiffness") for k in s.stiffness]
    about = [value_of(k, "turning stiffness") for k in s.turning]
    if min(*along, *about) < 0 or max(*along, *about) == 0:
        raise InputError("a spring needs stiffnesses that are not negative, and one above zero.", where="stiffness")
    return along, about


KIND = Kind("spring", "Spring", "springs", SpringUse, "springs", _translated)
