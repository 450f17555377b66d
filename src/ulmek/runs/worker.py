"""The worker process: `python -m ulmek.runs.worker` solves studies of which it is told on its standard input.

Each line there is a `Job` as JSON; each job done is answered by a line on standard output. In between the
worker keeps its factors, so that a what-if of the same study need not factor again; it ends when its input
does. A job writes `events.jsonl` as it goes, `result.h5` increment by increment, and `outcome.json` at the
end, all in its folder. A file named `stop` there stops it at the next event.
"""

import json
import os
import sys
import time
import traceback
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ulmek.core.errors import StoppedError, UlmekError
from ulmek.runs.solve import Kept, report_of, solve_study, write_report
from ulmek.study.preflight import require_runnable
from ulmek.study.schema import read_study

EVENTS, OUTCOME, STOP, LOG = "events.jsonl", "outcome.json", "stop", "worker.log"


@dataclass(frozen=True)
class Job:
    """A run's folder, and that of the run whose last checkpoint it goes on from, if any."""

    folder: str
    resume: str | None = None

    def line(self) -> bytes:
        """As it is told to a worker."""
        return json.dumps(asdict(self)).encode() + b"\n"


def work(job: Job, kept: Kept | None = None) -> dict[str, Any]:
    """Solve the study in the job's folder; returns what it also writes to `outcome.json`."""
    began, folder = time.time(), Path(job.folder)
    with (folder / EVENTS).open("w", buffering=1) as events:

        def tell(event: dict[str, Any]) -> None:
            events.write(json.dumps({"seconds": time.time() - began, **event}) + "\n")
            if (folder / STOP).exists():
                raise StoppedError("stopped on request; the increments so far are kept.")

        try:
            study = read_study((folder / "study.ulmek.json").read_bytes())
            tell({"kind": "phase", "phase": "check"})
            require_runnable(study)
            resume = Path(job.resume) if job.resume else None
            outcome = solve_study(study, folder=folder, tell=tell, resume=resume, kept=kept)
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


def serve_jobs() -> None:
    """Do jobs until the input ends; what libraries print goes to the log of the job."""
    answers = os.fdopen(os.dup(sys.stdout.fileno()), "w", buffering=1)
    kept = Kept()
    for line in sys.stdin:
        job = Job(**json.loads(line))
        with (Path(job.folder) / LOG).open("wb") as log:
            os.dup2(log.fileno(), sys.stdout.fileno())
            os.dup2(log.fileno(), sys.stderr.fileno())
        work(job, kept)
        answers.write("done\n")


if __name__ == "__main__":
    serve_jobs()
