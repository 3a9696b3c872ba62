"""Pieces: what each is called, which of its revisions is shown, and how it comes by another."""

from __future__ import annotations

import secrets
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.piece.document import Document
from drelo.core.piece.edits import Edit
from drelo.core.piece.history.telling import Told
from drelo.store.author import author
from drelo.store.blobs import Bytes, store
from drelo.store.models import Piece, Revision, now
from drelo.store.revisions import BringUp, NotFound, Revisions, Row, living, standing


@dataclass(frozen=True)
class State:
    """A piece as it stands."""

    id: str
    name: str
    revision: int
    document: Document
    can_undo: bool
    can_redo: bool
    updated: datetime


@dataclass(frozen=True)
class Card:
    """What the list shows of a piece."""

    id: str
    name: str
    revision: int
    updated: datetime
    empty: bool


@dataclass(frozen=True)
class Beside:
    """A step along the revisions: where it leads, from which document, to which."""

    revision: int
    before: Document
    after: Document


@dataclass(frozen=True)
class Earlier:
    """A named version that a piece brings with it. made: UTC without a zone."""

    name: str
    made: datetime
    document: Document


class Conflict(Exception):
    """The edit was made on an old revision; `state` is what stands now.

    collision: what was changed meanwhile of that which the edit changes, where that is known; mine: what the edit makes
    of it.
    """

    def __init__(self, state: State, collision: tuple[Told, ...] = (), mine: tuple[Told, ...] = ()) -> None:
        super().__init__("The piece has changed since.")
        self.state = state
        self.collision = collision
        self.mine = mine


