"""What items refer to, read from the types of their fields; and items with their references changed."""

import types
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated, Any, TypeVar, Union, get_args, get_origin

from pydantic import ValidationError

from ulmek.study.items.item import Item, Refers

Some = TypeVar("Some", bound=Item)
# What becomes of a reference: the values in its place, none when what it names is gone.
Change = Callable[[Refers, str], tuple[str, ...]]


@dataclass(frozen=True)
class Reference:
    """A place in an item, as a path of names and positions, and what it names there."""

    path: tuple[str, ...]
    refers: Refers
    written: str

    @property
    def target(self) -> str:
        """The id named."""
        return self.refers.target(self.written)


def references(item: Item) -> Iterator[Reference]:
    """All references of an item, in the order of its fields."""
    found: list[Reference] = []

    def note(path: tuple[str, ...], refers: Refers, written: str) -> tuple[str, ...]:
        found.append(Reference(path, refers, written))
        return (written,)

    _of_item(item, (), note)
    yield from found


def with_references(item: Some, change: Change) -> Some | None:
    """The item with its references changed; None when it cannot be without what is gone.

    Entries of lists, and keys of tables, that name what is gone go with it. An item goes when a single reference of
    its own, or the last of its faces, is gone, or when its schema does not allow what is left.
    """
    try:
        plain = _of_item(item, (), lambda _, refers, written: change(refers, written))
        return type(item).model_validate(plain)
    except (_Gone, ValidationError):
        return None


class _Gone(Exception):
    """Something cannot be without what is gone."""


_Visit = Callable[[tuple[str, ...], Refers, str], tuple[str, ...]]


def _of_item(item: Item, path: tuple[str, ...], visit: _Visit) -> dict[str, Any]:
    names = _with_references(type(item))
    return {
        name: _of_value(field.annotation, list(field.metadata), getattr(item, name), (*path, name), visit)
        if name in names
        else getattr(item, name)
        for name, field in type(item).model_fields.items()
    }


@lru_cache(maxsize=256)
def _with_references(kind: type[Item]) -> frozenset[str]:
    """The fields of a kind of item that can hold references: most hold none, and are not looked into."""
    return frozenset(
        name
        for name, field in kind.model_fields.items()
        if _refers(list(field.metadata)) is not None or _can_hold(field.annotation)
    )


def _can_hold(kind: Any) -> bool:
    """Whether a value of a type can hold references."""
    if isinstance(kind, type) and issubclass(kind, Item):
        return bool(_with_references(kind))
    if get_origin(kind) is Annotated and _refers(list(get_args(kind)[1:])) is not None:
        return True
    return any(_can_hold(inner) for inner in get_args(kind))


def _of_value(kind: Any, metadata: list[Any], value: Any, path: tuple[str, ...], visit: _Visit) -> Any:
    """A plain copy of a value of the given type, each reference in it visited."""
    if value is None:
        return None
    kind, metadata = _unwrapped(kind, metadata, value)
    if isinstance(value, Item):
        return _of_item(value, path, visit)
    refers = _refers(metadata)
    if refers is not None and isinstance(value, str):
        found = visit(path, refers, value)
        if not found and refers.lets_go:
            return None
        (new,) = _one(found)
        return new
    if isinstance(value, list):
        return _of_list(kind, value, path, visit)
    if isinstance(value, tuple):
        return tuple(value)
    if isinstance(value, dict):
        return _of_table(kind, value, path, visit)
    return value


def _of_list(kind: Any, value: list[Any], path: tuple[str, ...], visit: _Visit) -> list[Any]:
    entry = (get_args(kind) or (Any,))[0]
    refers = _refers(_unwrapped(entry, [], value[0] if value else None)[1])
    if refers is None:
        return [_of_value(entry, [], v, (*path, str(i)), visit) for i, v in enumerate(value)]
    kept = [new for i, v in enumerate(value) for new in visit((*path, str(i)), refers, v)]
    if value and not kept and refers.to == "part":
        raise _Gone
    return kept


def _of_table(kind: Any, value: dict[str, Any], path: tuple[str, ...], visit: _Visit) -> dict[str, Any]:
    key, entry = get_args(kind) or (Any, Any)
    refers = _refers(_unwrapped(key, [], "")[1])
    out = {}
    for name, held in value.items():
        for new in visit((*path, name), refers, name) if refers is not None else (name,):
            out[new] = _of_value(entry, [], held, (*path, name), visit)
    return out


def _unwrapped(kind: Any, metadata: list[Any], value: Any) -> tuple[Any, list[Any]]:
    """A type without what is said about it, of several the one that a value has, and what is said about that."""
    while True:
        if get_origin(kind) is Annotated:
            kind, *more = get_args(kind)
            metadata = [*metadata, *more]
        elif get_origin(kind) in (Union, types.UnionType):
            others = [k for k in get_args(kind) if k is not type(None)]
            kind = next((k for k in others if _has(value, k)), others[0])
        else:
            return kind, metadata


def _has(value: Any, kind: Any) -> bool:
    bare = get_args(kind)[0] if get_origin(kind) is Annotated else kind
    bare = get_origin(bare) or bare
    return isinstance(bare, type) and isinstance(value, bare)


def _refers(metadata: list[Any]) -> Refers | None:
    return next((m for m in metadata if isinstance(m, Refers)), None)


def _one(new: tuple[str, ...]) -> tuple[str]:
    if len(new) != 1:
        raise _Gone
    return (new[0],)
