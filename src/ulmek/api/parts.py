"""Routes for edits of parts: added, from files, cut, copied, moved, refined, mated."""

from collections.abc import Callable

from fastapi import APIRouter

from ulmek.api.context import Context
from ulmek.api.models import (
    Copying,
    FileReplaced,
    Finer,
    Mating,
    Moving,
    NewPart,
    Redrawing,
    RegionAt,
    Sketch,
    StudyInfo,
    ToldEdit,
)
from ulmek.api.studies import Base, Ctx, study_info
from ulmek.core.errors import UnknownNameError
from ulmek.store.texts import study_of
from ulmek.study.copies import copies, moved
from ulmek.study.cut_parts import Cutting, cut_parts
from ulmek.study.dimensions import PlacedDimension, expression_values, placed_dimensions
from ulmek.study.drawing_planes import DrawingPlane, drawing_plane
from ulmek.study.drawings import Drawing, traced
from ulmek.study.drop_features import Dropping, without_features
from ulmek.study.items import FileUse, Patch, StudyDocument
from ulmek.study.mating import mated
from ulmek.study.new_parts import new_part, part_of_file, part_of_shape
from ulmek.study.rematch import with_file, with_shape
from ulmek.study.spots import finer_at, region_at

router = APIRouter(prefix="/api", tags=["parts"])
PatchOf = Callable[[StudyDocument], Patch]


