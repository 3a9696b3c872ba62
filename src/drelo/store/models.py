"""Tables. Times are UTC; large bytes stand in tables of their own."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import JSON, BigInteger, Date, Double, ForeignKey, Index, LargeBinary, MetaData, String, Text
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
    owner: the account that it belongs to, in a shared workshop; openness: how far it is open to all of it. link:
    SHA-256 of what a link holds by which anybody may look at it.
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
    owner: Mapped[str | None] = mapped_column(String(22))
    link: Mapped[str | None] = mapped_column(String(64), unique=True)
    openness: Mapped[str] = mapped_column(String(10), default="private", server_default="private")
    created: Mapped[datetime] = mapped_column(_Moment, default=now)
    updated: Mapped[datetime] = mapped_column(_Moment, default=now)
    deleted: Mapped[datetime | None] = mapped_column(_Moment)


class Revision(Base):
    """One state of a piece; only ever added. `edit` led from `parent` to it.

    document: the whole of it, now and then; change: else what changed of the parent's, and steps: how many changes
    after a whole one it is. former: the document as an earlier version had stored it, once it was brought up.
    request: the key of the request that made it, so that one that is sent again is not made twice.
    name: what the maker calls it; such a one is kept. told: what it changed, in words; more: how much else.
    by_account: who made it, in a shared workshop.
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
    name: Mapped[str | None] = mapped_column(String(120))
    told: Mapped[list[dict[str, Any]] | None] = mapped_column(JSON(none_as_null=True))
    more: Mapped[int] = mapped_column(default=0, server_default="0")
    by_account: Mapped[str | None] = mapped_column(String(22))
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class Asset(Base):
    """Bytes that a maker brought, stored once by their SHA-256. owner: who brought them first."""

    __tablename__ = "asset"
    __table_args__ = _OPTIONS

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    media_type: Mapped[str] = mapped_column(String(60))
    data: Mapped[bytes] = mapped_column(_Blob)
    owner: Mapped[str | None] = mapped_column(String(22))
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class Derived(Base):
    """Bytes that can be computed again; may be emptied at any time.

    size: how many, for to measure them would be to read them. wanted: until then they are about to be taken.
    """

    __tablename__ = "derived"
    __table_args__ = _OPTIONS

    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    media_type: Mapped[str] = mapped_column(String(60))
    data: Mapped[bytes] = mapped_column(_Blob)
    created: Mapped[datetime] = mapped_column(_Moment, default=now)
    size: Mapped[int] = mapped_column(default=0)
    wanted: Mapped[datetime | None] = mapped_column(_Moment)


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
    owner: Mapped[str | None] = mapped_column(String(22))
    told: Mapped[dict[str, Any]] = mapped_column(JSON)
    updated: Mapped[datetime] = mapped_column(_Moment, default=now)
    deleted: Mapped[datetime | None] = mapped_column(_Moment, default=None)


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


class Account(Base):
    """A person of a shared workshop.

    name: what they sign in with; title: what others see. password: an argon2id hash. secret: of the second factor,
    where they have one; counter: the last of its codes that was used. spare_codes: hashes. closed: they are out.
    limits: those that are not the workshop's.
    """

    __tablename__ = "account"
    __table_args__ = _OPTIONS

    id: Mapped[str] = mapped_column(String(22), primary_key=True)
    name: Mapped[str] = mapped_column(String(40), unique=True)
    title: Mapped[str] = mapped_column(String(120))
    role: Mapped[str] = mapped_column(String(10))
    password: Mapped[str] = mapped_column(String(200))
    secret: Mapped[str | None] = mapped_column(String(64))
    counter: Mapped[int | None] = mapped_column(BigInteger)
    spare_codes: Mapped[list[str]] = mapped_column(JSON, default=list)
    closed: Mapped[bool] = mapped_column(default=False, server_default="0")
    limits: Mapped[dict[str, int] | None] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(_Moment, default=now)


class Spent(Base):
    """Seconds that were computed for somebody on a day, UTC."""

    __tablename__ = "spent"
    __table_args__ = _OPTIONS

    account_id: Mapped[str] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), primary_key=True)
    day: Mapped[date] = mapped_column(Date, primary_key=True)
    seconds: Mapped[float] = mapped_column(Double)


class SignIn(Base):
    """A browser that somebody has signed in with. token: SHA-256 of what its cookie holds."""

    __tablename__ = "sign_in"
    __table_args__ = (Index("ix_sign_in_account_id", "account_id"), _OPTIONS)

    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    account_id: Mapped[str] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"))
    begun: Mapped[datetime] = mapped_column(_Moment, default=now)
    seen: Mapped[datetime] = mapped_column(_Moment, default=now)
    agent: Mapped[str] = mapped_column(String(200))
    address: Mapped[str] = mapped_column(String(60))


class Invitation(Base):
    """A link by which somebody makes an account, once. token: SHA-256 of what the link holds.

    account_id: it sets a new password for this account instead.
    """

    __tablename__ = "invitation"
    __table_args__ = _OPTIONS

    token: Mapped[str] = mapped_column(String(64), primary_key=True)
    role: Mapped[str] = mapped_column(String(10))
    title: Mapped[str] = mapped_column(String(120))
    by_account: Mapped[str] = mapped_column(String(22))
    ends: Mapped[datetime] = mapped_column(_Moment)
    account_id: Mapped[str | None] = mapped_column(String(22))


class Presence(Base):
    """Who said last when that they have a piece open. It is kept in memory, for all web processes."""

    __tablename__ = "presence"
    __table_args__ = {**_OPTIONS, "mysql_engine": "MEMORY"}  # noqa: RUF012

    piece_id: Mapped[str] = mapped_column(String(22), primary_key=True)
    account_id: Mapped[str] = mapped_column(String(22), primary_key=True)
    seen: Mapped[datetime] = mapped_column(_Moment)


class Share(Base):
    """A piece that is shared with one person. right: look or edit."""

    __tablename__ = "share"
    __table_args__ = _OPTIONS

    piece_id: Mapped[str] = mapped_column(ForeignKey("piece.id", ondelete="CASCADE"), primary_key=True)
    account_id: Mapped[str] = mapped_column(ForeignKey("account.id", ondelete="CASCADE"), primary_key=True)
    right: Mapped[str] = mapped_column("right_", String(10))


class Happening(Base):
    """What somebody did, for the record: only ever added."""

    __tablename__ = "happening"
    __table_args__ = _OPTIONS

    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    at: Mapped[datetime] = mapped_column(_Moment, default=now)
    account_id: Mapped[str | None] = mapped_column(String(22))
    what: Mapped[str] = mapped_column(String(60))
    about: Mapped[str] = mapped_column(String(300))
    address: Mapped[str] = mapped_column(String(60))


class DerivedOf(Base):
    """What derived bytes were made of, in a shared workshop: a piece or a bed plan; who may see it may have them."""

    __tablename__ = "derived_of"
    __table_args__ = _OPTIONS

    key: Mapped[str] = mapped_column(ForeignKey("derived.key", ondelete="CASCADE"), primary_key=True)
    of: Mapped[str] = mapped_column("of_", String(22), primary_key=True)


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
