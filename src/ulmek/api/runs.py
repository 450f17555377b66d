"""Routes for runs: start, watch, stop, and read what came back."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import suppress
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Depends, Header, Response
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError
from sse_starlette import EventSourceResponse, ServerSentEvent

from ulmek.api.context import Context, context
from ulmek.api.models import RunInfo, RunNaming, SolvedStudy
from ulmek.api.results import About, part_values, reader_of, stored_increment
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.mesh.facets import corners_of, is_edges
from ulmek.core.review.fields import PAIR_VECTORS
from ulmek.core.review.summary import Summary
from ulmek.runs.events import RunEvent
from ulmek.runs.settle import SETTLED, Wanted
from ulmek.runs.worker import EVENTS
from ulmek.store.checkpoints import Checkpoints
from ulmek.store.database import ACTIVE
from ulmek.store.fields import pair_values
from ulmek.store.records import RunRecord
from ulmek.store.results import ResultError, ResultReader, open_result
from ulmek.store.scene import pack_scene, patch_of, skin_of
from ulmek.store.texts import study_of
from ulmek.study.amounts import amounts
from ulmek.study.awake import awake
from ulmek.study.changes import changes
from ulmek.study.items import StudyDocument
from ulmek.study.ledger import Ledger, build_ledger
from ulmek.study.units import value_of

router = APIRouter(prefix="/api", tags=["runs"])
Ctx = Annotated[Context, Depends(context)]

# How often a watched run's story is looked at again.
POLL_SECONDS = 0.15
_EVENT: TypeAdapter[RunEvent] = TypeAdapter(RunEvent)


def run_info(ctx: Context, run: RunRecord) -> RunInfo:
    """A run with the number of its stored increments."""
    assert run.id is not None
    return RunInfo(
        **run.model_dump(exclude={"document", "settling"}),
        settling=Wanted.model_validate_json(run.settling) if run.settling else None,
        increments=_increments(ctx, run),
        may_resume=_may_resume(ctx, run),
    )


def _increments(ctx: Context, run: RunRecord) -> int:
    """Stored increments, without reading them: runs are looked at every second while one goes on."""
    try:
        with open_result(ctx.store.folder_of(run) / "result.h5") as reader:
            return reader.count()
    except ResultError:
        return 0


def _summaries(ctx: Context, run: RunRecord) -> list[Summary]:
    """Summaries of a run; none while it has not written any."""
    path = ctx.store.folder_of(run) / "result.h5"
    if not path.exists() and run.status != "solved":
        return []
    with open_result(path) as reader:
        return reader.summaries()


def ledger_of(ctx: Context, run: RunRecord, increment: int | None) -> Ledger | None:
    """Ledger of a run at an increment (the last by default), None when nothing is stored."""
    summaries = _summaries(ctx, run)
    if not summaries:
        return None
    at = len(summaries) - 1 if increment is None else increment
    if not 0 <= at < len(summaries):
        raise UnknownNameError(f"there is no increment {at}; {len(summaries)} are stored.", where="increment")
    return build_ledger(study_of(run.document), summaries, at)


@router.post("/studies/{study_id}/runs", status_code=201)
def start_run(study_id: int, ctx: Ctx) -> RunInfo:
    """Queue a run of the study as it stands."""
    return run_info(ctx, ctx.queue.add(study_id))


@router.post("/runs/{run_id}/resume", status_code=201)
def resume_run(run_id: int, ctx: Ctx) -> RunInfo:
    """Queue a run that goes on after the last increment of this one, with the study as it stands."""
    run = ctx.store.run(run_id)
    if not _may_resume(ctx, run):
        raise InputError(
            f"run {run_id} cannot be resumed: it {'is solved' if run.status == 'solved' else 'has no checkpoint'}.",
            where="run",
            hint="Run the study from the start.",
        )
    settling = Wanted.model_validate_json(run.settling) if run.settling else None
    return run_info(ctx, ctx.queue.add(run.study_id, resumed_from=run_id, settling=settling))


def _may_resume(ctx: Context, run: RunRecord) -> bool:
    assert run.id is not None
    ended = run.status in ("stopped", "failed", "not-converged")
    folder = ctx.store.folder_of(run)
    return ended and ((folder / SETTLED).exists() if run.settling else bool(Checkpoints(folder).numbers()))


@router.get("/studies/{study_id}/runs")
def list_runs(study_id: int, ctx: Ctx) -> list[RunInfo]:
    """Runs of a study but what-ifs, the newest first."""
    return [run_info(ctx, run) for run in ctx.store.shown_runs(study_id)]


@router.get("/runs/{run_id}")
def get_run(run_id: int, ctx: Ctx) -> RunInfo:
    """One run."""
    return run_info(ctx, ctx.store.run(run_id))


@router.patch("/runs/{run_id}")
def name_run(run_id: int, naming: RunNaming, ctx: Ctx) -> RunInfo:
    """Give a run a name or a note."""
    given = {key: value.strip() for key, value in naming.model_dump(exclude_none=True).items()}
    return run_info(ctx, ctx.store.update_run(run_id, **given))


@router.delete("/runs/{run_id}", status_code=204)
def delete_run(run_id: int, ctx: Ctx) -> None:
    """Forget a run with its results; one that goes on is refused."""
    ctx.store.delete_run(run_id)


@router.get("/runs/{run_id}/changes")
def changes_between(run_id: int, since: int, ctx: Ctx) -> list[str]:
    """What is other in the study of this run than in that of another run."""
    return changes(*(study_of(ctx.store.run(number).document) for number in (since, run_id)))


@router.post("/runs/{run_id}/stop")
def stop_run(run_id: int, ctx: Ctx) -> RunInfo:
    """Stop a run; what has converged is kept."""
    return run_info(ctx, ctx.queue.stop(run_id))


@router.get("/runs/{run_id}/document")
def run_document(run_id: int, ctx: Ctx) -> SolvedStudy:
    """What this run solved of the study, without what was asleep, and with what its values amounted to then."""
    document = awake(study_of(ctx.store.run(run_id).document))
    return SolvedStudy(document=document, amounts=amounts(document))


@router.get("/runs/{run_id}/events", response_class=EventSourceResponse)
async def watch_run(run_id: int, ctx: Ctx, last_event_id: Annotated[int, Header()] = -1) -> EventSourceResponse:
    """The story of a run as Server-Sent Events, from its start (or after Last-Event-ID) to its end."""
    ctx.store.run(run_id)
    return EventSourceResponse(_story(ctx, run_id, last_event_id + 1))


async def _story(ctx: Context, run_id: int, skip: int) -> AsyncIterator[ServerSentEvent]:
    path = ctx.store.run_folder(run_id) / EVENTS
    position, number = 0, 0
    while True:
        status = ctx.store.run(run_id).status
        if path.exists():
            with path.open("rb") as events:
                events.seek(position)
                data = events.read()
            whole = data[: data.rfind(b"\n") + 1]
            position += len(whole)
            for line in whole.decode().splitlines():
                if number >= skip:
                    yield ServerSentEvent(line, id=str(number))
                number += 1
        if status not in ACTIVE:
            yield ServerSentEvent("{}", event="close")
            return
        await asyncio.sleep(POLL_SECONDS)


@router.get("/runs/{run_id}/ledger")
def get_ledger(run_id: int, ctx: Ctx, increment: int | None = None) -> Ledger:
    """The ledger at an increment, the last by default."""
    ledger = ledger_of(ctx, ctx.store.run(run_id), increment)
    if ledger is None:
        raise UnknownNameError(f"run {run_id} has no increments yet.", where="run", hint="Wait for the first one.")
    return ledger


@router.get("/runs/{run_id}/history")
def get_history(run_id: int, ctx: Ctx) -> list[Summary]:
    """Summaries of all stored increments: values, pairs, parts, bolts, carriers of force, balance."""
    return _summaries(ctx, ctx.store.run(run_id))


@router.get("/runs/{run_id}/story")
def get_story(run_id: int, ctx: Ctx) -> list[RunEvent]:
    """What the run has said so far, event by event; lines that cannot be read are passed over."""
    path, out = ctx.store.run_folder(run_id) / EVENTS, []
    for line in path.read_text(errors="replace").splitlines() if path.exists() else []:
        with suppress(ValidationError):
            out.append(_EVENT.validate_json(line))
    return out


@router.get("/runs/{run_id}/scene", response_class=Response)
def run_scene(run_id: int, ctx: Ctx) -> Response:
    """Skins of the solved mesh and the patch of every pair, as one binary block."""
    with reader_of(ctx, run_id) as reader:
        names, offsets = reader.bodies()
        nodes = reader.points()
        skins = [
            skin_of(name, nodes[offsets[i] : offsets[i + 1]], reader.drawn_faces(i), int(offsets[i]))
            for i, name in enumerate(names)
        ]
        study = study_of(ctx.store.run(run_id).document)
        pairs = [p.id for p in study.pairs]
        extra: dict[str, NDArray[Any]] = {}
        for i, pair in enumerate(pairs):
            positions, triangles = _patch(reader, pair, nodes)
            extra[f"pair{i}_positions"] = positions.ravel()
            extra[f"pair{i}_triangles"] = triangles.ravel()
        header = {"pairs": pairs, "solid": _solid_of(study)}
        return Response(pack_scene(skins, nodes, header, extra), media_type="application/octet-stream")


def _solid_of(study: StudyDocument) -> dict[str, Any] | None:
    """What a section is of: turned about the y axis, or so deep (mm); nothing of solids."""
    if study.space == "solid":
        return None
    is_turned = study.space == "axisymmetric"
    return {"is_turned": is_turned, "depth": 0.0 if is_turned else value_of(study.thickness, "length")}


def _patch(reader: ResultReader, pair: str, nodes: NDArray[np.float64]) -> tuple[NDArray[Any], NDArray[Any]]:
    return patch_of(nodes, *reader.pair_patch(pair))


def _on_patch(reader: ResultReader, pair: str, values: NDArray[Any]) -> NDArray[Any]:
    """Values at the contact nodes as the patch wants them."""
    _, facets = reader.pair_patch(pair)
    return np.concatenate([values, values]) if is_edges(facets) else values


def _binary(values: NDArray[Any]) -> Response:
    return Response(np.ascontiguousarray(values, "<f4").tobytes(), media_type="application/octet-stream")


@router.get("/runs/{run_id}/increments/{increment}/parts/{field}", response_class=Response)
def part_field(run_id: int, increment: int, field: str, ctx: Ctx, about: About = None) -> Response:
    """A field at the skin vertices of all bodies in scene order, float32; ``motion`` gives all three components. Not a
    number where it cannot be told."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        if field == "motion":
            return _binary(reader.point_field("displacement", at)[_skin_nodes(reader)])
        values = part_values(ctx, run_id, reader, field, at, about)
        return _binary(values[_skin_nodes(reader)])


