"""Printers, and what a rehearsal needs to know of filaments."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

FIRST = (
    {"id": "plain", "name": "Bench printer"},
    {
        "id": "tall-round",
        "name": "Round bed with changer",
        "bed": "round",
        "width": 260.0,
        "depth": 260.0,
        "height": 300.0,
        "acceleration": 6000.0,
        "corner_speed": 15.0,
        "flow": 20.0,
        "speeds": {
            "outer_wall": 120.0,
            "inner_wall": 180.0,
            "skin": 180.0,
            "infill": 220.0,
            "first_layer": 50.0,
            "travel": 300.0,
        },
        "change": {"how": "changer"},
    },
)


def upgrade() -> None:
    for name, value in (("density", "1.24"), ("diameter", "1.75"), ("price", "22")):
        op.add_column("filament", sa.Column(name, sa.Double(), nullable=False, server_default=value))
    op.add_column("filament", sa.Column("weighed", sa.Double(), nullable=True))
    table = op.create_table(
        "printer",
        sa.Column("id", sa.String(40), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("told", sa.JSON(), nullable=False),
        sa.Column("created", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_printer"),
        mysql_engine="InnoDB",
        mysql_charset="utf8mb4",
        mysql_collate="utf8mb4_unicode_ci",
    )
    now = datetime.now(UTC).replace(tzinfo=None)
    op.bulk_insert(
        table,
        [
            {"id": p["id"], "name": p["name"], "told": p, "created": now + timedelta(microseconds=number)}
            for number, p in enumerate(FIRST)
        ],
    )


def downgrade() -> None:
    op.drop_table("printer")
    for name in ("density", "diameter", "price", "weighed"):
        op.drop_column("filament", name)
