"""Tables: studies, their edits and runs, and materials of one's own. `store/migrations` has changes of their shape.

Documents are kept as text, so that one that cannot be read spoils its own row only. Numbers of rows are never
given twice: what the page or a folder remembers of a deleted study can never be taken for a new one's.
"""

import secrets
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, Column, Text
from sqlmodel import Field, SQLModel


def now() -> datetime:
    """The time now, in UTC."""
    return datetime.now(UTC)


def new_folder_name() -> str:
    """A name that no run's folder has ever had."""
    return secrets.token_hex(8)


class StudyRecord(SQLModel, table=True):
    """A study as it stands: the text of its document at its latest revision (see `store.texts`)."""

    __table_args__ = {"sqlite_autoincrement": True}
    id: int | None = Field(default=None, primary_key=True)
    title: str
    revision: int = 1
    document: str = Field(sa_column=Column(Text, nullable=False))
    demo: str | None = Field(default=None, index=True)
    created: datetime = Field(default_factory=now)
    updated: datetime = Field(default_factory=now)


class EditRecord(SQLModel, table=True):
    """One edit with its way back. ``undone`` edits can be redone until a new edit is made."""

    __table_args__ = {"sqlite_autoincrement": True}
    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="studyrecord.id", index=True)
    label: str
    forward: list[dict[str, Any]] = Field(sa_column=Column(JSON, nullable=False))
    inverse: list[dict[str, Any]] = Field(sa_column=Column(JSON, nullable=False))
    undone: bool = False
    made: datetime = Field(default_factory=now)


class RunRecord(SQLModel, table=True):
    """One solution of one revision of a study. ``folder``: of its events and results, within the folder of runs.

    ``name`` and ``note``: what people call it and say of it. ``settling``: of a run that settles the study, within what
    and up to what (JSON, see `runs.settle.Wanted`). ``variant``: the name of the variant of the study that it solves.
    ``asked_of``: the run of which this is a what-if.
    """

    __table_args__ = {"sqlite_autoincrement": True}
    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="studyrecord.id", index=True)
    revision: int
    status: str = Field(default="queued", index=True)
    folder: str = Field(default_factory=new_folder_name)
    pid: int | None = None
    resumed_from: int | None = None
    message: str = ""
    where: str = ""
    hint: str = ""
    name: str = Field(default="", sa_column_kwargs={"server_default": ""})
    note: str = Field(default="", sa_column_kwargs={"server_default": ""})
    settling: str = Field(default="", sa_column_kwargs={"server_default": ""})
    variant: str = Field(default="", sa_column_kwargs={"server_default": ""})
    asked_of: int | None = None
    document: str = Field(sa_column=Column(Text, nullable=False))
    created: datetime = Field(default_factory=now)
    started: datetime | None = None
    ended: datetime | None = None


class SeriesRecord(SQLModel, table=True):
    """One running of a series of a study as it stood: ``series`` is its id there. ``folder``: of its samples, within
    the folder of series."""

    __table_args__ = {"sqlite_autoincrement": True}
    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="studyrecord.id", index=True)
    revision: int
    series: str
    status: str = Field(default="running", index=True)
    folder: str = Field(default_factory=new_folder_name)
    message: str = Field(default="", sa_column_kwargs={"server_default": ""})
    document: str = Field(sa_column=Column(Text, nullable=False))
    created: datetime = Field(default_factory=now)
    ended: datetime | None = None


class MaterialRecord(SQLModel, table=True):
    """A material that is kept across studies, by its name."""

    __table_args__ = {"sqlite_autoincrement": True}
    id: int | None = Field(default=None, primary_key=True)
    name: str = Field(index=True, unique=True)
    content: str = Field(sa_column=Column(Text, nullable=False))
