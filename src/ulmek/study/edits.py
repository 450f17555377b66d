"""Edits as JSON Patch (RFC 6902): applied, checked, and turned round for undo."""

from collections.abc import Callable
from typing import Any

import jsonpatch
import jsonpointer

from ulmek.core.errors import InputError, located
from ulmek.study.aside import aside
from ulmek.study.items import Part, Patch, StudyDocument, read_study
from ulmek.study.solids import free_volume, is_free_form, solid_of_use


def as_it_stands(part: Part) -> Part:
    """A part of a document that carries its solids."""
    return part


def edited_by(study: StudyDocument, patch: Patch, *, whole: Callable[[Part], Part] = as_it_stands) -> StudyDocument:
    """The edited study.

    whole: gives a part the content of its solid, where documents only name it.

    Raises
    ------
    InputError : the patch is malformed, points to nothing, or would leave a study that no longer
        checks; the study stays as it was.
    """
    before = study.model_dump(mode="json")
    try:
        after = jsonpatch.JsonPatch(patch).apply(before)
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError) as error:
        raise InputError(
            f"the edit does not fit the study: {error}.", where="patch", hint="Reload the study and edit again."
        ) from None
    if not isinstance(after, dict):
        raise InputError("the edit leaves no study.", where="patch", hint="Replace entries, not the whole.")
    edited = read_study(_on_their_own(study, _without_lost_pieces(after)))
    was = {p.id: p for p in study.parts}
    for part in edited.parts:
        if was.get(part.id) is None or was[part.id].recipe != part.recipe:
            check_recipe(whole(part))
    return edited


def _on_their_own(before: StudyDocument, plain: dict[str, Any]) -> dict[str, Any]:
    """The plain study whose pairs follow no contact property any more where their own law or enforcement was edited,
    to something else than the property's."""
    was = {p.id: p.model_dump(mode="json") for p in before.pairs if p.contact is not None}
    shared = {c.get("id"): c for c in plain.get("contacts") or [] if isinstance(c, dict)}
    for pair in plain.get("pairs") or [] if was else []:
        old = was.get(str(pair.get("id"))) if isinstance(pair, dict) else None
        if old is None or old["contact"] != pair.get("contact"):
            continue
        of_all = shared.get(old["contact"], {})
        if any(pair.get(name) not in (old[name], of_all.get(name)) for name in ("law", "enforcement")):
            pair["contact"] = None
    return plain


def _without_lost_pieces(plain: dict[str, Any]) -> dict[str, Any]:
    """The plain study whose joints name no pieces that are not there any more."""
    for joint in plain.get("joints") or []:
        pieces = joint.get("pieces") if isinstance(joint, dict) else None
        if not isinstance(pieces, dict):
            continue
        for section, held in pieces.items():
            items = plain.get(section)
            if isinstance(held, dict) and isinstance(items, list):
                there = {i.get("id") for i in items if isinstance(i, dict)}
                pieces[section] = {i: role for i, role in held.items() if i in there}
    return plain


def apply_edit(
    study: StudyDocument, patch: Patch, *, whole: Callable[[Part], Part] = as_it_stands
) -> tuple[StudyDocument, Patch]:
    """The edited study and the patch that takes the edit back; raises as `edited_by`."""
    edited = edited_by(study, patch, whole=whole)
    return edited, difference(edited, study)


def difference(before: StudyDocument, after: StudyDocument) -> Patch:
    """The patch that makes one study of another."""
    # Lists that stayed as they were are not looked into.
    changed = {n for n in StudyDocument.model_fields if getattr(before, n) != getattr(after, n)}
    one, other = (s.model_dump(mode="json", include=changed) for s in (before, after))
    return list(jsonpatch.make_patch(one, other).patch)


def check_recipe(part: Part) -> None:
    """Whether the part's solid can be made (without meshing it); raises with the place."""
    use = part.recipe.model_dump()
    if is_free_form(use):
        located(f"parts/{part.id}/recipe", aside, part.name, free_volume, part.recipe.file)
    else:
        solid_of_use(use, part.id)
