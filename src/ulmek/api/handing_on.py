"""Routes for what a run hands on: tables and fields as files, its report, animations."""

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Depends
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field
from starlette.background import BackgroundTask

from ulmek.api.context import Context, context
from ulmek.api.results import reader_of, stored_increment
from ulmek.core.review.fields import PART_FIELDS
from ulmek.draw.film import Film, Kind, write_film
from ulmek.draw.raster import View
from ulmek.draw.stage import Shown
from ulmek.report.make import CHAPTERS, Format, Wanted, study_in, write_report
from ulmek.store.export import write_vtkhdf, write_workbook
from ulmek.store.results import ResultReader, open_result
from ulmek.study.aside import aside

Ctx = Annotated[Context, Depends(context)]
router = APIRouter(prefix="/api/runs/{run_id}", tags=["runs"])


@router.get("/results.xlsx", response_class=FileResponse)
def results_as_workbook(run_id: int, ctx: Ctx) -> FileResponse:
    """The history of a run and the contact nodes of its pairs as a workbook."""
    return _read(ctx, run_id, "xlsx", write_workbook)


@router.get("/results.vtkhdf", response_class=FileResponse)
def results_as_fields(run_id: int, ctx: Ctx) -> FileResponse:
    """The fields of all parts at all increments as VTKHDF."""
    return _read(ctx, run_id, "vtkhdf", write_vtkhdf)


class ReportOrder(BaseModel):
    """A report to be made: as what, with which fields of parts on pictures, which chapters, and a note."""

    to: Format = "pdf"
    fields: Annotated[list[str], Field(max_length=len(PART_FIELDS))] = list(Wanted.fields)
    chapters: Annotated[list[str], Field(max_length=len(CHAPTERS))] = list(CHAPTERS)
    note: Annotated[str, Field(max_length=20_000)] = ""


@router.post("/report", response_class=FileResponse)
def report_of_run(run_id: int, order: ReportOrder, ctx: Ctx) -> FileResponse:
    """The report of a run: one document with all that was assumed, done and found."""
    run = ctx.store.run(run_id)
    note = "\n".join(text for text in (run.note, order.note) if text)
    wanted = Wanted(tuple(order.fields), tuple(order.chapters), run.name or f"run {run_id}", note)
    folder = ctx.store.folder_of(run)
    return _written(
        run_id, order.to,
        lambda path: aside(f"the report of run {run_id}", write_report, folder, order.to, path, wanted, shop="papers"),
    )  # fmt: skip


class FilmOrder(BaseModel):
    """An animation to be made: of a field of parts (none: their own colours), as it is looked at on the stage.

    limits: of the colours, in the unit that the field is spoken in; by all increments when there are none, by powers of
    ten with is_log. towards, up:
    direction from the parts to the eye, and what is up; rate: frames a second; between: frames between increments.
    """

    to: Kind = "webm"
    field: str | None = "von_mises"
    limits: tuple[float, float] | None = None
    part: str | None = None
    scale: float = 1.0
    is_solid: bool = False
    is_log: bool = False
    towards: tuple[float, float, float] | None = None
    up: tuple[float, float, float] = (0.0, 0.0, 1.0)
    rate: Annotated[int, Field(ge=1, le=60)] = 6
    between: Annotated[int, Field(ge=0, le=60)] = 0
    size: tuple[Annotated[int, Field(ge=64, le=3840)], Annotated[int, Field(ge=64, le=2160)]] = (960, 640)


@router.post("/film", response_class=FileResponse)
def film_of_run(run_id: int, order: FilmOrder, ctx: Ctx) -> FileResponse:
    """All increments of a run as an animation, drawn by the server."""
    folder = ctx.store.folder_of(ctx.store.run(run_id))
    return _written(
        run_id, order.to, lambda path: aside(f"the film of run {run_id}", _film, folder, order, path, shop="papers")
    )  # fmt: skip


def _film(folder: Path, order: FilmOrder, path: Path) -> None:
    view = None if order.towards is None or not any(order.towards) else View(order.towards, order.up)
    shown = Shown(
        field=order.field, scale=order.scale, limits=order.limits, view=view, is_solid=order.is_solid,
        is_log=order.is_log, parts=() if order.part is None else (order.part,),
    )  # fmt: skip
    with open_result(folder / "result.h5") as reader:
        film = Film(order.rate, order.between)
        write_film(study_in(folder), reader, shown, film, order.size, path, order.to)


def _read(ctx: Context, run_id: int, kind: str, write: Callable[[ResultReader, Path], Any]) -> FileResponse:
    """A file made of the results of a run."""

    def made(path: Path) -> None:
        with reader_of(ctx, run_id) as reader:
            stored_increment(reader, 0)
            write(reader, path)

    return _written(run_id, kind, made)


def _written(run_id: int, kind: str, write: Callable[[Path], Any]) -> FileResponse:
    """A file made for this answer, which takes it away."""
    folder = Path(tempfile.mkdtemp(prefix="ulmek-"))
    try:
        write(folder / f"results.{kind}")
    except BaseException:
        shutil.rmtree(folder)
        raise
    name = f"run-{run_id}.{kind}"
    return FileResponse(folder / f"results.{kind}", filename=name, background=BackgroundTask(shutil.rmtree, folder))
