"""Records survive a new start; a server that died leaves no run marked as running."""

from pathlib import Path
from typing import Any

import pytest

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.runs.queue import RunQueue
from ulmek.store.database import ConflictError, Store
from ulmek.study.schema import read_study


def _mu(value: float) -> list[dict[str, Any]]:
    return [{"op": "replace", "path": "/pairs/0/law/mu", "value": value}]


def test_studies_edits_and_undo_survive_a_new_start(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    for revision, value in ((1, 0.2), (2, 0.3), (3, 0.4)):
        store.edit(study.id, _mu(value), label=f"µ {value}", base_revision=revision)
    store.undo(study.id)
    again = Store(tmp_path)
    assert again.study(study.id).document["pairs"][0]["law"]["mu"] == 0.3
    assert again.edit_labels(study.id) == ("µ 0.3", "µ 0.4")
    assert again.undo(study.id).document["pairs"][0]["law"]["mu"] == 0.2
    assert again.redo(study.id).document["pairs"][0]["law"]["mu"] == 0.3
    # A new edit forgets what could have been redone.
    again.edit(study.id, _mu(0.9), label="µ 0.9", base_revision=again.study(study.id).revision)
    assert again.edit_labels(study.id) == ("µ 0.9", None)
    with pytest.raises(InputError, match="nothing to redo"):
        again.redo(study.id)


def test_the_first_of_two_edits_wins(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    store.edit(study.id, _mu(0.2), label="mine", base_revision=1)
    with pytest.raises(ConflictError, match="revision 2"):
        store.edit(study.id, _mu(0.5), label="theirs", base_revision=1)
    assert store.study(study.id).document["pairs"][0]["law"]["mu"] == 0.2


def test_a_refused_edit_leaves_no_trace(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    with pytest.raises(InputError):
        store.edit(study.id, _mu(-1.0), label="bad", base_revision=1)
    assert store.study(study.id).revision == 1
    assert store.edit_labels(study.id) == (None, None)


def test_deleting_a_study_takes_its_runs_and_edits(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    run = store.add_run(study.id)
    store.delete_study(study.id)
    assert store.studies() == []
    for missing in (lambda: store.study(study.id or 0), lambda: store.run(run.id or 0)):
        with pytest.raises(UnknownNameError):
            missing()


def test_runs_left_by_a_dead_server_are_marked_and_waiting_ones_go_on(
    two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    interrupted, waiting = store.add_run(study.id), store.add_run(study.id)
    assert interrupted.id is not None
    assert waiting.id is not None
    store.run_folder(interrupted.id).mkdir(parents=True)
    (store.run_folder(interrupted.id) / "events.jsonl").write_text('{"kind": "phase"}\n{"kind": "iter')
    store.update_run(interrupted.id, status="running", pid=999_999)
    queue = RunQueue(store)
    queue.stop(waiting.id)
    queue.open()
    queue.close()
    assert store.run(interrupted.id).status == "failed"
    assert "server stopped" in store.run(interrupted.id).message
    lines = (store.run_folder(interrupted.id) / "events.jsonl").read_text().splitlines()
    assert len(lines) == 2
    assert '"status": "failed"' in lines[1]
    assert store.run(waiting.id).status == "stopped"
