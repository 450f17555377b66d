"""The route of hand calculations beside a run."""

from functools import lru_cache

from fastapi import APIRouter

from ulmek.api.results import reader_of, stored_increment
from ulmek.api.runs import Ctx
from ulmek.core.model import Model
from ulmek.study.checks import HandCheck, hand_checks
from ulmek.study.items import StudyDocument
from ulmek.study.translate import translate

router = APIRouter(prefix="/api/runs/{run_id}", tags=["checks"])


@router.get("/checks")
def get_checks(run_id: int, ctx: Ctx, increment: int) -> list[HandCheck]:
    """Hand calculations at an increment of a run, each with its conditions and the computed values beside it."""
    study = ctx.store.whole_study(ctx.store.run(run_id))
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        return hand_checks(study, _model(study.model_dump_json()), reader.summaries()[: at + 1])


@lru_cache(maxsize=4)
def _model(document: str) -> Model:
    return translate(StudyDocument.model_validate_json(document))
