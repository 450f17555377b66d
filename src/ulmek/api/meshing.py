"""Routes of the work that is done aside: meshes, reports and films that are being made, and how to stop them."""

import time
from typing import Annotated

from fastapi import APIRouter, Depends
from pydantic import BaseModel

from ulmek.api.context import Context, context
from ulmek.study.aside import jobs_aside, stop_aside
from ulmek.study.meshes import forget_stopped

router = APIRouter(prefix="/api/meshing", tags=["meshing"])


class MeshJob(BaseModel):
    """A part that is being meshed, a report or a film being made: its stage, the share done, and for how long (s)."""

    id: int
    title: str
    stage: str
    share: float
    seconds: float


@router.get("")
def list_jobs() -> list[MeshJob]:
    """What is being made now, the oldest first."""
    now = time.monotonic()
    return [MeshJob(id=j.id, title=j.title, stage=j.stage, share=j.share, seconds=now - j.began) for j in jobs_aside()]


@router.post("/{job_id}/stop", status_code=204)
def stop_job(job_id: int) -> None:
    """Stop it; a part stays without a mesh until it is asked for again."""
    stop_aside(job_id)


@router.post("/again", status_code=204)
def mesh_again(ctx: Annotated[Context, Depends(context)]) -> None:
    """Mesh, when next asked, what was stopped."""
    forget_stopped()
    ctx.preflights.forget()
