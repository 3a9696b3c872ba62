"""People: accounts, sign-ins, invitations, what was shared with whom, and the record of what was done."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

OPTIONS = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_unicode_ci"}
MOMENT = mysql.DATETIME(fsp=6)


def upgrade() -> None:
    op.create_table(
        "account",
        sa.Column("id", sa.String(22), nullable=False),
        sa.Column("name", sa.String(40), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("role", sa.String(10), nullable=False),
        sa.Column("password", sa.String(200), nullable=False),
        sa.Column("secret", sa.String(64), nullable=True),
        sa.Column("counter", sa.BigInteger(), nullable=True),
        sa.Column("spare_codes", sa.JSON(), nullable=False),
        sa.Column("closed", sa.Boolean(), nullable=False, server_default=sa.false()),
        sa.Column("created", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_account"),
        sa.UniqueConstraint("name", name="uq_account_name"),
        **OPTIONS,
    )
    op.create_table(
        "sign_in",
        sa.Column("token", sa.String(64), nullable=False),
        sa.Column("account_id", sa.String(22), nullable=False),
        sa.Column("begun", MOMENT, nullable=False),
        sa.Column("seen", MOMENT, nullable=False),
        sa.Column("agent", sa.String(200), nullable=False),
        sa.Column("address", sa.String(60), nullable=False),
        sa.PrimaryKeyConstraint("token", name="pk_sign_in"),
        sa.ForeignKeyConstraint(["account_id"], ["account.id"], ondelete="CASCADE", name="fk_sign_in_account_id_account"),
        **OPTIONS,
    )
    op.create_index("ix_sign_in_account_id", "sign_in", ["account_id"])
    op.create_table(
        "invitation",
        sa.Column("token", sa.String(64), nullable=False),
        sa.Column("role", sa.String(10), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("by_account", sa.String(22), nullable=False),
        sa.Column("ends", MOMENT, nullable=False),
        sa.PrimaryKeyConstraint("token", name="pk_invitation"),
        **OPTIONS,
    )
    op.create_table(
        "share",
        sa.Column("piece_id", sa.String(22), nullable=False),
        sa.Column("account_id", sa.String(22), nullable=False),
        sa.Column("right_", sa.String(10), nullable=False),
        sa.PrimaryKeyConstraint("piece_id", "account_id", name="pk_share"),
        sa.ForeignKeyConstraint(["piece_id"], ["piece.id"], ondelete="CASCADE", name="fk_share_piece_id_piece"),
        sa.ForeignKeyConstraint(["account_id"], ["account.id"], ondelete="CASCADE", name="fk_share_account_id_account"),
        **OPTIONS,
    )
    op.create_table(
        "happening",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("account_id", sa.String(22), nullable=True),
        sa.Column("what", sa.String(60), nullable=False),
        sa.Column("about", sa.String(300), nullable=False),
        sa.Column("address", sa.String(60), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_happening"),
        **OPTIONS,
    )
    op.add_column("piece", sa.Column("owner", sa.String(22), nullable=True))
    op.add_column("piece", sa.Column("openness", sa.String(10), nullable=False, server_default="private"))
    op.add_column("bed_plan", sa.Column("owner", sa.String(22), nullable=True))
    op.add_column("revision", sa.Column("by_account", sa.String(22), nullable=True))


def downgrade() -> None:
    op.drop_column("revision", "by_account")
    op.drop_column("bed_plan", "owner")
    op.drop_column("piece", "openness")
    op.drop_column("piece", "owner")
    for table in ("happening", "share", "invitation", "sign_in", "account"):
        op.drop_table(table)
