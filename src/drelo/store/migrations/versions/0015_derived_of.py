"""What derived bytes were made of, so that they follow its rights."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "derived_of",
        sa.Column("key", sa.String(64), sa.ForeignKey("derived.key", ondelete="CASCADE"), primary_key=True),
        sa.Column("of_", sa.String(22), primary_key=True),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )


def downgrade() -> None:
    op.drop_table("derived_of")
