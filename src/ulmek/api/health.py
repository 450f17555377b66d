"""Whether the server can do its work: queue, disk and database."""

import shutil
from typing import Annotated

from fastapi import APIRouter, Depends
from pydantic import BaseModel
from sqlalchemy.exc import SQLAlchemyError

from ulmek.api.context import Context, context

router = APIRouter(prefix="/api", tags=["health"])
# Less free room than this (bytes) is told: the result of one run can be as large.
LITTLE_ROOM = 500_000_000


class Health(BaseModel):
    """State of the server. ``problems``: what keeps it from working, in words; none when all is well.

    running: the run that goes on. unrecorded: runs that have ended and whose end cannot be recorded yet.
    free_mb: room left on the disk of the data folder.
    """

    problems: list[str]
    queue_works: bool
    running: int | None
    unrecorded: list[int]
    free_mb: float


@router.get("/health")
def health(ctx: Annotated[Context, Depends(context)]) -> Health:
    """State of queue, disk and database."""
    queue, free, problems = ctx.queue.state(), shutil.disk_usage(ctx.store.home).free, []
    if not queue.is_working:
        problems.append("The run queue has stopped: start the server again.")
    if queue.unrecorded:
        ends = ", ".join(map(str, queue.unrecorded))
        problems.append(f"The end of run {ends} could not be recorded yet ({queue.trouble}).")
    elif queue.trouble:
        problems.append(f"The run queue met trouble and tries again ({queue.trouble}).")
    if free < LITTLE_ROOM:
        problems.append(f"Only {free / 1e6:.0f} MB are free on the disk of {ctx.store.home}: make room.")
    try:
        ctx.store.answers()
    except SQLAlchemyError as error:
        problems.append(f"The database does not answer ({error.__cause__ or error}).")
    return Health(
        problems=problems, queue_works=queue.is_working, running=queue.running,
        unrecorded=list(queue.unrecorded), free_mb=free / 1e6,
    )  # fmt: skip
