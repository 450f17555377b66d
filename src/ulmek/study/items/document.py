"""The study document as a whole: its parts put together, read and checked."""

import json
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from ulmek.core.element.response import Space
from ulmek.core.errors import InputError, UnitError, UnknownNameError, located
from ulmek.core.model import Path
from ulmek.study.items.bolt import BoltUse
from ulmek.study.items.contact import ContactUse
from ulmek.study.items.handle import HandleUse
from ulmek.study.items.item import FORMAT, VERSION, Identifier, Item, Label, Length
from ulmek.study.items.joint import JointUse
from ulmek.study.items.kinds import KINDS
from ulmek.study.items.left_out import LeftOut
from ulmek.study.items.link import LinkUse
from ulmek.study.items.load import LoadUse
from ulmek.study.items.material import Material
from ulmek.study.items.pair import PairUse
from ulmek.study.items.part import Part
from ulmek.study.items.references import Change, references, with_references
from ulmek.study.items.series import SeriesUse
from ulmek.study.items.spring import SpringUse
from ulmek.study.items.step import StepUse
from ulmek.study.items.support import SupportUse
from ulmek.study.items.variant import Variant
from ulmek.study.items.wall import WallUse

# Versions that are read: the first had no joints, and is one of today's that has none.
READ = (1, VERSION)
# Steps of a JSON Patch (RFC 6902).
Patch = list[dict[str, Any]]


class StudyDocument(Item):
    """One assembly with its materials, pairs, sequence and mesh settings."""

    format: Literal["ulmek-study"] = "ulmek-study"
    version: Literal[2] = 2
    name: Identifier
    title: Label
    machine: str = ""
    space: Space = "solid"
    thickness: Length = "1 mm"
    path: Path = "automatic"
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
    joints: list[JointUse] = Field(default_factory=list)
    contacts: list[ContactUse] = Field(default_factory=list)
    variants: list[Variant] = Field(default_factory=list)
    series: list[SeriesUse] = Field(default_factory=list)


def read_study(data: str | bytes | dict[str, Any]) -> StudyDocument:
    """Parse and check a study document.

    Raises
    ------
    InputError : broken JSON (with line and column), or the first part of the document that does
        not fit the schema, with its path.
    """
    if isinstance(data, (str, bytes)):
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
    if data.get("version") not in READ:
        raise InputError(
            f"the study has version {data.get('version')!r}; this Ulmek reads versions up to {VERSION}.",
            where="version",
            hint="Open it with a newer Ulmek.",
        )
    try:
        study = StudyDocument.model_validate({**data, "version": VERSION})
    except ValidationError as error:
        raise _first_problem(error, data) from None
    check_names(study)
    return _with_contacts(study)


def _with_contacts(study: StudyDocument) -> StudyDocument:
    """The study whose pairs have the laws and enforcements of their contact properties."""
    if not study.contacts:
        return study
    shared = {c.id: {"law": c.law, "enforcement": c.enforcement} for c in study.contacts}
    pairs = [p if p.contact is None else p.model_copy(update=shared[p.contact]) for p in study.pairs]
    return study.model_copy(update={"pairs": pairs})


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


def items_of(study: StudyDocument, kind: str) -> list[Any]:
    """The items of a kind, in order."""
    found: list[Any] = getattr(study, KINDS[kind].list)
    return found


def with_references_changed(study: StudyDocument, change: Change) -> Patch:
    """The patch that changes references wherever items other than parts have them; who loses one for good keeps it,
    so that the check of the edited study names the place."""
    patch: Patch = []
    for kind in KINDS.values():
        for position, item in enumerate(items_of(study, kind.name) if kind.name != "part" else []):
            new = with_references(item, change)
            if new is not None and new != item:
                path = f"/{kind.list}/{position}"
                patch.append({"op": "replace", "path": path, "value": new.model_dump(mode="json")})
    return patch


def check_names(study: StudyDocument) -> None:
    """Every id is used once in its list, and every reference leads somewhere (faces: see `translate`).

    Raises
    ------
    InputError, UnknownNameError : with the place.
    """
    known = {kind.name: [i.id for i in items_of(study, kind.name)] for kind in KINDS.values() if kind.is_named}
    sections = {KINDS[name].list: ids for name, ids in known.items()}
    sections |= {"variants": [v.id for v in study.variants], "series": [s.id for s in study.series]}
    for section, ids in sections.items():
        twice = next((i for i in ids if ids.count(i) > 1), None)
        if twice is not None:
            raise InputError(f"two {section} have the id '{twice}'.", where=f"{section}/{twice}/id")
    for kind in KINDS.values():
        for position, item in enumerate(items_of(study, kind.name)):
            place = item.id if kind.is_named else str(position)
            if kind.check is not None:
                located(f"{kind.list}/{place}", kind.check, item)
            for ref in references(item):
                if not ref.refers.is_of_faces and ref.target not in known[ref.refers.to]:
                    raise UnknownNameError(
                        f"there is no {KINDS[ref.refers.to].label.lower()} '{ref.target}'.",
                        where="/".join((kind.list, place, *ref.path)),
                        hint=f"Known: {', '.join(sorted(known[ref.refers.to])) or 'none'}.",
                    )
