"""Revisions of pieces: one state each, only ever added.

Most are stored as what changed of the one before; every so often one is stored whole. A document that was read or made
once is kept in memory by its revision's number: what a revision holds never changes.
"""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import select, update
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.piece.difference import Difference, Rows, difference, put_on
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT, Edit
from drelo.core.piece.former import is_former, read_document
from drelo.core.piece.history.lines import MOST
from drelo.core.piece.history.telling import Told, told
from drelo.store.author import author
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
    """There is no such piece, or no such revision of it."""


class Revisions:
    """Every method works within a transaction of the caller's.

    bring_up: for documents that an earlier version stored.
    """

    def __init__(self, sessions: sessionmaker[Session], bring_up: BringUp | None = None) -> None:
        self._sessions = sessions
        self._bring_up = bring_up
        self._documents = _Documents()

    def brings_up(self, bring_up: BringUp) -> None:
        """Take a way to bring up documents of earlier versions."""
        self._bring_up = bring_up

    def of(self, session: Session, piece_id: str, revision: int) -> Document:
        """The document of a revision of this very piece. Raises NotFound."""
        owner = session.scalar(select(Revision.piece_id).where(Revision.id == revision))
        if owner != piece_id:
            raise NotFound
        return self.document(session, revision)

    def add(
        self,
        session: Session,
        piece: Piece,
        parent: Row | None,
        edit: Edit | None,
        document: Document,
        request: str | None = None,
        said: Sequence[Told] | None = None,
    ) -> Row:
        """Append a revision and show it. said: what it changed, where that does not follow from the documents."""
        change, steps, changes = None, 0, tuple(said or ())
        if parent is not None:
            before = self.document(session, parent.id)
            changes = changes or told(before, document, edit)
            if parent.steps < MOST_STEPS:
                change, steps = _stored(difference(before.__dict__, document.__dict__, LISTED)), parent.steps + 1
        revision = Revision(
            piece_id=piece.id,
            parent=parent.id if parent else None,
            edit=None if edit is None else EDIT.dump_python(edit, mode="json", exclude_unset=True) | {"do": edit.do},
            document=None if change is not None else document.model_dump(mode="json"),
            change=change,
            steps=steps,
            request=request,
            by_account=author.get(),
            told=_kept(changes),
            more=max(0, len(changes) - MOST),
        )
        session.add(revision)
        session.flush()
        piece.current = piece.tip = revision.id
        piece.updated = now()
        piece.empty = document.empty
        self._documents.put(revision.id, document)
        return Row(revision.id, revision.parent, steps)

    def rehang(self, session: Session, revision: int, parent: int) -> None:
        """Let a revision follow another one than before, with the same document."""
        document, before = self.document(session, revision), self.document(session, parent)
        steps = (session.scalar(select(Revision.steps).where(Revision.id == parent)) or 0) + 1
        changes = told(before, document)
        whole = steps > MOST_STEPS
        values = {
            "parent": parent,
            "document": document.model_dump(mode="json") if whole else None,
            "change": None if whole else _stored(difference(before.__dict__, document.__dict__, LISTED)),
            "steps": 0 if whole else steps,
            "told": _kept(changes),
            "more": max(0, len(changes) - MOST),
        }
        session.execute(update(Revision).where(Revision.id == revision).values(**values))

    def document(self, session: Session, revision: int) -> Document:
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


def living(session: Session, piece_id: str) -> Piece:
    """A piece that is not deleted. Raises NotFound."""
    piece = session.get(Piece, piece_id)
    if piece is None or piece.deleted is not None:
        raise NotFound
    return piece


def standing(session: Session, piece: Piece) -> Row:
    """The revision that is shown. Raises NotFound."""
    row = session.execute(
        select(Revision.id, Revision.parent, Revision.steps).where(Revision.id == piece.current)
    ).one_or_none()
    if row is None:
        raise NotFound
    return Row(*row)


@dataclass(frozen=True)
class Row:
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


def _kept(changes: Sequence[Told]) -> list[dict[str, Any]]:
    return [one.model_dump(mode="json", exclude_defaults=True) for one in changes[:MOST]]


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
