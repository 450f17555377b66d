"""Commands without a process of their own, which would take longer to begin than most of them do."""

from pathlib import Path

from click.testing import Result
from typer.testing import CliRunner

from ulmek.cli import app


def ulmek(*arguments: str | Path) -> Result:
    """What a command answers."""
    return CliRunner().invoke(app, [*map(str, arguments)])
