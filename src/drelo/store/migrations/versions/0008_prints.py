"""What was printed."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "print",
        sa.Column("id", sa.String(22), nullable=False),
        sa.Column("piece_id", sa.String(22), nullable=True),
        sa.Column("plan_id", sa.String(22), nullable=True),
        sa.Column("title", sa.String(160), nullable=False),
        sa.Column("rehearsal", sa.String(64), nullable=False),
        sa.Column("state", sa.String(20), nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("layer", sa.Integer(), nullable=False),
        sa.Column("layers", sa.Integer(), nullable=False),
        sa.Column("seconds", sa.Double(), nullable=False),
        sa.Column("grams", sa.JSON(), nullable=False),
        sa.Column("begun", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("ended", mysql.DATETIME(fsp=6), nullable=True),
        sa.ForeignKeyConstraint(["piece_id"], ["piece.id"], ondelete="CASCADE", name="fk_print_piece_id_piece"),
        sa.PrimaryKeyConstraint("id", name="pk_print"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )
    op.create_index("ix_print_piece_id", "print", ["piece_id"])


def downgrade() -> None:
    op.drop_table("print")
