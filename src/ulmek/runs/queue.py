"""The run queue: one worker process at a time, watched; the end of a run is recorded however it came.

The worker stays for a while after a run: the next run finds a process that is ready, and one of the same study finds
its factors kept.
The queue outlives whatever a run does: what goes wrong on the way is the end of that run, and an end that cannot be
recorded (a full disk, a database that another process holds) is kept here, tried again, and told by `state`.
"""

import contextlib
import json
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ulmek.core.errors import UnknownNameError
from ulmek.runs.events import Ended
from ulmek.runs.settle import Wanted
from ulmek.runs.worker import EVENTS, OUTCOME, STOP, WORKER_MODULE, Job
from ulmek.store.database import Store
from ulmek.store.records import RunRecord, now

# A worker that has not heard a stop request by then (it factors, say) is ended from outside.
STOP_PATIENCE = 20.0
# Seconds after which a worker without work is let go, and its memory with it.
IDLE_PATIENCE = 600.0
# Bytes of memory beyond which a worker is let go when a run of another study comes.
LARGE = 1 << 30
# Seconds between looks at the queue when nobody rings.
LOOK = 1.0
# Seconds that a worker left over from a dead server may take to end.
LEFTOVER_PATIENCE = 5.0

End = dict[str, str]


@dataclass(frozen=True)
class QueueState:
    """How the queue is: it works or not, the run it works on, ends of runs still to be recorded, its last trouble."""

    is_working: bool
    running: int | None
    unrecorded: tuple[int, ...]
    trouble: str


class RunQueue:
    """Takes queued runs in order and gives them to a worker process, one at a time."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self._wake = threading.Event()
        self._closing = False
        self._process: subprocess.Popen[bytes] | None = None
        self._study: int | None = None
        self._running: int | None = None
        self._unrecorded: dict[int, tuple[RunRecord, End]] = {}
        self._trouble = ""
        self._idle_since = time.monotonic()
        self._thread = threading.Thread(target=self._loop, name="run-queue", daemon=True)

    def open(self) -> None:
        """Record how runs of an earlier server ended, by what is on disk, and begin to take work."""
        for run in self.store.runs(status=("running",)):
            _end_leftover(run.pid)
            self._keep_end(run, _end_on_disk(self.store.folder_of(run), _SERVER_STOPPED))
        self._record_kept()
        self._thread.start()

    def close(self) -> None:
        """Stop the running worker and the queue."""
        self._closing = True
        self._wake.set()
        if self._process is not None and self._process.poll() is None:
            self._process.terminate()
        self._thread.join(timeout=10)
        self._let_go()

    def state(self) -> QueueState:
        """How the queue is now."""
        return QueueState(self._thread.is_alive(), self._running, tuple(self._unrecorded), self._trouble)

    def add(self, study_id: int, *, settling: Wanted | None = None, **more: Any) -> RunRecord:
        """Queue a run of the study as it stands, from the start or from the last checkpoint of another run; or one that
        settles it, from the start or from the mesh that another was at; ``more``: see `Store.add_run`."""
        wanted = settling.model_dump_json() if settling is not None else ""
        run = self.store.add_run(study_id, settling=wanted, **more)
        self._wake.set()
        return run

    def stop(self, run_id: int) -> RunRecord:
        """Ask a run to stop after its current iteration; a queued one never begins."""
        run = self.store.run(run_id)
        if run.status == "queued":
            return self.store.update_run(run_id, status="stopped", ended=now(), message="stopped before it began.")
        if run.status == "running":
            (self.store.run_folder(run_id) / STOP).touch()
            timer = threading.Timer(STOP_PATIENCE, self._end_if_running, [run_id])
            timer.daemon = True
            timer.start()
        return run

    def forget(self, study_id: int) -> None:
        """Delete a study with all it has; a run of it that goes on ends at once."""
        running = {run.id for run in self.store.runs(study_id, status=("running",))}
        self.store.delete_study(study_id)
        if self._running in running and self._process is not None:
            self._process.kill()

    def _end_if_running(self, run_id: int) -> None:
        if self._running == run_id and self._process is not None:
            self._process.terminate()

    def _loop(self) -> None:
        while not self._closing:
            try:
                self._record_kept()
                waiting = self.store.runs(status=("queued",))
                if waiting:
                    self._work(waiting[-1])
                    continue
                self._trouble = ""
            except Exception as error:  # whatever a run, the disk or the database does, the queue goes on
                self._trouble = f"{type(error).__name__}: {error}"
            if time.monotonic() - self._idle_since > IDLE_PATIENCE:
                self._let_go()
            self._wake.wait(timeout=LOOK)
            self._wake.clear()

    def _work(self, run: RunRecord) -> None:
        assert run.id is not None
        folder = self.store.folder_of(run)
        earlier = str(self.store.run_folder(run.resumed_from)) if run.resumed_from is not None else None
        process = self._worker_for(run.study_id)
        self.store.update_run(run.id, status="running", pid=process.pid, started=now())
        self._running = run.id
        try:
            folder.mkdir(parents=True)
            (folder / "study.ulmek.json").write_text(self.store.whole_study(run).model_dump_json())
            settling = json.loads(run.settling) if run.settling else None
            end = self._solved(process, Job(str(folder), earlier, run.study_id, settling, run.asked_of is not None))
        except Exception as error:
            end = _failed(f"the run could not be carried out: {error}.", hint="Free the disk, and run again.")
        finally:
            self._running = None
            self._idle_since = time.monotonic()
        self._keep_end(run, end)
        self._record_kept()

    def _solved(self, process: "subprocess.Popen[bytes]", job: Job) -> End:
        """How a worker's job ended."""
        if _does(process, job):
            reason = "it left no outcome"
        else:
            code = process.wait()
            reason = f"signal {-code}" if code < 0 else f"exit code {code}"
            self._let_go()
        unexpected = _SERVER_STOPPED if self._closing else f"the worker process ended unexpectedly ({reason})."
        return _end_on_disk(Path(job.folder), unexpected)

    def _keep_end(self, run: RunRecord, end: End) -> None:
        assert run.id is not None
        self._unrecorded[run.id] = run, end

    def _record_kept(self) -> None:
        """Record the ends of runs that are still to be recorded; what cannot be stays for the next time."""
        for run_id, (run, end) in list(self._unrecorded.items()):
            try:
                self.store.update_run(run_id, ended=now(), **end)
            except UnknownNameError:
                # Its study was deleted while it went on: what the worker wrote after that goes too.
                shutil.rmtree(self.store.folder_of(run), ignore_errors=True)
            del self._unrecorded[run_id]

    def _worker_for(self, study_id: int) -> "subprocess.Popen[bytes]":
        """The worker of the last run if it is there and not too large to hand on, or a new one."""
        kept = self._process
        if kept is not None and self._study != study_id and _memory_of(kept.pid) > LARGE:
            kept = None
        if kept is None or kept.poll() is not None:
            self._let_go()
            self._process = subprocess.Popen(
                [sys.executable, "-m", WORKER_MODULE],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, start_new_session=True,
                env=dict(os.environ),
            )  # fmt: skip
            kept = self._process
        self._study = study_id
        return kept

    def _let_go(self) -> None:
        """End the worker and what it keeps."""
        process, self._process = self._process, None
        if process is None:
            return
        for pipe in (process.stdin, process.stdout):
            if pipe is not None:
                with contextlib.suppress(BrokenPipeError):
                    pipe.close()
        try:
            process.wait(timeout=5)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


