"""Bed plans."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "bed_plan",
        sa.Column("id", sa.String(22), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("told", sa.JSON(), nullable=False),
        sa.Column("updated", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_bed_plan"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )


def downgrade() -> None:
    op.drop_table("bed_plan")
