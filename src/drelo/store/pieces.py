"""Pieces and their revisions.

Most revisions are stored as what changed of the one before; every so often one is stored whole. A document that was
read or made once is kept in memory by its revision's number: revisions never change.
"""

from __future__ import annotations

import json
import secrets
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import select, update
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.piece.difference import Difference, Rows, difference, put_on
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT, Edit
from drelo.core.piece.former import is_former, read_document
from drelo.store.blobs import Bytes, store
from drelo.store.models import Piece, Revision, now

# A revision is stored whole when so many before it are changes.
MOST_STEPS = 40
# Documents that are kept in memory.
KEEP = 256
LISTED = ("drawn", "regions")
BringUp = Callable[[Mapping[str, Any]], Document]
"""Brings a document of an earlier version up to this one."""
_ANY: TypeAdapter[Any] = TypeAdapter(Any)


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


class Conflict(Exception):
    """The edit was made on an old revision; `state` is what stands now."""

    def __init__(self, state: State) -> None:
        super().__init__("The piece has changed since.")
        self.state = state


class Pieces:
    """The repository of pieces. Every method is one transaction.

    bring_up: for documents that an earlier version stored.
    """

    def __init__(self, sessions: sessionmaker[Session], bring_up: BringUp | None = None) -> None:
        self._sessions = sessions
        self._bring_up = bring_up
        self._documents = _Documents()

    def brings_up(self, bring_up: BringUp) -> None:
        """Take a way to bring up documents of earlier versions."""
        self._bring_up = bring_up

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
            piece = _living(session, piece_id)
            return self._state(session, piece, _current(session, piece))

    def at(self, piece_id: str, revision: int) -> Document:
        """The document of any revision of a piece. Raises NotFound."""
        known = self._documents.get(revision)
        with self._sessions() as session:
            owner = session.scalar(select(Revision.piece_id).where(Revision.id == revision))
            if owner != piece_id:
                raise NotFound
            return known or self._document(session, revision)

    def title(self, piece_id: str) -> str:
        """What a piece is called. Raises NotFound."""
        with self._sessions() as session:
            return _living(session, piece_id).name

    def create(
        self,
        name: str,
        document: Document,
        demo: str | None = None,
        key: str | None = None,
        brings: Iterable[Bytes] = (),
    ) -> State:
        """A new piece and the bytes that it brings; `key` is its id when one was made beforehand."""
        with self._sessions.begin() as session:
            for brought in brings:
                store(session, brought)
            piece = Piece(id=key or new_id(), name=name, demo=demo)
            session.add(piece)
            session.flush()
            revision = self._add(session, piece, None, None, document)
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
            return self._state(session, piece, self._add(session, piece, current, edit, document, request))

    def answered(self, piece_id: str, request: str | None) -> State | None:
        """The piece as it stands when this very request has changed it already. Raises NotFound."""
        if request is None:
            return None
        with self._sessions() as session:
            piece = _living(session, piece_id)
            of = select(Revision.id).where(Revision.piece_id == piece_id, Revision.request == request).limit(1)
            if piece.moved != request and session.scalar(of) is None:
                return None
            return self._state(session, piece, _current(session, piece))

    def beside(self, piece_id: str, base: int, back: bool) -> Beside:
        """The revision before `base`, or after it on the way to the tip; `base` itself at either end.

        Raises Conflict, NotFound.
        """
        with self._sessions() as session:
            piece = _living(session, piece_id)
            current = _current(session, piece)
            if current.id != base:
                raise Conflict(self._state(session, piece, current))
            found = current.parent if back else _towards_tip(session, piece, current)
            revision = current.id if found is None else found
            return Beside(revision, self._document(session, current.id), self._document(session, revision))

    def move(self, piece_id: str, base: int, revision: int, request: str | None = None) -> State:
        """Show a revision that stands beside `base`. Raises Conflict, NotFound."""
        with self._sessions.begin() as session:
            piece, current = self._locked(session, piece_id, base)
            if revision != current.id:
                piece.current, piece.updated = revision, now()
                piece.empty = self._document(session, revision).empty
            piece.moved = request
            return self._state(session, piece, _current(session, piece))

    def rename(self, piece_id: str, name: str) -> State:
        with self._sessions.begin() as session:
            piece = _living(session, piece_id)
            piece.name, piece.updated = name, now()
            return self._state(session, piece, _current(session, piece))

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
            # One that lay in the trash for too long has no revisions any more.
            if piece is None or piece.current is None:
                raise NotFound
            piece.deleted = None
            return self._state(session, piece, _current(session, piece))

    def _locked(self, session: Session, piece_id: str, base: int) -> tuple[Piece, _Row]:
        piece = session.execute(
            select(Piece).where(Piece.id == piece_id, Piece.deleted.is_(None)).with_for_update()
        ).scalar_one_or_none()
        if piece is None:
            raise NotFound
        current = _current(session, piece)
        if current.id != base:
            raise Conflict(self._state(session, piece, current))
        return piece, current

    def _add(
        self,
        session: Session,
        piece: Piece,
        parent: _Row | None,
        edit: Edit | None,
        document: Document,
        request: str | None = None,
    ) -> _Row:
        change, steps = None, 0
        if parent is not None and parent.steps < MOST_STEPS:
            before = self._document(session, parent.id)
            change, steps = _stored(difference(before.__dict__, document.__dict__, LISTED)), parent.steps + 1
        revision = Revision(
            piece_id=piece.id,
            parent=parent.id if parent else None,
            edit=None if edit is None else EDIT.dump_python(edit, mode="json", exclude_unset=True) | {"do": edit.do},
            document=None if change is not None else document.model_dump(mode="json"),
            change=change,
            steps=steps,
            request=request,
        )
        session.add(revision)
        session.flush()
        piece.current = piece.tip = revision.id
        piece.updated = now()
        piece.empty = document.empty
        self._documents.put(revision.id, document)
        return _Row(revision.id, revision.parent, steps)

    def _document(self, session: Session, revision: int) -> Document:
        """The document of a revision: from memory, or from the last whole one and the changes since."""
        known = self._documents.get(revision)
        if known is not None:
            return known
        changes: list[Mapping[str, Any]] = []
        at: int | None = revision
        while True:
            row = session.execute(
                select(Revision.parent, Revision.document, Revision.change).where(Revision.id == at)
            ).one_or_none()
            if row is None:
                raise NotFound
            if row.document is not None:
                break
            changes.append(row.change)
            at = row.parent
        if is_former(row.document):
            # Documents of an earlier version were all stored whole.
            document = self._brought_up(revision, row.document)
        else:
            value = row.document
            for change in reversed(changes):
                value = put_on(value, _read_change(change), lambda r: r["id"])
            document = read_document(value)
        self._documents.put(revision, document)
        return document

    def _brought_up(self, revision: int, former: Mapping[str, Any]) -> Document:
        if self._bring_up is None:
            raise AssertionError("nothing brings up documents of earlier versions here")
        document = self._bring_up(former)
        with self._sessions.begin() as session:
            values = {"document": document.model_dump(mode="json"), "former": dict(former)}
            session.execute(update(Revision).where(Revision.id == revision).values(**values))
        return document

    def _state(self, session: Session, piece: Piece, revision: _Row) -> State:
        return State(
            id=piece.id,
            name=piece.name,
            revision=revision.id,
            document=self._document(session, revision.id),
            can_undo=revision.parent is not None,
            can_redo=piece.tip != revision.id,
            updated=piece.updated,
        )