def _skin_nodes(reader: ResultReader) -> NDArray[np.int64]:
    names, offsets = reader.bodies()
    drawn = [corners_of(np.vstack(list(reader.drawn_faces(i).values()))) for i in range(len(names))]
    return np.concatenate([np.unique(facets) + first for facets, first in zip(drawn, offsets, strict=False)])


@router.get("/runs/{run_id}/increments/{increment}/pairs/{pair}/{field}", response_class=Response)
def pair_field(run_id: int, increment: int, pair: str, field: str, ctx: Ctx) -> Response:
    """A field at the contact nodes of a pair, float32; ``motion`` gives their displacements, ``friction``
    and ``slid`` vectors (see `PAIR_VECTORS`), three components each."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        study = study_of(ctx.store.run(run_id).document)
        if pair not in {p.id for p in study.pairs}:
            raise UnknownNameError(f"there is no pair '{pair}'.", where="pair")
        if field == "motion":
            node, _ = reader.pair_patch(pair)
            return _binary(_on_patch(reader, pair, reader.point_field("displacement", at)[node]))
        if field in PAIR_VECTORS:
            return _binary(_on_patch(reader, pair, reader.pair_vector(pair, field, at)))
        return _binary(_on_patch(reader, pair, pair_values(study, reader, pair, field, at)))
