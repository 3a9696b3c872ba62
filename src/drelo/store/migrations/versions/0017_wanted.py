"""How many derived bytes there are, and until when they are wanted, however much is kept."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("derived", sa.Column("size", sa.Integer, nullable=False, server_default="0"))
    op.add_column("derived", sa.Column("wanted", DATETIME(fsp=6), nullable=True))
    op.execute("UPDATE derived SET size = LENGTH(data)")


def downgrade() -> None:
    op.drop_column("derived", "wanted")
    op.drop_column("derived", "size")