@dataclass(frozen=True)
class _Row:
    """A revision without its document."""

    id: int
    parent: int | None
    steps: int


class _Documents:
    """The latest documents by their revision."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._by_revision: OrderedDict[int, Document] = OrderedDict()

    def get(self, revision: int) -> Document | None:
        with self._lock:
            found = self._by_revision.get(revision)
            if found is not None:
                self._by_revision.move_to_end(revision)
            return found

    def put(self, revision: int, document: Document) -> None:
        with self._lock:
            self._by_revision[revision] = document
            while len(self._by_revision) > KEEP:
                self._by_revision.popitem(last=False)


def _stored(change: Difference) -> dict[str, Any]:
    rows = {name: {"order": rows.order, "changed": rows.changed} for name, rows in change.rows.items()}
    stored: dict[str, Any] = json.loads(_ANY.dump_json({"fields": change.fields, "rows": rows}))
    return stored


def _read_change(stored: Mapping[str, Any]) -> Difference:
    rows = {
        name: Rows(tuple(row["order"]) if row["order"] else None, tuple(row["changed"]))
        for name, row in stored["rows"].items()
    }
    return Difference(stored["fields"], rows)


def new_id() -> str:
    """An id for a piece that is not there yet."""
    return secrets.token_urlsafe(12)


def _living(session: Session, piece_id: str) -> Piece:
    piece = session.get(Piece, piece_id)
    if piece is None or piece.deleted is not None:
        raise NotFound
    return piece


def _current(session: Session, piece: Piece) -> _Row:
    row = session.execute(
        select(Revision.id, Revision.parent, Revision.steps).where(Revision.id == piece.current)
    ).one_or_none()
    if row is None:
        raise NotFound
    return _Row(*row)


def _towards_tip(session: Session, piece: Piece, current: _Row) -> int | None:
    """The revision after `current` on the way to the tip."""
    at = piece.tip
    while at is not None and at != current.id:
        parent = session.scalar(select(Revision.parent).where(Revision.id == at))
        if parent == current.id:
            return at
        at = parent
    return None
