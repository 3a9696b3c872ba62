"""The workshop's filaments."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.errors import Refusal
from drelo.core.piece.document import MAX_FILAMENTS, Document, Filament
from drelo.store.models import ShelfFilament

# A shelf with more would not be looked through.
MAX_SHELF = 400


class FilamentShelf:
    """Filaments that new pieces begin with; a piece carries copies, so that it stays as it is."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def all(self) -> list[Filament]:
        """Every filament, the oldest first."""
        return [filament for filament, _ in self.spools()]

    def spools(self) -> list[tuple[Filament, float | None]]:
        """Every filament, the oldest first, with how much of it is left, g, where it was weighed."""
        with self._sessions() as session:
            rows = session.scalars(select(ShelfFilament).order_by(ShelfFilament.created, ShelfFilament.id))
            return [(_filament(row), row.weighed) for row in rows]

    def put(self, filament: Filament, weighed: float | None = None) -> None:
        """A new filament, or other numbers for one. weighed: g left. Raises Refusal when the shelf is full."""
        with self._sessions.begin() as session:
            row = session.get(ShelfFilament, filament.id)
            if row is None:
                count = session.scalar(select(func.count()).select_from(ShelfFilament)) or 0
                if count >= MAX_SHELF:
                    raise Refusal("filament.shelf-full", "id", most=MAX_SHELF)
                row = ShelfFilament(id=filament.id)
                session.add(row)
            for name, value in filament.model_dump(exclude={"id"}).items():
                setattr(row, name, value)
            row.weighed = weighed

    def weigh(self, identifier: str, grams: float | None) -> None:
        """What is left on a spool, where it is on the shelf."""
        with self._sessions.begin() as session:
            row = session.get(ShelfFilament, identifier)
            if row is not None:
                row.weighed = grams

    def drop(self, identifier: str) -> None:
        """Take one off the shelf; one that is gone already is no matter."""
        with self._sessions.begin() as session:
            row = session.get(ShelfFilament, identifier)
            if row is not None:
                session.delete(row)


def fresh_document(shelf: Sequence[Filament], units: str = "mm") -> Document:
    """What a new piece begins with: the filaments on the shelf, in the maker's units."""
    filaments = tuple(shelf[:MAX_FILAMENTS])
    plain = Document(units="inch" if units == "inch" else "mm")
    if not filaments:
        return plain
    known = {f.id for f in filaments}
    base = plain.base.filament if plain.base.filament in known else filaments[0].id
    usual = plain.default_filament if plain.default_filament in known else filaments[-1].id
    return plain.model_copy(
        update={
            "filaments": filaments,
            "base": plain.base.model_copy(update={"filament": base}),
            "default_filament": usual,
        }
    )


def _filament(row: ShelfFilament) -> Filament:
    return Filament(**{name: getattr(row, name) for name in Filament.model_fields})
