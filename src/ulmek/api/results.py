"""What routes about results share: the file of a run, one of its increments, and a field of its parts."""

from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
from numpy.typing import NDArray

from ulmek.api.context import Context
from ulmek.core.errors import UnknownNameError
from ulmek.store.fields import values_at_nodes
from ulmek.store.results import ResultReader, open_result
from ulmek.store.texts import study_of


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


def part_values(ctx: Context, run_id: int, reader: ResultReader, name: str, increment: int) -> NDArray[np.float64]:
    """A field of parts at all nodes (n,), as it is stored."""
    return values_at_nodes(study_of(ctx.store.run(run_id).document), reader, name, increment)
