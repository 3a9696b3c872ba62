"""Bed plans that the workshop keeps."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.errors import Refusal
from drelo.core.rehearsal.plan import BedPlan
from drelo.store.author import author
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
            return [_kept(row) for row in session.scalars(select(ShelfPlan).order_by(ShelfPlan.updated.desc()))]

    def get(self, identifier: str) -> KeptPlan:
        """Raises NoPlan."""
        with self._sessions() as session:
            row = session.get(ShelfPlan, identifier)
            if row is None:
                raise NoPlan(identifier)
            return _kept(row)

    def add(self, plan: BedPlan) -> KeptPlan:
        """Raises Refusal when there are too many."""
        with self._sessions.begin() as session:
            if (session.scalar(select(func.count()).select_from(ShelfPlan)) or 0) >= MAX_PLANS:
                raise Refusal("bed.too-many-plans", most=MAX_PLANS)
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
            mine = update(ShelfPlan).where(ShelfPlan.id == identifier, ShelfPlan.version == version).values(values)
            if session.execute(mine).rowcount:  # type: ignore[attr-defined]
                return KeptPlan(identifier, version + 1, values["updated"], plan)  # type: ignore[arg-type]
        raise PlanMoved(self.get(identifier))

    def drop(self, identifier: str) -> None:
        """One that is gone already is no matter."""
        with self._sessions.begin() as session:
            row = session.get(ShelfPlan, identifier)
            if row is not None:
                session.delete(row)


def _kept(row: ShelfPlan) -> KeptPlan:
    return KeptPlan(row.id, row.version, row.updated, BedPlan.model_validate(row.told))
