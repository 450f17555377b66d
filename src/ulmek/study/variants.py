"""Studies with something changed: entries found by the ids of items, changes made, taken from an edit, and checked."""

import itertools
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import jsonpatch

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.study.edits import as_it_stands, edited_by
from ulmek.study.items import Part, Patch, StudyDocument
from ulmek.study.items.variant import Change, Variant
from ulmek.study.joints.follow import followed

# What is said of a study and of how it is asked, which no variant changes.
OF_ASKING = ("variants", "series")


def pointer_to(plain: Any, path: str, *, may_be_new: bool = False) -> str:
    """The JSON Pointer of an entry of a plain document whose ``path`` names items by their ids.

    may_be_new: the last of it need not be there yet.

    Raises
    ------
    UnknownNameError : there is no such entry, with what is there.
    """
    tokens, out = path.strip("/").split("/"), ""
    for n, token in enumerate(tokens):
        is_new = may_be_new and n == len(tokens) - 1
        key, plain = _step(plain, token, is_new=is_new, where=path)
        out += "/" + key.replace("~", "~0")
    return out


def _step(plain: Any, token: str, *, is_new: bool, where: str) -> tuple[str, Any]:
    """The key of one token, and what stands there."""
    known: Sequence[Any]
    if isinstance(plain, dict):
        if token in plain or is_new:
            return token, plain.get(token)
        known = list(plain)
    elif isinstance(plain, list):
        if token == "-" and is_new:
            return token, None
        known = [item["id"] if isinstance(item, dict) and "id" in item else str(n) for n, item in enumerate(plain)]
        if token in known:
            at = known.index(token)
            return str(at), plain[at]
    else:
        known = []
    told = ", ".join(str(k) for k in known[:12]) or "nothing"
    raise UnknownNameError(f"there is no '{token}' in '{where}'.", where=where.strip("/"), hint=f"There: {told}.")


def entry_at(study: StudyDocument, path: str) -> Any:
    """What stands at a path; raises as `pointer_to`."""
    plain: Any = study.model_dump(mode="json")
    for token in path.strip("/").split("/"):
        _, plain = _step(plain, token, is_new=False, where=path)
    return plain


def with_changes(
    study: StudyDocument, changes: Sequence[Change], *, whole: Callable[[Part], Part] = as_it_stands
) -> StudyDocument:
    """The study with changes made, and its joints following.

    Raises
    ------
    UlmekError : a change does not fit, with its place.
    """
    plain: Any = study.model_dump(mode="json")
    patch: Patch = []
    for change in changes:
        if change.path.strip("/").split("/")[0] in OF_ASKING:
            raise InputError("a variant changes the study, not how it is asked.", where=change.path.strip("/"))
        step: dict[str, Any] = {"op": change.op, "path": pointer_to(plain, change.path, may_be_new=change.op == "add")}
        if change.op != "remove":
            step["value"] = change.value
        plain = jsonpatch.JsonPatch([step]).apply(plain)
        patch.append(step)
    return followed(study, edited_by(study, patch, whole=whole))


def variant_of(study: StudyDocument, key: str) -> Variant:
    """The variant with an id or a name.

    Raises
    ------
    UnknownNameError : there is none.
    """
    found = next((v for v in study.variants if key in (v.id, v.name)), None)
    if found is None:
        known = ", ".join(v.id for v in study.variants) or "none"
        raise UnknownNameError(f"there is no variant '{key}'.", where="variants", hint=f"Known: {known}.")
    return found


def changes_between(before: StudyDocument, after: StudyDocument) -> list[Change]:
    """The changes that make one study of another, items by their ids; the variants and series of neither."""
    one, other = (s.model_dump(mode="json", exclude=set(OF_ASKING)) for s in (before, after))
    return list(_changes(one, other, ""))


def _changes(was: Any, now: Any, path: str) -> Iterator[Change]:
    if was == now:
        return
    one, other = _by_key(was), _by_key(now)
    if one is None or other is None or type(was) is not type(now):
        yield Change(op="replace", path=path, value=now)
        return
    stay = [key for key in one if key in other]
    if isinstance(was, list) and stay != [key for key in other if key in one]:
        # In another order.
        yield Change(op="replace", path=path, value=now)
        return
    yield from (Change(op="remove", path=f"{path}/{key}") for key in one if key not in other)
    yield from itertools.chain.from_iterable(_changes(one[key], other[key], f"{path}/{key}") for key in stay)
    behind = "-" if isinstance(now, list) else None
    yield from (Change(op="add", path=f"{path}/{behind or key}", value=other[key]) for key in other if key not in one)


def _by_key(value: Any) -> dict[str, Any] | None:
    """Entries of an object, or items of a list by their ids; nothing of other values."""
    if isinstance(value, dict):
        return None if any("/" in key for key in value) else value
    if isinstance(value, list) and all(isinstance(v, dict) and "id" in v for v in value):
        return {v["id"]: v for v in value}
    return None
