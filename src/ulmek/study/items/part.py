"""Parts: recipes and solids of files, mesh settings, places."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ulmek.study.items.drawn import BentShape, DrawnShape, FaceLabel
from ulmek.study.items.item import Angle, EdgeName, Identifier, Item, Label, Length, MaterialId
from ulmek.study.items.kind import Kind

# Copies that a part may have.
MOST_COPIES = 200


class Turn(Item):
    """A turn about a coordinate axis, or about a direction, through the part's own origin."""

    axis: Literal["x", "y", "z"] | tuple[float, float, float]
    angle: Angle


class Placement(Item):
    """Where one copy of a part stands: mirrored in its own plane x = 0 or not, then turned, then moved."""

    mirrored: bool = False
    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    turn: Turn | None = None


Coordinate = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Vector = tuple[Coordinate, Coordinate, Coordinate]


class SweptSegment(Item):
    """A line, or an arc about ``centre``, of an outline (mm)."""

    name: Annotated[str, Field(max_length=40)]
    start: tuple[Coordinate, Coordinate]
    end: tuple[Coordinate, Coordinate]
    centre: tuple[Coordinate, Coordinate] | None = None
    ccw: bool = True


class SweptRegion(Item):
    """A region of the partition of a swept solid."""

    name: Annotated[str, Field(max_length=40)]
    pattern: Literal["paved", "mapped", "ring", "disc"]
    outer: Annotated[list[SweptSegment], Field(min_length=1, max_length=5000)]
    holes: Annotated[list[list[SweptSegment]], Field(max_length=1000)]


class SweptLayer(Item):
    """A slab and the regions that fill it."""

    name: Annotated[str, Field(max_length=40)]
    bottom: Coordinate
    top: Coordinate
    regions: Annotated[list[str], Field(max_length=5000)]


class SweptFace(Item):
    """The name of a face by layer, kind (top, bottom, side) and region or segment."""

    layer: str
    kind: str
    item: str
    name: Annotated[str, Field(max_length=40)]


class SweptShape(Item):
    """A solid extruded in layers, or without layers revolved, in axes of its own: turned by ``rotation``, then
    moved by ``shift`` (mm), it stands as in its file."""

    rotation: tuple[Vector, Vector, Vector]
    shift: Vector
    regions: Annotated[list[SweptRegion], Field(min_length=1, max_length=2000)]
    layers: Annotated[list[SweptLayer], Field(max_length=200)] = Field(default_factory=list)
    names: Annotated[list[SweptFace], Field(max_length=20000)] = Field(default_factory=list)


# Where a server keeps contents of its own, it writes this and the SHA-256 of the STEP file in their place.
REFERENCE = "sha256:"


class FileUse(Item):
    """A solid of a STEP file: the file's name and SHA-256, which of its solids, and the shape read from it: swept, or
    for a free-form one ``content``, a STEP file of it alone (zlib, base64). In a server's answers ``sha256:`` and the
    digest of that content stand in its place."""

    name: Annotated[str, Field(max_length=200)]
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    solid: Annotated[int, Field(ge=0, le=10000)]
    shape: SweptShape | None = None
    content: Annotated[str, Field(max_length=6_000_000)] | None = None

    @model_validator(mode="after")
    def _check(self) -> "FileUse":
        if (self.shape is None) == (self.content is None):
            raise ValueError("a solid of a file is swept or free-form: it has a shape or a content.")
        return self


class RecipeUse(Item):
    """A recipe with its dimensions: lengths and angles with units, counts and plain numbers without.

    A dimension may be an expression of others ("2*thickness + 1 mm").
    The kind ``file`` takes its solid from ``file`` and has no dimensions; the kinds ``drawn`` and ``bent`` are given by
    ``drawn`` and ``bent``, and their dimensions are what these speak of.
    ``kept``: the whole, the half with y ≥ 0 in the part's own axes, or the quarter with x ≥ 0 and y ≥ 0.
    ``dropped``: features of the recipe that are left out, whatever their dimensions.
    """

    kind: str
    dimensions: dict[str, str | int | float] = Field(default_factory=dict)
    kept: Literal["whole", "half", "quarter"] = "whole"
    dropped: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=20)] = Field(default_factory=list)
    file: FileUse | None = None
    drawn: DrawnShape | None = None
    bent: BentShape | None = None

    @property
    def share(self) -> float:
        """What is kept, as a share of the whole."""
        return {"whole": 1.0, "half": 0.5, "quarter": 0.25}[self.kept]

    @model_validator(mode="after")
    def _check(self) -> "RecipeUse":
        for kind, given in (("file", self.file), ("drawn", self.drawn), ("bent", self.bent)):
            if (self.kind == kind) != (given is not None):
                raise ValueError(f"a part of the kind '{kind}', and no other, has '{kind}'.")
            if given is not None and self.dropped:
                raise ValueError(f"a part of the kind '{kind}' has no features that are left out by name.")
        return self


