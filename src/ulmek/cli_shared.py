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


def print_reckoning(check: Any) -> None:
    """A hand calculation, with what it rests on."""
    typer.echo(check.title)
    for value in check.values:
        typer.echo(f"  {_checked(value)}")
    for condition in check.conditions:
        mark = {True: "met", False: "NOT met", None: "cannot be told"}[condition.met]
        typer.echo(f"  {condition.text}: {mark}")


def _checked(value: Any) -> str:
    """One value by hand and as it was computed."""
    from ulmek.study.units import spoken

    unit, factor = ("", 1.0) if value.quantity == "share" else spoken(value.quantity)
    told = f"{value.name}: {value.hand * factor:.4g} {unit}".rstrip()
    if value.computed is None:
        return told
    beside = f"{value.difference:+.1%}" if value.sense == "same" else f"{value.difference:.0%} of it"
    return f"{told}, computed {value.computed * factor:.4g} {unit} ({beside})" if value.difference is not None else told
