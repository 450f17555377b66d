"""Names in place of ids in what is said of a study: users know the names, files and the solver the ids."""

import re

from ulmek.study.items import KINDS, StudyDocument, items_of

# A quoted id with the word before it; a copy's number or a face may follow the id.
_QUOTED = re.compile(r"(?:\b([a-z-]+) )?'([a-z0-9][a-z0-9-]*)(#\d+)?(?:/([a-z0-9.-]+))?'")
# Words before an id that mean a kind whose label is another.
_ALSO = {"beam": "part", "of": "part", "bolt": "bolt", "wall": "wall", "face": "part", "load": "load"}


def in_words(study: StudyDocument, text: str) -> str:
    """A message with the names of items in place of their quoted ids; what is no id of the study stays.

    A quoted id with a word of its kind before it (pair 'flange') means that kind, else the first kind that has it.
    """
    by_word = {kind.label.lower(): kind.name for kind in KINDS.values()} | _ALSO

    def named(match: re.Match[str]) -> str:
        word, item_id, copy, face = match.groups()
        kinds = [by_word[word]] if word in by_word else [k for k in KINDS if KINDS[k].is_named]
        found = next((i.name for k in kinds for i in items_of(study, k) if i.id == item_id), None)
        if found is None:
            return match[0]
        whole = found + (f" {copy[1:]}" if copy else "") + (f" / {face}" if face else "")
        return f"{word} '{whole}'" if word else f"'{whole}'"

    return _QUOTED.sub(named, text)


def body_name(study: StudyDocument, body: str) -> str:
    """The name of a part, with the number of the copy where it has several."""
    part, _, copy = body.partition("#")
    name = next((p.name for p in study.parts if p.id == part), part)
    return f"{name} {copy}" if copy else name


def face_name(study: StudyDocument, reference: str) -> str:
    """A face as users read it: ``Bracket / back``."""
    owner, _, face = reference.partition("/")
    return f"{body_name(study, owner)} / {face}"
