"""The study document: parts, materials, pairs, bolts, supports, loads and steps, with units.

Its JSON (`*.ulmek.json`) is the one description of a study: the interface edits it, the command
line solves it, the server stores it. `StudyDocument.model_json_schema()` is the published schema.
"""

import itertools
import json
from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError, model_validator

from ulmek.core.errors import InputError, UnitError, UnknownNameError
from ulmek.core.handcalc.bolted_joint import preload_of_torque
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


class _Item(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class HardeningRow(_Item):
    """Yield stress at an equivalent plastic strain."""

    strain: Annotated[float, Field(ge=0)]
    stress: Stress


class Hardening(_Item):
    """How a material yields: a table that begins at plastic strain 0.

    ``kinematic_share`` of the hardening moves the yield surface, the rest widens it.
    """

    table: Annotated[list[HardeningRow], Field(min_length=1, max_length=500)]
    kinematic_share: Annotated[float, Field(ge=0, le=1)] = 0.0


class RubberConstants(_Item):
    """Mooney–Rivlin constants and bulk modulus; neo-Hookean when ``c01`` is zero."""

    c10: Stress
    c01: Stress = "0 MPa"
    bulk: Stress


class Material(_Item):
    """A material: elastic with its yield stress, elastic-plastic with ``hardening``, or a rubber.

    ``allowable``: what its von Mises stress is judged against; the yield stress when none is given.
    """

    id: Identifier
    name: Label
    young: Stress | None = None
    poisson: float | None = None
    yield_stress: Stress | None = None
    allowable: Stress | None = None
    density: Density | None = None
    hardening: Hardening | None = None
    rubber: RubberConstants | None = None

    @model_validator(mode="after")
    def _check(self) -> "Material":
        elastic = self.young is not None and self.poisson is not None
        if (self.rubber is None) != elastic:
            raise ValueError("give young and poisson, or the constants of a rubber, and not both.")
        if self.rubber is not None and self.hardening is not None:
            raise ValueError("a rubber does not harden: take its hardening away.")
        return self


class Turn(_Item):
    """A turn about a coordinate axis, or about a direction, through the part's own origin."""

    axis: Literal["x", "y", "z"] | tuple[float, float, float]
    angle: Angle


class Placement(_Item):
    """Where one copy of a part stands: turned first, then moved."""

    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    turn: Turn | None = None


Coordinate = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Vector = tuple[Coordinate, Coordinate, Coordinate]


class SweptSegment(_Item):
    """A line, or an arc about ``centre``, of an outline (mm)."""

    name: Annotated[str, Field(max_length=40)]
    start: tuple[Coordinate, Coordinate]
    end: tuple[Coordinate, Coordinate]
    centre: tuple[Coordinate, Coordinate] | None = None
    ccw: bool = True


class SweptRegion(_Item):
    """A region of the partition of a swept solid."""

    name: Annotated[str, Field(max_length=40)]
    pattern: Literal["paved", "mapped", "ring", "disc"]
    outer: Annotated[list[SweptSegment], Field(min_length=1, max_length=5000)]
    holes: Annotated[list[list[SweptSegment]], Field(max_length=1000)]


class SweptLayer(_Item):
    """A slab and the regions that fill it."""

    name: Annotated[str, Field(max_length=40)]
    bottom: Coordinate
    top: Coordinate
    regions: Annotated[list[str], Field(max_length=5000)]


class FaceLabel(_Item):
    """The name of a face by layer, kind (top, bottom, side) and region or segment."""

    layer: str
    kind: str
    item: str
    name: Annotated[str, Field(max_length=40)]


class SweptShape(_Item):
    """A solid extruded in layers, or without layers revolved, in axes of its own: turned by ``rotation``, then
    moved by ``shift`` (mm), it stands as in its file."""

    rotation: tuple[Vector, Vector, Vector]
    shift: Vector
    regions: Annotated[list[SweptRegion], Field(min_length=1, max_length=2000)]
    layers: Annotated[list[SweptLayer], Field(max_length=200)] = Field(default_factory=list)
    names: Annotated[list[FaceLabel], Field(max_length=20000)] = Field(default_factory=list)


class FileUse(_Item):
    """A solid of a STEP file: the file's name and SHA-256, which of its solids, and the shape read from it: swept, or
    for a free-form one ``content``, a STEP file of it alone (zlib, base64)."""

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


class RecipeUse(_Item):
    """A recipe with its dimensions: lengths and angles with units, counts and plain numbers without.

    The kind ``file`` takes its solid from ``file`` and has no dimensions.
    ``kept``: the whole, the half with y ≥ 0 in the part's own axes, or the quarter with x ≥ 0 and y ≥ 0.
    """

    kind: str
    dimensions: dict[str, str | int | float] = Field(default_factory=dict)
    kept: Literal["whole", "half", "quarter"] = "whole"
    file: FileUse | None = None

    @model_validator(mode="after")
    def _check(self) -> "RecipeUse":
        if (self.kind == "file") != (self.file is not None):
            raise ValueError("a part of the kind 'file', and no other, has a file.")
        return self


class Spot(_Item):
    """A point in the part's own axes around which the mesh is finer."""

    at: tuple[Length, Length, Length]
    size: Length


class MeshSettings(_Item):
    """Wanted element size, finer named faces, edges and spots, elements per turn of an arc, layers of the first slab.

    ``edges``: sizes along the edge between two faces, ``"top|hole.1"``. ``layer_ratio``: height of the last layer of
    the first slab over that of its first.

    ``elements``: bricks, or wedges or second-order tetrahedra cut from them; in a plane study 4-node quads, or 6-node
    triangles cut from them. ``second-order``: 8-node quads of a plane study. ``beam``: a straight part of one
    outline as a beam along its z axis, whose outline still touches other parts.
    """

    size: Length
    faces: dict[str, Length] = Field(default_factory=dict)
    edges: dict[EdgeName, Length] = Field(default_factory=dict)
    spots: Annotated[list[Spot], Field(max_length=50)] = Field(default_factory=list)
    per_turn: Annotated[int, Field(ge=8, le=96)] = 24
    layers: Annotated[int, Field(ge=1, le=200)] | None = None
    layer_ratio: Annotated[float, Field(ge=0.02, le=50)] = 1.0
    elements: Literal["bricks", "wedges", "tets", "second-order", "beam"] = "bricks"


class Part(_Item):
    """One part, in one or several copies."""

    id: Identifier
    name: Label
    recipe: RecipeUse
    material: Identifier
    mesh: MeshSettings
    placements: Annotated[list[Placement], Field(min_length=1, max_length=200)] = Field(
        default_factory=lambda: [Placement()]
    )


class Law(_Item):
    """Two switches and a number: may the pair open, may it slide."""

    may_open: bool = True
    may_slide: Literal["no", "freely", "friction"] = "friction"
    mu: Annotated[float, Field(ge=0, le=10)] = 0.15


class EnforcementChoice(_Item):
    """``exact`` (no penetration), ``penalty`` with a stiffness as a multiple of E/h, or ``augmented``:
    the penalty repeated until no node penetrates by more than ``allowed``."""

    method: Literal["exact", "augmented", "penalty"] = "exact"
    allowed: Length = "0.0001 mm"
    stiffness: Annotated[float, Field(gt=0, le=1e6)] = 100.0


class WallUse(_Item):
    """A datum wall: a rigid plane, cylinder or sphere for a part that is not modelled.

    ``at``: on the plane, on the axis, or the middle. ``direction``: out of the plane towards the parts, or
    along the axis. ``hollow``: touched from inside. ``handle``: what moves it; the ground when none.
    """

    id: Identifier
    name: Label
    kind: Literal["plane", "cylinder", "sphere"]
    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    direction: tuple[float, float, float] = (0.0, 0.0, 1.0)
    radius: Length = "0 mm"
    hollow: bool = False
    handle: Identifier | None = None

    @model_validator(mode="after")
    def _check(self) -> "WallUse":
        if not any(self.direction):
            raise ValueError("the direction of a wall has three numbers that are not all zero.")
        if self.kind != "plane" and value_of(self.radius, "length") <= 0:
            raise ValueError(f"a {self.kind} needs a radius above zero.")
        return self


class PairUse(_Item):
    """Faces that may touch each other, or a datum wall (then side B is empty).

    Side A carries the integration: the finer, fully covered side.

    ``fit`` "value" sets the overlap to ``interference`` all over (negative for a clearance).
    ``released``: steps in which the pair does not act.
    """

    id: Identifier
    name: Label
    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: list[FaceRef]
    wall: Identifier | None = None
    law: Law = Law()
    fit: Literal["as-drawn", "overlap-removed", "closed-up", "value"] = "as-drawn"
    interference: Length = "0 mm"
    search: Length = "1 mm"
    enforcement: EnforcementChoice = EnforcementChoice()
    released: list[Identifier] = Field(default_factory=list)


class LeftOut(_Item):
    """Faces that touch or come close and shall be no pair."""

    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: Annotated[list[FaceRef], Field(min_length=1)]


class LineBolt(_Item):
    """A bolt that is not modelled as a solid: a line from head to foot with the stiffness E·A/L.

    ``head`` and ``foot`` are handles on what it clamps and where its thread holds; no ``foot`` means
    the ground. ``direction`` points from the foot to the head where there is no foot.
    """

    head: Identifier
    foot: Identifier | None = None
    direction: tuple[float, float, float] | None = None
    stiffness: Stiffness

    @model_validator(mode="after")
    def _check(self) -> "LineBolt":
        if self.foot is None and (self.direction is None or not any(self.direction)):
            raise ValueError("a bolt into the ground needs a direction, from its foot to its head.")
        return self


class Tightening(_Item):
    """How a tightening moment becomes a preload: nut factor K and nominal diameter d."""

    nut_factor: Annotated[float, Field(gt=0.05, lt=1)] = 0.2
    diameter: Length


class BoltUse(_Item):
    """A part made by a bolt recipe, or a line, tightened in steps; every copy of a part is one bolt.

    ``preload`` gives the force at the end of each step named, or with ``torque`` the tightening moment
    (T = K·d·F); in other steps the length is kept.
    """

    id: Identifier
    name: Label
    part: Identifier | None = None
    line: LineBolt | None = None
    preload: dict[str, str] = Field(default_factory=dict)
    torque: Tightening | None = None

    def force_in(self, step: str) -> float:
        """Preload (N) of a step that names one."""
        if self.torque is None:
            return value_of(self.preload[step], "force")
        moment = value_of(self.preload[step], "moment")
        return preload_of_torque(moment, self.torque.nut_factor, value_of(self.torque.diameter, "length"))

    @model_validator(mode="after")
    def _check(self) -> "BoltUse":
        for step, written in self.preload.items():
            try:
                value_of(written, "force" if self.torque is None else "moment")
            except UnitError as error:
                raise ValueError(f"preload in step '{step}': {error}") from None
        if (self.part is None) == (self.line is None):
            raise ValueError("a bolt is a part or a line: give one of them.")
        return self


class HandleUse(_Item):
    """A point that moves faces as a rigid plate, or follows their average motion; alone, a free point.

    ``part``: a part (one copy, ``rollers#2``) that is rigid as a whole and moves with the handle.
    """

    id: Identifier
    name: Label
    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    faces: list[FaceRef] = Field(default_factory=list)
    part: Annotated[str, Field(pattern=r"^[a-z0-9-]+(#\d+)?$")] | None = None
    kind: Literal["rigid", "averaging"] = "rigid"
    mass: Mass = "0 kg"

    @model_validator(mode="after")
    def _check(self) -> "HandleUse":
        if self.part is not None and (self.faces or self.kind == "averaging"):
            raise ValueError("a handle of a rigid part has no faces and does not average: take them away.")
        return self


class SpringUse(_Item):
    """Springs between two handles, or from one to the ground, along and about the coordinate axes."""

    id: Identifier
    name: Label
    a: Identifier
    b: Identifier | None = None
    stiffness: tuple[Stiffness, Stiffness, Stiffness]
    turning: tuple[TurningStiffness, TurningStiffness, TurningStiffness] = ("0 N*mm/rad", "0 N*mm/rad", "0 N*mm/rad")


Component = Literal["x", "y", "z", "turn-x", "turn-y", "turn-z"]


class LinkUse(_Item):
    """A joint between two handles: fixed, a hinge about an axis, or a slider along one."""

    id: Identifier
    name: Label
    a: Identifier
    b: Identifier
    kind: Literal["fixed", "hinge", "slider"] = "fixed"
    axis: Literal["x", "y", "z"] = "z"


class SupportUse(_Item):
    """Faces held in the marked directions, or on a symmetry plane (held along its normal); or a handle."""

    id: Identifier
    name: Label
    faces: list[FaceRef] = Field(default_factory=list)
    handle: Identifier | None = None
    kind: Literal["fixed", "components", "symmetry"] = "fixed"
    components: list[Component] = Field(default_factory=list)
    released: list[Identifier] = Field(default_factory=list)

    @model_validator(mode="after")
    def _check(self) -> "SupportUse":
        if bool(self.faces) == (self.handle is not None):
            raise ValueError("a support holds faces or a handle: give one of them.")
        return self


LoadKind = Literal["force", "pressure", "displacement", "moment", "rotation", "gravity", "spin"]
_QUANTITIES: dict[str, Kind] = {
    "force": "force", "pressure": "stress", "displacement": "length", "moment": "moment", "rotation": "angle",
    "gravity": "acceleration", "spin": "angular speed",
}  # fmt: skip


class CoursePoint(_Item):
    """A value that a load passes at a share of a step; at 0 it jumps there."""

    at: Annotated[float, Field(ge=0, lt=1)]
    value: str


class LoadUse(_Item):
    """A force, pressure or prescribed displacement on faces; at a handle also a moment or a rotation.

    Gravity and spin act on all parts. ``values`` gives the end value in each step named; other steps
    hold the last value. "off" takes it to zero. Within a step the value runs straight, or through the
    points of its course. ``released``: steps in which a prescribed motion lets go.
    """

    id: Identifier
    name: Label
    kind: LoadKind
    faces: list[FaceRef] = Field(default_factory=list)
    handle: Identifier | None = None
    direction: tuple[float, float, float] | None = None
    centre: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    values: dict[str, str] = Field(default_factory=dict)
    courses: dict[str, list[CoursePoint]] = Field(default_factory=dict)
    released: list[Identifier] = Field(default_factory=list)

    @property
    def quantity(self) -> Kind:
        """What the values measure."""
        return _QUANTITIES[self.kind]

    @model_validator(mode="after")
    def _check(self) -> "LoadUse":
        on_all = self.kind in ("gravity", "spin")
        if on_all and (self.faces or self.handle):
            raise ValueError(f"{self.kind} acts on all parts: take the faces and the handle away.")
        if not on_all and bool(self.faces) == (self.handle is not None):
            raise ValueError(f"a {self.kind} acts on faces or on a handle: give one of them.")
        if self.kind in ("moment", "rotation") and self.handle is None:
            raise ValueError(f"a {self.kind} acts at a handle: put one on the faces first.")
        if self.kind == "pressure" and not self.faces:
            raise ValueError("a pressure acts on faces.")
        if self.kind != "pressure" and (self.direction is None or not any(self.direction)):
            raise ValueError(f"a {self.kind} needs a direction, three numbers that are not all zero.")
        points = [(step, point.value) for step, course in self.courses.items() for point in course]
        for step, value in [*self.values.items(), *points]:
            if value != "off":
                try:
                    value_of(value, self.quantity)
                except UnitError as error:
                    raise ValueError(f"value in step '{step}': {error}") from None
        for step, course in self.courses.items():
            if any(b.at < a.at for a, b in itertools.pairwise(course)):
                raise ValueError(f"the course in step '{step}' goes back in time: put its points in order.")
        return self


class IncrementSettings(_Item):
    """Sizes of increments as shares of the step, and how many at most."""

    start: float = 0.25
    least: float = 0.01
    largest: float = 0.25
    most: Annotated[int, Field(ge=1, le=1000)] = 60


class DynamicsSettings(_Item):
    """Inertia in a step: its duration, and damping proportional to mass (1/s)."""

    duration: Time
    damping: Annotated[float, Field(ge=0)] = 0.0


class StepUse(_Item):
    """One step of the sequence. ``large_motion`` follows large turns and strains; ``dynamics`` has inertia."""

    id: Identifier
    name: Label
    increments: IncrementSettings = IncrementSettings()
    large_motion: bool = False
    dynamics: DynamicsSettings | None = None


class StudyDocument(_Item):
    """One assembly with its materials, pairs, sequence and mesh settings."""

    format: Literal["ulmek-study"] = "ulmek-study"
    version: Literal[1] = 1
    name: Identifier
    title: Label
    machine: str = ""
    space: Literal["solid", "plane-strain", "plane-stress", "axisymmetric"] = "solid"
    thickness: Length = "1 mm"
    path: Literal["automatic", "condensed", "mixed", "full"] = "automatic"
    notes: str = ""
    element_budget: Annotated[int, Field(ge=100, le=10_000_000)] = 200_000
    materials: list[Material] = Field(default_factory=list)
    parts: list[Part] = Field(default_factory=list)
    pairs: list[PairUse] = Field(default_factory=list)
    left_out: list[LeftOut] = Field(default_factory=list)
    bolts: list[BoltUse] = Field(default_factory=list)
    walls: list[WallUse] = Field(default_factory=list)
    handles: list[HandleUse] = Field(default_factory=list)
    springs: list[SpringUse] = Field(default_factory=list)
    links: list[LinkUse] = Field(default_factory=list)
    supports: list[SupportUse] = Field(default_factory=list)
    loads: list[LoadUse] = Field(default_factory=list)
    steps: list[StepUse] = Field(default_factory=list)


def read_study(data: str | bytes | dict[str, Any]) -> StudyDocument:
    """Parse and check a study document.

    Raises
    ------
    InputError : broken JSON (with line and column), or the first part of the document that does
        not fit the schema, with its path.
    """
    if not isinstance(data, dict):
        try:
            data = json.loads(data)
        except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
            place = f"line {error.lineno} column {error.colno}" if isinstance(error, json.JSONDecodeError) else "file"
            raise InputError(
                f"the file is not valid JSON: {getattr(error, 'msg', 'unreadable text')}.",
                where=place,
                hint="Mend the text there, or write the study anew.",
            ) from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise InputError(
            "this is not an Ulmek study.", where="format", hint=f'A study begins with "format": "{FORMAT}".'
        )
    if data.get("version") != VERSION:
        raise InputError(
            f"the study has version {data.get('version')!r}; this Ulmek reads version {VERSION}.",
            where="version",
            hint="Open it with a newer Ulmek.",
        )
    try:
        study = StudyDocument.model_validate(data)
    except ValidationError as error:
        raise _first_problem(error, data) from None
    check_names(study)
    return study


def _first_problem(error: ValidationError, data: dict[str, Any]) -> InputError:
    problems = error.errors()
    first = problems[0]
    where = _readable(first["loc"], data)
    message = first["msg"].removeprefix("Value error, ")
    more = f" ({len(problems) - 1} more like this.)" if len(problems) > 1 else ""
    kind = UnitError if "unit" in message else InputError
    return kind(f"{message.rstrip('.')}.{more}", where=where)


def _readable(loc: tuple[int | str, ...], data: Any) -> str:
    """Path with list positions replaced by the ids of the items."""
    out = []
    for step in loc:
        try:
            data = data[step]
        except (KeyError, IndexError, TypeError):
            data = None
        out.append(data["id"] if isinstance(step, int) and isinstance(data, dict) and "id" in data else str(step))
    return "/".join(out)


def check_names(study: StudyDocument) -> None:
    """Every id is used once in its list, and every reference leads somewhere (faces: see `translate`).

    Raises
    ------
    InputError, UnknownNameError : with the place.
    """
    for section in (
        "materials",
        "parts",
        "pairs",
        "bolts",
        "walls",
        "handles",
        "springs",
        "links",
        "supports",
        "loads",
        "steps",
    ):
        seen: set[str] = set()
        for item in getattr(study, section):
            if item.id in seen:
                raise InputError(f"two {section} have the id '{item.id}'.", where=f"{section}/{item.id}/id")
            seen.add(item.id)
    steps, materials = {s.id for s in study.steps}, {m.id for m in study.materials}
    parts, handles = {p.id: p for p in study.parts}, {h.id for h in study.handles}
    for part in study.parts:
        _known(part.material, materials, "material", f"parts/{part.id}/material")
    for bolt in study.bolts:
        if bolt.part is not None:
            _known(bolt.part, set(parts), "part", f"bolts/{bolt.id}/part")
        for end in ("head", "foot"):
            if bolt.line is not None and getattr(bolt.line, end) is not None:
                _known(getattr(bolt.line, end), handles, "handle", f"bolts/{bolt.id}/line/{end}")
        for step, force in bolt.preload.items():
            _known(step, steps, "step", f"bolts/{bolt.id}/preload/{step}")
            if bolt.force_in(step) <= 0:
                raise InputError(
                    f"the preload is {force}.",
                    where=f"bolts/{bolt.id}/preload/{step}",
                    hint="Tighten with a force above zero, or remove the preload to leave the bolt's length as it is.",
                )
    for load in study.loads:
        for step in load.values:
            _known(step, steps, "step", f"loads/{load.id}/values/{step}")
        for step in load.courses:
            _known(step, steps, "step", f"loads/{load.id}/courses/{step}")
    for section in ("pairs", "supports", "loads"):
        for item in getattr(study, section):
            for step in item.released:
                _known(step, steps, "step", f"{section}/{item.id}/released")
            if getattr(item, "handle", None) is not None:
                _known(item.handle, handles, "handle", f"{section}/{item.id}/handle")
    walls = {w.id for w in study.walls}
    for pair in study.pairs:
        if pair.wall is not None:
            _known(pair.wall, walls, "datum wall", f"pairs/{pair.id}/wall")
        if bool(pair.b) == (pair.wall is not None):
            raise InputError(
                "a pair has faces or a datum wall on its side B.", where=f"pairs/{pair.id}/b", hint="Give one of them."
            )
    for wall in study.walls:
        if wall.handle is not None:
            _known(wall.handle, handles, "handle", f"walls/{wall.id}/handle")
    for section in ("springs", "links"):
        for item in getattr(study, section):
            for end in ("a", "b"):
                if getattr(item, end) is not None:
                    _known(getattr(item, end), handles, "handle", f"{section}/{item.id}/{end}")


def _known(name: str, names: set[str], what: str, where: str) -> None:
    if name not in names:
        raise UnknownNameError(
            f"there is no {what} '{name}'.", where=where, hint=f"Known: {', '.join(sorted(names)) or 'none'}."
        )
