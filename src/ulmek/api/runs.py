"""Routes for runs: start, watch, stop, and read what came back."""

import asyncio
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Depends, Header, Response
from numpy.typing import NDArray
from sse_starlette import EventSourceResponse, ServerSentEvent

from ulmek.api.context import Context, context
from ulmek.api.models import RunInfo
from ulmek.core.contact.overlap import corner_count
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.review.components import about_axis, principal
from ulmek.runs.worker import EVENTS
from ulmek.store.checkpoints import Checkpoints
from ulmek.store.database import ACTIVE
from ulmek.store.records import RunRecord
from ulmek.store.results import PAIR_FIELDS, ResultReader
from ulmek.store.scene import drawn_corners, pack_scene, skin_of
from ulmek.study.ledger import Ledger, build_ledger
from ulmek.study.schema import read_study
from ulmek.study.translate import own_axes

router = APIRouter(prefix="/api", tags=["runs"])
Ctx = Annotated[Context, Depends(context)]

# How often a watched run's story is looked at again.
POLL_SECONDS = 0.15
# Fields of parts: stored as they are, or made of stored ones. Radial, hoop and axial are about each part's own axis.
STORED_FIELDS = ("von_mises", "plastic_strain", "stress_error")
MOTIONS = ("displacement_x", "displacement_y", "displacement_z")
COMPONENTS = ("stress_xx", "stress_yy", "stress_zz", "stress_xy", "stress_yz", "stress_zx")
PRINCIPAL = ("principal_largest", "principal_middle", "principal_smallest")
ABOUT_AXIS = ("stress_radial", "stress_hoop", "stress_axial")
PART_FIELDS = (*STORED_FIELDS, "displacement", *MOTIONS, *COMPONENTS, *PRINCIPAL, *ABOUT_AXIS)


def _result_path(ctx: Context, run_id: int) -> Path:
    ctx.store.run(run_id)
    path = ctx.store.run_folder(run_id) / "result.h5"
    if not path.exists():
        raise UnknownNameError(f"run {run_id} has no result yet.", where="run", hint="Wait for its first increment.")
    return path


def _reader(ctx: Context, run_id: int) -> ResultReader:
    try:
        return ResultReader(_result_path(ctx, run_id))
    except (OSError, KeyError):
        raise UnknownNameError(
            f"the result of run {run_id} cannot be read yet.", where="run", hint="Try again shortly."
        ) from None


def _checked(reader: ResultReader, increment: int) -> int:
    if not 0 <= increment < reader.count():
        raise UnknownNameError(
            f"there is no increment {increment}; {reader.count()} are stored.", where="increment", hint="Count from 0."
        )
    return increment


def run_info(ctx: Context, run: RunRecord) -> RunInfo:
    """A run with the number of its stored increments."""
    assert run.id is not None
    return RunInfo(
        **run.model_dump(exclude={"document"}),
        increments=_increments(ctx, run.id),
        may_resume=_may_resume(ctx, run),
    )


def _increments(ctx: Context, run_id: int) -> int:
    """Stored increments, without reading them: runs are looked at every second while one goes on."""
    try:
        with ResultReader(ctx.store.run_folder(run_id) / "result.h5") as reader:
            return reader.count()
    except (OSError, KeyError):
        return 0


def _summaries(ctx: Context, run_id: int) -> list[dict[str, Any]]:
    try:
        with ResultReader(ctx.store.run_folder(run_id) / "result.h5") as reader:
            return reader.summaries()
    except (OSError, KeyError):
        return []


def ledger_of(ctx: Context, run: RunRecord, increment: int | None) -> Ledger | None:
    """Ledger of a run at an increment (the last by default), None when nothing is stored."""
    assert run.id is not None
    summaries = _summaries(ctx, run.id)
    if not summaries:
        return None
    at = len(summaries) - 1 if increment is None else increment
    if not 0 <= at < len(summaries):
        raise UnknownNameError(f"there is no increment {at}; {len(summaries)} are stored.", where="increment")
    return build_ledger(read_study(run.document), summaries, at)


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
    return run_info(ctx, ctx.queue.add(run.study_id, resumed_from=run_id))


