"""Variants: the study with something changed, kept as named edits over it."""

from typing import Annotated, Literal

from pydantic import Field, JsonValue

from ulmek.study.items.item import Identifier, Item, Label

# Where an entry of the document stands, items by their ids: "/pairs/seat/law/mu".
EntryPath = Annotated[str, Field(pattern=r"^/[^/]", max_length=300)]


class Change(Item):
    """One step of a JSON Patch (RFC 6902) whose path names items by their ids; "-" behind a list adds to it."""

    op: Literal["add", "replace", "remove"] = "replace"
    path: EntryPath
    value: JsonValue = None


class Variant(Item):
    """The study with ``changes``, which are made on it as it stands: when it is edited, its variants follow."""

    id: Identifier
    name: Label
    note: Annotated[str, Field(max_length=2000)] = ""
    changes: Annotated[list[Change], Field(min_length=1, max_length=500)]
