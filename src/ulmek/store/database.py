"""The database: SQLite in write-ahead mode, in the data folder (which one server holds at a time: `store.hold`)."""

import contextlib
import json
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, TypeVar

from pydantic import ValidationError
from sqlalchemy import Connection, Engine, event
from sqlmodel import Session, create_engine, select, update

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.store import records
from ulmek.store.migrate import bring_up_to_date
from ulmek.store.records import EditRecord, MaterialRecord, RunRecord, SeriesRecord, StudyRecord
from ulmek.store.shelf import GeometryShelf
from ulmek.store.texts import study_of, text_of
from ulmek.study.edits import difference, edited_by
from ulmek.study.items import Material, Patch, StudyDocument
from ulmek.study.joints.follow import followed

ACTIVE = ("queued", "running")
# How long a write waits for another process that holds the database (s).
PATIENCE = 30


class ConflictError(InputError):
    """The study has moved on since the edit was begun."""

    code = "conflict"


class Store:
    """Studies, edits and runs in one data folder."""

    def __init__(self, home: Path) -> None:
        self.home = home
        home.mkdir(parents=True, exist_ok=True)
        self.engine: Engine = create_engine(f"sqlite:///{home / 'ulmek.db'}", connect_args={"timeout": PATIENCE})
        event.listen(self.engine, "connect", _use_wal)
        event.listen(self.engine, "begin", _begin)
        self._writing = self.engine.execution_options(immediate=True)
        self.shelf = GeometryShelf(home / "geometry")
        bring_up_to_date(self._writing, self.shelf)

    def close(self) -> None:
        """Fold the write-ahead log into the database, so that it is one whole file."""
        with contextlib.closing(self.engine.raw_connection()) as connection:
            connection.cursor().execute("PRAGMA wal_checkpoint(TRUNCATE)")
        self.engine.dispose()

    def session(self) -> Session:
        """A session whose objects stay readable after it closes."""
        return Session(self.engine, expire_on_commit=False)

    def writing(self) -> Session:
        """A session that may write from its beginning: what it reads still stands when it writes."""
        return Session(self._writing, expire_on_commit=False)

    def answers(self) -> None:
        """Raise what the database raises when it is asked anything."""
        with self.session() as s:
            s.exec(select(StudyRecord.id).limit(1)).all()

    def run_folder(self, run_id: int) -> Path:
        """Where a run keeps its study, events and result."""
        return self.folder_of(self.run(run_id))

    def folder_of(self, run: RunRecord) -> Path:
        """The folder of a run whose record is at hand, whether or not it is still in the database."""
        return self.home / "runs" / run.folder

    def add_study(self, study: StudyDocument, *, demo: str | None = None) -> StudyRecord:
        """Keep a new study; raises as `text_of`."""
        study = self.shelf.absorbed_study(study)
        with self.writing() as s:
            record = StudyRecord(title=study.title, document=text_of(study), demo=demo)
            s.add(record)
            s.commit()
            return record

    def folder_of_series(self, series: SeriesRecord) -> Path:
        """The folder of a series."""
        return self.home / "series" / series.folder

    def whole_study(self, record: StudyRecord | RunRecord | SeriesRecord) -> StudyDocument:
        """The document of a record with the solids of files that it names.

        Raises
        ------
        InputError : the document is damaged, or a solid is not kept here.
        """
        return self.shelf.whole_study(study_of(record.document))

    def studies(self) -> list[StudyRecord]:
        """All studies, the latest touched first."""
        with self.session() as s:
            return list(s.exec(select(StudyRecord).order_by(StudyRecord.updated.desc())))  # type: ignore[attr-defined]

    def study(self, study_id: int) -> StudyRecord:
        """One study; UnknownNameError when there is none."""
        with self.session() as s:
            return _get(s, StudyRecord, study_id, "study")

    def delete_study(self, study_id: int) -> None:
        """Forget a study with its edits and runs, and what its runs have written."""
        with self.writing() as s:
            record = _get(s, StudyRecord, study_id, "study")
            folders = [self.folder_of(run) for run in s.exec(_runs_of(study_id))]
            folders += [self.folder_of_series(one) for one in s.exec(_series_of(study_id))]
            for table in (EditRecord, RunRecord, SeriesRecord):
                for row in s.exec(select(table).where(table.study_id == study_id)):
                    s.delete(row)
            s.delete(record)
            s.commit()
        for folder in folders:
            shutil.rmtree(folder, ignore_errors=True)
        self.sweep_geometry()

    def delete_run(self, run_id: int) -> None:
        """Forget a run and what it has written.

        Raises
        ------
        InputError : the run is queued or goes on.
        """
        with self.writing() as s:
            run = _get(s, RunRecord, run_id, "run")
            if run.status in ACTIVE:
                raise InputError(f"run {run_id} is {run.status}.", where="run", hint="Stop it first.")
            folder = self.folder_of(run)
            s.delete(run)
            s.commit()
        shutil.rmtree(folder, ignore_errors=True)
        self.sweep_geometry()

    def sweep_geometry(self) -> None:
        """Let go the solids of files that no study, edit or run names any more."""
        self.shelf.sweep(self._texts)

    def _texts(self) -> Iterator[str]:
        with self.session() as s:
            yield from s.exec(select(StudyRecord.document))
            yield from s.exec(select(RunRecord.document))
            yield from s.exec(select(SeriesRecord.document))
            for edit in s.exec(select(EditRecord)):
                yield json.dumps([edit.forward, edit.inverse])

    def edit(self, study_id: int, patch: Patch, *, label: str, base_revision: int) -> StudyRecord:
        """Apply an edit made against ``base_revision``.

        Raises
        ------
        ConflictError : the study is at another revision. InputError : see `edited_by` and `text_of`.
        """
        record = self._at(study_id, base_revision)
        before = study_of(record.document)
        edited = edited_by(before, patch, whole=self.shelf.whole_part)
        if edited.joints:
            whole = self.shelf.whole_study
            edited = followed(whole(before), whole(edited))
        edited = self.shelf.absorbed_study(edited)
        forward, inverse = difference(before, edited), difference(edited, before)

        def note(s: Session) -> None:
            for gone in s.exec(select(EditRecord).where(EditRecord.study_id == study_id, EditRecord.undone)):
                s.delete(gone)
            s.add(EditRecord(study_id=study_id, label=label, forward=forward, inverse=inverse))

        return self._write(record, edited, note)

    def undo(self, study_id: int, *, base_revision: int) -> StudyRecord:
        """Take the latest edit back; InputError when there is none, ConflictError at another revision."""
        return self._step_back_or_forth(study_id, base_revision, undo=True)

    def redo(self, study_id: int, *, base_revision: int) -> StudyRecord:
        """Make the latest undone edit again; InputError when there is none, ConflictError at another revision."""
        return self._step_back_or_forth(study_id, base_revision, undo=False)

    def _step_back_or_forth(self, study_id: int, base_revision: int, *, undo: bool) -> StudyRecord:
        record = self._at(study_id, base_revision)
        with self.session() as s:
            query = select(EditRecord).where(EditRecord.study_id == study_id, EditRecord.undone == (not undo))
            order = EditRecord.id.desc() if undo else EditRecord.id.asc()  # type: ignore[union-attr]
            step = s.exec(query.order_by(order)).first()
        if step is None:
            raise InputError(f"there is nothing to {'undo' if undo else 'redo'}.", where="edits")
        patch = step.inverse if undo else step.forward
        edited = edited_by(study_of(record.document), patch, whole=self.shelf.whole_part)

        def note(s: Session) -> None:
            step.undone = undo
            s.add(step)

        return self._write(record, edited, note)

    def _at(self, study_id: int, base_revision: int) -> StudyRecord:
        record = self.study(study_id)
        if record.revision != base_revision:
            raise _conflict(record.revision, base_revision)
        return record

    def _write(self, record: StudyRecord, study: StudyDocument, note: Callable[[Session], None]) -> StudyRecord:
        """Put ``study`` in the place of what ``record`` was read as, if that still stands, and ``note`` it with it.

        The comparison is the write's own condition: of two edits on one revision, whichever process they come from,
        one writes and the other is refused.
        """
        document, base = text_of(study), record.revision
        with self.writing() as s:
            stands = update(StudyRecord).where(StudyRecord.id == record.id, StudyRecord.revision == base)  # type: ignore[arg-type]
            values = {"document": document, "title": study.title, "revision": base + 1, "updated": records.now()}
            if s.exec(stands.values(values)).rowcount != 1:
                s.rollback()
                raise _conflict(_get(s, StudyRecord, record.id or 0, "study").revision, base)
            note(s)
            s.commit()
            return _get(s, StudyRecord, record.id or 0, "study")

    def edit_labels(self, study_id: int) -> tuple[str | None, str | None]:
        """Labels of what undo and redo would do, None when nothing."""
        with self.session() as s:
            mine = select(EditRecord.label).where(EditRecord.study_id == study_id)
            done = s.exec(mine.where(EditRecord.undone == False).order_by(EditRecord.id.desc())).first()  # type: ignore[union-attr]  # noqa: E712
            undone = s.exec(mine.where(EditRecord.undone).order_by(EditRecord.id.asc())).first()  # type: ignore[union-attr]
            return done, undone

    def materials(self) -> list[Material]:
        """Materials of one's own, by name; one that cannot be read is passed over."""
        with self.session() as s:
            kept = s.exec(select(MaterialRecord).order_by(MaterialRecord.name)).all()
        found = []
        for record in kept:
            with contextlib.suppress(ValidationError):
                found.append(Material.model_validate_json(record.content))
        return found

    def keep_material(self, material: Material) -> None:
        """Keep a material across studies, in the place of one of that name."""
        with self.writing() as s:
            record = s.exec(select(MaterialRecord).where(MaterialRecord.name == material.name)).first()
            record = record or MaterialRecord(name=material.name, content="")
            record.content = material.model_dump_json()
            s.add(record)
            s.commit()

    def drop_material(self, name: str) -> None:
        """Keep a material no longer; UnknownNameError when none has that name."""
        with self.writing() as s:
            record = s.exec(select(MaterialRecord).where(MaterialRecord.name == name)).first()
            if record is None:
                raise UnknownNameError(f"no material '{name}' is kept.", where="materials")
            s.delete(record)
            s.commit()

    def add_run(self, study_id: int, *, document: StudyDocument | None = None, **more: Any) -> RunRecord:
        """Queue a run of the study as it stands, or of another ``document`` of it; see `RunRecord` for ``more``."""
        with self.writing() as s:
            study = _get(s, StudyRecord, study_id, "study")
            text = study.document if document is None else text_of(self.shelf.absorbed_study(document))
            run = RunRecord(**{"study_id": study_id, "revision": study.revision, "document": text, **more})
            s.add(run)
            s.commit()
            return run

    def add_series(self, study_id: int, series: str) -> SeriesRecord:
        """Begin to run a series of the study as it stands."""
        with self.writing() as s:
            study = _get(s, StudyRecord, study_id, "study")
            record = SeriesRecord(
                study_id=study_id, revision=study.revision, document=study.document, series=series
            )  # fmt: skip
            s.add(record)
            s.commit()
            return record

    def one_series(self, key: int) -> SeriesRecord:
        """A series that was run; UnknownNameError when there is none."""
        with self.session() as s:
            return _get(s, SeriesRecord, key, "series")

    def all_series(self, study_id: int | None = None, *, status: str | None = None) -> list[SeriesRecord]:
        """Series that were run, the newest first."""
        with self.session() as s:
            query = _series_of(study_id) if study_id is not None else select(SeriesRecord)
            if status is not None:
                query = query.where(SeriesRecord.status == status)
            return list(s.exec(query.order_by(SeriesRecord.id.desc())))  # type: ignore[union-attr]

    def update_series(self, key: int, **changes: object) -> SeriesRecord:
        """Change fields of a series."""
        return self._update(SeriesRecord, key, "series", changes)

    def delete_series(self, key: int) -> None:
        """Forget a series and its samples; InputError while it goes on."""
        with self.writing() as s:
            record = _get(s, SeriesRecord, key, "series")
            if record.status == "running":
                raise InputError(f"series {key} is running.", where="series", hint="Stop it first.")
            folder = self.folder_of_series(record)
            s.delete(record)
            s.commit()
        shutil.rmtree(folder, ignore_errors=True)
        self.sweep_geometry()

    def run(self, run_id: int) -> RunRecord:
        """One run; UnknownNameError when there is none."""
        with self.session() as s:
            return _get(s, RunRecord, run_id, "run")

    def runs(self, study_id: int | None = None, *, status: tuple[str, ...] | None = None) -> list[RunRecord]:
        """Runs, the newest first."""
        with self.session() as s:
            query = _runs_of(study_id) if study_id is not None else select(RunRecord)
            if status is not None:
                query = query.where(RunRecord.status.in_(status))  # type: ignore[attr-defined]
            return list(s.exec(query.order_by(RunRecord.id.desc())))  # type: ignore[union-attr]

    def shown_runs(self, study_id: int) -> list[RunRecord]:
        """Runs of a study but what-ifs, the newest first."""
        return [run for run in self.runs(study_id) if run.asked_of is None]

    def update_run(self, run_id: int, **changes: object) -> RunRecord:
        """Change fields of a run."""
        return self._update(RunRecord, run_id, "run", changes)

    def _update(self, table: "type[Table]", key: int, what: str, changes: dict[str, object]) -> "Table":
        with self.writing() as s:
            record = _get(s, table, key, what)
            for name, value in changes.items():
                setattr(record, name, value)
            s.add(record)
            s.commit()
            return record


