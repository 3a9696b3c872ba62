"""What is kept, and for how long: deleted pieces, bytes that can be made again, pictures that nothing needs."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.models import Asset, Derived, Piece, Revision

# A deleted piece can be brought back for so long.
TRASH = timedelta(days=30)
# Bytes that can be made again are kept up to so many, the latest first.
QUOTA = 512 * 2**20
# What was brought in less than this ago may be needed by what is about to be stored.
FRESH = timedelta(days=1)
# Revisions that are looked through at once.
AT_ONCE = 200
# What a revision writes down.
WRITTEN = (Revision.document, Revision.change, Revision.edit, Revision.former)
_SHA256 = re.compile(r"[0-9a-f]{64}")


@dataclass(frozen=True)
class Swept:
    """How much went: deleted pieces, derived bytes, pictures and fonts."""

    pieces: int
    derived: int
    assets: int


@dataclass(frozen=True)
class Amount:
    """How many of a kind there are, and their bytes."""

    count: int
    bytes: int


@dataclass(frozen=True)
class Usage:
    """What takes how much: pieces with all their revisions, deleted ones, what makers brought, what can be remade."""

    pieces: Amount
    trash: Amount
    assets: Amount
    derived: Amount


@dataclass(frozen=True)
class Deleted:
    """A deleted piece that can still be brought back until `until`, UTC."""

    id: str
    name: str
    deleted: datetime
    until: datetime


class Keeping:
    """Takes away what need not be kept; each kind in a transaction of its own."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def sweep(self, moment: datetime, quota: int = QUOTA) -> Swept:
        """moment: the present, UTC without a zone. quota: bytes of what can be made again."""
        return Swept(self._empty_trash(moment - TRASH), self.trim(moment, quota), self._collect(moment - FRESH))

    def trim(self, moment: datetime, quota: int = QUOTA) -> int:
        """Of what can be made again the oldest goes where it is more than `quota` bytes, unless it is still wanted.

        moment: the present. How many bytes went.
        """
        with self._sessions.begin() as session:
            columns = (Derived.key, Derived.size, Derived.wanted)
            rows = session.execute(select(*columns).order_by(Derived.created.desc(), Derived.key)).all()
            held, gone = 0, []
            for key, size, wanted in rows:
                held += size
                if held > quota and (wanted is None or wanted < moment):
                    gone.append((key, size))
            for key, _ in gone:
                session.execute(delete(Derived).where(Derived.key == key))
            return sum(size for _, size in gone)

    def usage(self) -> Usage:
        """What is kept takes so much."""
        written = func.coalesce(
            func.sum(
                sum(
                    func.coalesce(func.length(column), 0)
                    for column in (Revision.document, Revision.change, Revision.edit)
                )
            ),
            0,
        )
        with self._sessions() as session:

            def of(rows: Any) -> Amount:
                count, size = session.execute(rows).one()
                return Amount(int(count), int(size or 0))

            def pieces(gone: bool) -> Amount:
                which = Piece.deleted.is_not(None) if gone else Piece.deleted.is_(None)
                rows = select(func.count(Piece.id.distinct()), written).join(Revision, Revision.piece_id == Piece.id)
                return of(rows.where(which, Piece.current.is_not(None)))

            return Usage(
                pieces=pieces(gone=False),
                trash=pieces(gone=True),
                assets=of(select(func.count(), func.sum(func.length(Asset.data)))),
                derived=of(select(func.count(), func.sum(Derived.size))),
            )

    def trash(self) -> list[Deleted]:
        """Deleted pieces, the last deleted first."""
        columns = (Piece.id, Piece.name, Piece.deleted)
        which = (Piece.deleted.is_not(None), Piece.current.is_not(None))
        with self._sessions() as session:
            rows = session.execute(select(*columns).where(*which).order_by(Piece.deleted.desc(), Piece.id)).all()
            return [Deleted(key, name, deleted, deleted + TRASH) for key, name, deleted in rows if deleted is not None]

    def empty_trash(self, moment: datetime) -> int:
        """Deleted pieces go for good, with what only they needed. How many went."""
        gone = self._empty_trash(moment)
        self._collect(moment - FRESH)
        return gone

    def empty_derived(self) -> int:
        """All that can be made again goes. How many bytes went."""
        with self._sessions.begin() as session:
            size = session.scalar(select(func.sum(Derived.size)))
            session.execute(delete(Derived))
            return int(size or 0)

    def _empty_trash(self, before: datetime) -> int:
        with self._sessions.begin() as session:
            old = session.scalars(select(Piece).where(Piece.deleted < before, Piece.current.is_not(None))).all()
            for piece in old:
                piece.current = piece.tip = None
            session.flush()
            for piece in old:
                mine = Revision.piece_id == piece.id
                # They hang on each other; none may stand in another's way.
                session.execute(update(Revision).where(mine).values(parent=None))
                session.execute(delete(Revision).where(mine))
                # A demo piece leaves its name, so that it is not laid out again.
                if piece.demo is None:
                    session.delete(piece)
            return len(old)

    def _collect(self, before: datetime) -> int:
        with self._sessions.begin() as session:
            old = set(session.scalars(select(Asset.sha256).where(Asset.created < before)))
            if not old:
                return 0
            for row in session.execute(select(*WRITTEN).execution_options(yield_per=AT_ONCE)):
                old.difference_update(_SHA256.findall(repr(row)))
                if not old:
                    return 0
            for sha256 in old:
                session.execute(delete(Asset).where(Asset.sha256 == sha256))
            return len(old)
