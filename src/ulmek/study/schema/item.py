"""What all items of a study document share: identifiers, and quantities written with their units."""

from collections.abc import Callable
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ulmek.core.errors import UnitError
from ulmek.study.units import Kind, value_of

FORMAT = "ulmek-study"
VERSION = 1
Identifier = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,47}$")]
Label = Annotated[str, Field(min_length=1, max_length=80)]


def _quantity(kind: Kind) -> Callable[[str], str]:
    def check(text: str) -> str:
        try:
            value_of(text, kind)
        except UnitError as error:
            raise ValueError(str(error)) from None
        return text

    return check


Length = Annotated[str, AfterValidator(_quantity("length"))]
Force = Annotated[str, AfterValidator(_quantity("force"))]
Stress = Annotated[str, AfterValidator(_quantity("stress"))]
Density = Annotated[str, AfterValidator(_quantity("density"))]
Stiffness = Annotated[str, AfterValidator(_quantity("stiffness"))]
TurningStiffness = Annotated[str, AfterValidator(_quantity("turning stiffness"))]
Mass = Annotated[str, AfterValidator(_quantity("mass"))]
Time = Annotated[str, AfterValidator(_quantity("time"))]
Angle = Annotated[str, AfterValidator(_quantity("angle"))]
EdgeName = Annotated[str, Field(pattern=r"^[a-z0-9.-]+\|[a-z0-9.-]+$")]
FaceRef = Annotated[str, Field(pattern=r"^[a-z0-9-]+(#\d+)?/[a-z0-9.-]+$")]


class Item(BaseModel):
    """An item of the document: names that it does not know are refused, and it does not change once it is read."""

    model_config = ConfigDict(extra="forbid", frozen=True)
