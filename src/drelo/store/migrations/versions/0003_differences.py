"""Revisions as differences, and pieces that are listed without reading their documents."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revision", sa.Column("change", sa.JSON(), nullable=True))
    op.add_column("revision", sa.Column("steps", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("revision", sa.Column("former", sa.JSON(), nullable=True))
    op.alter_column("revision", "document", existing_type=sa.JSON(), nullable=True)
    op.add_column("piece", sa.Column("empty", sa.Boolean(), nullable=False, server_default="0"))
    op.execute(
        "UPDATE piece JOIN revision ON revision.id = piece.current SET piece.empty = 1 "
        "WHERE COALESCE(JSON_TYPE(JSON_EXTRACT(revision.document, '$.source')), 'NULL') = 'NULL' "
        "AND COALESCE(JSON_LENGTH(revision.document, '$.drawn'), 0) = 0"
    )


def downgrade() -> None:
    op.drop_column("piece", "empty")
    op.drop_column("revision", "former")
    op.drop_column("revision", "steps")
    op.drop_column("revision", "change")
