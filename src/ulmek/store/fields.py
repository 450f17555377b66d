"""Fields of parts from a result file, by the table of fields."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.review.fields import PART_FIELDS, Field, values_of
from ulmek.store.results import ResultReader
from ulmek.study.items import StudyDocument
from ulmek.study.translate import own_axes


def part_field_named(name: str) -> Field:
    """A field of parts by its name.

    Raises
    ------
    InputError : there is none of that name.
    """
    if name not in PART_FIELDS:
        raise InputError(
            f"there is no part field '{name}'.", where="field", hint=f"Known: motion, {', '.join(PART_FIELDS)}."
        )
    return PART_FIELDS[name]


def values_at_nodes(study: StudyDocument, reader: ResultReader, name: str, increment: int) -> NDArray[np.float64]:
    """A field of parts at all nodes (n,), as it is stored; ``study``: what was solved."""
    field, axes = part_field_named(name), []
    if field.rule in ("about-axis", "local"):
        own, (names, offsets) = own_axes(study), reader.bodies()
        axes = [(slice(a, b), own[n]) for n, a, b in zip(names, offsets, offsets[1:], strict=False)]
    return values_of(field, reader.point_field(field.source, increment), reader.points(), axes)
