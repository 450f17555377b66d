"""The queue outlives what runs, disk and database do, and records how each run ended."""

import json
import sqlite3
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from ulmek.runs import queue as queue_module
from ulmek.runs.queue import RunQueue
from ulmek.runs.worker import OUTCOME, WORKER_MODULE
from ulmek.store import database
from ulmek.store.database import Store
from ulmek.study.items import read_study

NO_PARTS = {"format": "ulmek-study", "version": 2, "name": "new", "title": "New"}


def _until(condition: Callable[[], bool], *, seconds: float = 60) -> None:
    pause = threading.Event()
    for _ in range(int(seconds / 0.05)):
        if condition():
            return
        pause.wait(0.05)
    raise AssertionError("it did not come to that in time")


def _study(store: Store, document: dict[str, Any] = NO_PARTS) -> int:
    record = store.add_study(read_study(document))
    assert record.id is not None
    return record.id


@pytest.fixture
def slow(two_blocks: dict[str, Any]) -> dict[str, Any]:
    """A study whose run goes on until it is stopped."""
    many = {"increments": {"start": 0.002, "least": 0.001, "largest": 0.002, "most": 1000}}
    return {**two_blocks, "steps": [{**s, **many} for s in two_blocks["steps"]]}


def test_runs_of_a_dead_server_end_as_what_is_on_disk_says(tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = _study(store)
    interrupted, finished, waiting = (store.add_run(study) for _ in range(3))
    for run in (interrupted, finished):
        store.run_folder(run.id or 0).mkdir(parents=True)
        store.update_run(run.id or 0, status="running", pid=999_999)
    (store.run_folder(interrupted.id or 0) / "events.jsonl").write_text('{"kind": "phase"}\n{"kind": "iter')
    outcome = {"status": "solved", "message": "", "where": "", "hint": ""}
    (store.run_folder(finished.id or 0) / OUTCOME).write_text(json.dumps(outcome))
    queue = RunQueue(store)
    queue.stop(waiting.id or 0)
    queue.open()
    queue.close()
    ended = [store.run(run.id or 0) for run in (interrupted, finished, waiting)]
    assert [run.status for run in ended] == ["failed", "solved", "stopped"]
    assert "server stopped" in ended[0].message
    lines = (store.run_folder(interrupted.id or 0) / "events.jsonl").read_text().splitlines()
    assert len(lines) == 2
    assert json.loads(lines[1])["status"] == "failed"


def test_a_worker_left_over_is_ended_before_its_run_is_recorded(tmp_path: Path) -> None:
    store = Store(tmp_path)
    run = store.add_run(_study(store))
    command = [sys.executable, "-c", "import sys; sys.stdin.read()", WORKER_MODULE]
    with subprocess.Popen(command, stdin=subprocess.PIPE) as left:
        store.update_run(run.id or 0, status="running", pid=left.pid)
        _until(lambda: queue_module._is_worker(left.pid))
        reaper = threading.Thread(target=left.wait, daemon=True)
        reaper.start()
        queue = RunQueue(store)
        queue.open()
        queue.close()
        assert left.poll() is not None
    assert store.run(run.id or 0).status == "failed"


def test_a_worker_ends_with_its_input_in_the_midst_of_a_job(slow: dict[str, Any], tmp_path: Path) -> None:
    (tmp_path / "study.ulmek.json").write_text(json.dumps(slow))
    worker = subprocess.Popen([sys.executable, "-m", WORKER_MODULE], stdin=subprocess.PIPE, stdout=subprocess.DEVNULL)
    assert worker.stdin is not None
    worker.stdin.write(json.dumps({"folder": str(tmp_path)}).encode() + b"\n")
    worker.stdin.flush()
    events = tmp_path / "events.jsonl"
    _until(lambda: events.exists() and '"increment"' in events.read_text())
    worker.stdin.close()
    worker.wait(timeout=10)
    assert not (tmp_path / OUTCOME).exists()


def test_a_study_deleted_while_its_run_goes_on_takes_the_run_and_the_queue_goes_on(
    slow: dict[str, Any], two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    store = Store(tmp_path)
    queue = RunQueue(store)
    queue.open()
    try:
        study = _study(store, slow)
        run = queue.add(study)
        folder = store.run_folder(run.id or 0)
        _until(lambda: (folder / "result.h5").exists())
        queue.forget(study)
        following = queue.add(_study(store, two_blocks))
        _until(lambda: store.run(following.id or 0).status == "solved")
        assert not folder.exists()
        assert queue.state().trouble == ""
    finally:
        queue.close()


def test_a_run_that_cannot_be_written_fails_with_its_reason(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    store = Store(tmp_path)
    study = _study(store)

    def full(self: Path, *_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as disk:
        disk.setattr(Path, "mkdir", full)
        queue = RunQueue(store)
        queue.open()
        first = queue.add(study)
        _until(lambda: store.run(first.id or 0).status == "failed")
    second = queue.add(study)
    _until(lambda: store.run(second.id or 0).status == "failed")
    queue.close()
    assert "No space left" in store.run(first.id or 0).message
    assert "no steps" in store.run(second.id or 0).message


def test_an_end_that_cannot_be_recorded_is_told_and_recorded_later(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(database, "PATIENCE", 0.2)
    store = Store(tmp_path)
    study = _study(store)
    queue = RunQueue(store)
    held = threading.Event()

    def while_another_process_holds_the_database(*_: object) -> bool:
        with closing(sqlite3.connect(tmp_path / "ulmek.db", isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            held.set()
            _until(lambda: "locked" in queue.state().trouble)
            assert queue.state().unrecorded == (run.id,)
            assert queue.state().is_working
        return True

    def does(*_: object) -> bool:
        threading.Thread(target=while_another_process_holds_the_database, daemon=True).start()
        return held.wait(10)

    monkeypatch.setattr(queue_module, "_does", does)
    run = queue.add(study)
    queue.open()
    try:
        _until(lambda: store.run(run.id or 0).status == "failed")
        assert "left no outcome" in store.run(run.id or 0).message
        _until(lambda: queue.state().unrecorded == () and queue.state().trouble == "")
    finally:
        queue.close()
