"""The record of who did what: added to, read, and never changed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.models import Account, Happening


@dataclass(frozen=True)
class Told:
    """Something that was done. who: what they are called; nobody where somebody unknown tried."""

    id: int
    at: datetime
    who: str | None
    what: str
    about: str
    address: str


class Record:
    """Every method is one transaction."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def note(self, account: str | None, what: str, about: str, address: str) -> None:
        with self._sessions.begin() as session:
            session.add(Happening(account_id=account, what=what, about=about[:300], address=address[:60]))

    def page(self, before: int | None, most: int) -> tuple[list[Told], int]:
        """The newest of what came before an entry, and how many entries there are."""
        query = (
            select(Happening, Account.title)
            .outerjoin(Account, Account.id == Happening.account_id)
            .order_by(Happening.id.desc())
            .limit(most)
        )
        if before is not None:
            query = query.where(Happening.id < before)
        with self._sessions() as session:
            rows = session.execute(query).all()
            count = session.scalar(select(func.count(Happening.id))) or 0
        return [Told(h.id, h.at, title, h.what, h.about, h.address) for h, title in rows], count
