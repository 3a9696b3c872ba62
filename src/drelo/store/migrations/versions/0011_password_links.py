"""Links by which somebody sets a new password."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("invitation", sa.Column("account_id", sa.String(22), nullable=True))


def downgrade() -> None:
    op.drop_column("invitation", "account_id")