def _runs_of(study_id: int):  # type: ignore[no-untyped-def]
    return select(RunRecord).where(RunRecord.study_id == study_id)


def _series_of(study_id: int):  # type: ignore[no-untyped-def]
    return select(SeriesRecord).where(SeriesRecord.study_id == study_id)


def _conflict(stands: int, base: int) -> ConflictError:
    return ConflictError(
        f"the study is at revision {stands}, the edit was made at {base}.", where="base_revision",
        hint="Reload the study and make the edit again.",
    )  # fmt: skip


Table = TypeVar("Table", StudyRecord, RunRecord, SeriesRecord)


def _get(s: Session, table: type[Table], key: int, what: str) -> Table:
    found = s.get(table, key)
    if found is None:
        raise UnknownNameError(f"there is no {what} {key}.", where=what, hint="It may have been deleted.")
    return found


def _use_wal(connection, _record) -> None:  # type: ignore[no-untyped-def]
    # Transactions begin and end where SQLAlchemy says so, those that change tables too.
    connection.isolation_level = None
    connection.execute("PRAGMA journal_mode=WAL")
    connection.execute("PRAGMA foreign_keys=ON")


def _begin(connection: Connection) -> None:
    connection.exec_driver_sql("BEGIN IMMEDIATE" if connection.get_execution_options().get("immediate") else "BEGIN")
