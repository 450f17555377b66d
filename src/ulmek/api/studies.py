"""Routes for recipes, demos and studies."""

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Depends, Response

from ulmek.api.context import Context, context
from ulmek.api.models import DemoInfo, DimensionInfo, Edit, NewStudy, RecipeInfo, StudyInfo, StudySummary
from ulmek.api.runs import ledger_of, run_info
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.volume import PLANE
from ulmek.demo import DEMOS, demo_study
from ulmek.store.records import StudyRecord
from ulmek.store.scene import pack_scene, section_faces, skin_of
from ulmek.study.edits import check_recipe
from ulmek.study.preflight import Preflight, preflight
from ulmek.study.schema import StudyDocument, read_study
from ulmek.study.translate import translate_parts

router = APIRouter(prefix="/api", tags=["studies"])
Ctx = Annotated[Context, Depends(context)]


@router.get("/recipes")
def list_recipes() -> list[RecipeInfo]:
    """All recipes with their dimensions."""
    return [
        RecipeInfo(
            kind=r.kind, label=r.label, summary=r.summary, dimensions=[DimensionInfo(**vars(d)) for d in r.dimensions]
        )
        for r in RECIPES.values()
    ]


@router.get("/demos")
def list_demos() -> list[DemoInfo]:
    """Demo studies."""
    studies = {name: demo_study(name) for name in DEMOS}
    return [DemoInfo(name=n, title=s.title, notes=s.notes) for n, s in studies.items()]


@router.get("/studies")
def list_studies(ctx: Ctx) -> list[StudySummary]:
    """The shelf, the latest touched first."""
    return [_summary(ctx, record) for record in ctx.store.studies()]


def _summary(ctx: Context, record: StudyRecord) -> StudySummary:
    assert record.id is not None
    document = read_study(record.document)
    runs = ctx.store.runs(record.id)
    run = runs[0] if runs else None
    ledger = ledger_of(ctx, run, None) if run is not None else None
    return StudySummary(
        id=record.id, title=record.title, machine=document.machine, notes=document.notes,
        revision=record.revision, updated=record.updated, parts=len(document.parts),
        bolts=sum(len(p.placements) for b in document.bolts for p in document.parts if p.id == b.part),
        bolt_parts=[b.part for b in document.bolts], pairs=len(document.pairs), run=run_info(ctx, run) if run else None,
        remarks=ledger.remarks if ledger else [], is_current=run is not None and run.revision == record.revision,
    )  # fmt: skip


@router.post("/studies", status_code=201)
def create_study(new: NewStudy, ctx: Ctx) -> StudyInfo:
    """Start a study from a demo or a document."""
    if new.demo is not None:
        if new.demo not in DEMOS:
            raise UnknownNameError(f"there is no demo '{new.demo}'.", where="demo", hint=f"Known: {', '.join(DEMOS)}.")
        return _info(ctx, ctx.store.add_study(demo_study(new.demo)))
    if new.document is None:
        raise InputError("neither a demo nor a document was given.", where="document")
    study = read_study(new.document)
    for part in study.parts:
        check_recipe(part)
    return _info(ctx, ctx.store.add_study(study))


@router.get("/studies/{study_id}")
def get_study(study_id: int, ctx: Ctx) -> StudyInfo:
    """One study as it stands."""
    return _info(ctx, ctx.store.study(study_id))


def _info(ctx: Context, record: StudyRecord) -> StudyInfo:
    assert record.id is not None
    undo, redo = ctx.store.edit_labels(record.id)
    return StudyInfo(id=record.id, revision=record.revision, document=_document(record), undo=undo, redo=redo)


def _document(record: StudyRecord) -> StudyDocument:
    return read_study(record.document)


@router.delete("/studies/{study_id}", status_code=204)
def delete_study(study_id: int, ctx: Ctx) -> None:
    """Take a study off the shelf."""
    for run in ctx.store.runs(study_id, status=("queued", "running")):
        assert run.id is not None
        ctx.queue.stop(run.id)
    ctx.store.delete_study(study_id)


@router.patch("/studies/{study_id}")
def edit_study(study_id: int, edit: Edit, ctx: Ctx) -> StudyInfo:
    """Apply an edit; 409 when the study has moved on, 422 when the result would not check."""
    return _info(ctx, ctx.store.edit(study_id, edit.patch, label=edit.label, base_revision=edit.base_revision))


@router.post("/studies/{study_id}/undo")
def undo(study_id: int, ctx: Ctx) -> StudyInfo:
    """Take the latest edit back."""
    return _info(ctx, ctx.store.undo(study_id))


@router.post("/studies/{study_id}/redo")
def redo(study_id: int, ctx: Ctx) -> StudyInfo:
    """Make the latest undone edit again."""
    return _info(ctx, ctx.store.redo(study_id))


@router.get("/studies/{study_id}/preflight")
def check_study(study_id: int, ctx: Ctx) -> Preflight:
    """Checks before a run."""
    return preflight(_document(ctx.store.study(study_id)))


@router.get("/studies/{study_id}/scene", response_class=Response)
def study_scene(study_id: int, ctx: Ctx) -> Response:
    """Skins of all parts as one binary block (see `store.scene.pack`)."""
    record = ctx.store.study(study_id)
    bodies = translate_parts(_document(record))
    skins, nodes, first = [], [], 0
    for body in bodies:
        mesh = body.mesh
        drawn = section_faces(mesh.cells) if mesh.kind in PLANE else mesh.faces
        skins.append(skin_of(body.name, mesh.nodes, drawn, first))
        nodes.append(body.mesh.nodes)
        first += len(body.mesh.nodes)
    bricks = {body.name: len(body.mesh.cells) for body in bodies}
    block = pack_scene(skins, np.vstack(nodes), {"revision": record.revision, "bricks": bricks}, {})
    return Response(block, media_type="application/octet-stream")
