"""Series that the server runs: a process for each, started again when the server is, their ends recorded."""

import contextlib
import json
import os
import subprocess
import sys
import threading

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.runs.series import STOP, STUDY
from ulmek.runs.series_driver import DRIVER_MODULE, OUTCOME
from ulmek.store.database import Store
from ulmek.store.records import SeriesRecord, now

# Seconds between looks at what runs; that a process may take to end.
LOOK, PATIENCE = 0.5, 10.0


class SeriesKeeper:
    """Starts series, watches them, and stops them."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self._processes: dict[int, subprocess.Popen[bytes]] = {}
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="series", daemon=True)

    def open(self) -> None:
        """Go on with the series that an earlier server had begun."""
        for record in self.store.all_series(status="running"):
            self._start(record)
        self._thread.start()

    def close(self) -> None:
        """End all processes; their series go on when a server is there again."""
        self._closing.set()
        if self._thread.is_alive():
            self._thread.join(timeout=PATIENCE)
        with self._lock:
            for process in self._processes.values():
                _let_go(process)
            self._processes.clear()

    def start(self, study_id: int, series: str) -> SeriesRecord:
        """Begin to run a series of the study as it stands."""
        record = self.store.add_series(study_id, series)
        self._start(record)
        return record

    def go_on(self, key: int) -> SeriesRecord:
        """Go on with a series that was stopped or failed.

        Raises
        ------
        InputError : it runs.
        """
        if self.store.one_series(key).status == "running":
            raise InputError(f"series {key} is running.", where="series", hint="Wait for its end, or stop it.")
        record = self.store.update_series(key, status="running", message="", ended=None)
        self._start(record)
        return record

    def stop(self, key: int) -> SeriesRecord:
        """Ask a series to stop; its samples stay."""
        record = self.store.one_series(key)
        if record.status == "running":
            (self.store.folder_of_series(record) / STOP).touch()
        return record

    def forget(self, study_id: int) -> None:
        """End the series of a study that is deleted."""
        mine = {r.id for r in self.store.all_series(study_id, status="running")}
        with self._lock:
            for key in mine & self._processes.keys():
                _let_go(self._processes.pop(key or 0))

    def _start(self, record: SeriesRecord) -> None:
        assert record.id is not None
        folder = self.store.folder_of_series(record)
        folder.mkdir(parents=True, exist_ok=True)
        (folder / STOP).unlink(missing_ok=True)
        if not (folder / STUDY).exists():
            (folder / STUDY).write_text(self.store.whole_study(record).model_dump_json())
        with self._lock, (folder / "driver.log").open("ab") as log:
            self._processes[record.id] = subprocess.Popen(
                [sys.executable, "-m", DRIVER_MODULE, str(folder), record.series],
                stdin=subprocess.PIPE, stdout=log, stderr=log, start_new_session=True, env=dict(os.environ),
            )  # fmt: skip

    def _watch(self) -> None:
        while not self._closing.wait(LOOK):
            with self._lock:
                ended = {key: p for key, p in self._processes.items() if p.poll() is not None}
            for key, process in ended.items():
                # What cannot be recorded now (a database that is held) is tried again.
                with contextlib.suppress(Exception):
                    self._record(key, process.returncode)
                    _let_go(process)
                    with self._lock:
                        self._processes.pop(key, None)

    def _record(self, key: int, code: int) -> None:
        try:
            record = self.store.one_series(key)
        except UnknownNameError:
            return
        folder = self.store.folder_of_series(record)
        try:
            end = json.loads((folder / OUTCOME).read_text())
        except (OSError, ValueError):
            end = {
                "status": "failed",
                "message": f"its process ended unexpectedly ({code}); go on with what is missing.",
            }
        self.store.update_series(key, status=end["status"], message=end["message"], ended=now())


def _let_go(process: "subprocess.Popen[bytes]") -> None:
    """End a process, which ends when its input does."""
    assert process.stdin is not None
    with contextlib.suppress(BrokenPipeError):
        process.stdin.close()
    try:
        process.wait(timeout=PATIENCE)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()
