"""What routes about results share: the file of a run, one of its increments, and a field of its parts."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Annotated

import numpy as np
from fastapi import Query
from numpy.typing import NDArray

from ulmek.api.context import Context
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.review.fields import Axis
from ulmek.store.fields import values_at_nodes
from ulmek.store.results import ResultReader, open_result
from ulmek.store.texts import study_of

# A point in mm and a direction: the axis that fields about an axis are about, in place of each part's own.
About = Annotated[list[float] | None, Query(min_length=6, max_length=6)]


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


def part_values(
    ctx: Context, run_id: int, reader: ResultReader, name: str, increment: int, about: list[float] | None = None
) -> NDArray[np.float64]:  # fmt: skip
    """A field of parts at all nodes (n,), as it is stored; about another axis than each part's own where one is given
    (a point in mm and a direction, six numbers). Not a number where it cannot be told."""
    return values_at_nodes(study_of(ctx.store.run(run_id).document), reader, name, increment, axis_of(about))


def axis_of(about: list[float] | None) -> Axis | None:
    """An axis as a point (mm) and a unit vector.

    Raises
    ------
    InputError : it is not six numbers, or has no direction.
    """
    if about is None:
        return None
    size = float(np.linalg.norm(about[3:]))
    if len(about) != 6 or not size > 0:
        raise InputError(
            "the axis cannot be read.", where="about", hint="Give a point in mm and a direction: six numbers."
        )
    return np.array(about[:3]), np.array(about[3:]) / size