_SERVER_STOPPED = "the server stopped while this run was going on."


def _failed(message: str, *, status: str = "failed", hint: str) -> End:
    return {"status": status, "message": message, "where": "", "hint": hint}


def _end_on_disk(folder: Path, unexpected: str) -> End:
    """How the run in a folder ended: as its worker wrote, or stopped, or else for the reason given."""
    try:
        end = json.loads((folder / OUTCOME).read_text())
        return {key: str(end[key]) for key in ("status", "message", "where", "hint")}
    except (OSError, ValueError, KeyError, TypeError):
        hint = "The increments solved before are kept: review them, or resume from the last one."
        end = _failed(unexpected, hint=hint)
        if (folder / STOP).exists():
            end = _failed("stopped on request.", status="stopped", hint=hint)
        with contextlib.suppress(OSError):
            _append_end(folder, end)
        return end


def _end_leftover(pid: int | None) -> None:
    """End the worker of a server that died, should it still be there; workers end by themselves when theirs does."""
    began = time.monotonic()
    while pid is not None and _is_worker(pid):
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL if time.monotonic() - began > LEFTOVER_PATIENCE else signal.SIGTERM)
        threading.Event().wait(0.05)


def _is_worker(pid: int) -> bool:
    """Whether a process is one of our workers and lives: its number may have been given to another since."""
    try:
        command = Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False
    return WORKER_MODULE.encode() in command


def _memory_of(pid: int) -> int:
    """Bytes of memory that a process holds."""
    try:
        pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    except (OSError, ValueError, IndexError):
        return 0
    return pages * os.sysconf("SC_PAGE_SIZE")


def _does(process: "subprocess.Popen[bytes]", job: Job) -> bool:
    """Give a worker a job and wait; False when the worker ended instead of answering."""
    assert process.stdin is not None
    assert process.stdout is not None
    try:
        process.stdin.write(job.line())
        process.stdin.flush()
        return bool(process.stdout.readline())
    except BrokenPipeError:
        return False


def _append_end(folder: Path, end: End) -> None:
    """Close the story of a run whose worker could not; a half-written last line is dropped."""
    path = folder / EVENTS
    lines = path.read_text().splitlines(keepends=True) if path.exists() else []
    whole = [line for line in lines if line.endswith("\n")]
    path.write_text("".join(whole) + Ended.model_validate(end).model_dump_json() + "\n")
