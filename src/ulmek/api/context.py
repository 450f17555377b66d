"""What the routes work with: the store and the run queue of this server."""

from dataclasses import dataclass

from fastapi import Request

from ulmek.runs.queue import RunQueue
from ulmek.store.database import Store


@dataclass(frozen=True)
class Context:
    """The store and the queue."""

    store: Store
    queue: RunQueue


def context(request: Request) -> Context:
    """The context of the running application."""
    found = request.app.state.context
    assert isinstance(found, Context)
    return found
