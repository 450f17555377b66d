"""Axes of an item's own: turned ones, or round ones about a line."""

from typing import Annotated, Literal

from pydantic import AfterValidator, model_validator

from ulmek.core.axes import Axes
from ulmek.study.items.item import Item, Length
from ulmek.study.units import value_of

# What components are called about a line.
ROUND_NAMES = {"x": "radial", "y": "hoop", "z": "axial"}


def _not_zero(direction: tuple[float, float, float]) -> tuple[float, float, float]:
    if not any(direction):
        raise ValueError("the direction has no length: give three numbers that are not all zero.")
    return direction


Direction = Annotated[tuple[float, float, float], AfterValidator(_not_zero)]


class TurnedAxes(Item):
    """What x, y and z of an item stand for: x along ``x``, and y as near to ``y`` as can be (None: any way across)."""

    x: Direction = (1.0, 0.0, 0.0)
    y: Direction | None = None

    @model_validator(mode="after")
    def _check(self) -> "TurnedAxes":
        try:
            Axes.along(self.x, self.y)
        except ValueError:
            raise ValueError("x and y of these axes point the same way: give another direction for one.") from None
        return self


class AxesUse(TurnedAxes):
    """What x, y and z of an item stand for: turned as `TurnedAxes`; or round: radial, hoop and axial about the ``line``
    through ``centre``."""

    kind: Literal["turned", "round"] = "turned"
    centre: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    line: Direction = (0.0, 0.0, 1.0)


def axes_of(use: TurnedAxes | None) -> Axes | None:
    """The core's axes, None for those of the machine."""
    if use is None:
        return None
    if not isinstance(use, AxesUse) or use.kind == "turned":
        return Axes.along(use.x, use.y)
    x, y, z = (value_of(c, "length") for c in use.centre)
    return Axes.about((x, y, z), use.line)


def component_name(component: str, use: TurnedAxes | None) -> str:
    """A component in words: ``x``, ``turn z``, ``own x`` of turned axes, or ``radial`` about a line."""
    turn, axis = component.startswith("turn-"), component[-1]
    is_round = isinstance(use, AxesUse) and use.kind == "round"
    named = ROUND_NAMES[axis] if is_round else axis if use is None else f"own {axis}"
    return f"turn {named}" if turn else named
