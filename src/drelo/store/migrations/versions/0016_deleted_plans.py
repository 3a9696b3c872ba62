"""When a bed plan was deleted, so that it can be brought back."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("bed_plan", sa.Column("deleted", DATETIME(fsp=6), nullable=True))


def downgrade() -> None:
    op.drop_column("bed_plan", "deleted")
