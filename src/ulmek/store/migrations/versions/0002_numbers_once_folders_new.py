"""Numbers of rows are given once, runs name their folders, and documents are text.

Tables are made anew beside the old ones and filled from them: SQLite cannot make a column count without reuse
afterwards. The folders of runs that are there keep their names.
"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"

_STUDIES = "id, title, revision, document, demo, created, updated"
_EDITS = "id, study_id, label, forward, inverse, undone, made"
_RUNS = 'id, study_id, revision, status, pid, resumed_from, message, "where", hint, document, created, started, ended'


def upgrade() -> None:
    """Copy the three tables into their new shapes."""
    columns = {column["name"] for column in sa.inspect(op.get_bind()).get_columns("runrecord")}
    if "resumed_from" not in columns:
        # Data folders of 0.3.0 and before, never opened since.
        op.add_column("runrecord", sa.Column("resumed_from", sa.Integer))
    for table in ("editrecord", "runrecord", "studyrecord"):
        for index in sa.inspect(op.get_bind()).get_indexes(table):
            op.drop_index(str(index["name"]), table)
        op.rename_table(table, f"{table}_before")
    _make()
    op.execute(f"INSERT INTO studyrecord ({_STUDIES}) SELECT {_STUDIES} FROM studyrecord_before")
    op.execute(f"INSERT INTO editrecord ({_EDITS}) SELECT {_EDITS} FROM editrecord_before")
    op.execute(f"INSERT INTO runrecord ({_RUNS}, folder) SELECT {_RUNS}, CAST(id AS TEXT) FROM runrecord_before")
    for table in ("editrecord", "runrecord", "studyrecord"):
        op.drop_table(f"{table}_before")


def _make() -> None:
    op.create_table(
        "studyrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("demo", sa.String, index=True),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("updated", sa.DateTime, nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "editrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("studyrecord.id"), nullable=False, index=True),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("forward", sa.JSON, nullable=False),
        sa.Column("inverse", sa.JSON, nullable=False),
        sa.Column("undone", sa.Boolean, nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_table(
        "runrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("studyrecord.id"), nullable=False, index=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("status", sa.String, nullable=False, index=True),
        sa.Column("folder", sa.String, nullable=False),
        sa.Column("pid", sa.Integer),
        sa.Column("resumed_from", sa.Integer),
        sa.Column("message", sa.String, nullable=False),
        sa.Column("where", sa.String, nullable=False),
        sa.Column("hint", sa.String, nullable=False),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("started", sa.DateTime),
        sa.Column("ended", sa.DateTime),
        sqlite_autoincrement=True,
    )
