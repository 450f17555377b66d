"""Routes for recipes, demos and studies."""

import itertools
import json
import tempfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from numpy.typing import NDArray

from ulmek.api.context import Context, context
from ulmek.api.errors import Problem, problem_of
from ulmek.api.models import (
    DemoInfo,
    DimensionInfo,
    Edit,
    FitInfo,
    NewPart,
    NewStudy,
    RecipeInfo,
    StudyInfo,
    StudySummary,
    TakingOut,
    ThreadInfo,
    ToldEdit,
)
from ulmek.api.runs import ledger_of, run_info
from ulmek.core.errors import InputError, UlmekError, UnknownNameError
from ulmek.core.geometry.kernel import Unit
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.handcalc.fits import fit_limits
from ulmek.core.handcalc.threads import metric_thread, proof_load
from ulmek.core.mesh.volume import PLANE, VolumeMesh
from ulmek.demo import DEMOS, demo_study
from ulmek.store.records import StudyRecord
from ulmek.store.scene import pack_scene, patch_of, skin_of, skin_of_section
from ulmek.store.texts import study_of
from ulmek.study.amounts import amounts
from ulmek.study.aside import aside
from ulmek.study.awake import asleep
from ulmek.study.checks import Asked, Reckoning, reckoned
from ulmek.study.edits import check_recipe
from ulmek.study.grades import GRADES
from ulmek.study.items import FileUse, Material, RecipeUse, StudyDocument, items_of, read_study
from ulmek.study.measure import FaceInfo, Measured, face_info, measured
from ulmek.study.mesh_report import MeshReport, mesh_report
from ulmek.study.meshes import part_mesh
from ulmek.study.new_parts import new_part, part_of_file, part_of_shape, spaces_of
from ulmek.study.preflight import Preflight
from ulmek.study.start_gap import start_gap
from ulmek.study.step_export import write_assembly
from ulmek.study.step_files import StepFile, read_step_file
from ulmek.study.take_out import take_out
from ulmek.study.touching import Suggestion, suggestions
from ulmek.study.translate import translate_parts
from ulmek.study.units import value_of

router = APIRouter(prefix="/api", tags=["studies"])
Ctx = Annotated[Context, Depends(context)]
# The revision that an edit was made at: it is refused when the study has moved on since.
Base = Annotated[int, Query(description="Revision of the study that the edit was made at.")]
# What a part stands in while it is previewed.
_EMPTY = StudyDocument(name="preview", title="Preview")


@router.get("/grades")
def grades() -> list[Material]:
    """Generic materials to begin with."""
    return list(GRADES)


@router.get("/recipes")
def list_recipes() -> list[RecipeInfo]:
    """All recipes with their dimensions."""
    return [
        RecipeInfo(
            kind=r.kind,
            label=r.label,
            summary=r.summary,
            dimensions=[DimensionInfo(**vars(d)) for d in r.dimensions],
            spaces=spaces_of(r),
        )
        for r in RECIPES.values()
    ]


@router.get("/recipes/{kind}/preview", response_class=Response)
def preview_recipe(kind: str, dimensions: str = "{}", section: bool = False) -> Response:
    """The skin of a part as a recipe would make it of written dimensions (a JSON object), as `study_scene`; or its
    section, as plane studies have it."""
    try:
        new = NewPart(kind=kind, dimensions=json.loads(dimensions))
    except ValueError:
        raise InputError("the dimensions are not a JSON object of entries.", where="dimensions") from None
    part, _ = new_part(_EMPTY, new.kind, new.dimensions)
    return _scene({part.id: part_mesh(part, section=section)}, 0)


@router.post("/parts/preview", response_class=Response)
def preview_shape(recipe: RecipeUse) -> Response:
    """The skin of a drawn part or bent bar, as `study_scene`."""
    part, _ = part_of_shape(_EMPTY, recipe, "part")
    return _scene({part.id: part_mesh(part)}, 0)


@router.post("/geometry")
async def read_geometry(request: Request, ctx: Ctx, name: str = "part.step", unit: Unit | None = None) -> StepFile:
    """What a STEP file, sent as the body, holds; its free-form solids are kept, and named by their digests. Its numbers
    are taken for a ``unit`` where one is given, whatever it says."""
    content, shelf = await request.body(), ctx.store.shelf
    found = await run_in_threadpool(read_step_file, content, name, skins=shelf.skins, meant=unit)
    return StepFile.model_validate(await run_in_threadpool(shelf.absorbed, found.model_dump(mode="json")))


