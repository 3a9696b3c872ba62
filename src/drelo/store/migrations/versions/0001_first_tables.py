"""First tables: piece, revision, asset, derived."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

OPTIONS = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_unicode_ci"}


def upgrade() -> None:
    op.create_table(
        "piece",
        sa.Column("id", sa.String(22), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("current", sa.Integer(), nullable=True),
        sa.Column("tip", sa.Integer(), nullable=True),
        sa.Column("demo", sa.String(60), nullable=True),
        sa.Column("created", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("updated", mysql.DATETIME(fsp=6), nullable=False),
        sa.Column("deleted", mysql.DATETIME(fsp=6), nullable=True),
        sa.PrimaryKeyConstraint("id", name="pk_piece"),
        sa.UniqueConstraint("demo", name="uq_piece_demo"),
        **OPTIONS,
    )
    op.create_table(
        "revision",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("piece_id", sa.String(22), nullable=False),
        sa.Column("parent", sa.Integer(), nullable=True),
        sa.Column("edit", sa.JSON(), nullable=True),
        sa.Column("document", sa.JSON(), nullable=False),
        sa.Column("created", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("id", name="pk_revision"),
        sa.ForeignKeyConstraint(["piece_id"], ["piece.id"], name="fk_revision_piece_id_piece", ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["parent"], ["revision.id"], name="fk_revision_parent_revision"),
        **OPTIONS,
    )
    op.create_index("ix_revision_piece_id", "revision", ["piece_id"])
    op.create_foreign_key("fk_piece_current_revision", "piece", "revision", ["current"], ["id"])
    op.create_foreign_key("fk_piece_tip_revision", "piece", "revision", ["tip"], ["id"])
    op.create_table(
        "asset",
        sa.Column("sha256", sa.String(64), nullable=False),
        sa.Column("media_type", sa.String(60), nullable=False),
        sa.Column("data", mysql.LONGBLOB(), nullable=False),
        sa.Column("created", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("sha256", name="pk_asset"),
        **OPTIONS,
    )
    op.create_table(
        "derived",
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("media_type", sa.String(60), nullable=False),
        sa.Column("data", mysql.LONGBLOB(), nullable=False),
        sa.Column("created", mysql.DATETIME(fsp=6), nullable=False),
        sa.PrimaryKeyConstraint("key", name="pk_derived"),
        **OPTIONS,
    )


def downgrade() -> None:
    op.drop_constraint("fk_piece_tip_revision", "piece", type_="foreignkey")
    op.drop_constraint("fk_piece_current_revision", "piece", type_="foreignkey")
    for table in ("derived", "asset", "revision", "piece"):
        op.drop_table(table)
