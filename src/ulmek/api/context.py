"""What the routes work with: the store and the run queue of this server."""

from dataclasses import dataclass

from fastapi import Request

from ulmek.api.latest import LatestAnswers
from ulmek.runs.queue import RunQueue
from ulmek.store.database import Store
from ulmek.study.preflight import Preflight


@dataclass(frozen=True)
class Context:
    """The store, the queue, and preflight of the studies as they stand."""

    store: Store
    queue: RunQueue
    preflights: LatestAnswers[Preflight]


def context(request: Request) -> Context:
    """The context of the running application."""
    found = request.app.state.context
    assert isinstance(found, Context)
    return found
