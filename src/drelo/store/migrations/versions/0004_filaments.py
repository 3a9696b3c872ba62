"""Filaments: a shelf of the workshop's own, with those that the program begins with."""

from datetime import UTC, datetime, timedelta

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

FIRST = (
    ("night", "Night", "#2e3a4d"),
    ("cream", "Cream", "#efe3c8"),
    ("moss", "Moss", "#b9c24a"),
    ("leaf", "Leaf", "#3f6b3a"),
    ("clay", "Clay", "#c26a4a"),
)


def upgrade() -> None:
    table = op.create_table(
        "filament",
        sa.Column("id", sa.String(40), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("colour", sa.String(7), nullable=False),
        sa.Column("material", sa.String(40), nullable=False),
        sa.Column("created", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_filament"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )
    now = datetime.now(UTC).replace(tzinfo=None)
    rows = [
        {"id": i, "name": n, "colour": c, "material": "PLA", "created": now + timedelta(microseconds=number)}
        for number, (i, n, c) in enumerate(FIRST)
    ]
    op.bulk_insert(table, rows)


def downgrade() -> None:
    op.drop_table("filament")
