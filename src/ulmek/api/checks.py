"""The route of hand calculations beside a run."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from fastapi import APIRouter
from numpy.typing import NDArray

from ulmek.api.context import Context
from ulmek.api.results import reader_of, stored_increment
from ulmek.api.runs import Ctx
from ulmek.core.errors import UlmekError
from ulmek.core.model import Model
from ulmek.store.database import Store
from ulmek.store.results import ResultReader
from ulmek.study.awake import awake
from ulmek.study.checks import HandCheck, hand_checks
from ulmek.study.checks.along import KNOWN, ByHand, by_hand_along
from ulmek.study.checks.check import At
from ulmek.study.items import StudyDocument
from ulmek.study.translate import translate

router = APIRouter(prefix="/api/runs/{run_id}", tags=["checks"])


@router.get("/checks")
def get_checks(run_id: int, ctx: Ctx, increment: int) -> list[HandCheck]:
    """Hand calculations at an increment of a run, each with its conditions and the computed values beside it."""
    study, model = _solved(ctx.store, run_id)
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        return hand_checks(study, model, reader.summaries()[: at + 1])


def by_hand(
    ctx: Context, run_id: int, reader: ResultReader, increment: int, field: str, points: NDArray[np.float64],
    bodies: Sequence[str | None],
) -> ByHand | None:  # fmt: skip
    """A field by hand at points of a run at a stored increment; see `by_hand_along`."""
    if field not in KNOWN:
        return None

    def pressed(pair: str) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        node, _ = reader.pair_patch(pair)
        return reader.points()[node], reader.pair_field(pair, "pressure", increment)

    try:
        at = At(*_solved(ctx.store, run_id), reader.summaries()[: increment + 1])
        return by_hand_along(at, points, bodies, field, pressed)
    except UlmekError:
        return None


@lru_cache(maxsize=4)
def _solved(store: Store, run_id: int) -> tuple[StudyDocument, Model]:
    """What of a study a run solved, and its model; a run's study never changes, nor is its number given twice."""
    study = awake(store.whole_study(store.run(run_id)))
    return study, translate(study)
