"""Bed plans that the workshop keeps."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.errors import Refusal
from drelo.core.rehearsal.plan import BedPlan
from drelo.store.author import author
from drelo.store.keeping import TRASH
from drelo.store.models import ShelfPlan, now

MAX_PLANS = 500


class PlanMoved(Exception):
    """The plan was changed meanwhile; `kept` is what stands now."""

    def __init__(self, kept: KeptPlan) -> None:
        super().__init__("The plan was changed meanwhile.")
        self.kept = kept


class NoPlan(LookupError):
    """There is no such plan."""


@dataclass(frozen=True)
class KeptPlan:
    """version: counts its changes."""

    id: str
    version: int
    updated: datetime
    plan: BedPlan


class PlanShelf:
    """Plans by their name in the workshop."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def all(self) -> list[KeptPlan]:
        """Every plan, the one that was changed last first."""
        with self._sessions() as session:
            there = select(ShelfPlan).where(ShelfPlan.deleted.is_(None)).order_by(ShelfPlan.updated.desc())
            return [_kept(row) for row in session.scalars(there)]

    def get(self, identifier: str) -> KeptPlan:
        """Raises NoPlan."""
        with self._sessions() as session:
            row = session.get(ShelfPlan, identifier)
            if row is None or row.deleted is not None:
                raise NoPlan(identifier)
            return _kept(row)

    def add(self, plan: BedPlan) -> KeptPlan:
        """Raises Refusal when there are too many."""
        with self._sessions.begin() as session:
            _has_room(session)
            row = ShelfPlan(
                id=secrets.token_urlsafe(9),
                version=1,
                told=plan.model_dump(mode="json"),
                updated=now(),
                owner=author.get(),
            )
            session.add(row)
            session.flush()
            return _kept(row)

    def put(self, identifier: str, version: int, plan: BedPlan) -> KeptPlan:
        """The plan in place of the one of a version. Raises NoPlan, PlanMoved."""
        with self._sessions.begin() as session:
            values = {"version": version + 1, "told": plan.model_dump(mode="json"), "updated": now()}
            stands = (ShelfPlan.id == identifier, ShelfPlan.version == version, ShelfPlan.deleted.is_(None))
            if session.execute(update(ShelfPlan).where(*stands).values(values)).rowcount:  # type: ignore[attr-defined]
                return KeptPlan(identifier, version + 1, values["updated"], plan)  # type: ignore[arg-type]
        raise PlanMoved(self.get(identifier))

    def drop(self, identifier: str) -> None:
        """It can be brought back for as long as a piece. One that is gone already is no matter."""
        with self._sessions.begin() as session:
            session.execute(delete(ShelfPlan).where(ShelfPlan.deleted < now() - TRASH))
            row = session.get(ShelfPlan, identifier)
            if row is not None and row.deleted is None:
                row.deleted = now()

    def restore(self, identifier: str) -> KeptPlan:
        """A deleted plan as it was. Raises NoPlan, Refusal when there are too many."""
        with self._sessions.begin() as session:
            row = session.get(ShelfPlan, identifier)
            if row is None:
                raise NoPlan(identifier)
            if row.deleted is not None:
                _has_room(session)
                row.deleted = None
            return _kept(row)


def _has_room(session: Session) -> None:
    there = select(func.count()).select_from(ShelfPlan).where(ShelfPlan.deleted.is_(None))
    if (session.scalar(there) or 0) >= MAX_PLANS:
        raise Refusal("bed.too-many-plans", most=MAX_PLANS)


def _kept(row: ShelfPlan) -> KeptPlan:
    return KeptPlan(row.id, row.version, row.updated, BedPlan.model_validate(row.told))
