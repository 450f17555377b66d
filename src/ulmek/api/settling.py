"""Routes for settling: queue it, look how far it is, keep the sizes of elements that it found."""

from fastapi import APIRouter

from ulmek.api.models import KeptSizes, RunInfo, StudyInfo
from ulmek.api.runs import Ctx, run_info
from ulmek.api.studies import Base, study_info
from ulmek.core.errors import InputError
from ulmek.runs.settle import Wanted, read_settled
from ulmek.store.texts import study_of
from ulmek.study.settling import Settled, keeping_found

router = APIRouter(prefix="/api", tags=["settling"])


@router.post("/studies/{study_id}/settle", status_code=201)
def settle(study_id: int, wanted: Wanted, ctx: Ctx) -> RunInfo:
    """Queue a run that settles the study as it stands."""
    return run_info(ctx, ctx.queue.add(study_id, settling=wanted))


@router.get("/runs/{run_id}/settled")
def get_settled(run_id: int, ctx: Ctx) -> Settled | None:
    """How far a run has settled its study; nothing of a run that does not."""
    return read_settled(ctx.store.run_folder(run_id))


@router.post("/studies/{study_id}/sizes")
def keep_sizes(study_id: int, kept: KeptSizes, base_revision: Base, ctx: Ctx) -> StudyInfo:
    """Make the mesh of a study as fine as one of its runs found that it has to be."""
    settled = read_settled(ctx.store.run_folder(kept.run_id))
    patch = keeping_found(study_of(ctx.store.study(study_id).document), settled.found if settled is not None else {})
    if not patch:
        raise InputError("this run found no finer sizes.", where="run_id", hint="Settle the study first.")
    label = f"Sizes found by run {kept.run_id}"
    return study_info(ctx, ctx.store.edit(study_id, patch, label=label, base_revision=base_revision))
