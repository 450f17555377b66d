"""The process of one series: `python -m ulmek.runs.series_driver FOLDER SERIES` gives out its samples.

It writes `progress.json` as it goes and `outcome.json` at the end, and ends when its standard input does: the server
that started it is gone, and the next one goes on with what is missing.
"""

import json
import os
import sys
import threading
from pathlib import Path
from typing import Any

from ulmek.core.errors import StoppedError, UlmekError
from ulmek.runs.series import Progress, read_series_study, run_series, series_of

DRIVER_MODULE = "ulmek.runs.series_driver"
PROGRESS, OUTCOME = "progress.json", "outcome.json"
# How much a series gives way to single runs.
NICE = 10


def drive(folder: Path, key: str) -> None:
    """Run the series with an id of the study in a folder, and write how it ended."""
    (folder / OUTCOME).unlink(missing_ok=True)
    end: dict[str, Any] = {"status": "done", "message": ""}
    try:
        study = read_series_study(folder)
        run_series(study, series_of(study, key), folder, tell=lambda p: _write(folder / PROGRESS, p.model_dump_json()))
    except StoppedError as error:
        end = {"status": "stopped", "message": error.message}
    except UlmekError as error:
        end = {
            "status": "failed",
            "message": f"{error.where + ': ' if error.where else ''}{error.message} {error.hint}",
        }
    except Exception as error:
        end = {"status": "failed", "message": f"the series met an unexpected {type(error).__name__}: {error}"}
    _write(folder / OUTCOME, json.dumps(end))


def progress_in(folder: Path) -> Progress | None:
    """How far the series in a folder is; None before anything is known."""
    try:
        return Progress.model_validate_json((folder / PROGRESS).read_text())
    except (OSError, ValueError):
        return None


def _write(path: Path, text: str) -> None:
    part = path.with_suffix(".part")
    part.write_text(text)
    os.replace(part, path)


def _end_with_input() -> None:
    for _ in sys.stdin:
        pass
    os._exit(0)


if __name__ == "__main__":
    os.nice(NICE)
    threading.Thread(target=_end_with_input, daemon=True).start()
    drive(Path(sys.argv[1]), sys.argv[2])
