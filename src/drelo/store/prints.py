"""What was printed, and is being printed: the history of pieces and beds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.models import Print, ShelfFilament, now

Outcome = Literal["printing", "done", "stopped", "failed"]
MOST_LISTED = 100


@dataclass(frozen=True)
class Printed:
    """A print. rehearsal: the key of what it was made of. layer: how far it came, of layers. seconds: it takes.

    grams: of each filament, by its name. words: why it ended early.
    """

    id: str
    piece: str | None
    plan: str | None
    title: str
    rehearsal: str
    state: Outcome
    words: str
    layer: int
    layers: int
    seconds: float
    grams: Mapping[str, float]
    begun: datetime
    ended: datetime | None


class Prints:
    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def add(self, told: Printed) -> None:
        with self._sessions.begin() as session:
            values = {**vars(told)}
            values["piece_id"], values["plan_id"] = values.pop("piece"), values.pop("plan")
            session.add(Print(**{**values, "grams": dict(told.grams)}))

    def drop(self, identifier: str) -> None:
        """Forget a print that was not begun after all."""
        with self._sessions.begin() as session:
            row = session.get(Print, identifier)
            if row is not None:
                session.delete(row)

    def get(self, identifier: str) -> Printed | None:
        with self._sessions() as session:
            row = session.get(Print, identifier)
            return None if row is None else _printed(row)

    def open(self) -> list[Printed]:
        """What has not ended as far as is known."""
        with self._sessions() as session:
            return [_printed(row) for row in session.scalars(select(Print).where(Print.ended.is_(None)))]

    def all(self, piece: str | None = None) -> list[Printed]:
        """The newest prints first, of a piece or of everything."""
        wanted = select(Print).order_by(Print.begun.desc()).limit(MOST_LISTED)
        if piece is not None:
            wanted = wanted.where(Print.piece_id == piece)
        with self._sessions() as session:
            return [_printed(row) for row in session.scalars(wanted)]

    def end(self, identifier: str, state: Outcome, words: str, layer: int, used: Mapping[str, float]) -> bool:
        """A print ended, and what it used leaves the spools on the shelf; once, whoever notices it first."""
        with self._sessions.begin() as session:
            row = session.get(Print, identifier, with_for_update=True)
            if row is None or row.ended is not None:
                return False
            names: dict[str, float] = {}
            for filament, grams in used.items():
                spool = session.get(ShelfFilament, filament, with_for_update=True)
                if spool is not None and spool.weighed is not None:
                    spool.weighed = max(0.0, spool.weighed - grams)
                names[f"{spool.name} {spool.material}".strip() if spool else filament] = round(grams, 3)
            row.state, row.words, row.layer, row.grams, row.ended = state, words[:400], layer, names, now()
            return True


def _printed(row: Print) -> Printed:
    return Printed(
        id=row.id,
        piece=row.piece_id,
        plan=row.plan_id,
        title=row.title,
        rehearsal=row.rehearsal,
        state=row.state,  # type: ignore[arg-type]
        words=row.words,
        layer=row.layer,
        layers=row.layers,
        seconds=row.seconds,
        grams=row.grams,
        begun=row.begun,
        ended=row.ended,
    )
