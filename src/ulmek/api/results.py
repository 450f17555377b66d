"""What routes about results share: the file of a run, one of its increments, and a field of its parts."""

from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
from numpy.typing import NDArray

from ulmek.api.context import Context
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.review.fields import PART_FIELDS, Field, values_of
from ulmek.store.results import ResultReader, open_result
from ulmek.store.texts import study_of
from ulmek.study.translate import own_axes


@contextmanager
def reader_of(ctx: Context, run_id: int) -> Iterator[ResultReader]:
    """The result file of a run."""
    with open_result(ctx.store.run_folder(run_id) / "result.h5") as reader:
        yield reader


def stored_increment(reader: ResultReader, increment: int) -> int:
    """The increment, which must be stored."""
    if not 0 <= increment < reader.count():
        raise UnknownNameError(
            f"there is no increment {increment}; {reader.count()} are stored.", where="increment", hint="Count from 0."
        )
    return increment


def part_field_named(name: str) -> Field:
    """A field of parts by its name."""
    if name not in PART_FIELDS:
        raise InputError(
            f"there is no part field '{name}'.", where="field", hint=f"Known: motion, {', '.join(PART_FIELDS)}."
        )
    return PART_FIELDS[name]


def part_values(ctx: Context, run_id: int, reader: ResultReader, name: str, increment: int) -> NDArray[np.float64]:
    """A field of parts at all nodes (n,), as it is stored."""
    field, axes = part_field_named(name), []
    if field.rule in ("about-axis", "local"):
        own, (names, offsets) = own_axes(study_of(ctx.store.run(run_id).document)), reader.bodies()
        axes = [(slice(a, b), own[n]) for n, a, b in zip(names, offsets, offsets[1:], strict=False)]
    return values_of(field, reader.point_field(field.source, increment), reader.points(), axes)