class Spot(Item):
    """A point in the part's own axes around which the mesh is finer."""

    at: tuple[Length, Length, Length]
    size: Length


SizeInMm = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e6)]
# A point of the part's own axes (mm) and the element size there (mm); of a swept part across its sweep, and then the
# height of its layers there.
FoundSize = (
    tuple[Coordinate, Coordinate, Coordinate, SizeInMm] | tuple[Coordinate, Coordinate, Coordinate, SizeInMm, SizeInMm]
)
# Points of one part at which settling may ask for finer elements.
MOST_FOUND = 500


class MeshSettings(Item):
    """Wanted element size, finer named faces, edges and spots, elements per turn of an arc, layers of the first slab.

    ``through``: elements through what a face of a swept part bounds, below a top, above a bottom, along a side.
    ``edges``: sizes along the edge between two faces, ``"top|hole.1"``. ``layer_ratio``: height of the last layer of
    the first slab over that of its first.

    ``pattern``: rows and columns where outlines have four sides or are rings, or ``free`` everywhere.

    ``elements``: bricks, or wedges or second-order tetrahedra cut from them; in a plane study 4-node quads, or 6-node
    triangles cut from them. ``second-order``: 8-node quads of a plane study. ``beam``: a straight part of one
    outline as a beam along its z axis, whose outline still touches other parts.

    ``found``: where settling found that the mesh has to be finer; each grows away as a spot does.
    """

    size: Length
    faces: dict[str, Length] = Field(default_factory=dict)
    edges: dict[EdgeName, Length] = Field(default_factory=dict)
    spots: Annotated[list[Spot], Field(max_length=50)] = Field(default_factory=list)
    found: Annotated[list[FoundSize], Field(max_length=MOST_FOUND)] = Field(default_factory=list)
    per_turn: Annotated[int, Field(ge=8, le=96)] = 24
    layers: Annotated[int, Field(ge=1, le=200)] | None = None
    layer_ratio: Annotated[float, Field(ge=0.02, le=50)] = 1.0
    through: dict[str, Annotated[int, Field(ge=1, le=200)]] = Field(default_factory=dict)
    pattern: Literal["structured", "free"] = "structured"
    elements: Literal["bricks", "wedges", "tets", "second-order", "beam"] = "bricks"


class FaceRegion(Item):
    """What of a face lies within a ball of ``reach`` about a point of the part's own axes, or within a box of ``sizes``
    amid it: a face of its own, along the edges of elements."""

    name: FaceLabel
    of: Annotated[str, Field(pattern=r"^[a-z0-9.-]+$")]
    at: tuple[Length, Length, Length]
    reach: Length | None = None
    sizes: tuple[Length, Length, Length] | None = None

    @model_validator(mode="after")
    def _check(self) -> "FaceRegion":
        if (self.reach is None) == (self.sizes is None):
            raise ValueError(f"the region '{self.name}' has a reach, or else three sizes.")
        return self


class Part(Item):
    """One part, in one or several copies. ``in_analysis``: false where it is drawn only; what hangs on it sleeps.

    ``judged``: whether its stress is judged at singular places too, where it grows with every finer mesh.
    """

    id: Identifier
    name: Label
    recipe: RecipeUse
    material: MaterialId
    mesh: MeshSettings
    placements: Annotated[list[Placement], Field(min_length=1, max_length=MOST_COPIES)] = Field(
        default_factory=lambda: [Placement()]
    )
    in_analysis: bool = True
    judged: Literal["away", "everywhere"] = "away"
    regions: Annotated[list[FaceRegion], Field(max_length=50)] = Field(default_factory=list)


KIND = Kind("part", "Part", "parts", Part)
