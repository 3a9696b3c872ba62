"""Who has which piece open, for all web processes."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "presence",
        sa.Column("piece_id", sa.String(22), primary_key=True),
        sa.Column("account_id", sa.String(22), primary_key=True),
        sa.Column("seen", DATETIME(fsp=6), nullable=False),
        mysql_engine="MEMORY",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )


def downgrade() -> None:
    op.drop_table("presence")