class Pieces:
    """The repository of pieces. Every method is one transaction.

    bring_up: for documents that an earlier version stored.
    """

    def __init__(self, sessions: sessionmaker[Session], bring_up: BringUp | None = None) -> None:
        self._sessions = sessions
        self.revisions = Revisions(sessions, bring_up)

    def answers(self) -> bool:
        """Whether the database does."""
        try:
            with self._sessions() as session:
                session.execute(select(1))
        except SQLAlchemyError:
            return False
        return True

    def all(self) -> list[Card]:
        """Pieces that are not deleted, the last changed first."""
        columns = (Piece.id, Piece.name, Piece.current, Piece.updated, Piece.empty)
        with self._sessions() as session:
            rows = session.execute(
                select(*columns).where(Piece.deleted.is_(None)).order_by(Piece.updated.desc(), Piece.id)
            ).all()
            return [Card(key, name, current or 0, updated, empty) for key, name, current, updated, empty in rows]

    def get(self, piece_id: str) -> State:
        """Raises NotFound."""
        with self._sessions() as session:
            piece = living(session, piece_id)
            return self._state(session, piece, standing(session, piece))

    def at(self, piece_id: str, revision: int) -> Document:
        """The document of any revision of a piece. Raises NotFound."""
        with self._sessions() as session:
            return self.revisions.of(session, piece_id, revision)

    def title(self, piece_id: str) -> str:
        """What a piece is called. Raises NotFound."""
        with self._sessions() as session:
            return living(session, piece_id).name

    def create(
        self,
        name: str,
        document: Document,
        demo: str | None = None,
        key: str | None = None,
        brings: Iterable[Bytes] = (),
        past: Sequence[Earlier] = (),
    ) -> State:
        """A new piece and the bytes that it brings; `key` is its id when one was made beforehand.

        past: named versions that come before the document, the oldest first.
        """
        with self._sessions.begin() as session:
            for brought in brings:
                store(session, brought)
            piece = Piece(id=key or new_id(), name=name, demo=demo, owner=author.get())
            session.add(piece)
            session.flush()
            revision: Row | None = None
            for earlier in past:
                revision = self.revisions.add(session, piece, revision, None, earlier.document)
                values = {"name": earlier.name, "created": earlier.made}
                session.execute(update(Revision).where(Revision.id == revision.id).values(**values))
            if revision is None or past[-1].document != document:
                revision = self.revisions.add(session, piece, revision, None, document)
            return self._state(session, piece, revision)

    def seeded(self) -> set[str]:
        """Demo pieces that were ever seeded, deleted ones too."""
        with self._sessions() as session:
            return {demo for demo in session.scalars(select(Piece.demo)) if demo is not None}

    def edit(
        self,
        piece_id: str,
        base: int,
        edit: Edit,
        document: Document,
        request: str | None = None,
        brings: Iterable[Bytes] = (),
    ) -> State:
        """Append a revision: what an edit made of the document of revision `base`, and the bytes that it brings.

        request: the key of what asked for it. Raises Conflict when `base` is no longer the current revision, and
        NotFound; then nothing is stored.
        """
        with self._sessions.begin() as session:
            piece, current = self._locked(session, piece_id, base)
            for brought in brings:
                store(session, brought)
            return self._state(session, piece, self.revisions.add(session, piece, current, edit, document, request))

    def answered(self, piece_id: str, request: str | None) -> State | None:
        """The piece as it stands when this very request has changed it already. Raises NotFound."""
        if request is None:
            return None
        with self._sessions() as session:
            piece = living(session, piece_id)
            of = select(Revision.id).where(Revision.piece_id == piece_id, Revision.request == request).limit(1)
            if piece.moved != request and session.scalar(of) is None:
                return None
            return self._state(session, piece, standing(session, piece))

    def beside(self, piece_id: str, base: int, back: bool) -> Beside:
        """The revision before `base`, or after it on the way to the tip; `base` itself at either end.

        Raises Conflict, NotFound.
        """
        with self._sessions() as session:
            piece = living(session, piece_id)
            current = standing(session, piece)
            if current.id != base:
                raise Conflict(self._state(session, piece, current))
            found = current.parent if back else _towards_tip(session, piece, current)
            revision = current.id if found is None else found
            return Beside(
                revision, self.revisions.document(session, current.id), self.revisions.document(session, revision)
            )

    def move(self, piece_id: str, base: int, revision: int, request: str | None = None) -> State:
        """Show a revision that stands beside `base`. Raises Conflict, NotFound."""
        with self._sessions.begin() as session:
            piece, current = self._locked(session, piece_id, base)
            if revision != current.id:
                piece.current, piece.updated = revision, now()
                piece.empty = self.revisions.document(session, revision).empty
            piece.moved = request
            return self._state(session, piece, standing(session, piece))

    def go_back(self, piece_id: str, base: int, revision: int, request: str | None = None) -> State:
        """What a revision was, as a new one, so that nothing is lost. Raises Conflict, NotFound."""
        with self._sessions.begin() as session:
            piece, current = self._locked(session, piece_id, base)
            document = self.revisions.of(session, piece_id, revision)
            name, made = session.execute(select(Revision.name, Revision.created).where(Revision.id == revision)).one()
            said = Told(path="back", what="Went back to", how="set", after=name or f"{made:%Y-%m-%d %H:%M} UTC")
            return self._state(
                session, piece, self.revisions.add(session, piece, current, None, document, request, [said])
            )

    def rename(self, piece_id: str, name: str) -> State:
        with self._sessions.begin() as session:
            piece = living(session, piece_id)
            piece.name, piece.updated = name, now()
            return self._state(session, piece, standing(session, piece))

    def duplicate(self, piece_id: str, name: str) -> State:
        """A new piece with the document as it stands; its history starts afresh."""
        return self.create(name, self.get(piece_id).document)

    def delete(self, piece_id: str) -> None:
        with self._sessions.begin() as session:
            living(session, piece_id).deleted = now()

    def restore(self, piece_id: str) -> State:
        """Bring a deleted piece back. Raises NotFound."""
        with self._sessions.begin() as session:
            piece = session.get(Piece, piece_id)
            # One that lay in the trash for too long has no revisions any more.
            if piece is None or piece.current is None:
                raise NotFound
            piece.deleted = None
            return self._state(session, piece, standing(session, piece))

    def _locked(self, session: Session, piece_id: str, base: int) -> tuple[Piece, Row]:
        piece = session.execute(
            select(Piece).where(Piece.id == piece_id, Piece.deleted.is_(None)).with_for_update()
        ).scalar_one_or_none()
        if piece is None:
            raise NotFound
        current = standing(session, piece)
        if current.id != base:
            raise Conflict(self._state(session, piece, current))
        return piece, current

    def _state(self, session: Session, piece: Piece, revision: Row) -> State:
        return State(
            id=piece.id,
            name=piece.name,
            revision=revision.id,
            document=self.revisions.document(session, revision.id),
            can_undo=revision.parent is not None,
            can_redo=piece.tip != revision.id,
            updated=piece.updated,
        )


def new_id() -> str:
    """An id for a piece that is not there yet."""
    return secrets.token_urlsafe(12)


def _towards_tip(session: Session, piece: Piece, current: Row) -> int | None:
    """The revision after `current` on the way to the tip."""
    at = piece.tip
    while at is not None and at != current.id:
        parent = session.scalar(select(Revision.parent).where(Revision.id == at))
        if parent == current.id:
            return at
        at = parent
    return None
