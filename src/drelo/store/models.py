"""Tables. Times are UTC; large bytes stand in tables of their own."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, Double, ForeignKey, Index, LargeBinary, MetaData, String, Text
from sqlalchemy.dialects.mysql import DATETIME, LONGBLOB, MEDIUMTEXT
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

_OPTIONS = {"mysql_engine": "InnoDB", "mysql_charset": "utf8mb4", "mysql_collate": "utf8mb4_unicode_ci"}
_Moment = DATETIME(fsp=6)
_Text = Text().with_variant(MEDIUMTEXT(), "mysql", "mariadb")
_Blob = LargeBinary().with_variant(LONGBLOB(), "mysql", "mariadb")


def now() -> datetime:
    """The present moment in UTC, without a zone, as MariaDB keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


class Piece(Base):
    """One thing being made.

    current: the revision that is shown; tip: the newest one that redo can reach.
    demo: which demo piece it was seeded as; such a one is never seeded again, kept or deleted.
    empty: whether there is nothing on its sheet, so that the list needs no document.
    moved: the key of the request that last moved `current` along the revisions.
    """

    __tablename__ = "piece"
    __table_args__ = _OPTIONS

    id: Mapped[str] = mapped_column(String(22), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    current: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True))
    tip: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True))
    demo: Mapped[str | None] = mapped_column(String(60), unique=True)
    empty: Mapped[bool] = mapped_column(default=False)
    moved: Mapped[str | None] = mapped_column(String(64))
    created: Mapped[datetime] = mapped_column(_Moment, default=now)
    updated: Mapped[datetime] = mapped_column(_Moment, default=now)
    deleted: Mapped[datetime | None] = mapped_column(_Moment)


class Revision(Base):
    """One state of a piece; only ever added. `edit` led from `parent` to it.

    document: the whole of it, now and then; change: else what changed of the parent's, and steps: how many changes
    after a whole one it is. former: the document as an earlier version had stored it, once it was brought up.
    request: the key of the request that made it, so that one that is sent again is not made twice.
    """

    __tablename__ = "revision"
    __table_args__ = (Index("ix_revision_piece_id", "piece_id"), _OPTIONS)

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    piece_id: Mapped[str] = mapped_column(ForeignKey("piece.id", ondelete="CASCADE"))
    parent: Mapped[int | None] = mapped_column(ForeignKey("revision.id"))
    edit: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    document: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    change: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    steps: Mapped[int] = mapped_column(default=0)
    former: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    request: Mapped[str | None] = mapped_column(String(64))
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class Asset(Base):
    """Bytes that a maker brought, stored once by their SHA-256."""

    __tablename__ = "asset"
    __table_args__ = _OPTIONS

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    media_type: Mapped[str] = mapped_column(String(60))
    data: Mapped[bytes] = mapped_column(_Blob)
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class Derived(Base):
    """Bytes that can be computed again; may be emptied at any time."""

    __tablename__ = "derived"
    __table_args__ = _OPTIONS

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    media_type: Mapped[str] = mapped_column(String(60))
    data: Mapped[bytes] = mapped_column(_Blob)
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class ShelfFilament(Base):
    """A filament of the workshop's own; pieces carry copies of those that they use. weighed: g left on the spool."""

    __tablename__ = "filament"
    __table_args__ = _OPTIONS

    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    colour: Mapped[str] = mapped_column(String(7))
    material: Mapped[str] = mapped_column(String(40))
    density: Mapped[float] = mapped_column(Double, default=1.24, server_default="1.24")
    diameter: Mapped[float] = mapped_column(Double, default=1.75, server_default="1.75")
    price: Mapped[float] = mapped_column(Double, default=22.0, server_default="22")
    weighed: Mapped[float | None] = mapped_column(Double)
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class ShelfPrinter(Base):
    """A printer of the workshop; told: all its numbers."""

    __tablename__ = "printer"
    __table_args__ = _OPTIONS

    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    told: Mapped[dict[str, Any]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class ShelfPlan(Base):
    """A bed plan; told: all of it. version: counts its changes."""

    __tablename__ = "bed_plan"
    __table_args__ = _OPTIONS

    id: Mapped[str] = mapped_column(String(22), primary_key=True)
    version: Mapped[int] = mapped_column(default=1)
    told: Mapped[dict[str, Any]] = mapped_column(JSON)
    updated: Mapped[datetime] = mapped_column(_Moment, default=now)


class Print(Base):
    """Something that was printed, or is. grams: by the filament's name."""

    __tablename__ = "print"
    __table_args__ = (Index("ix_print_piece_id", "piece_id"), _OPTIONS)

    id: Mapped[str] = mapped_column(String(22), primary_key=True)
    piece_id: Mapped[str | None] = mapped_column(ForeignKey("piece.id", ondelete="CASCADE"))
    plan_id: Mapped[str | None] = mapped_column(String(22))
    title: Mapped[str] = mapped_column(String(160))
    rehearsal: Mapped[str] = mapped_column(String(64))
    state: Mapped[str] = mapped_column(String(20))
    words: Mapped[str] = mapped_column(String(400))
    layer: Mapped[int]
    layers: Mapped[int]
    seconds: Mapped[float] = mapped_column(Double)
    grams: Mapped[dict[str, Any]] = mapped_column(JSON)
    begun: Mapped[datetime] = mapped_column(_Moment)
    ended: Mapped[datetime | None] = mapped_column(_Moment)


class Motif(Base):
    """An outline that a maker kept: path data in mm, its corner at 0, 0."""

    __tablename__ = "motif"
    __table_args__ = _OPTIONS

    id: Mapped[str] = mapped_column(String(22), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    path: Mapped[str] = mapped_column(_Text)
    width: Mapped[float] = mapped_column(Double)
    height: Mapped[float] = mapped_column(Double)
    created: Mapped[datetime] = mapped_column(_Moment, default=now)
