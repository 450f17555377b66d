"""Runs that settle a study say within what."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Add it: none of the runs before settled anything."""
    op.add_column("runrecord", sa.Column("settling", sa.String, nullable=False, server_default=""))
