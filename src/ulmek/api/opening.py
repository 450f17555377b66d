"""The server while it opens: the page is there at once, and what it asks waits until the rest is imported."""

import asyncio
from collections.abc import Callable
from contextlib import AsyncExitStack
from pathlib import Path

from starlette.responses import FileResponse, JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send

WEB = Path(__file__).parents[3] / "web" / "dist"


class Opening:
    """Serves the built page from its first moment; everything under ``/api`` waits for the application.

    make: imports and makes the application, some seconds of work, in a thread. fail: hears why that went wrong.
    """

    def __init__(self, make: Callable[[], ASGIApp], fail: Callable[[BaseException], None]) -> None:
        self._make, self._fail = make, fail
        self._app: ASGIApp | None = None
        self._opened = asyncio.Event()
        self._stack = AsyncExitStack()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._live(receive, send)
        elif scope["type"] == "http" and not scope["path"].startswith("/api"):
            await page(scope["path"])(scope, receive, send)
        else:
            await self._opened.wait()
            if self._app is None:
                problem = {"code": "fault", "message": "the server could not open.", "where": "", "hint": ""}
                await JSONResponse(problem, status_code=503)(scope, receive, send)
            else:
                await self._app(scope, receive, send)

    async def _live(self, receive: Receive, send: Send) -> None:
        await receive()
        opening = asyncio.create_task(self._open())
        await send({"type": "lifespan.startup.complete"})
        await receive()
        await opening
        await self._stack.aclose()
        await send({"type": "lifespan.shutdown.complete"})

    async def _open(self) -> None:
        try:
            app = await asyncio.to_thread(self._make)
            await self._stack.enter_async_context(app.router.lifespan_context(app))  # type: ignore[attr-defined]
            self._app = app
        except Exception as error:
            self._fail(error)
        finally:
            self._opened.set()


def page(path: str) -> FileResponse | JSONResponse:
    """A file of the built page, or the page itself, whatever its address within the application."""
    wanted = (WEB / path.lstrip("/")).resolve()
    inside = wanted.is_file() and wanted.is_relative_to(WEB.resolve())
    if not (WEB / "index.html").exists():
        problem = {"code": "no-page", "message": "the page is not built.", "where": "", "hint": "Run make setup."}
        return JSONResponse(problem, status_code=404)
    return FileResponse(wanted if inside else WEB / "index.html")
