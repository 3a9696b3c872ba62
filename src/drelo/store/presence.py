"""Who has which piece open, for as long as a page goes on saying so."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.models import Presence as Row

# A page says every few seconds that it is there; after so long without a word it is gone.
GONE = timedelta(seconds=12)


class Presence:
    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def of(self, pieces: Collection[str], at: datetime) -> Mapping[str, frozenset[str]]:
        """The accounts that have each piece open now, where somebody has."""
        rows = select(Row.piece_id, Row.account_id).where(Row.piece_id.in_(list(pieces)), Row.seen >= at - GONE)
        found: dict[str, set[str]] = {}
        with self._sessions() as session:
            for piece, account in session.execute(rows):
                found.setdefault(piece, set()).add(account)
        return {piece: frozenset(accounts) for piece, accounts in found.items()}

    def here(self, piece: str, account: str, at: datetime) -> list[str]:
        """Note that somebody has a piece open now; the accounts of all others who do."""
        with self._sessions.begin() as session:
            values = insert(Row).values(piece_id=piece, account_id=account, seen=at)
            session.execute(values.on_duplicate_key_update(seen=at))
            session.execute(delete(Row).where(Row.seen < at - GONE))
            others = select(Row.account_id).where(Row.piece_id == piece, Row.account_id != account)
            return list(session.scalars(others.order_by(Row.account_id)))
