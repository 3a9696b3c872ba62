"""The past of pieces: their revisions without the documents, names of some, and thinning."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, Literal

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.piece.history.lines import Step
from drelo.core.piece.history.telling import Told
from drelo.core.piece.history.thinning import EVERY, Kept, that_go
from drelo.store.models import Account, Piece, Revision
from drelo.store.revisions import NotFound, Revisions, living

Where = Literal["past", "ahead", "aside"]
"""On the way to what is shown; what redo leads to; on a way that was left."""

BEGUN = Told(path="begun", what="Begun", how="done")


@dataclass(frozen=True)
class Past:
    """Steps of a piece, the newest first. where: by revision, how each stands to what is shown."""

    shown: int
    steps: tuple[Step, ...]
    where: Mapping[int, Where]


class History:
    """Every method is one transaction."""

    def __init__(self, sessions: sessionmaker[Session], revisions: Revisions) -> None:
        self._sessions = sessions
        self._revisions = revisions

    def past(self, piece_id: str) -> Past:
        """All steps of a piece. Raises NotFound."""
        columns = (Revision.id, Revision.parent, Revision.created, Revision.name, Revision.told, Revision.more)
        by = select(Account.title).where(Account.id == Revision.by_account).scalar_subquery()
        with self._sessions() as session:
            piece = living(session, piece_id)
            rows = session.execute(
                select(*columns, func.json_value(Revision.edit, "$.do"), by)
                .where(Revision.piece_id == piece_id)
                .order_by(Revision.id.desc())
            ).all()
            parents = {row[0]: row[1] for row in rows}
            past, ahead = _way(piece.current, parents), _way(piece.tip, parents)
        where: dict[int, Where] = {
            revision: "past" if revision in past else "ahead" if revision in ahead else "aside" for revision in parents
        }
        steps = tuple(
            Step(key, parent, _seconds(created), name, _told(told, parent, do), more, by_title)
            for key, parent, created, name, told, more, do, by_title in rows
        )
        return Past(piece.current or 0, steps, where)

    def head(self, piece_id: str) -> tuple[int, str | None]:
        """The revision that is shown, and who made it. Raises NotFound."""
        by = select(Account.title).where(Account.id == Revision.by_account).scalar_subquery()
        with self._sessions() as session:
            piece = living(session, piece_id)
            title = session.scalar(select(by).select_from(Revision).where(Revision.id == piece.current))
            return piece.current or 0, title

    def heads(self, pieces: Collection[str]) -> Mapping[str, tuple[int, str | None]]:
        """The same of several pieces, those that are there."""
        there = (Piece.id.in_(list(pieces)), Piece.deleted.is_(None), Piece.current.is_not(None))
        rows = select(Piece.id, Piece.current, Account.title).join(Revision, Revision.id == Piece.current)
        with self._sessions() as session:
            found = session.execute(rows.outerjoin(Account, Account.id == Revision.by_account).where(*there)).all()
            return {piece: (revision or 0, title) for piece, revision, title in found}

    def step(self, piece_id: str, revision: int) -> Step:
        """One step of a piece. Raises NotFound."""
        found = next((s for s in self.past(piece_id).steps if s.revision == revision), None)
        if found is None:
            raise NotFound
        return found

    def name(self, piece_id: str, revision: int, name: str | None) -> None:
        """Name a revision, so that it is kept, or take its name away. Raises NotFound."""
        with self._sessions.begin() as session:
            living(session, piece_id)
            which = (Revision.id == revision, Revision.piece_id == piece_id)
            if session.scalar(select(Revision.id).where(*which)) is None:
                raise NotFound
            session.execute(update(Revision).where(*which).values(name=name))

    def thin(self, moment: datetime) -> int:
        """Thin out the past of every piece; how many steps went. moment: the present, UTC without a zone."""
        old = (Revision.created < moment - timedelta(seconds=EVERY), Revision.name.is_(None))
        with self._sessions() as session:
            pieces = session.scalars(
                select(Revision.piece_id).where(*old).group_by(Revision.piece_id).having(func.count() > 1)
            ).all()
        return sum(self._thin_one(piece, moment) for piece in pieces)

    def _thin_one(self, piece_id: str, moment: datetime) -> int:
        with self._sessions.begin() as session:
            piece = session.execute(select(Piece).where(Piece.id == piece_id).with_for_update()).scalar_one_or_none()
            if piece is None or piece.current is None:
                return 0
            columns = (Revision.id, Revision.parent, Revision.created, Revision.name)
            rows = session.execute(select(*columns).where(Revision.piece_id == piece_id)).all()
            parents = {key: parent for key, parent, _, _ in rows}
            always = {piece.current, piece.tip or 0, *(key for key, parent in parents.items() if parent is None)}
            gone = set(
                that_go(
                    [Kept(k, _seconds(made), bool(name)) for k, _, made, name in rows],
                    _seconds(moment),
                    frozenset(always),
                )
            )
            for key in sorted(set(parents) - gone):
                if parents[key] in gone:
                    self._revisions.rehang(session, key, _nearest(key, parents, gone))
            # They hang on each other; none may stand in another's way.
            session.execute(update(Revision).where(Revision.id.in_(gone)).values(parent=None))
            session.execute(delete(Revision).where(Revision.id.in_(gone)))
            return len(gone)


def _seconds(moment: datetime) -> float:
    """Since 1970, of a moment as the database has it."""
    return moment.replace(tzinfo=UTC).timestamp()


def _way(last: int | None, parents: Mapping[int, int | None]) -> set[int]:
    """The revisions that lead to one."""
    found: set[int] = set()
    while last is not None and last not in found:
        found.add(last)
        last = parents.get(last)
    return found


def _nearest(key: int, parents: Mapping[int, int | None], gone: set[int]) -> int:
    """The last revision before one that stays; the first of all always does."""
    at = parents[key]
    while at in gone:
        at = parents[at]
    assert at is not None
    return at


def _told(stored: Sequence[Mapping[str, Any]] | None, parent: int | None, do: str | None) -> tuple[Told, ...]:
    if parent is None and not stored:
        return (BEGUN,)
    if stored is None:
        # Made before steps were told in words.
        words = (do or "changed").replace("-", " ").capitalize()
        return (Told(path=do or "changed", what=words, how="done"),)
    return tuple(Told.model_construct(**one) for one in stored)
