"""The study document as a whole: its parts put together, read and checked."""

import json
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from ulmek.core.errors import InputError, UnitError, UnknownNameError
from ulmek.study.schema.acting import HandleUse, LinkUse, LoadUse, SpringUse, StepUse, SupportUse
from ulmek.study.schema.item import FORMAT, VERSION, Identifier, Item, Label, Length
from ulmek.study.schema.joint import BoltUse, LeftOut, PairUse, WallUse
from ulmek.study.schema.material import Material
from ulmek.study.schema.part import Part


class StudyDocument(Item):
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
