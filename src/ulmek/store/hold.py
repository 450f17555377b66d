"""One server at a time holds a data folder. Nothing heavy is imported here: it is asked before all else."""

import fcntl
from pathlib import Path
from typing import IO

from ulmek.core.errors import InputError


class HeldError(InputError):
    """Another server works in this data folder."""

    code = "held"


def hold_folder(home: Path) -> IO[str]:
    """Hold a data folder for as long as the file that is returned stays open.

    Raises
    ------
    HeldError : another process has it.
    """
    home.mkdir(parents=True, exist_ok=True)
    file = (home / "held").open("a")
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.close()
        raise HeldError(
            "another Ulmek server works in this data folder.", where=str(home),
            hint="Stop it first, or give this one a folder of its own in ULMEK_HOME.",
        ) from None  # fmt: skip
    return file
