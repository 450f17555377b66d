"""Joints: what was asked for of a connection, and the items that were made of it.

A joint is kept as a whole: when what it was asked for or what it joins changes, its pieces follow (`study.joints`).
"""

from typing import Annotated, Literal

from pydantic import Field

from ulmek.study.items.bolt import Strength
from ulmek.study.items.item import (
    Angle,
    BoltId,
    FaceRef,
    Force,
    HandleId,
    Item,
    Label,
    Length,
    LinkId,
    LoadId,
    MadeMaterialId,
    Moment,
    PairId,
    PartId,
    SpringId,
    StepId,
    Stiffness,
    SupportId,
    WallId,
)
from ulmek.study.items.kind import Kind

Friction = Annotated[float, Field(ge=0, le=10)]
# What an item is in its joint: ``bolts``, ``heads``, ``faces:plate:lug``.
Role = Annotated[str, Field(min_length=1, max_length=120)]


class Bolted(Item):
    """Parts clamped by bolts through holes in line.

    holes: one of each part, from the far end to the head. whole_pattern: bolts in all holes like them that are in line.
    diameter: of the thread; by the narrowest hole (ISO 273) when none. far_end: a nut, a thread in the first part, or
    the ground; flipped: of one part alone, the head on the other side. wall: the first part rests on a datum wall.
    tightened_by: a share of the proof load, a force, or a tightening moment (T = K·d·F); scatter: its share
    to both sides. keep_together: the parts are kept on each other, holes in line, the first where it is.
    """

    kind: Literal["bolted"] = "bolted"
    holes: Annotated[list[FaceRef], Field(min_length=1, max_length=20)]
    flipped: bool = False
    whole_pattern: bool = True
    diameter: Length | None = None
    strength: Strength = "8.8"
    modelled: Literal["solid", "line-stiff", "line-averaging"] = "solid"
    far_end: Literal["nut", "thread", "ground"] = "nut"
    washers: Literal["none", "head", "both"] = "none"
    tightened_by: Literal["use", "force", "torque"] = "use"
    use: Annotated[float, Field(gt=0, le=1)] = 0.6
    force: Force = "20 kN"
    torque: Moment = "100 N*m"
    nut_factor: Annotated[float, Field(gt=0.05, lt=1)] = 0.2
    scatter: Annotated[float, Field(ge=0, lt=1)] = 0.25
    mu: Friction = 0.15
    mu_heads: Friction = 0.15
    shanks: Literal["freely", "friction", "left-out"] = "freely"
    wall: bool = False
    keep_together: bool = True


class Pinned(Item):
    """Parts on a pin through holes in line.

    fit: the pin as wide as the holes, or smaller by the mean of a class or by a clearance of diameters. kept_by: soft
    springs to the ground, a guide that keeps it along its axis, or heads on both sides.
    """

    kind: Literal["pinned"] = "pinned"
    holes: Annotated[list[FaceRef], Field(min_length=1, max_length=20)]
    fit: Literal["snug", "class", "clearance"] = "snug"
    fit_class: Annotated[str, Field(max_length=12)] = "H7/f7"
    clearance: Length = "0.05 mm"
    kept_by: Literal["spring", "guide", "heads"] = "spring"
    soft: Stiffness = "10 N/mm"
    mu: Friction = 0.15
    keep_together: bool = True


class Pressed(Item):
    """A shaft in a bore with an overlap; without a ``shaft`` one is made. limit: which of a class counts.

    asked: a torque or a push along the axis that the joint is loaded with afterwards.
    """

    kind: Literal["pressed"] = "pressed"
    bore: FaceRef
    shaft: FaceRef | None = None
    by: Literal["class", "overlap"] = "class"
    fit_class: Annotated[str, Field(max_length=12)] = "H7/s6"
    limit: Literal["least", "mean", "most"] = "mean"
    overlap: Length = "0.02 mm"
    asked: Literal["nothing", "torque", "push"] = "nothing"
    torque: Moment = "50 N*m"
    push: Force = "5 kN"
    mu: Friction = 0.12
    keep_together: bool = True


class Geared(Item):
    """Two gears, or a gear and a rack, in mesh: ``moved`` goes to ``stays``.

    backlash: between the flanks that do not drive. The moved one is loaded with a torque against the other, which is
    held, or turned by an angle against a torque on the other.
    """

    kind: Literal["geared"] = "geared"
    stays: FaceRef
    moved: FaceRef
    backlash: Length = "0.1 mm"
    driven: Literal["loaded", "turned"] = "loaded"
    torque: Moment = "20 N*m"
    turn: Angle = "5 deg"
    mu: Friction = 0.1


class Seated(Item):
    """Faces of two parts that rest on each other. force: that the hand check is made for."""

    kind: Literal["seated"] = "seated"
    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: Annotated[list[FaceRef], Field(min_length=1)]
    mu: Friction = 0.15
    force: Force = "1 kN"
    keep_together: bool = True


class Guided(Item):
    """A shank that slides in a bore with a clearance of diameters. force: across it, for the hand check."""

    kind: Literal["guided"] = "guided"
    bore: FaceRef
    shank: FaceRef
    clearance: Length = "0.05 mm"
    mu: Friction = 0.0
    force: Force = "1 kN"
    keep_together: bool = True


class Hinged(Item):
    """Round faces that turn about their common axis without a pin; without ``b`` about one that the ground holds."""

    kind: Literal["hinged"] = "hinged"
    a: FaceRef
    b: FaceRef | None = None
    ends: Literal["rigid", "averaging"] = "averaging"


class OnWall(Item):
    """Faces that rest on a datum wall where they lie. force: that the hand check is made for."""

    kind: Literal["on-wall"] = "on-wall"
    faces: Annotated[list[FaceRef], Field(min_length=1)]
    mu: Friction = 0.15
    force: Force = "1 kN"


Ask = Bolted | Pinned | Pressed | Geared | Seated | Guided | Hinged | OnWall


class Pieces(Item):
    """The items that a joint is made of, by their ids, each with what it is in the joint."""

    materials: dict[MadeMaterialId, Role] = Field(default_factory=dict)
    parts: dict[PartId, Role] = Field(default_factory=dict)
    pairs: dict[PairId, Role] = Field(default_factory=dict)
    bolts: dict[BoltId, Role] = Field(default_factory=dict)
    walls: dict[WallId, Role] = Field(default_factory=dict)
    handles: dict[HandleId, Role] = Field(default_factory=dict)
    springs: dict[SpringId, Role] = Field(default_factory=dict)
    links: dict[LinkId, Role] = Field(default_factory=dict)
    supports: dict[SupportId, Role] = Field(default_factory=dict)
    loads: dict[LoadId, Role] = Field(default_factory=dict)
    steps: dict[StepId, Role] = Field(default_factory=dict)

    def of(self, section: str) -> dict[str, str]:
        """Ids and roles of one list of the document."""
        found: dict[str, str] = getattr(self, section)
        return found


class JointUse(Item):
    """A connection of parts as a whole: what it was asked to be, and its pieces."""

    id: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,31}$")]
    name: Label
    ask: Annotated[Ask, Field(discriminator="kind")]
    pieces: Pieces = Pieces()


# What is asked of each kind.
ASKS: dict[str, type[Item]] = {
    "bolted": Bolted,
    "pinned": Pinned,
    "pressed": Pressed,
    "geared": Geared,
    "seated": Seated,
    "guided": Guided,
    "hinged": Hinged,
    "on-wall": OnWall,
}

KIND = Kind("joint", "Joint", "joints", JointUse)
