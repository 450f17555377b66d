"""Documents as the text that is kept of them, and back."""

from typing import Any

import orjson

from ulmek.core.errors import InputError
from ulmek.study.items import StudyDocument, read_study


def text_of(study: StudyDocument) -> str:
    """The text that is stored for a study.

    Raises
    ------
    InputError : text that no file can hold (half of a surrogate pair), or a document that would not come back equal.
    """
    try:
        text = orjson.dumps(study.model_dump(mode="json")).decode()
    except (TypeError, ValueError) as error:
        raise InputError(
            f"the study cannot be stored: {error}.", where="document", hint="Take out characters that are no text."
        ) from None
    if read_study(orjson.loads(text)) != study:
        raise InputError(
            "the study would not come back from the store as it is.", where="document",
            hint="Look for numbers that are not finite.",
        )  # fmt: skip
    return text


def plain_of(text: str) -> dict[str, Any]:
    """The stored text as plain JSON values, unchecked.

    Raises
    ------
    InputError : the text is damaged.
    """
    try:
        found = orjson.loads(text)
    except ValueError as error:
        raise InputError(
            f"the stored document is damaged: {error}.", where="document",
            hint="Undo cannot help here: start again from a saved file, or delete the study.",
        ) from None  # fmt: skip
    if not isinstance(found, dict):
        raise InputError("the stored document is no study.", where="document", hint="Delete the study.")
    return found


def study_of(text: str) -> StudyDocument:
    """The study that a stored text is.

    Raises
    ------
    InputError : the text is damaged, or no study that this version reads.
    """
    return read_study(plain_of(text))
