"""Documents on their way to workers: each is sent once, and from then on only what changed.

A document has a name that stands for its content: that of a stored revision, or of the one before and what changed.
A worker keeps the latest documents by their names.
"""

from __future__ import annotations

import hashlib
import secrets
import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

from pydantic import TypeAdapter

from drelo.core.piece.difference import Difference, difference, put_on
from drelo.core.piece.document import Document

LISTED = ("drawn", "regions")
# Documents that each side knows by name.
KEEP = 512
KEEP_IN_WORKER = 96
_ANY: TypeAdapter[Any] = TypeAdapter(Any)


@dataclass(frozen=True)
class Parcel:
    """A document by its name; with what it differs by from another one that the worker may hold, or whole."""

    name: str
    before: str | None = None
    change: Difference | None = None
    whole: Document | None = None


class DocumentMissing(LookupError):
    """The worker does not hold a document; ask again with it."""

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.name = name


class Sender:
    """Names documents, and packs them for workers."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        # The documents are held, so that their numbers stay their own.
        self._known: OrderedDict[int, tuple[Document, Parcel]] = OrderedDict()

    def parcel(self, document: Document) -> Parcel:
        """The document without its content, but for what it differs by from the one that it was made of."""
        with self._lock:
            found = self._known.get(id(document))
            if found is not None:
                self._known.move_to_end(id(document))
                return found[1]
        return self._keep(document, Parcel(secrets.token_hex(16)))

    def changed(self, before: Document, after: Document) -> Parcel:
        """Names a document by the one that it was made of and what changed; the same change, the same name."""
        base = self.parcel(before)
        change = difference(before.__dict__, after.__dict__, LISTED)
        told = _ANY.dump_json([base.name, change.fields, {n: [r.order, r.changed] for n, r in change.rows.items()}])
        return self._keep(after, Parcel(hashlib.sha256(told).hexdigest()[:32], base.name, change))

    def _keep(self, document: Document, parcel: Parcel) -> Parcel:
        with self._lock:
            self._known[id(document)] = (document, parcel)
            while len(self._known) > KEEP:
                self._known.popitem(last=False)
        return parcel


_documents: OrderedDict[str, Document] = OrderedDict()


def opened(parcel: Parcel) -> Document:
    """The document of a parcel, in a worker. Raises DocumentMissing."""
    found = _documents.get(parcel.name)
    if found is None:
        if parcel.whole is not None:
            found = parcel.whole
        else:
            before = _documents.get(parcel.before or "")
            if before is None or parcel.change is None:
                raise DocumentMissing(parcel.name)
            after = put_on(before.__dict__, parcel.change, lambda row: row.id)
            found = before.model_copy(update=after)
        _documents[parcel.name] = found
    _documents.move_to_end(parcel.name)
    while len(_documents) > KEEP_IN_WORKER:
        _documents.popitem(last=False)
    return found
