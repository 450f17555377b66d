"""The database: SQLite in write-ahead mode, in the data folder."""

from pathlib import Path
from typing import TypeVar

from sqlalchemy import Engine, event, inspect, text
from sqlmodel import Session, SQLModel, create_engine, select

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.store import records
from ulmek.store.records import EditRecord, RunRecord, StudyRecord
from ulmek.study.edits import Patch, apply_edit
from ulmek.study.schema import StudyDocument, read_study

ACTIVE = ("queued", "running")


class ConflictError(InputError):
    """The study has moved on since the edit was begun."""

    code = "conflict"


class Store:
    """Studies, edits and runs in one data folder."""

    def __init__(self, home: Path) -> None:
        self.home = home
        home.mkdir(parents=True, exist_ok=True)
        self.engine: Engine = create_engine(f"sqlite:///{home / 'ulmek.db'}", connect_args={"timeout": 30})
        event.listen(self.engine, "connect", _use_wal)
        SQLModel.metadata.create_all(self.engine)
        _add_missing_columns(self.engine)

    def session(self) -> Session:
        """A session whose objects stay readable after it closes."""
        return Session(self.engine, expire_on_commit=False)

    def run_folder(self, run_id: int) -> Path:
        """Where a run keeps its study, events and result."""
        return self.home / "runs" / str(run_id)

    def add_study(self, study: StudyDocument, *, demo: str | None = None) -> StudyRecord:
        """Keep a new study."""
        with self.session() as s:
            record = StudyRecord(title=study.title, document=study.model_dump(mode="json"), demo=demo)
            s.add(record)
            s.commit()
            return record

    def studies(self) -> list[StudyRecord]:
        """All studies, the latest touched first."""
        with self.session() as s:
            return list(s.exec(select(StudyRecord).order_by(StudyRecord.updated.desc())))  # type: ignore[attr-defined]

    def study(self, study_id: int) -> StudyRecord:
        """One study; UnknownNameError when there is none."""
        with self.session() as s:
            return _get(s, StudyRecord, study_id, "study")

    def delete_study(self, study_id: int) -> None:
        """Forget a study with its edits and runs (result folders stay until cleaned by hand)."""
        with self.session() as s:
            record = _get(s, StudyRecord, study_id, "study")
            for table in (EditRecord, RunRecord):
                for row in s.exec(select(table).where(table.study_id == study_id)):
                    s.delete(row)
            s.delete(record)
            s.commit()

    def edit(self, study_id: int, patch: Patch, *, label: str, base_revision: int) -> StudyRecord:
        """Apply an edit made against ``base_revision``.

        Raises
        ------
        ConflictError : the study is at another revision. InputError : see `apply_edit`.
        """
        with self.session() as s:
            record = _get(s, StudyRecord, study_id, "study")
            if record.revision != base_revision:
                raise ConflictError(
                    f"the study is at revision {record.revision}, the edit was made at {base_revision}.",
                    where="base_revision",
                    hint="Reload the study and make the edit again.",
                )
            edited, inverse = apply_edit(read_study(record.document), patch)
            for gone in s.exec(select(EditRecord).where(EditRecord.study_id == study_id, EditRecord.undone)):
                s.delete(gone)
            s.add(EditRecord(study_id=study_id, label=label, forward=patch, inverse=inverse))
            return _commit(s, record, edited)

    def undo(self, study_id: int) -> StudyRecord:
        """Take the latest edit back; InputError when there is none."""
        return self._step_back_or_forth(study_id, undo=True)

    def redo(self, study_id: int) -> StudyRecord:
        """Make the latest undone edit again; InputError when there is none."""
        return self._step_back_or_forth(study_id, undo=False)

    def _step_back_or_forth(self, study_id: int, *, undo: bool) -> StudyRecord:
        with self.session() as s:
            record = _get(s, StudyRecord, study_id, "study")
            query = select(EditRecord).where(EditRecord.study_id == study_id, EditRecord.undone == (not undo))
            order = EditRecord.id.desc() if undo else EditRecord.id.asc()  # type: ignore[union-attr]
            step = s.exec(query.order_by(order)).first()
            if step is None:
                raise InputError(f"there is nothing to {'undo' if undo else 'redo'}.", where="edits")
            edited, _ = apply_edit(read_study(record.document), step.inverse if undo else step.forward)
            step.undone = undo
            s.add(step)
            return _commit(s, record, edited)

    def edit_labels(self, study_id: int) -> tuple[str | None, str | None]:
        """Labels of what undo and redo would do, None when nothing."""
        with self.session() as s:
            mine = select(EditRecord).where(EditRecord.study_id == study_id)
            done = s.exec(mine.where(EditRecord.undone == False).order_by(EditRecord.id.desc())).first()  # type: ignore[union-attr]  # noqa: E712
            undone = s.exec(mine.where(EditRecord.undone).order_by(EditRecord.id.asc())).first()  # type: ignore[union-attr]
            return (done.label if done else None, undone.label if undone else None)

    def add_run(self, study_id: int, *, resumed_from: int | None = None) -> RunRecord:
        """Queue a run of the study as it stands."""
        with self.session() as s:
            study = _get(s, StudyRecord, study_id, "study")
            run = RunRecord(
                study_id=study_id, revision=study.revision, document=study.document, resumed_from=resumed_from
            )
            s.add(run)
            s.commit()
            return run

    def run(self, run_id: int) -> RunRecord:
        """One run; UnknownNameError when there is none."""
        with self.session() as s:
            return _get(s, RunRecord, run_id, "run")

    def runs(self, study_id: int | None = None, *, status: tuple[str, ...] | None = None) -> list[RunRecord]:
        """Runs, the newest first."""
        with self.session() as s:
            query = select(RunRecord).order_by(RunRecord.id.desc())  # type: ignore[union-attr]
            if study_id is not None:
                query = query.where(RunRecord.study_id == study_id)
            if status is not None:
                query = query.where(RunRecord.status.in_(status))  # type: ignore[attr-defined]
            return list(s.exec(query))

    def update_run(self, run_id: int, **changes: object) -> RunRecord:
        """Change fields of a run."""
        with self.session() as s:
            run = _get(s, RunRecord, run_id, "run")
            for name, value in changes.items():
                setattr(run, name, value)
            s.add(run)
            s.commit()
            return run


def _commit(s: Session, record: StudyRecord, study: StudyDocument) -> StudyRecord:
    record.document = study.model_dump(mode="json")
    record.title = study.title
    record.revision += 1
    record.updated = records.now()
    s.add(record)
    s.commit()
    return record


Table = TypeVar("Table", StudyRecord, RunRecord)


def _get(s: Session, table: type[Table], key: int, what: str) -> Table:
    found = s.get(table, key)
    if found is None:
        raise UnknownNameError(f"there is no {what} {key}.", where=what, hint="It may have been deleted.")
    return found


def _add_missing_columns(engine: Engine) -> None:
    """Data folders of earlier versions lack the columns that came later; all of those may be empty."""
    known = {column["name"] for column in inspect(engine).get_columns("runrecord")}
    if "resumed_from" not in known:
        with engine.begin() as connection:
            connection.execute(text("ALTER TABLE runrecord ADD COLUMN resumed_from INTEGER"))


def _use_wal(connection, _record) -> None:  # type: ignore[no-untyped-def]
    connection.execute("PRAGMA journal_mode=WAL")
    connection.execute("PRAGMA foreign_keys=ON")