def _may_resume(ctx: Context, run: RunRecord) -> bool:
    assert run.id is not None
    ended = run.status in ("stopped", "failed", "not-converged")
    return ended and bool(Checkpoints(ctx.store.run_folder(run.id)).numbers())


@router.get("/studies/{study_id}/runs")
def list_runs(study_id: int, ctx: Ctx) -> list[RunInfo]:
    """Runs of a study, the newest first."""
    return [run_info(ctx, run) for run in ctx.store.runs(study_id)]


@router.get("/runs/{run_id}")
def get_run(run_id: int, ctx: Ctx) -> RunInfo:
    """One run."""
    return run_info(ctx, ctx.store.run(run_id))


@router.post("/runs/{run_id}/stop")
def stop_run(run_id: int, ctx: Ctx) -> RunInfo:
    """Stop a run; what has converged is kept."""
    return run_info(ctx, ctx.queue.stop(run_id))


@router.get("/runs/{run_id}/document")
def run_document(run_id: int, ctx: Ctx) -> dict[str, Any]:
    """The study as this run solved it."""
    return ctx.store.run(run_id).document


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
def get_history(run_id: int, ctx: Ctx) -> list[dict[str, Any]]:
    """Summaries of all stored increments: values, pairs, parts, bolts, supports, balance."""
    ctx.store.run(run_id)
    return _summaries(ctx, run_id)


@router.get("/runs/{run_id}/scene", response_class=Response)
def run_scene(run_id: int, ctx: Ctx) -> Response:
    """Skins of the solved mesh and the patch of every pair, as one binary block."""
    with _reader(ctx, run_id) as reader:
        names, offsets = reader.bodies()
        nodes = reader.points()
        skins = [
            skin_of(name, nodes[offsets[i] : offsets[i + 1]], reader.drawn_faces(i), int(offsets[i]))
            for i, name in enumerate(names)
        ]
        pairs = [p["id"] for p in ctx.store.run(run_id).document["pairs"]]
        extra: dict[str, NDArray[Any]] = {}
        for i, pair in enumerate(pairs):
            positions, triangles = _patch(reader, pair, nodes)
            extra[f"pair{i}_positions"] = positions.ravel()
            extra[f"pair{i}_triangles"] = triangles.ravel()
        return Response(pack_scene(skins, nodes, {"pairs": pairs}, extra), media_type="application/octet-stream")


# A pair of a plane section is drawn as a strip into the part, this share of the section wide.
STRIP = 0.025


def _patch(reader: ResultReader, pair: str, nodes: NDArray[np.float64]) -> tuple[NDArray[Any], NDArray[Any]]:
    """Positions and triangles of side A of a pair; the edges of a section become a strip, its values repeated."""
    node, facets = reader.pair_patch(pair)
    position = np.full(len(nodes), -1)
    position[node] = np.arange(len(node))
    local = position[facets[:, : corner_count(facets)]]
    local = local[(local >= 0).all(axis=1)]
    if local.shape[1] > 2:
        cuts = [[0, 1, 2], [0, 2, 3]] if local.shape[1] == 4 else [[0, 1, 2]]
        return nodes[node], np.vstack([local[:, cut] for cut in cuts])
    along = nodes[node][local[:, 1]] - nodes[node][local[:, 0]]
    inward = np.zeros((len(node), 3))
    for k in (0, 1):
        np.add.at(inward, local[:, k], np.column_stack([-along[:, 1], along[:, 0], np.zeros(len(along))]))
    inward /= np.maximum(np.linalg.norm(inward, axis=1, keepdims=True), 1e-300)
    depth = STRIP * float(np.ptp(nodes, axis=0).max())
    n, (a, b) = len(node), local.T
    triangles = np.vstack([np.column_stack([a, b, b + n]), np.column_stack([a, b + n, a + n])])
    # A little in front of the section, so that it is not hidden by it.
    front = np.array([0.0, 0.0, depth / 20])
    return np.vstack([nodes[node] + front, nodes[node] + depth * inward + front]), triangles


