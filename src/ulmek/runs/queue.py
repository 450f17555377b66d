"""The run queue: one worker process at a time, watched; the end of a run is recorded however it came.

The worker of a study stays for a while after a run: the next run of the same study finds its factors kept.
"""

import contextlib
import json
import os
import subprocess
import sys
import threading
import time
from pathlib import Path

from ulmek.runs.worker import EVENTS, OUTCOME, STOP, Job
from ulmek.store.database import Store
from ulmek.store.records import RunRecord, now

# A worker that has not heard a stop request by then (it factors, say) is ended from outside.
STOP_PATIENCE = 20.0
# Seconds after which a worker without work is let go, and its memory with it.
IDLE_PATIENCE = 600.0


class RunQueue:
    """Takes queued runs in order and gives each a worker process of its own."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self._wake = threading.Event()
        self._closing = False
        self._process: subprocess.Popen[bytes] | None = None
        self._study: int | None = None
        self._idle_since = time.monotonic()
        self._thread = threading.Thread(target=self._loop, name="run-queue", daemon=True)

    def open(self) -> None:
        """Mark runs that an earlier server left behind, and begin to take work."""
        for run in self.store.runs(status=("running",)):
            self._record_end(run, "the server stopped while this run was going on.")
        self._thread.start()

    def close(self) -> None:
        """Stop the running worker and the queue."""
        self._closing = True
        self._wake.set()
        if self._process is not None and self._process.poll() is None:
            self._process.terminate()
        self._thread.join(timeout=10)
        self._let_go()

    def run_now(self, run: RunRecord) -> RunRecord:
        """Work on one run in the caller's thread, before the queue is opened."""
        assert run.id is not None
        self._work(run)
        self._let_go()
        return self.store.run(run.id)

    def add(self, study_id: int, *, resumed_from: int | None = None) -> RunRecord:
        """Queue a run of the study as it stands, from the start or from the last checkpoint of another run."""
        run = self.store.add_run(study_id, resumed_from=resumed_from)
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

    def _end_if_running(self, run_id: int) -> None:
        run = self.store.run(run_id)
        if run.status == "running" and self._process is not None and run.pid == self._process.pid:
            self._process.terminate()

    def _loop(self) -> None:
        while not self._closing:
            waiting = self.store.runs(status=("queued",))
            if not waiting:
                if time.monotonic() - self._idle_since > IDLE_PATIENCE:
                    self._let_go()
                self._wake.wait(timeout=1.0)
                self._wake.clear()
                continue
            self._work(waiting[-1])

    def _work(self, run: RunRecord) -> None:
        assert run.id is not None
        folder = self.store.run_folder(run.id)
        folder.mkdir(parents=True, exist_ok=True)
        (folder / "study.ulmek.json").write_text(json.dumps(run.document))
        earlier = str(self.store.run_folder(run.resumed_from)) if run.resumed_from is not None else None
        process = self._worker_for(run.study_id)
        self.store.update_run(run.id, status="running", pid=process.pid, started=now())
        if _does(process, Job(str(folder), earlier)):
            reason = "it left no outcome"
        else:
            code = process.wait()
            reason = f"signal {-code}" if code < 0 else f"exit code {code}"
            self._let_go()
        self._idle_since = time.monotonic()
        self._record_end(run, f"the worker process ended unexpectedly ({reason}).")

    def _worker_for(self, study_id: int) -> "subprocess.Popen[bytes]":
        """The worker that solved this study last, or a new one."""
        if self._process is None or self._process.poll() is not None or self._study != study_id:
            self._let_go()
            self._process = subprocess.Popen(
                [sys.executable, "-m", "ulmek.runs.worker"],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, start_new_session=True,
                env=dict(os.environ),
            )  # fmt: skip
            self._study = study_id
        return self._process

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

    def _record_end(self, run: RunRecord, unexpected: str) -> None:
        assert run.id is not None
        folder = self.store.run_folder(run.id)
        try:
            end = json.loads((folder / OUTCOME).read_text())
        except (OSError, json.JSONDecodeError):
            stopped = (folder / STOP).exists()
            end = {
                "status": "stopped" if stopped else "failed",
                "message": "stopped on request." if stopped else unexpected,
                "where": "",
                "hint": "The increments solved before are kept: review them, or resume from the last one.",
            }
            _append_end(folder, end)
        self.store.update_run(run.id, ended=now(), **end)


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


def _append_end(folder: Path, end: dict[str, str]) -> None:
    """Close the story of a run whose worker could not; a half-written last line is dropped."""
    path = folder / EVENTS
    lines = path.read_text().splitlines(keepends=True) if path.exists() else []
    whole = [line for line in lines if line.endswith("\n")]
    path.write_text("".join(whole) + json.dumps({"seconds": None, "kind": "end", **end}) + "\n")
