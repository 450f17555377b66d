"""What the routes work with: the store, the run queue and the series of this server."""

from dataclasses import dataclass

from fastapi import Request

from ulmek.api.latest import LatestAnswers
from ulmek.runs.queue import RunQueue
from ulmek.runs.series_keeper import SeriesKeeper
from ulmek.store.database import Store
from ulmek.study.preflight import Preflight


@dataclass(frozen=True)
class Context:
    """The store, the queue, the series that run, and preflight of the studies as they stand."""

    store: Store
    queue: RunQueue
    series: SeriesKeeper
    preflights: LatestAnswers[Preflight]


def context(request: Request) -> Context:
    """The context of the running application."""
    found = request.app.state.context
    assert isinstance(found, Context)
    return found
