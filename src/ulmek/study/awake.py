"""A study without the parts and steps that are left out of the analysis: what hangs on them sleeps with them."""

from typing import Any

from ulmek.core.errors import InputError
from ulmek.study.items import KINDS, Patch, StudyDocument, items_of
from ulmek.study.take_out import Key, closure, listed, told_of


def left_out_items(study: StudyDocument) -> set[Key]:
    """The parts and steps that are left out, as keys."""
    return {
        (kind.name, item.id)
        for kind in KINDS.values()
        for item in items_of(study, kind.name)
        if not getattr(item, "in_analysis", True)
    }


def awake(study: StudyDocument) -> StudyDocument:
    """What of a study is analysed: without parts and steps that are left out, and without what hangs on them.

    Raises
    ------
    InputError : nothing is left.
    """
    out = left_out_items(study)
    if not out:
        return study
    for kind, items in (("part", study.parts), ("step", study.steps)):
        if items and all((kind, item.id) in out for item in items):
            raise InputError(
                f"every {kind} is left out of the analysis.", where=KINDS[kind].list,
                hint="Take one of them into the analysis.",
            )  # fmt: skip
    left, _ = closure(study, out)
    return StudyDocument.model_validate(study.model_dump(mode="json") | _by_list(left))


def asleep(study: StudyDocument) -> dict[str, list[str]]:
    """Ids of what sleeps, by the name of its kind: what is left out, and what cannot be without it."""
    out = left_out_items(study)
    if not out:
        return {}
    _, gone = closure(study, out)
    found: dict[str, list[str]] = {}
    for kind in KINDS.values():
        ids = [i.id for i in items_of(study, kind.name) if kind.is_named and (kind.name, i.id) in gone]
        if ids:
            found[kind.name] = ids
    return found


def sleep_in_words(study: StudyDocument) -> str:
    """ "Left out of the analysis: Lug. With it sleep pair Lug – pin. Without it act support Wall." Empty for none."""
    out = left_out_items(study)
    if not out:
        return ""
    left, gone = closure(study, out)
    before = study.model_dump(mode="json")
    names = [i.name for kind in KINDS for i in items_of(study, kind) if (kind, getattr(i, "id", "")) in out]
    verbs = (
        "With it sleep" if len(names) == 1 else "With them sleep",
        "Without it act" if len(names) == 1 else "Without them act",
    )
    more = told_of(study, gone - out, before, before | _by_list(left), verbs)
    return f"Left out of the analysis: {listed(names)}. {more}".rstrip()


def on_the_whole(patch: Patch, study: StudyDocument, part_of: StudyDocument) -> Patch:
    """A patch made for what is awake of a study, for the whole of it: positions in its lists are other ones there."""
    lists = {kind.list: kind.name for kind in KINDS.values() if kind.is_named}

    def moved(path: str) -> str:
        _, section, *rest = path.split("/")
        if section not in lists or not rest or not rest[0].isdigit():
            return path
        meant = items_of(part_of, lists[section])[int(rest[0])].id
        at = [i.id for i in items_of(study, lists[section])].index(meant)
        return "/".join(("", section, str(at), *rest[1:]))

    return [{key: moved(v) if key in ("path", "from") else v for key, v in step.items()} for step in patch]


def _by_list(left: dict[str, list[Any]]) -> dict[str, list[Any]]:
    return {KINDS[name].list: items for name, items in left.items()}