def _on_patch(reader: ResultReader, pair: str, values: NDArray[Any]) -> NDArray[Any]:
    """Values at the contact nodes as the patch wants them."""
    _, facets = reader.pair_patch(pair)
    return np.concatenate([values, values]) if facets.shape[1] in (2, 3) else values


def _binary(values: NDArray[Any]) -> Response:
    return Response(np.ascontiguousarray(values, "<f4").tobytes(), media_type="application/octet-stream")


@router.get("/runs/{run_id}/increments/{increment}/parts/{field}", response_class=Response)
def part_field(run_id: int, increment: int, field: str, ctx: Ctx) -> Response:
    """A field at the skin vertices of all bodies in scene order, float32; ``motion`` gives all three components."""
    with _reader(ctx, run_id) as reader:
        at = _checked(reader, increment)
        if field in ABOUT_AXIS:
            values = _about_own_axes(reader, ctx.store.run(run_id).document, at)[:, ABOUT_AXIS.index(field)]
        else:
            values = _part_values(reader, field, at)
        return _binary(values[_skin_nodes(reader)])


def _about_own_axes(reader: ResultReader, document: dict[str, Any], increment: int) -> NDArray[Any]:
    axes, (names, offsets) = own_axes(read_study(document)), reader.bodies()
    points, stress = reader.points(), reader.point_field("stress", increment)
    spans = zip(names, offsets, offsets[1:], strict=False)
    return np.vstack([about_axis(stress[a:b], points[a:b], *axes[name]) for name, a, b in spans])


def _part_values(reader: ResultReader, field: str, increment: int) -> NDArray[Any]:
    if field in STORED_FIELDS:
        return reader.point_field(field, increment)
    if field == "motion":
        return reader.point_field("displacement", increment)
    if field in COMPONENTS:
        return reader.point_field("stress", increment)[:, COMPONENTS.index(field)]
    if field in PRINCIPAL:
        return principal(reader.point_field("stress", increment))[:, PRINCIPAL.index(field)]
    if field in ("displacement", *MOTIONS):
        u = reader.point_field("displacement", increment)
        return np.linalg.norm(u, axis=1) if field == "displacement" else u[:, "xyz".index(field[-1])]
    raise InputError(
        f"there is no part field '{field}'.", where="field", hint=f"Known: motion, {', '.join(PART_FIELDS)}."
    )


def _skin_nodes(reader: ResultReader) -> NDArray[np.int64]:
    names, offsets = reader.bodies()
    drawn = [drawn_corners(np.vstack(list(reader.drawn_faces(i).values()))) for i in range(len(names))]
    return np.concatenate([np.unique(facets) + first for facets, first in zip(drawn, offsets, strict=False)])


@router.get("/runs/{run_id}/increments/{increment}/pairs/{pair}/{field}", response_class=Response)
def pair_field(run_id: int, increment: int, pair: str, field: str, ctx: Ctx) -> Response:
    """A field at the contact nodes of a pair, float32; ``motion`` gives their displacements."""
    with _reader(ctx, run_id) as reader:
        at = _checked(reader, increment)
        if pair not in {p["id"] for p in ctx.store.run(run_id).document["pairs"]}:
            raise UnknownNameError(f"there is no pair '{pair}'.", where="pair")
        if field == "motion":
            node, _ = reader.pair_patch(pair)
            return _binary(_on_patch(reader, pair, reader.point_field("displacement", at)[node]))
        if field not in PAIR_FIELDS:
            raise InputError(
                f"there is no pair field '{field}'.", where="field", hint=f"Known: {', '.join(PAIR_FIELDS)}."
            )
        return _binary(_on_patch(reader, pair, reader.pair_field(pair, field, at)))
