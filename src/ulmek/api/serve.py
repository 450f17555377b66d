"""Serve the application on this machine."""

import os
import socket
from pathlib import Path
from typing import TYPE_CHECKING

import platformdirs
import typer
import uvicorn

from ulmek.api.guard import Guard
from ulmek.api.opening import Opening
from ulmek.core.errors import InputError
from ulmek.store.hold import hold_folder

if TYPE_CHECKING:
    from fastapi import FastAPI

    from ulmek.api.context import Context

DEFAULT_PORT = 8321
BAD_INPUT = 2
# Seconds that open streams of a stopping server may take.
PATIENCE = 5


def data_home() -> Path:
    """Where the data lies: ULMEK_HOME, or the user's data folder."""
    return Path(os.environ.get("ULMEK_HOME") or platformdirs.user_data_dir("ulmek"))


def serve_application(*, port: int | None, with_demo: bool) -> None:
    """Serve until interrupted: the page at once, the rest as soon as it is imported.

    Raises
    ------
    InputError : the port is no number. HeldError : another server works in the data folder.
    """
    chosen, home = port if port is not None else _port_from_environment(), data_home()
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", chosen))
        except OSError:
            typer.echo(f"ulmek: port {chosen} is taken. Set ULMEK_PORT to another one.", err=True)
            raise typer.Exit(BAD_INPUT) from None
    held = hold_folder(home)
    troubles: list[BaseException] = []

    def fail(error: BaseException) -> None:
        troubles.append(error)
        server.should_exit = True

    app = Guard(Opening(lambda: _made(home, with_demo=with_demo), fail))
    config = uvicorn.Config(
        app, host="127.0.0.1", port=chosen, log_level="warning", lifespan="on", timeout_graceful_shutdown=PATIENCE
    )
    server = uvicorn.Server(config)
    typer.echo(f"Ulmek is served at http://127.0.0.1:{chosen}")
    server.run()
    held.close()
    if troubles:
        typer.echo(f"ulmek: {troubles[0]}", err=True)
        raise typer.Exit(BAD_INPUT)


def _made(home: Path, *, with_demo: bool) -> "FastAPI":
    """The application, imported and made; with the demos that are missing on its shelf."""
    from ulmek.api.app import create_app

    app = create_app(home)
    if with_demo:
        load_demos(app.state.context)
    return app


def _port_from_environment() -> int:
    written = os.environ.get("ULMEK_PORT", str(DEFAULT_PORT))
    if not written.isdigit() or not 0 < int(written) < 65536:
        raise InputError(f"ULMEK_PORT is '{written}', not a port.", hint="Give a number from 1 to 65535.")
    return int(written)


def load_demos(ctx: "Context") -> None:
    """Put the demo studies that are missing on the shelf, and have each solved by the queue."""
    from ulmek.demo import DEMOS, demo_study

    have = {record.demo for record in ctx.store.studies()}
    for name in DEMOS:
        if name not in have:
            record = ctx.store.add_study(demo_study(name), demo=name)
            assert record.id is not None
            ctx.store.add_run(record.id)
