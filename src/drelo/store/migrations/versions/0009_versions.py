"""What each revision changed, in words, and the names of some."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revision", sa.Column("name", sa.String(120), nullable=True))
    op.add_column("revision", sa.Column("told", sa.JSON(), nullable=True))
    op.add_column("revision", sa.Column("more", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    for column in ("more", "told", "name"):
        op.drop_column("revision", column)
