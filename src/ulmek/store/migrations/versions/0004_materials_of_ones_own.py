"""Materials are kept across studies."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Add their table."""
    op.create_table(
        "materialrecord",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False, index=True, unique=True),
        sa.Column("content", sa.Text, nullable=False),
        sqlite_autoincrement=True,
    )
