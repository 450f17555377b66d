"""The run queue: one worker process at a time, watched; its end is recorded however it came."""

import json
import os
import subprocess
import sys
import threading
from pathlib import Path

from ulmek.runs.worker import EVENTS, OUTCOME, STOP
from ulmek.store.database import Store
from ulmek.store.records import RunRecord, now

# A worker that has not heard a stop request by then (it factors, say) is ended from outside.
STOP_PATIENCE = 20.0


class RunQueue:
    """Takes queued runs in order and gives each a worker process of its own."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self._wake = threading.Event()
        self._closing = False
        self._process: subprocess.Popen[bytes] | None = None
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

    def run_now(self, run: RunRecord) -> RunRecord:
        """Work on one run in the caller's thread, before the queue is opened."""
        assert run.id is not None
        self._work(run)
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
                self._wake.wait(timeout=1.0)
                self._wake.clear()
                continue
            self._work(waiting[-1])

    def _work(self, run: RunRecord) -> None:
        assert run.id is not None
        folder = self.store.run_folder(run.id)
        folder.mkdir(parents=True, exist_ok=True)
        (folder / "study.ulmek.json").write_text(json.dumps(run.document))
        command = [sys.executable, "-m", "ulmek.runs.worker", str(folder)]
        if run.resumed_from is not None:
            command.append(str(self.store.run_folder(run.resumed_from)))
        with (folder / "worker.log").open("wb") as log:
            self._process = subprocess.Popen(
                command, stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True, env=dict(os.environ),
            )  # fmt: skip
            self.store.update_run(run.id, status="running", pid=self._process.pid, started=now())
            code = self._process.wait()
        reason = f"signal {-code}" if code < 0 else f"exit code {code}"
        self._record_end(run, f"the worker process ended unexpectedly ({reason}).")

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


def _append_end(folder: Path, end: dict[str, str]) -> None:
    """Close the story of a run whose worker could not; a half-written last line is dropped."""
    path = folder / EVENTS
    lines = path.read_text().splitlines(keepends=True) if path.exists() else []
    whole = [line for line in lines if line.endswith("\n")]
    path.write_text("".join(whole) + json.dumps({"seconds": None, "kind": "end", **end}) + "\n")
