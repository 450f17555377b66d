"""Materials."""

from typing import Annotated

from pydantic import Field, model_validator

from ulmek.study.items.item import Density, Identifier, Item, Label, Stress
from ulmek.study.items.kind import Kind


class HardeningRow(Item):
    """Yield stress at an equivalent plastic strain."""

    strain: Annotated[float, Field(ge=0)]
    stress: Stress


class Hardening(Item):
    """How a material yields: a table that begins at plastic strain 0.

    ``kinematic_share`` of the hardening moves the yield surface, the rest widens it.
    """

    table: Annotated[list[HardeningRow], Field(min_length=1, max_length=500)]
    kinematic_share: Annotated[float, Field(ge=0, le=1)] = 0.0


class RubberConstants(Item):
    """Mooney–Rivlin constants and bulk modulus; neo-Hookean when ``c01`` is zero."""

    c10: Stress
    c01: Stress = "0 MPa"
    bulk: Stress


class Material(Item):
    """A material: elastic with its yield stress, elastic-plastic with ``hardening``, or a rubber.

    ``allowable``: what its von Mises stress is judged against; else the yield stress, over ``safety`` where that
    is given.
    """

    id: Identifier
    name: Label
    young: Stress | None = None
    poisson: float | None = None
    yield_stress: Stress | None = None
    allowable: Stress | None = None
    safety: Annotated[float, Field(ge=1, le=100)] | None = None
    density: Density | None = None
    hardening: Hardening | None = None
    rubber: RubberConstants | None = None

    @property
    def bears_less(self) -> bool:
        """Whether something less than yield is judged against."""
        return self.allowable is not None or (self.safety is not None and self.yield_stress is not None)

    @model_validator(mode="after")
    def _check(self) -> "Material":
        elastic = self.young is not None and self.poisson is not None
        if (self.rubber is None) != elastic:
            raise ValueError("give young and poisson, or the constants of a rubber, and not both.")
        if self.rubber is not None and self.hardening is not None:
            raise ValueError("a rubber does not harden: take its hardening away.")
        return self


KIND = Kind("material", "Material", "materials", Material)
