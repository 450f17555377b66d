"""Items taken out of a study with all that cannot be without them, and told in words."""

from collections.abc import Sequence
from typing import Any

import jsonpatch

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.study.items import KINDS, KindName, Patch, StudyDocument, items_of
from ulmek.study.items.item import Item, Refers
from ulmek.study.items.references import references, with_references

Key = tuple[str, str]


def take_out(study: StudyDocument, kind: KindName, item_id: str, *, with_pieces: bool = False) -> tuple[Patch, str]:
    """The patch that takes an item out with what cannot be without it, and what goes and changes with it, in words.

    The pieces of a joint stay, unless it is taken out ``with_pieces``.

    Raises
    ------
    UnknownNameError : there is no such item. InputError : something needs it: a part its material.
    """
    item = next((i for i in items_of(study, kind) if KINDS[kind].is_named and i.id == item_id), None)
    if item is None:
        raise UnknownNameError(f"there is no {KINDS[kind].label.lower()} '{item_id}'.", where=KINDS[kind].list)
    _require_unneeded(study, kind, item)
    start: set[Key] = {(kind, item_id)}
    if kind == "joint" and with_pieces:
        start |= {(k.name, i) for k in KINDS.values() if hasattr(item.pieces, k.list) for i in item.pieces.of(k.list)}
        # A material may have been given to parts that stay.
        used = {("material", p.material) for p in study.parts if ("part", p.id) not in start}
        start -= used
    left, gone = closure(study, start)
    before = study.model_dump(mode="json")
    after = {**before, **{KINDS[name].list: items for name, items in left.items()}}
    patch = list(jsonpatch.make_patch(before, after).patch)
    return patch, told_of(study, gone - {(kind, item_id)}, before, after, ("Also takes out", "Changes"))


def closure(study: StudyDocument, gone: set[Key]) -> tuple[dict[str, list[Any]], set[Key]]:
    """What is left of every list (by kind) without what is ``gone`` and all that cannot be without it, and all that
    is gone then."""
    while True:
        left, also = _without(study, gone)
        if not also:
            return left, gone
        gone = gone | also


def _require_unneeded(study: StudyDocument, kind: str, item: Any) -> None:
    for other in KINDS.values():
        for user in items_of(study, other.name):
            if any(r.refers.to == kind and r.refers.stays and r.target == item.id for r in references(user)):
                raise InputError(
                    f"{item.name} is the {KINDS[kind].label.lower()} of {user.name}.", where=f"{other.list}/{user.id}",
                    hint=f"Choose another for {user.name} first.",
                )  # fmt: skip


def _without(study: StudyDocument, gone: set[Key]) -> tuple[dict[str, list[Any]], set[Key]]:
    """What is left of every list without what is gone, and what has to go besides.

    Items without an id that cannot stay simply go: nothing refers to them.
    """

    def change(refers: Refers, written: str) -> tuple[str, ...]:
        return () if (refers.to, refers.target(written)) in gone else (written,)

    left: dict[str, list[Any]] = {}
    also: set[Key] = set()
    for kind in KINDS.values():
        left[kind.name] = []
        for item in items_of(study, kind.name):
            if kind.is_named and (kind.name, item.id) in gone:
                continue
            kept: Item | None = with_references(item, change)
            if kept is not None:
                left[kind.name].append(kept.model_dump(mode="json"))
            elif kind.is_named:
                also.add((kind.name, item.id))
    return left, also


def told_of(
    study: StudyDocument, also: set[Key], before: dict[str, Any], after: dict[str, Any], verbs: tuple[str, str]
) -> str:
    """ "Also takes out pair Lug – pin and handle Eye. Changes support Wall." in the order of the document, with
    the ``verbs`` of what goes and of what is another."""
    out, changed = [], []
    for kind in KINDS.values():
        stays = {i["id"]: i for i in after[kind.list]} if kind.is_named else {}
        for item, was in zip(items_of(study, kind.name), before[kind.list], strict=True):
            if kind.is_named and (kind.name, item.id) in also:
                out.append(f"{kind.label.lower()} {item.name}")
            elif kind.is_named and item.id in stays and stays[item.id] != was:
                changed.append(f"{kind.label.lower()} {item.name}")
    return " ".join(f"{verb} {listed(what)}." for verb, what in zip(verbs, (out, changed), strict=True) if what)


def listed(words: Sequence[str]) -> str:
    """ "a, b and c"."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