@router.post("/studies/{study_id}/parts", status_code=201)
def add_part(study_id: int, new: NewPart, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Add a part by recipe, beside the others, from a file, where that has it, or drawn or bent, on a plane or face;
    with a mesh to begin with."""
    record = ctx.store.study(study_id)
    if new.recipe is not None:
        study = ctx.store.whole_study(record)
        at = None if new.on is None else drawing_plane(study, new.on).placement
        part, material = part_of_shape(study, new.recipe, new.name, at)
    elif new.file is not None:
        part, material = part_of_file(study_of(record.document), ctx.store.shelf.whole(new.file), new.name)
    else:
        part, material = new_part(ctx.store.whole_study(record), new.kind, new.dimensions)
    patch = [{"op": "add", "path": "/parts/-", "value": part.model_dump(mode="json")}]
    if material is not None:
        patch.insert(0, {"op": "add", "path": "/materials/-", "value": material.model_dump(mode="json")})
    return study_info(ctx, ctx.store.edit(study_id, patch, label=f"Add {part.name}", base_revision=base_revision))


@router.post("/studies/{study_id}/parts/{part_id}/file")
def replace_file(study_id: int, part_id: str, file: FileUse, base_revision: Base, ctx: Ctx) -> FileReplaced:
    """Give a part the solid of another file; its faces are found again and renamed wherever they are named."""
    record = ctx.store.study(study_id)
    document = ctx.store.whole_study(record)
    part = next((p for p in document.parts if p.id == part_id), None)
    if part is None:
        raise UnknownNameError(f"there is no part '{part_id}'.", where="parts")
    patch, found = with_file(document, part_id, ctx.store.shelf.whole(file))
    label = f"{part.name} from {file.name}"[:120]
    info = study_info(ctx, ctx.store.edit(study_id, patch, label=label, base_revision=base_revision))
    return FileReplaced(study=info, matched=len(found.matches), unsure=found.unsure, lost=found.lost)


@router.post("/studies/{study_id}/parts/{part_id}/recipe")
def redraw_part(study_id: int, part_id: str, redrawing: Redrawing, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Give a part another drawing or other runs; faces that were renamed are led along wherever they are named."""
    return _edit_part(
        ctx, study_id, part_id, base_revision, "Drawing of {}",
        lambda study: with_shape(study, part_id, redrawing.recipe, redrawing.renamed),
    )  # fmt: skip


@router.get("/studies/{study_id}/drawing-plane")
def find_drawing_plane(study_id: int, on: str, ctx: Ctx) -> DrawingPlane:
    """Where a drawing on a plane (xy, yz, zx) or flat face comes to stand, and what it can be drawn by there."""
    return drawing_plane(ctx.store.whole_study(ctx.store.study(study_id)), on)


@router.post("/drawings")
def trace_drawing(sketch: Sketch) -> Drawing:
    """A drawing as far as it goes: its edges, dimensions and faults, each at its place."""
    return traced(sketch.drawn, sketch.dimensions)


@router.get("/studies/{study_id}/parts/{part_id}/values")
def dimension_values(study_id: int, part_id: str, ctx: Ctx) -> dict[str, str]:
    """What those dimensions of a part come to that are written as expressions."""
    return expression_values(study_of(ctx.store.study(study_id).document), part_id)


@router.post("/studies/{study_id}/cut")
def cut(study_id: int, cutting: Cutting, base_revision: Base, ctx: Ctx) -> ToldEdit:
    """Cut parts by a plane, in pieces or to one side; one step of undo."""
    document = ctx.store.whole_study(ctx.store.study(study_id))
    patch, told = cut_parts(document, cutting)
    who = next((p.name for p in document.parts if [p.id] == cutting.parts), "the parts")
    info = study_info(ctx, ctx.store.edit(study_id, patch, label=f"Cut {who}", base_revision=base_revision))
    return ToldEdit(study=info, told=told)


@router.post("/studies/{study_id}/parts/{part_id}/drop-features")
def drop_features(study_id: int, part_id: str, dropping: Dropping, base_revision: Base, ctx: Ctx) -> ToldEdit:
    """Leave out of a solid of a file the features that some of its faces bound; one step of undo."""
    document = ctx.store.whole_study(ctx.store.study(study_id))
    patch, told = without_features(document, part_id, dropping)
    name = next(p.name for p in document.parts if p.id == part_id)
    info = study_info(ctx, ctx.store.edit(study_id, patch, label=f"Features of {name}", base_revision=base_revision))
    return ToldEdit(study=info, told=told)


def _edit_part(
    ctx: Context,
    study_id: int,
    part_id: str,
    base_revision: int,
    label: str,
    patch_of: PatchOf,
) -> StudyInfo:
    """One edit of one part, which ``patch_of`` finds or refuses; ``label`` with the name of the part in it."""
    document = study_of(ctx.store.study(study_id).document)
    patch = patch_of(document)
    name = next(p.name for p in document.parts if p.id == part_id)
    return study_info(ctx, ctx.store.edit(study_id, patch, label=label.format(name), base_revision=base_revision))


@router.post("/studies/{study_id}/parts/{part_id}/copies")
def copy_part(study_id: int, part_id: str, copied: Copying, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Copies of a part in a row, a ring or a mirror image that begins at one of its copies."""
    return _edit_part(
        ctx, study_id, part_id, base_revision, "Copies of {}",
        lambda study: copies(study, part_id, copied.copy_number, copied.pattern),
    )  # fmt: skip


@router.post("/studies/{study_id}/parts/{part_id}/move")
def move_part(study_id: int, part_id: str, moving: Moving, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Move one copy of a part along the axes of the study."""
    return _edit_part(
        ctx, study_id, part_id, base_revision, "Move {}",
        lambda study: moved(study, part_id, moving.copy_number, moving.by),
    )  # fmt: skip


@router.post("/studies/{study_id}/parts/{part_id}/finer")
def refine_part(study_id: int, part_id: str, finer: Finer, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Make the mesh of a part finer around a point."""
    return _edit_part(
        ctx, study_id, part_id, base_revision, "Finer point of {}",
        lambda study: finer_at(study, part_id, finer.copy_number, finer.at),
    )  # fmt: skip


@router.post("/studies/{study_id}/parts/{part_id}/region")
def cut_region(study_id: int, part_id: str, region: RegionAt, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Cut a region out of a face around a point."""
    whole = ctx.store.whole_study(ctx.store.study(study_id))
    return _edit_part(
        ctx, study_id, part_id, base_revision, "Region of {}",
        lambda _: region_at(whole, part_id, region.copy_number, region.face, region.at),
    )  # fmt: skip


@router.post("/studies/{study_id}/mate")
def mate(study_id: int, faces: Mating, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Move a part so that its face comes to a face of another, or its teeth in mesh with the other's."""
    record = ctx.store.study(study_id)
    document = ctx.store.whole_study(record)
    index, copy, placement = mated(document, faces.own, faces.other, faces.manner)
    patch = [{"op": "replace", "path": f"/parts/{index}/placements/{copy}", "value": placement.model_dump(mode="json")}]
    label = f"Mate {document.parts[index].name}"
    return study_info(ctx, ctx.store.edit(study_id, patch, label=label, base_revision=base_revision))


@router.get("/studies/{study_id}/parts/{part_id}/dimensions")
def dimensions(study_id: int, part_id: str, ctx: Ctx, copy_number: int = 1) -> list[PlacedDimension]:
    """The lengths of a recipe as they stand on one copy of a part, in place."""
    return placed_dimensions(study_of(ctx.store.study(study_id).document), part_id, copy_number)
