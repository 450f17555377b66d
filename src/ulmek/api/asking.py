"""Routes for asking again: variants, series and what they found, what-ifs."""

from contextlib import suppress
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Body
from pydantic import BaseModel, Field

from ulmek.api.context import Context
from ulmek.api.models import RunInfo, StudyInfo
from ulmek.api.runs import Ctx, run_info
from ulmek.api.studies import Base, study_info
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.runs.sample import SampleResult
from ulmek.runs.scatter import HELD, WORSE, Findings, findings, step_of, whether_held
from ulmek.runs.series import Progress, read_samples, series_of
from ulmek.runs.series_driver import progress_in
from ulmek.store.database import ACTIVE
from ulmek.store.records import SeriesRecord
from ulmek.store.texts import study_of
from ulmek.study.changes import ToldVariant, told_variants
from ulmek.study.items import StudyDocument
from ulmek.study.items.item import free_id
from ulmek.study.items.series import SeriesUse
from ulmek.study.items.variant import Change, Variant
from ulmek.study.ledger.cells import Grade
from ulmek.study.sampling import Input, Value, changes_of, inputs_of, samples_of
from ulmek.study.variants import changes_between, variant_of, with_changes

router = APIRouter(prefix="/api", tags=["asking again"])


class InputInfo(BaseModel):
    """An input of a series on its study: what stands there now, the unit of its numbers, their ends; of a choice its
    values, whose places are its numbers."""

    id: str
    name: str
    now: float
    unit: str
    ends: tuple[float, float]
    choices: list[Value]


class SeriesInfo(BaseModel):
    """A series that was run, how far it is, and what it varies."""

    id: int
    study_id: int
    revision: int
    series: SeriesUse
    inputs: list[InputInfo]
    status: Literal["running", "done", "stopped", "failed"]
    message: str
    progress: Progress | None
    created: datetime
    ended: datetime | None


class SampleRow(BaseModel):
    """A sample with one measure: the numbers of its inputs, the value at the end of each step, and the worst grade with
    its verdict."""

    number: int
    values: dict[str, Value]
    numbers: list[float]
    status: str
    message: str
    seconds: float
    course: list[float | None]
    value: float | None
    grade: Grade
    told: str


class Naming(BaseModel):
    """A name, and a note."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    note: Annotated[str, Field(max_length=2000)] = ""


class WhatIf(BaseModel):
    """Changes of what a run solved."""

    changes: Annotated[list[Change], Field(min_length=1, max_length=100)]


def _whole(ctx: Context, record_text: str) -> StudyDocument:
    return ctx.store.shelf.whole_study(study_of(record_text))


@router.get("/studies/{study_id}/variants")
def list_variants(study_id: int, ctx: Ctx) -> list[ToldVariant]:
    """The variants of a study, each with what it changes."""
    return told_variants(_whole(ctx, ctx.store.study(study_id).document))


@router.post("/studies/{study_id}/variants")
def add_variant(study_id: int, naming: Naming, what: WhatIf, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Keep changes as a variant of a study."""
    study = _whole(ctx, ctx.store.study(study_id).document)
    with_changes(study, what.changes)
    return _keep_variant(ctx, study_id, naming, what.changes, base_revision)


def _keep_variant(ctx: Context, study_id: int, naming: Naming, made: list[Change], base: int) -> StudyInfo:
    study = study_of(ctx.store.study(study_id).document)
    key = free_id("variant", [v.id for v in study.variants])
    variant = Variant(id=key, name=naming.name, note=naming.note, changes=made).model_dump(mode="json")
    patch = [{"op": "add", "path": "/variants/-", "value": variant}]
    return study_info(ctx, ctx.store.edit(study_id, patch, label=f"Variant {naming.name}", base_revision=base))


@router.post("/studies/{study_id}/variants/{key}/run", status_code=201)
def run_variant(study_id: int, key: str, ctx: Ctx) -> RunInfo:
    """Queue a run of a variant of the study as it stands."""
    study = _whole(ctx, ctx.store.study(study_id).document)
    variant = variant_of(study, key)
    made = with_changes(study, variant.changes)
    return run_info(ctx, ctx.queue.add(study_id, document=made, variant=variant.name))


@router.post("/runs/{run_id}/what-if", status_code=201)
def ask_what_if(run_id: int, what: WhatIf, ctx: Ctx) -> RunInfo:
    """Queue a run of what another solved, with changes. One of the same run that was asked before, and waits or goes
    on, is stopped: only the last is wanted."""
    run = ctx.store.run(run_id)
    made = with_changes(_whole(ctx, run.document), what.changes)
    asked = [r for r in ctx.store.runs(run.study_id) if r.asked_of == run_id]
    for n, earlier in enumerate(asked):
        assert earlier.id is not None
        if earlier.status in ACTIVE:
            ctx.queue.stop(earlier.id)
        elif n > 0:
            # The last one may still be looked at. Another request may have removed it already.
            with suppress(UnknownNameError):
                ctx.store.delete_run(earlier.id)
    return run_info(ctx, ctx.queue.add(run.study_id, document=made, asked_of=run_id, revision=run.revision))


