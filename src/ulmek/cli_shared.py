"""What commands share: how a study is read, and how one ends that cannot go on."""

from pathlib import Path
from typing import Any, NoReturn

import typer

from ulmek.core.errors import InputError, MeshError, UlmekError

BAD_INPUT, NOT_CONVERGED = 2, 3


def fail(error: UlmekError) -> NoReturn:
    """End the command with what went wrong."""
    bad_input = isinstance(error, (InputError, MeshError)) or error.code == "loose"
    typer.echo(f"ulmek: {error}", err=True)
    raise typer.Exit(BAD_INPUT if bad_input else NOT_CONVERGED)


def load(file: Path) -> Any:
    """The study in a file."""
    from ulmek.study.items import read_study

    try:
        return read_study(file.read_bytes())
    except OSError as error:
        fail(InputError(f"the file cannot be read: {error.strerror}.", where=str(file)))
    except UlmekError as error:
        fail(error)
