"""What is other in one study than in another, told item by item."""

from typing import Any

from pydantic import BaseModel

from ulmek.core.errors import UlmekError
from ulmek.study.items import KINDS, StudyDocument
from ulmek.study.variants import OF_ASKING, with_changes

# So many sentences are told; a study that is another one altogether says no more than that much.
MOST = 40


def changes(before: StudyDocument, after: StudyDocument) -> list[str]:
    """Sentences: what came, what went, and what of the rest has another value; values as they are written."""
    told = []
    lists = [kind.list for kind in KINDS.values()]
    for kind in KINDS.values():
        was = {item.id: item for item in getattr(before, kind.list)}
        now = {item.id: item for item in getattr(after, kind.list)}
        word = kind.label.lower()
        told += [f"New {word}: {item.name}." for key, item in now.items() if key not in was]
        told += [f"No {word} any more: {item.name}." for key, item in was.items() if key not in now]
        for key in (key for key in was if key in now):
            told += [f"{now[key].name}, {what}." for what in _differences(was[key], now[key])]
    own = {field for field in StudyDocument.model_fields if field not in {*lists, *OF_ASKING, "format", "version"}}
    told += [f"Study, {what}." for what in _differences(before, after, own)]
    if len(told) > MOST:
        told = [*told[: MOST - 1], f"And {len(told) - MOST + 1} more."]
    return told


class ToldVariant(BaseModel):
    """A variant: what it changes in words, or why and where it does not fit the study any more."""

    id: str
    name: str
    note: str
    changes: list[str] = []
    misfit: str = ""
    where: str = ""


def told_variants(study: StudyDocument) -> list[ToldVariant]:
    """The variants of a study that carries its solids, in order."""
    out = []
    for v in study.variants:
        told = ToldVariant(id=v.id, name=v.name, note=v.note)
        try:
            told.changes = changes(study, with_changes(study, v.changes))
        except UlmekError as error:
            told.misfit, told.where = f"{error.message} {error.hint}".strip(), error.where
        out.append(told)
    return out


def _differences(was: BaseModel, now: BaseModel, only: set[str] | None = None) -> list[str]:
    """Fields that have another value, by their places within the item: "mesh size 4 mm → 3 mm"."""
    values = _leaves(was.model_dump(mode="json", include=only)), _leaves(now.model_dump(mode="json", include=only))
    places = sorted({*values[0], *values[1]})
    return [
        f"{place or 'value'} {_said(values[0].get(place))} → {_said(values[1].get(place))}"
        for place in places
        if values[0].get(place) != values[1].get(place)
    ]


def _leaves(value: Any, place: str = "") -> dict[str, Any]:
    """Plain values by the words that lead to them; empty lists and tables are nothing."""
    within: list[tuple[Any, Any]] = []
    if isinstance(value, dict):
        within = list(value.items())
    elif isinstance(value, list) and value and all(isinstance(inner, list) and _is_point(inner) for inner in value):
        return {place: f"{len(value)} points"}
    elif isinstance(value, list) and any(isinstance(inner, dict | list) for inner in value):
        within = list(enumerate(value, 1))
    if within:
        parts = [_leaves(inner, f"{place} {str(key).replace('_', ' ')}".strip()) for key, inner in within]
        return {key: leaf for part in parts for key, leaf in part.items()}
    return {} if value in (None, [], {}) else {place: value}


def _is_point(values: list[Any]) -> bool:
    return all(isinstance(v, float) for v in values)


def _said(value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, list):
        return ", ".join(map(str, value))
    return "none" if value is None or value == "" else str(value)
