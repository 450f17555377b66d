"""Studies, edits and runs as 0.6.0 made them."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Make the tables of 0.6.0."""
    op.create_table(
        "studyrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("document", sa.JSON),
        sa.Column("demo", sa.String, index=True),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("updated", sa.DateTime, nullable=False),
    )
    op.create_table(
        "editrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("studyrecord.id"), nullable=False, index=True),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("forward", sa.JSON),
        sa.Column("inverse", sa.JSON),
        sa.Column("undone", sa.Boolean, nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
    )
    op.create_table(
        "runrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("studyrecord.id"), nullable=False, index=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("status", sa.String, nullable=False, index=True),
        sa.Column("pid", sa.Integer),
        sa.Column("resumed_from", sa.Integer),
        sa.Column("message", sa.String, nullable=False),
        sa.Column("where", sa.String, nullable=False),
        sa.Column("hint", sa.String, nullable=False),
        sa.Column("document", sa.JSON),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("started", sa.DateTime),
        sa.Column("ended", sa.DateTime),
    )
