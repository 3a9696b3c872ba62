"""Keys of requests, so that a change that is sent again is not made twice."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revision", sa.Column("request", sa.String(64)))
    op.add_column("piece", sa.Column("moved", sa.String(64)))


def downgrade() -> None:
    op.drop_column("piece", "moved")
    op.drop_column("revision", "request")