@router.post("/geometry/preview", response_class=Response)
def preview_file(file: FileUse, ctx: Ctx) -> Response:
    """The skin of a solid of a file, as `study_scene`."""
    part, _ = part_of_file(_EMPTY, ctx.store.shelf.whole(file), "part")
    return _scene({part.id: part_mesh(part)}, 0)


@router.get("/geometry/skins/{key}", response_class=Response)
def preview_skin(key: str, ctx: Ctx) -> Response:
    """The skin of a free-form solid of a file that was read, as `study_scene`; `FileSolid` names its key."""
    with np.load(ctx.store.shelf.skin(key)) as found:
        nodes, triangles, face = found["nodes"], found["triangles"], found["face"]
    quads = triangles[:, [0, 1, 2, 2]]
    faces = {str(f): quads[face == f] for f in np.unique(face)}
    block = pack_scene([skin_of("solid", nodes, faces, 0)], nodes, {"revision": 0}, {})
    return Response(block, media_type="application/octet-stream")


@router.get("/fits")
def look_up_fit(fit: str, diameter: str) -> FitInfo:
    """Overlap of a fit such as H7/s6 on a nominal diameter (ISO 286-1)."""
    found = fit_limits(fit, value_of(diameter, "length"))
    least, most = found.least_overlap, found.most_overlap
    return FitInfo(least=least, mean=(least + most) / 2, most=most)


@router.get("/threads")
def look_up_thread(diameter: str, strength: str = "8.8") -> ThreadInfo:
    """Coarse metric thread of a nominal diameter (ISO 724), and the proof load of a property class (ISO 898-1)."""
    size = value_of(diameter, "length")
    thread = metric_thread(size)
    return ThreadInfo(
        pitch=thread.pitch, stress_area=thread.stress_area, proof_load=proof_load(size, strength, thread.pitch)
    )


@router.get("/demos")
def list_demos() -> list[DemoInfo]:
    """Demo studies."""
    studies = {name: demo_study(name) for name in DEMOS}
    return [DemoInfo(name=n, title=s.title, notes=s.notes) for n, s in studies.items()]


@router.get("/studies")
def list_studies(ctx: Ctx) -> list[StudySummary]:
    """The shelf, the latest touched first; a study or a result that cannot be read is shown as such."""
    return [_summary(ctx, record) for record in ctx.store.studies()]


def _summary(ctx: Context, record: StudyRecord) -> StudySummary:
    assert record.id is not None
    problem = None
    document, remarks = _EMPTY, []
    runs = ctx.store.shown_runs(record.id)
    run = runs[0] if runs else None
    try:
        document = study_of(record.document)
        ledger = ledger_of(ctx, run, None) if run is not None else None
        remarks = ledger.remarks if ledger else []
    except UlmekError as error:
        problem = problem_of(error)
    copies = {p.id: len(p.placements) for p in document.parts}
    return StudySummary(
        id=record.id, title=record.title, machine=document.machine, notes=document.notes,
        revision=record.revision, updated=record.updated, parts=len(document.parts),
        bolts=sum(copies[b.part] if b.part is not None else 1 for b in document.bolts),
        bolt_parts=[b.part for b in document.bolts if b.part is not None], pairs=len(document.pairs),
        run=run_info(ctx, run) if run else None, remarks=remarks,
        is_current=run is not None and run.revision == record.revision, problem=problem,
    )  # fmt: skip


@router.post("/studies", status_code=201)
def create_study(new: NewStudy, ctx: Ctx) -> StudyInfo:
    """Start a study from a demo or a document."""
    if new.demo is not None:
        if new.demo not in DEMOS:
            raise UnknownNameError(f"there is no demo '{new.demo}'.", where="demo", hint=f"Known: {', '.join(DEMOS)}.")
        return study_info(ctx, ctx.store.add_study(demo_study(new.demo)))
    if new.document is None:
        raise InputError("neither a demo nor a document was given.", where="document")
    study = read_study(new.document)
    for part in study.parts:
        check_recipe(ctx.store.shelf.whole_part(part))
    return study_info(ctx, ctx.store.add_study(study))


@router.get("/studies/{study_id}")
def get_study(study_id: int, ctx: Ctx) -> StudyInfo:
    """One study as it stands."""
    return study_info(ctx, ctx.store.study(study_id))


