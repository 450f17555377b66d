"""Guards against other web pages and oversized requests: the server answers only its own page."""

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOCAL_HOSTS = {"127.0.0.1", "localhost", "[::1]"}
LARGEST_BODY = 8_000_000
# A geometry file may be larger than any edit.
LARGEST_FILE, FILES = 64_000_000, "/api/geometry"


class Guard:
    """Refuses foreign Host and Origin headers and bodies above `LARGEST_BODY` bytes, files above `LARGEST_FILE`."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        largest = LARGEST_FILE if scope["path"] == FILES else LARGEST_BODY
        problem = self._problem(Headers(scope=scope), largest)
        if problem is not None:
            status, message = problem
            body = {"code": "refused", "message": message, "where": "", "hint": ""}
            await JSONResponse(body, status_code=status)(scope, receive, send)
            return
        await self.app(scope, _Limited(receive, largest), send)

    def _problem(self, headers: Headers, largest: int) -> tuple[int, str] | None:
        host = headers.get("host", "")
        if host.rsplit(":", 1)[0] not in LOCAL_HOSTS:
            return 403, f"this server answers only on this machine, not as '{host[:80]}'."
        origin = headers.get("origin")
        if origin is not None and origin.split("://", 1)[-1] != host:
            return 403, "the request comes from another web page."
        length = headers.get("content-length", "0")
        if not length.isdigit() or int(length) > largest:
            return 413, f"that is larger than the {largest // 1_000_000} MB that this server takes at once."
        return None


class _Limited:
    """A receive channel that ends a body which grows past the limit without having said so."""

    def __init__(self, receive: Receive, largest: int) -> None:
        self.receive, self.largest, self.seen = receive, largest, 0

    async def __call__(self) -> Message:
        message = await self.receive()
        self.seen += len(message.get("body", b""))
        if self.seen > self.largest:
            return {"type": "http.disconnect"}
        return message
