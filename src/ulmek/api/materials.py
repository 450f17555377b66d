"""Routes of materials of one's own, kept across studies."""

from typing import Annotated

from fastapi import APIRouter, Depends

from ulmek.api.context import Context, context
from ulmek.study.items import Material

router = APIRouter(prefix="/api/materials", tags=["materials"])
Ctx = Annotated[Context, Depends(context)]


@router.get("")
def kept_materials(ctx: Ctx) -> list[Material]:
    """All that are kept, by name."""
    return ctx.store.materials()


@router.put("", status_code=204)
def keep_material(material: Material, ctx: Ctx) -> None:
    """Keep one, in the place of one of that name."""
    ctx.store.keep_material(material)


@router.delete("/{name:path}", status_code=204)
def drop_material(name: str, ctx: Ctx) -> None:
    """Keep one no longer; studies that have it keep theirs."""
    ctx.store.drop_material(name)
