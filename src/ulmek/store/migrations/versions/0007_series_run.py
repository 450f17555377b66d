"""Series run, and runs say of which variant they are, or whose what-if."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Add both: nothing was varied before."""
    op.add_column("runrecord", sa.Column("variant", sa.String, nullable=False, server_default=""))
    op.add_column("runrecord", sa.Column("asked_of", sa.Integer, nullable=True))
    op.create_table(
        "seriesrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("study_id", sa.Integer, sa.ForeignKey("studyrecord.id"), nullable=False, index=True),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("series", sa.String, nullable=False),
        sa.Column("status", sa.String, nullable=False, index=True),
        sa.Column("folder", sa.String, nullable=False),
        sa.Column("message", sa.String, nullable=False, server_default=""),
        sa.Column("document", sa.Text, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("ended", sa.DateTime, nullable=True),
        sqlite_autoincrement=True,
    )