def study_info(ctx: Context, record: StudyRecord) -> StudyInfo:
    """A study as the page is told of it."""
    assert record.id is not None
    undo, redo = ctx.store.edit_labels(record.id)
    document = study_of(record.document)
    return StudyInfo(
        id=record.id, revision=record.revision, document=document, amounts=amounts(document), asleep=asleep(document),
        undo=undo, redo=redo,
    )  # fmt: skip


@router.get("/studies/{study_id}/file", response_class=Response)
def study_file(study_id: int, ctx: Ctx) -> Response:
    """The study as a file that stands alone, with the solids of files in it: what `ulmek solve` takes."""
    study = ctx.store.whole_study(ctx.store.study(study_id))
    named = {"content-disposition": f'attachment; filename="{study.name}.ulmek.json"'}
    return Response(study.model_dump_json(indent=2) + "\n", media_type="application/json", headers=named)


@router.post("/studies/{study_id}/duplicate", status_code=201)
def duplicate_study(study_id: int, ctx: Ctx) -> StudyInfo:
    """A second study like it, without its runs and its way back; its title tells them apart."""
    record = ctx.store.study(study_id)
    study, taken = study_of(record.document), {r.title for r in ctx.store.studies()}
    titles = (f"{study.title[:70]}, copy{f' {n}' if n > 1 else ''}" for n in itertools.count(1))
    title = next(t for t in titles if t not in taken)
    return study_info(ctx, ctx.store.add_study(study.model_copy(update={"title": title})))


@router.delete("/studies/{study_id}", status_code=204)
def delete_study(study_id: int, ctx: Ctx) -> None:
    """Take a study off the shelf with its runs; one that goes on is ended."""
    ctx.series.forget(study_id)
    ctx.queue.forget(study_id)


@router.patch("/studies/{study_id}")
def edit_study(study_id: int, edit: Edit, ctx: Ctx) -> StudyInfo:
    """Apply an edit; 409 when the study has moved on, 422 when the result would not check."""
    return study_info(ctx, ctx.store.edit(study_id, edit.patch, label=edit.label, base_revision=edit.base_revision))


@router.post("/studies/{study_id}/take-out")
def take_item_out(study_id: int, item: TakingOut, base_revision: Base, ctx: Ctx) -> ToldEdit:
    """Take an item out with all that cannot be without it; one step of undo."""
    document = study_of(ctx.store.study(study_id).document)
    patch, told = take_out(document, item.kind, item.id, with_pieces=item.with_pieces)
    name = next(i.name for i in items_of(document, item.kind) if i.id == item.id)
    label = f"Take out {name}"
    return ToldEdit(
        study=study_info(ctx, ctx.store.edit(study_id, patch, label=label, base_revision=base_revision)), told=told
    )


@router.get("/studies/{study_id}/face")
def face(study_id: int, face: str, ctx: Ctx) -> FaceInfo:
    """What a face is and where it stands: flat, round about an axis, or part of a ball."""
    return face_info(ctx.store.whole_study(ctx.store.study(study_id)), face)


@router.get("/studies/{study_id}/measure")
def measure(study_id: int, ctx: Ctx, face: Annotated[list[str], Query()]) -> Measured:
    """What a face is, or how two faces and their parts stand to each other."""
    return measured(ctx.store.whole_study(ctx.store.study(study_id)), face)


@router.get("/studies/{study_id}/reckoned")
def reckon(
    study_id: int, ctx: Ctx, face: Annotated[list[str], Query()], force: str = "1 kN", mu: float = 0.15
) -> list[Reckoning]:
    """What formulas say of one face or two under a force; nothing where none knows them."""
    return reckoned(ctx.store.whole_study(ctx.store.study(study_id)), Asked(face, force, mu))


@router.get("/studies/{study_id}/touching")
def find_touching(study_id: int, ctx: Ctx, distance: str = "1 mm", angle: str = "40 deg") -> list[Suggestion]:
    """Faces of different parts within a distance and an angle of facing each other, both with their units."""
    within, facing = value_of(distance, "length"), float(np.rad2deg(value_of(angle, "angle")))
    if not 0 < within <= 1000 or not 0 < facing <= 80:
        raise InputError(
            f"a distance of {within:g} mm within {facing:g}° cannot be searched.", where="distance",
            hint="Give up to 1000 mm, and an angle up to 80°.",
        )  # fmt: skip
    study = ctx.store.whole_study(ctx.store.study(study_id))
    return suggestions(study, distance=within, angle=facing, search=distance)


