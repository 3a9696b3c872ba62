"""How much each person uses, and may use."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("account", sa.Column("limits", sa.JSON, nullable=True))
    op.add_column("asset", sa.Column("owner", sa.String(22), nullable=True))
    op.create_table(
        "spent",
        sa.Column("account_id", sa.String(22), sa.ForeignKey("account.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("day", sa.Date, primary_key=True),
        sa.Column("seconds", sa.Double, nullable=False),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )


def downgrade() -> None:
    op.drop_table("spent")
    op.drop_column("asset", "owner")
    op.drop_column("account", "limits")
