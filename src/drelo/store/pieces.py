"""Pieces and their revisions."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT, Edit
from drelo.store.models import Piece, Revision, now


class NotFound(LookupError):
    """There is no such piece."""


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


class Conflict(Exception):
    """The edit was made on an old revision; `state` is what stands now."""

    def __init__(self, state: State) -> None:
        super().__init__("The piece has changed since.")
        self.state = state


class Pieces:
    """The repository of pieces. Every method is one transaction."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def all(self) -> list[State]:
        """Pieces that are not deleted, the last changed first."""
        with self._sessions() as session:
            rows = session.execute(
                select(Piece, Revision)
                .join(Revision, Revision.id == Piece.current)
                .where(Piece.deleted.is_(None))
                .order_by(Piece.updated.desc(), Piece.id)
            ).all()
            return [_state(session, piece, revision) for piece, revision in rows]

    def get(self, piece_id: str) -> State:
        """Raises NotFound."""
        with self._sessions() as session:
            piece = _living(session, piece_id)
            return _state(session, piece, _current(session, piece))

    def at(self, piece_id: str, revision: int) -> Document:
        """The document of any revision of a piece. Raises NotFound."""
        with self._sessions() as session:
            row = session.get(Revision, revision)
            if row is None or row.piece_id != piece_id:
                raise NotFound
            return Document.model_validate(row.document)

    def create(self, name: str, document: Document, demo: str | None = None, key: str | None = None) -> State:
        """A new piece; `key` is its id when one was made beforehand."""
        with self._sessions.begin() as session:
            piece = Piece(id=key or new_id(), name=name, demo=demo)
            session.add(piece)
            session.flush()
            revision = _add(session, piece, None, None, document)
            return _state(session, piece, revision)

    def seeded(self) -> set[str]:
        """Demo pieces that were ever seeded, deleted ones too."""
        with self._sessions() as session:
            return {demo for demo in session.scalars(select(Piece.demo)) if demo is not None}

    def edit(self, piece_id: str, base: int, edit: Edit, change: Callable[[Document], Document]) -> State:
        """Append a revision.

        Raises Conflict when `base` is no longer the current revision, NotFound, and what `change` raises.
        """
        with self._sessions.begin() as session:
            piece, current = self._locked(session, piece_id, base)
            document = change(Document.model_validate(current.document))
            return _state(session, piece, _add(session, piece, current, edit, document))

    def undo(self, piece_id: str, base: int) -> State:
        """Back to the revision before; nothing happens at the first. Raises Conflict, NotFound."""
        with self._sessions.begin() as session:
            piece, current = self._locked(session, piece_id, base)
            if current.parent is not None:
                piece.current, piece.updated = current.parent, now()
            return _state(session, piece, _current(session, piece))

    def redo(self, piece_id: str, base: int) -> State:
        """Forward to the revision that was undone last; nothing happens at the tip. Raises Conflict, NotFound."""
        with self._sessions.begin() as session:
            piece, current = self._locked(session, piece_id, base)
            following = _towards_tip(session, piece, current)
            if following is not None:
                piece.current, piece.updated = following, now()
            return _state(session, piece, _current(session, piece))

    def rename(self, piece_id: str, name: str) -> State:
        with self._sessions.begin() as session:
            piece = _living(session, piece_id)
            piece.name, piece.updated = name, now()
            return _state(session, piece, _current(session, piece))

    def duplicate(self, piece_id: str, name: str) -> State:
        """A new piece with the document as it stands; its history starts afresh."""
        return self.create(name, self.get(piece_id).document)

    def delete(self, piece_id: str) -> None:
        with self._sessions.begin() as session:
            _living(session, piece_id).deleted = now()

    def restore(self, piece_id: str) -> State:
        """Bring a deleted piece back. Raises NotFound."""
        with self._sessions.begin() as session:
            piece = session.get(Piece, piece_id)
            if piece is None:
                raise NotFound
            piece.deleted = None
            return _state(session, piece, _current(session, piece))

    def _locked(self, session: Session, piece_id: str, base: int) -> tuple[Piece, Revision]:
        piece = session.execute(
            select(Piece).where(Piece.id == piece_id, Piece.deleted.is_(None)).with_for_update()
        ).scalar_one_or_none()
        if piece is None:
            raise NotFound
        current = _current(session, piece)
        if current.id != base:
            raise Conflict(_state(session, piece, current))
        return piece, current


def new_id() -> str:
    """An id for a piece that is not there yet."""
    return secrets.token_urlsafe(12)


def _living(session: Session, piece_id: str) -> Piece:
    piece = session.get(Piece, piece_id)
    if piece is None or piece.deleted is not None:
        raise NotFound
    return piece


def _current(session: Session, piece: Piece) -> Revision:
    revision = session.get(Revision, piece.current)
    if revision is None:
        raise NotFound
    return revision


def _add(session: Session, piece: Piece, parent: Revision | None, edit: Edit | None, document: Document) -> Revision:
    revision = Revision(
        piece_id=piece.id,
        parent=parent.id if parent else None,
        edit=None if edit is None else EDIT.dump_python(edit, mode="json", exclude_unset=True) | {"do": edit.do},
        document=document.model_dump(mode="json"),
    )
    session.add(revision)
    session.flush()
    piece.current = piece.tip = revision.id
    piece.updated = now()
    return revision


def _towards_tip(session: Session, piece: Piece, current: Revision) -> int | None:
    """The revision after `current` on the way to the tip."""
    at = piece.tip
    while at is not None and at != current.id:
        row = session.get(Revision, at)
        if row is None:
            return None
        if row.parent == current.id:
            return at
        at = row.parent
    return None


def _state(session: Session, piece: Piece, revision: Revision) -> State:
    return State(
        id=piece.id,
        name=piece.name,
        revision=revision.id,
        document=Document.model_validate(revision.document),
        can_undo=revision.parent is not None,
        can_redo=piece.tip != revision.id,
        updated=piece.updated,
    )