@router.post("/studies/{study_id}/undo")
def undo(study_id: int, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Take the latest edit back."""
    return study_info(ctx, ctx.store.undo(study_id, base_revision=base_revision))


@router.post("/studies/{study_id}/redo")
def redo(study_id: int, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Make the latest undone edit again."""
    return study_info(ctx, ctx.store.redo(study_id, base_revision=base_revision))


@router.get("/studies/{study_id}/assembly.step", response_class=Response)
def study_geometry(study_id: int, ctx: Ctx) -> Response:
    """The assembly as a STEP file."""
    study = ctx.store.whole_study(ctx.store.study(study_id))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "assembly.step"
        aside("the assembly", write_assembly, study, path)
        named = {"content-disposition": f'attachment; filename="{study.name}.step"'}
        return Response(path.read_bytes(), media_type="model/step", headers=named)


@router.get("/studies/{study_id}/preflight")
def check_study(study_id: int, ctx: Ctx) -> Preflight:
    """Checks before a run."""
    return ctx.preflights.of(lambda: ctx.store.study(study_id), study_id)


@router.get("/studies/{study_id}/mesh")
def study_mesh(study_id: int, ctx: Ctx) -> MeshReport:
    """Numbers and quality of the elements of every part."""
    return mesh_report(ctx.store.whole_study(ctx.store.study(study_id)))


@router.get("/studies/{study_id}/pairs/{pair_id}/gap", response_class=Response)
def gap_scene(study_id: int, pair_id: str, ctx: Ctx, counted: bool = False) -> Response:
    """The study's skins with the gap of a pair at the start (mm, negative where its faces overlap) at the nodes of its
    patch, as one binary block: as drawn, or as the fit of the pair counts it."""
    record = ctx.store.study(study_id)
    study = ctx.store.whole_study(record)
    model, found = start_gap(study, pair_id, counted=counted)
    nodes = model.nodes()
    positions, triangles = patch_of(nodes, found.node, found.facets)
    values = np.tile(found.gap, len(positions) // max(1, len(found.node)))
    extra = {"pair0_positions": positions.ravel(), "pair0_triangles": triangles.ravel(), "pair0_values": values}
    meshes = {body.name: body.mesh for body in model.bodies}
    return _scene(meshes, record.revision, pairs=[pair_id], extra=extra)


@router.get("/studies/{study_id}/scene", response_class=Response)
def study_scene(study_id: int, ctx: Ctx) -> Response:
    """Skins of all parts as one binary block (see `store.scene.pack`), and why some parts have none."""
    record = ctx.store.study(study_id)
    return scene_of(ctx, study_of(record.document), record.revision)


def scene_of(ctx: Context, study: StudyDocument, revision: int) -> Response:
    """The answer of `study_scene` for a study."""
    meshes: dict[str, VolumeMesh] = {}
    problems = []
    for part in study.parts:
        try:
            bodies = translate_parts(study.model_copy(update={"parts": [ctx.store.shelf.whole_part(part)]}))
        except UlmekError as error:
            problems.append(problem_of(error))
        else:
            meshes |= {body.name: body.mesh for body in bodies}
    return _scene(meshes, revision, problems)


def _scene(
    meshes: dict[str, VolumeMesh], revision: int, problems: Sequence[Problem] = (), pairs: Sequence[str] = (),
    extra: Mapping[str, NDArray[Any]] | None = None,
) -> Response:  # fmt: skip
    skins, first = [], 0
    for name, mesh in meshes.items():
        is_plane = mesh.kind in PLANE
        skins.append(
            skin_of_section(name, mesh.nodes, mesh, first) if is_plane else skin_of(name, mesh.nodes, mesh.faces, first)
        )
        first += len(mesh.nodes)
    bricks = {name: len(mesh.cells) for name, mesh in meshes.items()}
    nodes = np.vstack([np.zeros((0, 3)), *(mesh.nodes for mesh in meshes.values())])
    told = [p.model_dump() for p in problems]
    header = {"revision": revision, "bricks": bricks, "problems": told, "pairs": list(pairs)}
    block = pack_scene(skins, nodes, header, dict(extra or {}))
    return Response(block, media_type="application/octet-stream")
