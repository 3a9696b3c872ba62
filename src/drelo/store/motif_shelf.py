"""Motifs that makers kept."""

from __future__ import annotations

import secrets
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.models import Motif


@dataclass(frozen=True)
class KeptMotif:
    """path: SVG path data, mm, its corner at 0, 0."""

    id: str
    name: str
    path: str
    width: float
    height: float


class MotifShelf:
    """Outlines kept under a name, to be placed in any piece."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def put(self, name: str, path: str, width: float, height: float) -> KeptMotif:
        """Keep a motif."""
        identifier = secrets.token_urlsafe(9).replace("-", "a").replace("_", "b")
        with self._sessions.begin() as session:
            session.add(Motif(id=identifier, name=name, path=path, width=width, height=height))
        return KeptMotif(identifier, name, path, width, height)

    def get(self, identifier: str) -> KeptMotif | None:
        with self._sessions() as session:
            row = session.get(Motif, identifier)
            return None if row is None else _kept(row)

    def all(self) -> list[KeptMotif]:
        """Every motif, by name."""
        with self._sessions() as session:
            return [_kept(row) for row in session.scalars(select(Motif).order_by(Motif.name, Motif.created))]

    def drop(self, identifier: str) -> None:
        """Forget a motif; one that is gone already is no matter."""
        with self._sessions.begin() as session:
            row = session.get(Motif, identifier)
            if row is not None:
                session.delete(row)


def _kept(row: Motif) -> KeptMotif:
    return KeptMotif(row.id, row.name, row.path, row.width, row.height)
