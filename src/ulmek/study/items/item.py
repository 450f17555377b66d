"""What all items of a study document share: identifiers, references, and quantities written with their units.

A field that names another item says so in its type (`HandleId`, `StepId`, `FaceRef` …). What checks names, takes items
out and renames them reads these types, so that a new field is known to all of them.
"""

from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ulmek.core.errors import UnitError
from ulmek.study.units import Kind, value_of

FORMAT = "ulmek-study"
VERSION = 2
AXES = {"x": 0, "y": 1, "z": 2}


def part_of(face: str) -> str:
    """The part that a face is of, whatever copy.

    >>> part_of("bolts#2/head.bearing")
    'bolts'
    """
    return face.split("/")[0].split("#")[0]


def free_id(wanted: str, taken: Collection[str]) -> str:
    """The id that is wanted, with the first number that makes it one that is not taken.

    >>> free_id("hold", ["hold", "hold-2"])
    'hold-3'
    """
    return next(i for n in range(1, len(taken) + 2) if (i := wanted if n == 1 else f"{wanted}-{n}") not in taken)


@dataclass(frozen=True)
class Refers:
    """Marks a type whose values name an item of the kind ``to``.

    is_of_faces: the values are faces or copies of parts, which are looked up when the study is translated.
    stays: the item named cannot be taken out while it is named. lets_go: where it is taken out, nothing is named in its
    place, and who named it stays.
    """

    to: str
    is_of_faces: bool = False
    stays: bool = False
    lets_go: bool = False

    def target(self, written: str) -> str:
        """The id that a value names: ``bolts`` in ``bolts#2/head.bearing``."""
        return part_of(written) if self.is_of_faces else written


Identifier = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,47}$")]
Label = Annotated[str, Field(min_length=1, max_length=80)]
MaterialId = Annotated[Identifier, Refers("material", stays=True)]
PartId = Annotated[Identifier, Refers("part")]
StepId = Annotated[Identifier, Refers("step")]
HandleId = Annotated[Identifier, Refers("handle")]
WallId = Annotated[Identifier, Refers("wall")]
ContactId = Annotated[Identifier, Refers("contact", lets_go=True)]
PairId = Annotated[Identifier, Refers("pair")]
BoltId = Annotated[Identifier, Refers("bolt")]
SpringId = Annotated[Identifier, Refers("spring")]
LinkId = Annotated[Identifier, Refers("link")]
SupportId = Annotated[Identifier, Refers("support")]
LoadId = Annotated[Identifier, Refers("load")]
# A material that may be taken out all the same.
MadeMaterialId = Annotated[Identifier, Refers("material")]
# A part with one copy, or one copy of a part.
BodyRef = Annotated[str, Field(pattern=r"^[a-z0-9-]+(#\d+)?$"), Refers("part", is_of_faces=True)]
FaceRef = Annotated[str, Field(pattern=r"^[a-z0-9-]+(#\d+)?/[a-z0-9.-]+$"), Refers("part", is_of_faces=True)]
EdgeName = Annotated[str, Field(pattern=r"^[a-z0-9.-]+\|[a-z0-9.-]+$")]


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
Moment = Annotated[str, AfterValidator(_quantity("moment"))]


class Item(BaseModel):
    """An item of the document: names that it does not know are refused, and it does not change once it is read."""

    model_config = ConfigDict(extra="forbid", frozen=True)
