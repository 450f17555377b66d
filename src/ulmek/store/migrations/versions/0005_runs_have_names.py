"""Runs have names and notes."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Add them, empty."""
    for name in ("name", "note"):
        op.add_column("runrecord", sa.Column(name, sa.String, nullable=False, server_default=""))
