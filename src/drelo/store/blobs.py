"""Assets and derived bytes."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import func, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.author import author
from drelo.store.models import Asset, Derived, now

# Bytes that are sent to the database at a time.
PACKET = 8 * 2**20
# So long it may take until bytes are taken that somebody asked for.
WANTED = timedelta(hours=2)


@dataclass(frozen=True)
class Bytes:
    """What a maker brought, and its media type."""

    data: bytes
    media_type: str


def store(session: Session, brought: Bytes) -> str:
    """Store bytes within a transaction and return their SHA-256; the same bytes are stored once."""
    sha256 = hashlib.sha256(brought.data).hexdigest()
    values = {
        "sha256": sha256,
        "media_type": brought.media_type,
        "data": brought.data,
        "owner": author.get(),
        "created": now(),
    }
    session.execute(insert(Asset).values(**values).prefix_with("IGNORE"))
    return sha256


class Assets:
    """What makers brought, stored once by content."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def put(self, data: bytes, media_type: str) -> str:
        """Store bytes and return their SHA-256; the same bytes are stored once."""
        with self._sessions.begin() as session:
            return store(session, Bytes(data, media_type))

    def get(self, sha256: str) -> bytes | None:
        with self._sessions() as session:
            row = session.get(Asset, sha256)
            return None if row is None else row.data

    def find(self, sha256: str) -> tuple[bytes, str] | None:
        """Bytes and media type."""
        with self._sessions() as session:
            row = session.get(Asset, sha256)
            return None if row is None else (row.data, row.media_type)


class DerivedBytes:
    """A cache that may be emptied at any time."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def put(self, key: str, data: bytes, media_type: str, wanted: timedelta = WANTED) -> None:
        """Keep bytes. wanted: for so long they stay, however much is kept."""
        self.put_all({key: data}, media_type, wanted)

    def put_all(self, found: Mapping[str, bytes], media_type: str, wanted: timedelta = WANTED) -> None:
        """Keep bytes by their keys, many in one transaction: each of these is waited for until it lies on the disk."""
        for some in _packets(found.items()):
            moment = now()
            about = {"media_type": media_type, "created": moment, "wanted": moment + wanted}
            with self._sessions.begin() as session:
                values = insert(Derived).values(
                    [{"key": key, "data": data, "size": len(data), **about} for key, data in some]
                )
                told = values.inserted
                again = {name: told[name] for name in ("data", "size", "media_type", "wanted")}
                session.execute(values.on_duplicate_key_update(again))

    def want(self, *keys: str, wanted: timedelta = WANTED) -> None:
        """Bytes that were made on the side are about to be taken."""
        with self._sessions.begin() as session:
            session.execute(update(Derived).where(Derived.key.in_(keys)).values(wanted=now() + wanted))

    def has(self, *keys: str) -> bool:
        """Whether all of these bytes are there, without reading them."""
        with self._sessions() as session:
            known = session.scalar(select(func.count()).select_from(Derived).where(Derived.key.in_(keys)))
            return known == len(set(keys))

    def get(self, key: str) -> tuple[bytes, str] | None:
        """Bytes and media type."""
        with self._sessions() as session:
            row = session.get(Derived, key)
            return None if row is None else (row.data, row.media_type)


def _packets(found: Iterable[tuple[str, bytes]]) -> Iterator[list[tuple[str, bytes]]]:
    """In parts of no more than PACKET bytes, or of one that is larger."""
    some: list[tuple[str, bytes]] = []
    size = 0
    for key, data in found:
        if some and size + len(data) > PACKET:
            yield some
            some, size = [], 0
        some.append((key, data))
        size += len(data)
    if some:
        yield some