@router.post("/runs/{run_id}/variant")
def keep_run_as_variant(run_id: int, naming: Naming, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Keep what a run solved otherwise than the study stands now as a variant of it."""
    run = ctx.store.run(run_id)
    record = ctx.store.study(run.study_id)
    made = changes_between(study_of(record.document), study_of(run.document))
    if not made:
        raise InputError("this run solved the study as it stands.", where="run", hint="Change something first.")
    return _keep_variant(ctx, run.study_id, naming, made, base_revision)


@router.post("/studies/{study_id}/series/{key}/start", status_code=201)
def start_series(study_id: int, key: str, ctx: Ctx) -> SeriesInfo:
    """Run a series of the study as it stands."""
    study = _whole(ctx, ctx.store.study(study_id).document)
    samples_of(study, series_of(study, key))
    return _info(ctx, ctx.series.start(study_id, key))


@router.post("/studies/{study_id}/inputs")
def look_at_inputs(study_id: int, series: Annotated[SeriesUse, Body()], ctx: Ctx) -> list[InputInfo]:
    """What a series would vary on the study as it stands, before it is kept."""
    study = study_of(ctx.store.study(study_id).document)
    samples_of(study, series)
    return [_input_info(i) for i in inputs_of(study, series)]


@router.get("/studies/{study_id}/series")
def list_series(study_id: int, ctx: Ctx) -> list[SeriesInfo]:
    """Series of a study that were run, the newest first."""
    return [_info(ctx, record) for record in ctx.store.all_series(study_id)]


@router.get("/series/{series_id}")
def get_series(series_id: int, ctx: Ctx) -> SeriesInfo:
    """One series that was run."""
    return _info(ctx, ctx.store.one_series(series_id))


@router.post("/series/{series_id}/stop")
def stop_series(series_id: int, ctx: Ctx) -> SeriesInfo:
    """Stop a series; its samples stay."""
    return _info(ctx, ctx.series.stop(series_id))


@router.post("/series/{series_id}/go-on")
def go_on_with_series(series_id: int, ctx: Ctx) -> SeriesInfo:
    """Go on with what is missing of a series."""
    return _info(ctx, ctx.series.go_on(series_id))


@router.delete("/series/{series_id}", status_code=204)
def delete_series(series_id: int, ctx: Ctx) -> None:
    """Forget a series with its samples; one that goes on is refused."""
    ctx.store.delete_series(series_id)


@router.get("/series/{series_id}/findings")
def series_findings(series_id: int, ctx: Ctx) -> Findings:
    """What a series found so far: how sure each verdict is, what matters, where it turns."""
    record = ctx.store.one_series(series_id)
    _, inputs, results = _read(ctx, record)
    return findings(results, inputs)


@router.get("/series/{series_id}/samples")
def series_samples(series_id: int, ctx: Ctx, row: str = "", column: str = "") -> list[SampleRow]:
    """The samples of a series so far with one measure: a row and column of the ledger."""
    record = ctx.store.one_series(series_id)
    _, inputs, results = _read(ctx, record)
    steps = max((m.step for r in results for m in r.measures), default=-1) + 1
    at = step_of([r for r in results if r.status == "solved"], row, column)
    return [_row(r, inputs, (row, column), steps, at) for r in results]


def _row(r: SampleResult, inputs: list[Input], key: tuple[str, str], steps: int, at: int) -> SampleRow:
    measures = [whether_held(r)] if key == HELD else r.measures
    by_step = {m.step: m for m in measures if (m.row, m.column) == key}
    worst = max(by_step.values(), key=lambda m: WORSE.index(m.grade), default=None)
    return SampleRow(
        number=r.number, values=r.values, numbers=[i.number_of(r.values.get(i.use.id)) for i in inputs],
        status=r.status, message=r.message, seconds=r.seconds,
        course=[by_step[k].value if k in by_step else None for k in range(steps)],
        value=by_step[at].value if at in by_step else None,
        grade=worst.grade if worst is not None else "none", told=worst.told if worst is not None else "",
    )  # fmt: skip


@router.post("/series/{series_id}/samples/{number}/run", status_code=201)
def open_sample(series_id: int, number: int, ctx: Ctx) -> RunInfo:
    """Queue a run of a sample, to be looked at as any other."""
    record = ctx.store.one_series(series_id)
    study, made = _sample(ctx, record, number)
    name = f"Sample {number} of {series_of(study, record.series).name}"
    document = with_changes(study, made)
    return run_info(ctx, ctx.queue.add(record.study_id, document=document, variant=name, revision=record.revision))


@router.post("/series/{series_id}/samples/{number}/variant")
def keep_sample(series_id: int, number: int, naming: Naming, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Keep a sample as a variant of its study."""
    record = ctx.store.one_series(series_id)
    _, made = _sample(ctx, record, number)
    return _keep_variant(ctx, record.study_id, naming, made, base_revision)


def _sample(ctx: Context, record: SeriesRecord, number: int) -> tuple[StudyDocument, list[Change]]:
    study = _whole(ctx, record.document)
    series = series_of(study, record.series)
    sample = next((s for s in samples_of(study, series) if s.number == number), None)
    if sample is None:
        raise UnknownNameError(f"there is no sample {number}.", where="sample", hint="They count from 0.")
    return study, changes_of(inputs_of(study, series), sample)


def _read(ctx: Context, record: SeriesRecord) -> tuple[StudyDocument, list[Input], list[SampleResult]]:
    study = study_of(record.document)
    inputs = inputs_of(study, series_of(study, record.series))
    return study, inputs, read_samples(ctx.store.folder_of_series(record))


def _info(ctx: Context, record: SeriesRecord) -> SeriesInfo:
    study = study_of(record.document)
    series = series_of(study, record.series)
    return SeriesInfo(
        **record.model_dump(exclude={"document", "folder", "series"}), series=series,
        inputs=[_input_info(i) for i in inputs_of(study, series)],
        progress=progress_in(ctx.store.folder_of_series(record)),
    )  # fmt: skip


def _input_info(i: Input) -> InputInfo:
    choices = list(getattr(i.use.spread, "values", []))
    return InputInfo(id=i.use.id, name=i.use.name, now=i.nominal, unit=i.unit, ends=i.ends, choices=choices)
