"""Solids of files go to the shelf of geometry; documents, edits and runs name them."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import context, op

revision = "0003"
down_revision = "0002"

_COLUMNS = (
    ("studyrecord", "document"),
    ("runrecord", "document"),
    ("editrecord", "forward"),
    ("editrecord", "inverse"),
)


def upgrade() -> None:
    """Put a reference in the place of every content; texts that cannot be read stay as they are."""
    shelf, connection = context.config.attributes["shelf"], op.get_bind()
    for table, column in _COLUMNS:
        rows = sa.table(table, sa.column("id", sa.Integer), sa.column(column, sa.Text))
        value = rows.c[column]
        for number, text in connection.execute(sa.select(rows.c.id, value).where(value.contains('"content"'))).all():
            absorbed = _absorbed(shelf, text)
            connection.execute(rows.update().where(rows.c.id == number).values({column: absorbed}))


def _absorbed(shelf: Any, text: str) -> str:
    try:
        return json.dumps(shelf.absorbed(json.loads(text)))
    except ValueError:
        return text
