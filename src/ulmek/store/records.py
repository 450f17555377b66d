"""Tables: studies, their edits, and runs."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, Column
from sqlmodel import Field, SQLModel


def now() -> datetime:
    """The time now, in UTC."""
    return datetime.now(UTC)


class StudyRecord(SQLModel, table=True):
    """A study as it stands: the document at its latest revision."""

    id: int | None = Field(default=None, primary_key=True)
    title: str
    revision: int = 1
    document: dict[str, Any] = Field(sa_column=Column(JSON))
    demo: str | None = Field(default=None, index=True)
    created: datetime = Field(default_factory=now)
    updated: datetime = Field(default_factory=now)


class EditRecord(SQLModel, table=True):
    """One edit with its way back. ``undone`` edits can be redone until a new edit is made."""

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="studyrecord.id", index=True)
    label: str
    forward: list[dict[str, Any]] = Field(sa_column=Column(JSON))
    inverse: list[dict[str, Any]] = Field(sa_column=Column(JSON))
    undone: bool = False
    made: datetime = Field(default_factory=now)


class RunRecord(SQLModel, table=True):
    """One solution of one revision of a study."""

    id: int | None = Field(default=None, primary_key=True)
    study_id: int = Field(foreign_key="studyrecord.id", index=True)
    revision: int
    status: str = Field(default="queued", index=True)
    pid: int | None = None
    resumed_from: int | None = None
    message: str = ""
    where: str = ""
    hint: str = ""
    document: dict[str, Any] = Field(sa_column=Column(JSON))
    created: datetime = Field(default_factory=now)
    started: datetime | None = None
    ended: datetime | None = None
