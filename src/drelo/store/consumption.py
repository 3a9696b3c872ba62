"""What each person of a shared workshop uses of it."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.people.limits import Limits, Used
from drelo.store.models import Account, Asset, Piece, Revision, Spent

_WRITTEN = sum(func.coalesce(func.length(c), 0) for c in (Revision.document, Revision.change, Revision.edit))


class Consumption:
    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def used(self, day: date, account: str | None = None) -> Mapping[str, Used]:
        """By account, of those who use anything; or of one of them. day: UTC."""
        living = Piece.deleted.is_(None)
        pieces = select(Piece.owner, func.count()).where(living, Piece.owner.is_not(None)).group_by(Piece.owner)
        written = select(Piece.owner, func.sum(_WRITTEN)).join(Revision, Revision.piece_id == Piece.id)
        written = written.where(living, Piece.owner.is_not(None)).group_by(Piece.owner)
        brought = select(Asset.owner, func.sum(func.length(Asset.data))).where(Asset.owner.is_not(None))
        brought = brought.group_by(Asset.owner)
        spent = select(Spent.account_id, Spent.seconds).where(Spent.day == day)
        if account is not None:
            pieces, written = pieces.where(Piece.owner == account), written.where(Piece.owner == account)
            brought, spent = brought.where(Asset.owner == account), spent.where(Spent.account_id == account)
        with self._sessions() as session:
            found: list[dict[str, Any]] = [
                {str(owner): amount for owner, amount in session.execute(rows)}
                for rows in (pieces, written, brought, spent)
            ]
        counts, written_by, brought_by, seconds = found
        return {
            key: Used(
                pieces=int(counts.get(key, 0)),
                bytes=int(written_by.get(key) or 0) + int(brought_by.get(key) or 0),
                seconds=float(seconds.get(key, 0.0)),
            )
            for key in {*counts, *written_by, *brought_by, *seconds}
        }

    def seconds(self, account: str, day: date) -> float:
        """Computed for somebody on a day."""
        with self._sessions() as session:
            row = session.get(Spent, (account, day))
            return 0.0 if row is None else row.seconds

    def spend(self, day: date, seconds: Mapping[str, float]) -> None:
        """Add what was computed, by account; of accounts that have gone nothing is kept."""
        with self._sessions.begin() as session:
            there = set(session.scalars(select(Account.id).where(Account.id.in_(list(seconds)))))
            for account in sorted(there):
                values = insert(Spent).values(account_id=account, day=day, seconds=seconds[account])
                session.execute(values.on_duplicate_key_update(seconds=Spent.seconds + seconds[account]))

    def own_limits(self, account: str) -> Mapping[str, int]:
        """Those that are not the workshop's."""
        with self._sessions() as session:
            return dict(session.scalar(select(Account.limits).where(Account.id == account)) or {})

    def all_own_limits(self) -> Mapping[str, Mapping[str, int]]:
        with self._sessions() as session:
            rows = session.execute(select(Account.id, Account.limits))
            return {account: dict(limits or {}) for account, limits in rows}

    def set_limits(self, account: str, own: Mapping[str, int]) -> None:
        """own: those that are not the workshop's, by the names of Limits."""
        known = {name: value for name, value in own.items() if name in Limits.__dataclass_fields__}
        with self._sessions.begin() as session:
            found = session.get(Account, account)
            if found is not None:
                found.limits = known or None
