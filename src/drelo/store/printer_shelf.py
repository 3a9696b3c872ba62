"""The workshop's printers."""

from __future__ import annotations

from sqlalchemy import func, select
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.errors import Refusal
from drelo.core.rehearsal.settings import Printer
from drelo.store.models import ShelfPrinter

MAX_PRINTERS = 100


class PrinterShelf:
    """Printers that a print can be rehearsed on; there is always one."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def all(self) -> list[Printer]:
        """Every printer, the oldest first."""
        with self._sessions() as session:
            rows = session.scalars(select(ShelfPrinter).order_by(ShelfPrinter.created, ShelfPrinter.id))
            return [Printer.model_validate(row.told) for row in rows]

    def get(self, identifier: str) -> Printer | None:
        with self._sessions() as session:
            row = session.get(ShelfPrinter, identifier)
            return None if row is None else Printer.model_validate(row.told)

    def put(self, printer: Printer) -> None:
        """A new printer, or other numbers for one. Raises Refusal when there are too many."""
        with self._sessions.begin() as session:
            row = session.get(ShelfPrinter, printer.id)
            if row is None:
                if self._count(session) >= MAX_PRINTERS:
                    raise Refusal("printer.shelf-full", "id", most=MAX_PRINTERS)
                row = ShelfPrinter(id=printer.id)
                session.add(row)
            row.name, row.told = printer.name, printer.model_dump(mode="json")

    def drop(self, identifier: str) -> None:
        """Remove a printer. Raises Refusal when it is the last one; one that is gone already is no matter."""
        with self._sessions.begin() as session:
            row = session.get(ShelfPrinter, identifier)
            if row is None:
                return
            if self._count(session) == 1:
                raise Refusal("printer.last", "id")
            session.delete(row)

    @staticmethod
    def _count(session: Session) -> int:
        return session.scalar(select(func.count()).select_from(ShelfPrinter)) or 0
