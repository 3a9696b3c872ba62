"""Links by which anybody may look at a piece."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("piece", sa.Column("link", sa.String(64), nullable=True))
    op.create_unique_constraint("uq_piece_link", "piece", ["link"])


def downgrade() -> None:
    op.drop_constraint("uq_piece_link", "piece", type_="unique")
    op.drop_column("piece", "link")
