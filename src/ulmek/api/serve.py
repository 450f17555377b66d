"""Serve the application on this machine."""

import os
import socket
from pathlib import Path

import platformdirs
import typer
import uvicorn

from ulmek.api.app import create_app
from ulmek.api.context import Context
from ulmek.core.errors import InputError
from ulmek.demo import DEMOS, demo_study

DEFAULT_PORT = 8321


def data_home() -> Path:
    """Where the data lies: ULMEK_HOME, or the user's data folder."""
    return Path(os.environ.get("ULMEK_HOME") or platformdirs.user_data_dir("ulmek"))


def serve_application(*, port: int | None, with_demo: bool) -> None:
    """Serve until interrupted.

    Raises
    ------
    InputError : the port is no number. HeldError : another server works in the data folder.
    """
    chosen = port if port is not None else _port_from_environment()
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", chosen))
        except OSError:
            typer.echo(f"ulmek: port {chosen} is taken. Set ULMEK_PORT to another one.", err=True)
            raise typer.Exit(2) from None
    app = create_app(data_home())
    app.state.context.store.hold()
    if with_demo:
        load_demos(app.state.context)
    typer.echo(f"Ulmek is served at http://127.0.0.1:{chosen}")
    uvicorn.run(app, host="127.0.0.1", port=chosen, log_level="warning")


def _port_from_environment() -> int:
    written = os.environ.get("ULMEK_PORT", str(DEFAULT_PORT))
    if not written.isdigit() or not 0 < int(written) < 65536:
        raise InputError(f"ULMEK_PORT is '{written}', not a port.", hint="Give a number from 1 to 65535.")
    return int(written)


def load_demos(ctx: Context) -> None:
    """Put the demo studies that are missing on the shelf, and have each solved by the queue."""
    have = {record.demo for record in ctx.store.studies()}
    for name in DEMOS:
        if name not in have:
            record = ctx.store.add_study(demo_study(name), demo=name)
            assert record.id is not None
            ctx.store.add_run(record.id)
