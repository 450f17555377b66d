"""Routes for what a run hands on: tables and fields as files."""

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Depends
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from ulmek.api.context import Context, context
from ulmek.api.results import reader_of, stored_increment
from ulmek.store.export import write_vtkhdf, write_workbook
from ulmek.store.results import ResultReader

Ctx = Annotated[Context, Depends(context)]
router = APIRouter(prefix="/api/runs/{run_id}", tags=["runs"])


@router.get("/results.xlsx", response_class=FileResponse)
def results_as_workbook(run_id: int, ctx: Ctx) -> FileResponse:
    """The history of a run and the contact nodes of its pairs as a workbook."""
    return _written(ctx, run_id, "xlsx", write_workbook)


@router.get("/results.vtkhdf", response_class=FileResponse)
def results_as_fields(run_id: int, ctx: Ctx) -> FileResponse:
    """The fields of all parts at all increments as VTKHDF."""
    return _written(ctx, run_id, "vtkhdf", write_vtkhdf)


def _written(ctx: Context, run_id: int, kind: str, write: Callable[[ResultReader, Path], None]) -> FileResponse:
    """A file made for this answer, which takes it away."""
    folder = Path(tempfile.mkdtemp(prefix="ulmek-"))
    try:
        with reader_of(ctx, run_id) as reader:
            stored_increment(reader, 0)
            write(reader, folder / "results")
    except BaseException:
        shutil.rmtree(folder)
        raise
    name = f"run-{run_id}.{kind}"
    return FileResponse(folder / "results", filename=name, background=BackgroundTask(shutil.rmtree, folder))
