"""The worker process: `python -m ulmek.runs.worker` solves studies of which it is told on its standard input.

Each line there is a `Job` as JSON; each job done is answered by a line on standard output. In between the worker
keeps its factors, so that a what-if of the same study need not factor again; a job of another study drops them and
saves no more than the seconds that a new process takes to begin. It ends when its input does,
in the midst of a job too: nobody is left to hear of it, and what has converged is on disk. A job writes
`events.jsonl` as it goes, `result.h5` increment by increment, and `outcome.json` at the end, all in its folder.
A file named `stop` there stops it at the next event.
"""

import json
import os
import queue
import sys
import threading
import time
import traceback
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ulmek.core.errors import StoppedError, UlmekError
from ulmek.runs.events import Ended, Phase, RunEvent, loose_bodies
from ulmek.runs.settle import Wanted, settle_study
from ulmek.runs.solve import Kept, mechanism_of, report_of, solve_study, write_report
from ulmek.study.items import read_study
from ulmek.study.preflight import require_runnable
from ulmek.study.spoken import in_words

WORKER_MODULE = "ulmek.runs.worker"
EVENTS, OUTCOME, STOP, LOG = "events.jsonl", "outcome.json", "stop", "worker.log"


@dataclass(frozen=True)
class Job:
    """A run's folder, that of the run whose last checkpoint it goes on from, if any, the study it belongs
    to, and of one that settles it within what and up to what. is_what_if: of a study that was solved before with other
    values, so that preflight has nothing new to say."""

    folder: str
    resume: str | None = None
    study: int | None = None
    settling: dict[str, Any] | None = None
    is_what_if: bool = False

    def line(self) -> bytes:
        """As it is told to a worker."""
        return json.dumps(asdict(self)).encode() + b"\n"


def work(job: Job, kept: Kept | None = None) -> Ended:
    """Solve the study in the job's folder; returns what it also writes to `outcome.json`."""
    began, folder = time.time(), Path(job.folder)
    with (folder / EVENTS).open("w", buffering=1) as events:

        def write(event: RunEvent) -> None:
            timed = event.model_copy(update={"seconds": time.time() - began})
            events.write(timed.model_dump_json() + "\n")

        def tell(event: RunEvent) -> None:
            write(event)
            if (folder / STOP).exists():
                raise StoppedError("stopped on request; the increments so far are kept.")

        study = None
        try:
            study = read_study((folder / "study.ulmek.json").read_bytes())
            if not job.is_what_if:
                tell(Phase(phase="check"))
                require_runnable(study)
            resume = Path(job.resume) if job.resume else None
            told = ""
            if job.settling is not None:
                wanted = Wanted.model_validate(job.settling)
                settled, outcome = settle_study(study, wanted, folder=folder, tell=tell, resume=resume)
                told = settled.ended
            else:
                outcome = solve_study(study, folder=folder, tell=tell, resume=resume, kept=kept)
            write_report(folder, report_of(study, outcome))
            message = outcome.message or told
            end = Ended(
                status=outcome.status, message=message, where=outcome.where, hint=outcome.hint,
                mechanism=loose_bodies(outcome.mechanism),
            )  # fmt: skip
        except StoppedError as error:
            end = Ended(status="stopped", message=error.message)
        except UlmekError as error:
            end = Ended(
                status="failed", message=error.message, where=error.where, hint=error.hint,
                mechanism=loose_bodies(mechanism_of(error)),
            )  # fmt: skip
        except MemoryError:
            end = Ended(
                status="failed", message="the run needs more memory than this machine has.",
                hint="Coarsen the mesh, or use fewer contact nodes.",
            )  # fmt: skip
        except Exception as error:
            traceback.print_exc()
            end = Ended(
                status="failed", message=f"the solver met an unexpected {type(error).__name__}: {error}.",
                hint="This is a fault in Ulmek; the run's folder holds the details.",
            )  # fmt: skip
        if study is not None:
            words = {"message": in_words(study, end.message), "hint": in_words(study, end.hint)}
            end = end.model_copy(update=words)
        write(end)
    (folder / OUTCOME).write_text(end.model_dump_json(include={"status", "message", "where", "hint"}))
    return end


def serve_jobs() -> None:
    """Do jobs until the input ends; what libraries print goes to the log of the job."""
    answers = os.fdopen(os.dup(sys.stdout.fileno()), "w", buffering=1)
    jobs: queue.SimpleQueue[str] = queue.SimpleQueue()
    threading.Thread(target=_hear, args=(jobs,), daemon=True).start()
    kept, study = Kept(), None
    while True:
        job = Job(**json.loads(jobs.get()))
        if job.study != study:
            kept, study = Kept(), job.study
        with (Path(job.folder) / LOG).open("wb") as log:
            os.dup2(log.fileno(), sys.stdout.fileno())
            os.dup2(log.fileno(), sys.stderr.fileno())
        work(job, kept)
        answers.write("done\n")


def _hear(jobs: "queue.SimpleQueue[str]") -> None:
    """Hand on each line of the input; at its end the process ends, whatever it does."""
    for line in sys.stdin:
        jobs.put(line)
    os._exit(0)


if __name__ == "__main__":
    serve_jobs()
