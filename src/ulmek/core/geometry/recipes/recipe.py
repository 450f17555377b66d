"""What a recipe is: named dimensions with limits, and a rule that makes a solid of them."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.bent import BentSolid
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.revolved import RevolvedSolid

Values = Mapping[str, float]
Solid = LayeredSolid | RevolvedSolid | BentSolid


@dataclass(frozen=True)
class Dimension:
    """One dimension of a recipe: lengths in mm, angles in degrees, counts and numbers without unit; with limits.

    drops: the feature that is left out where the dimension is 0, in the words in which it is switched off.
    """

    name: str
    label: str
    default: float
    low: float
    high: float
    kind: Literal["length", "angle", "count", "number"] = "length"
    drops: str | None = None

    @property
    def unit(self) -> str:
        """Unit of the value, with a space before it; empty for counts and numbers."""
        return {"length": " mm", "angle": "°"}.get(self.kind, "")


@dataclass(frozen=True)
class Recipe:
    """A parametric description that makes a part.

    ``build`` gets a complete mapping of dimension names to values inside their limits.
    """

    kind: str
    label: str
    summary: str
    dimensions: tuple[Dimension, ...]
    build: Callable[[Values], Solid]

    @property
    def features(self) -> list[str]:
        """What can be left out of it."""
        return list(dict.fromkeys(d.drops for d in self.dimensions if d.drops is not None))

    def solid(self, given: Values) -> Solid:
        """The solid for ``given`` dimensions (mm); what is not given takes its default.

        Raises
        ------
        GeometryError : an unknown dimension, a value outside its limits, or a combination that
            no solid can have; ``where`` names the dimension.
        """
        return self.build(self.complete(given))

    def complete(self, given: Values) -> dict[str, float]:
        """All dimensions, defaults filled in and limits checked; raises as `solid` does."""
        known = {d.name: d for d in self.dimensions}
        for name in given:
            if name not in known:
                raise GeometryError(
                    f"the recipe '{self.kind}' has no dimension '{name}'.",
                    where=name,
                    hint=f"Its dimensions are {', '.join(known)}.",
                )
        values = {}
        for d in self.dimensions:
            value = float(given.get(d.name, d.default))
            if not d.low <= value <= d.high:
                raise GeometryError(
                    f"{d.label.lower()} is {value:g}{d.unit}, outside {d.low:g} to {d.high:g}{d.unit}.",
                    where=d.name,
                    hint="Give a value inside these limits.",
                )
            if d.kind == "count" and value != int(value):
                raise GeometryError(f"{d.label.lower()} is {value:g}, not a whole number.", where=d.name)
            values[d.name] = value
        return values
