"""Motifs: outlines that makers kept."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "motif",
        sa.Column("id", sa.String(22), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("path", mysql.MEDIUMTEXT(), nullable=False),
        sa.Column("width", mysql.DOUBLE(), nullable=False),
        sa.Column("height", mysql.DOUBLE(), nullable=False),
        sa.Column("created", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_motif"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )


def downgrade() -> None:
    op.drop_table("motif")
