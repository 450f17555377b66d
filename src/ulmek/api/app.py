"""The application: routes, guards, errors, and the built interface."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI
from fastapi.exceptions import RequestValidationError
from sqlalchemy.exc import OperationalError

from ulmek.api import (
    along,
    asking,
    checks,
    handing_on,
    health,
    joints,
    looking,
    materials,
    meshing,
    parts,
    runs,
    settling,
    studies,
    tables,
    vocabulary,
)
from ulmek.api.context import Context
from ulmek.api.errors import STATUS, Problem, answer, answer_bad_request, answer_busy, answer_fault
from ulmek.api.guard import Guard
from ulmek.api.latest import LatestAnswers
from ulmek.api.opening import page
from ulmek.runs.queue import RunQueue
from ulmek.runs.series_keeper import SeriesKeeper
from ulmek.store.database import Store
from ulmek.study.aside import close_workshops, open_workshops
from ulmek.study.checking import checked
from ulmek.version import VERSION


def create_app(home: Path) -> FastAPI:
    """The application with its data in ``home``; the queue runs while the application does."""
    store = Store(home)
    queue, series = RunQueue(store), SeriesKeeper(store)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        store.sweep_geometry()
        queue.open()
        series.open()
        open_workshops()
        yield
        close_workshops()
        queue.close()
        series.close()
        store.close()

    app = FastAPI(
        title="Ulmek", version=VERSION, lifespan=lifespan, docs_url=None, redoc_url=None,
        openapi_url="/api/openapi.json", responses={422: {"model": Problem}, 404: {"model": Problem}},
    )  # fmt: skip
    app.state.context = Context(store, queue, series, LatestAnswers(lambda record: checked(store.whole_study(record))))
    app.add_middleware(Guard)
    for kind in STATUS:
        app.add_exception_handler(kind, answer)
    app.add_exception_handler(RequestValidationError, answer_bad_request)
    app.add_exception_handler(OperationalError, answer_busy)
    app.add_exception_handler(Exception, answer_fault)
    app.include_router(studies.router)
    app.include_router(parts.router)
    app.include_router(joints.router)
    app.include_router(meshing.router)
    app.include_router(runs.router)
    app.include_router(settling.router)
    app.include_router(looking.router)
    app.include_router(along.router)
    app.include_router(checks.router)
    app.include_router(asking.router)
    app.include_router(handing_on.router)
    app.include_router(health.router)
    app.include_router(vocabulary.router)
    app.include_router(tables.router)
    app.include_router(materials.router)
    app.add_api_route("/{path:path}", page, include_in_schema=False, response_model=None)
    return app
