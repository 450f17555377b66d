"""The worker process: `python -m ulmek.runs.worker FOLDER [EARLIER]` solves the study that lies in FOLDER,
or what is left of it after the last checkpoint of the run in EARLIER.

It writes `events.jsonl` as it goes, `result.h5` increment by increment, and `outcome.json` at the
end. A file named `stop` in the folder stops it at the next event.
"""

import json
import sys
import time
import traceback
from pathlib import Path
from typing import Any

from ulmek.core.errors import StoppedError, UlmekError
from ulmek.runs.solve import report_of, solve_study, write_report
from ulmek.study.preflight import require_runnable
from ulmek.study.schema import read_study

EVENTS, OUTCOME, STOP = "events.jsonl", "outcome.json", "stop"


def work(folder: Path, resume: Path | None = None) -> dict[str, Any]:
    """Solve the study in ``folder``; returns what it also writes to `outcome.json`."""
    began = time.time()
    with (folder / EVENTS).open("w", buffering=1) as events:

        def tell(event: dict[str, Any]) -> None:
            events.write(json.dumps({"seconds": time.time() - began, **event}) + "\n")
            if (folder / STOP).exists():
                raise StoppedError("stopped on request; the increments so far are kept.")

        try:
            study = read_study((folder / "study.ulmek.json").read_bytes())
            tell({"kind": "phase", "phase": "check"})
            require_runnable(study)
            outcome = solve_study(study, folder=folder, tell=tell, resume=resume)
            write_report(folder, report_of(study, outcome))
            end = {"status": outcome.status, "message": outcome.message, "where": outcome.where, "hint": outcome.hint}
        except StoppedError as error:
            end = {"status": "stopped", "message": error.message, "where": "", "hint": ""}
        except UlmekError as error:
            end = {"status": "failed", "message": error.message, "where": error.where, "hint": error.hint}
        except MemoryError:
            end = {
                "status": "failed", "message": "the run needs more memory than this machine has.", "where": "",
                "hint": "Coarsen the mesh, or use fewer contact nodes.",
            }  # fmt: skip
        except Exception as error:
            traceback.print_exc()
            end = {
                "status": "failed", "message": f"the solver met an unexpected {type(error).__name__}: {error}.",
                "where": "", "hint": "This is a fault in Ulmek; the run's folder holds the details.",
            }  # fmt: skip
        events.write(json.dumps({"seconds": time.time() - began, "kind": "end", **end}) + "\n")
    (folder / OUTCOME).write_text(json.dumps(end))
    return end


if __name__ == "__main__":
    work(*map(Path, sys.argv[1:3]))
