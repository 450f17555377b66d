"""The study document: parts, materials, pairs, bolts, supports, loads and steps, with units.

Its JSON (`*.ulmek.json`) is the one description of a study: the interface edits it, the command
line solves it, the server stores it. `StudyDocument.model_json_schema()` is the published schema.
"""

import json
from collections.abc import Callable
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError, model_validator

from ulmek.core.errors import InputError, UnitError, UnknownNameError
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
Angle = Annotated[str, AfterValidator(_quantity("angle"))]
FaceRef = Annotated[str, Field(pattern=r"^[a-z0-9-]+(#\d+)?/[a-z0-9.-]+$")]


class _Item(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Material(_Item):
    """A linear elastic material with its yield stress."""

    id: Identifier
    name: Label
    young: Stress
    poisson: float
    yield_stress: Stress | None = None
    density: Density | None = None


class Turn(_Item):
    """A turn about a coordinate axis through the part's own origin."""

    axis: Literal["x", "y", "z"]
    angle: Angle


class Placement(_Item):
    """Where one copy of a part stands: turned first, then moved."""

    at: tuple[Length, Length, Length] = ("0 mm", "0 mm", "0 mm")
    turn: Turn | None = None


class RecipeUse(_Item):
    """A recipe with its dimensions: lengths with units, counts as numbers."""

    kind: str
    dimensions: dict[str, str | int] = Field(default_factory=dict)


class MeshSettings(_Item):
    """Wanted element size, finer named faces, elements per turn of an arc, layers of the first slab."""

    size: Length
    faces: dict[str, Length] = Field(default_factory=dict)
    per_turn: Annotated[int, Field(ge=8, le=96)] = 24
    layers: Annotated[int, Field(ge=1, le=200)] | None = None


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
    """``exact`` (no penetration) or ``penalty`` with a stiffness as a multiple of E/h."""

    method: Literal["exact", "penalty"] = "exact"
    stiffness: Annotated[float, Field(gt=0, le=1e6)] = 100.0


class PairUse(_Item):
    """Faces that may touch. Side A carries the integration: the finer, fully covered side.

    ``fit`` "value" sets the overlap to ``interference`` all over (negative for a clearance).
    """

    id: Identifier
    name: Label
    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: Annotated[list[FaceRef], Field(min_length=1)]
    law: Law = Law()
    fit: Literal["as-drawn", "overlap-removed", "closed-up", "value"] = "as-drawn"
    interference: Length = "0 mm"
    search: Length = "1 mm"
    enforcement: EnforcementChoice = EnforcementChoice()


class BoltUse(_Item):
    """A part made by a bolt recipe, tightened in steps; every copy is one bolt.

    ``preload`` gives the force at the end of each step named; in other steps the length is kept.
    """

    id: Identifier
    name: Label
    part: Identifier
    preload: dict[str, Force] = Field(default_factory=dict)


class SupportUse(_Item):
    """Faces held in the marked directions, or on a symmetry plane (held along its normal)."""

    id: Identifier
    name: Label
    faces: Annotated[list[FaceRef], Field(min_length=1)]
    kind: Literal["fixed", "components", "symmetry"] = "fixed"
    components: list[Literal["x", "y", "z"]] = Field(default_factory=list)


class LoadUse(_Item):
    """A force, pressure or prescribed displacement on faces.

    ``values`` gives the end value in each step named; other steps hold the last value. "off"
    takes it to zero.
    """

    id: Identifier
    name: Label
    kind: Literal["force", "pressure", "displacement"]
    faces: Annotated[list[FaceRef], Field(min_length=1)]
    direction: tuple[float, float, float] | None = None
    values: dict[str, str] = Field(default_factory=dict)

    @property
    def quantity(self) -> Kind:
        """What the values measure."""
        table: dict[str, Kind] = {"force": "force", "pressure": "stress", "displacement": "length"}
        return table[self.kind]

    @model_validator(mode="after")
    def _check(self) -> "LoadUse":
        if self.kind != "pressure" and (self.direction is None or not any(self.direction)):
            raise ValueError(f"a {self.kind} needs a direction, three numbers that are not all zero.")
        for step, value in self.values.items():
            if value != "off":
                try:
                    value_of(value, self.quantity)
                except UnitError as error:
                    raise ValueError(f"value in step '{step}': {error}") from None
        return self


class IncrementSettings(_Item):
    """Sizes of increments as shares of the step, and how many at most."""

    start: float = 0.25
    least: float = 0.01
    largest: float = 0.25
    most: Annotated[int, Field(ge=1, le=1000)] = 60


class StepUse(_Item):
    """One step of the sequence."""

    id: Identifier
    name: Label
    increments: IncrementSettings = IncrementSettings()


class StudyDocument(_Item):
    """One assembly with its materials, pairs, sequence and mesh settings."""

    format: Literal["ulmek-study"] = "ulmek-study"
    version: Literal[1] = 1
    name: Identifier
    title: Label
    machine: str = ""
    notes: str = ""
    materials: list[Material] = Field(default_factory=list)
    parts: list[Part] = Field(default_factory=list)
    pairs: list[PairUse] = Field(default_factory=list)
    bolts: list[BoltUse] = Field(default_factory=list)
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
    for section in ("materials", "parts", "pairs", "bolts", "supports", "loads", "steps"):
        seen: set[str] = set()
        for item in getattr(study, section):
            if item.id in seen:
                raise InputError(f"two {section} have the id '{item.id}'.", where=f"{section}/{item.id}/id")
            seen.add(item.id)
    steps, materials = {s.id for s in study.steps}, {m.id for m in study.materials}
    parts = {p.id: p for p in study.parts}
    for part in study.parts:
        _known(part.material, materials, "material", f"parts/{part.id}/material")
    for bolt in study.bolts:
        _known(bolt.part, set(parts), "part", f"bolts/{bolt.id}/part")
        for step, force in bolt.preload.items():
            _known(step, steps, "step", f"bolts/{bolt.id}/preload/{step}")
            if value_of(force, "force") <= 0:
                raise InputError(
                    f"the preload is {force}.",
                    where=f"bolts/{bolt.id}/preload/{step}",
                    hint="Tighten with a force above zero, or remove the preload to leave the bolt's length as it is.",
                )
    for load in study.loads:
        for step in load.values:
            _known(step, steps, "step", f"loads/{load.id}/values/{step}")


def _known(name: str, names: set[str], what: str, where: str) -> None:
    if name not in names:
        raise UnknownNameError(
            f"there is no {what} '{name}'.", where=where, hint=f"Known: {', '.join(sorted(names)) or 'none'}."
        )
