"""Records survive a new start, edits come one after another, and databases of earlier versions are taken along."""

import contextlib
import sqlite3
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy
from sqlmodel import SQLModel

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.store.database import ConflictError, Store
from ulmek.store.hold import HeldError, hold_folder
from ulmek.store.records import StudyRecord
from ulmek.store.texts import study_of
from ulmek.study.items import read_study

DATA = Path(__file__).parent / "data"


def _mu(value: float) -> list[dict[str, Any]]:
    return [{"op": "replace", "path": "/pairs/0/law/mu", "value": value}]


def _mu_of(record: StudyRecord) -> float:
    return study_of(record.document).pairs[0].law.mu


def test_studies_edits_and_undo_survive_a_new_start(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    for revision, value in ((1, 0.2), (2, 0.3), (3, 0.4)):
        store.edit(study.id, _mu(value), label=f"µ {value}", base_revision=revision)
    store.undo(study.id, base_revision=4)
    again = Store(tmp_path)
    assert _mu_of(again.study(study.id)) == 0.3
    assert again.edit_labels(study.id) == ("µ 0.3", "µ 0.4")
    assert _mu_of(again.undo(study.id, base_revision=5)) == 0.2
    assert _mu_of(again.redo(study.id, base_revision=6)) == 0.3
    # A new edit forgets what could have been redone.
    again.edit(study.id, _mu(0.9), label="µ 0.9", base_revision=again.study(study.id).revision)
    assert again.edit_labels(study.id) == ("µ 0.9", None)
    with pytest.raises(InputError, match="nothing to redo"):
        again.redo(study.id, base_revision=again.study(study.id).revision)


def test_the_first_of_two_edits_wins(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    store.edit(study.id, _mu(0.2), label="mine", base_revision=1)
    with pytest.raises(ConflictError, match="revision 2"):
        store.edit(study.id, _mu(0.5), label="theirs", base_revision=1)
    assert _mu_of(store.study(study.id)) == 0.2


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
    folder = store.run_folder(run.id or 0)
    folder.mkdir(parents=True)
    store.delete_study(study.id)
    assert not folder.exists()
    assert store.studies() == []
    for missing in (lambda: store.study(study.id or 0), lambda: store.run(run.id or 0)):
        with pytest.raises(UnknownNameError):
            missing()


def test_numbers_and_folders_are_never_given_twice(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    seen: set[tuple[int | None, int | None, Path]] = set()
    for _ in range(3):
        study = store.add_study(read_study(two_blocks))
        run = store.add_run(study.id or 0)
        seen.add((study.id, run.id, store.run_folder(run.id or 0)))
        store.delete_study(study.id or 0)
    assert [len(set(column)) for column in zip(*seen, strict=True)] == [3, 3, 3]


def test_what_would_not_come_back_is_not_stored(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    store = Store(tmp_path)
    study = store.add_study(read_study(two_blocks))
    assert study.id is not None
    for path, value in (("", None), ("", []), ("/notes", "half of a pair \ud83d"), ("/pairs/0/law/mu", float("nan"))):
        with pytest.raises(InputError):
            store.edit(study.id, [{"op": "replace", "path": path, "value": value}], label="bad", base_revision=1)
    assert store.study(study.id).revision == 1
    with pytest.raises(InputError, match="cannot be stored"):
        store.add_study(read_study({**two_blocks, "machine": "\ud83d"}))
    assert len(store.studies()) == 1


def test_of_many_edits_on_one_revision_one_is_made_and_undo_and_redo_go_all_the_way(
    two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    stores = [Store(tmp_path) for _ in range(2)]
    study = stores[0].add_study(read_study(two_blocks))
    assert study.id is not None
    documents, clients, rounds = [study.document], 10, 12
    for turn in range(rounds):
        base = stores[0].study(study.id).revision
        together = threading.Barrier(clients)

        def add(client: int, base: int = base, turn: int = turn, together: threading.Barrier = together) -> bool:
            patch = [{"op": "replace", "path": "/notes", "value": f"client {client} in round {turn}"}]
            together.wait()
            try:
                stores[client % 2].edit(study.id or 0, patch, label=f"{turn}", base_revision=base)
            except ConflictError:
                return False
            return True

        with ThreadPoolExecutor(clients) as all_of_them:
            assert sum(all_of_them.map(add, range(clients))) == 1
        documents.append(stores[0].study(study.id).document)
    for wanted in reversed(documents[:-1]):
        now = stores[0].undo(study.id, base_revision=stores[0].study(study.id).revision)
        assert now.document == wanted
    for wanted in documents[1:]:
        now = stores[1].redo(study.id, base_revision=stores[1].study(study.id).revision)
        assert now.document == wanted
    with pytest.raises(ConflictError):
        stores[0].undo(study.id, base_revision=1)


def test_a_second_server_on_a_data_folder_is_refused_and_a_closed_one_leaves_one_whole_file(
    two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    with hold_folder(tmp_path):
        with pytest.raises(HeldError, match="another Ulmek server"):
            hold_folder(tmp_path)
        first = Store(tmp_path)
        first.add_study(read_study(two_blocks))
        first.close()
    assert sorted(p.name for p in tmp_path.iterdir()) == ["geometry", "held", "ulmek.db"]
    with contextlib.closing(sqlite3.connect(tmp_path / "ulmek.db")) as plain:
        assert plain.execute("SELECT title FROM studyrecord").fetchall() == [("Two blocks",)]
    hold_folder(tmp_path).close()


def test_a_database_of_0_6_0_is_brought_up_to_date_with_all_it_holds(tmp_path: Path) -> None:
    with contextlib.closing(sqlite3.connect(tmp_path / "ulmek.db")) as old:
        old.executescript((DATA / "home_0_6_0.sql").read_text())
    store = Store(tmp_path)
    (study,) = store.studies()
    assert study.id is not None
    assert (_mu_of(study), study.revision, store.edit_labels(study.id)) == (0.2, 4, ("µ 0.2", "µ 0.3"))
    assert _mu_of(store.redo(study.id, base_revision=4)) == 0.3
    newest, first = store.runs(study.id)
    assert (first.status, newest.resumed_from, first.folder) == ("solved", first.id, "1")
    shape = dict(_columns(store))
    store.close()
    fresh = Store(tmp_path / "fresh")
    assert shape == dict(_columns(fresh))
    # What the steps make is what the tables of the program say.
    models = {t.name: {c.name for c in t.columns} for t in SQLModel.metadata.sorted_tables}
    assert {name: shape[name] for name in models} == models


def test_a_database_of_a_later_version_is_left_alone(tmp_path: Path) -> None:
    store = Store(tmp_path)
    with store.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = '9999'")
    store.close()
    with pytest.raises(InputError, match="later version"):
        Store(tmp_path)


def _columns(store: Store) -> Iterator[tuple[str, set[str]]]:
    found = sqlalchemy.inspect(store.engine)
    for table in found.get_table_names():
        yield table, {column["name"] for column in found.get_columns(table)}
