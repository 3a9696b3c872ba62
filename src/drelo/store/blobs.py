"""Assets and derived bytes."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.author import author
from drelo.store.models import Asset, Derived, now


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

    def put(self, key: str, data: bytes, media_type: str) -> None:
        with self._sessions.begin() as session:
            values = insert(Derived).values(key=key, media_type=media_type, data=data, created=now())
            session.execute(values.on_duplicate_key_update(data=data, media_type=media_type))

    def has(self, key: str) -> bool:
        """Whether bytes are there, without reading them."""
        with self._sessions() as session:
            return session.scalar(select(Derived.key).where(Derived.key == key)) is not None

    def get(self, key: str) -> tuple[bytes, str] | None:
        """Bytes and media type."""
        with self._sessions() as session:
            row = session.get(Derived, key)
            return None if row is None else (row.data, row.media_type)
