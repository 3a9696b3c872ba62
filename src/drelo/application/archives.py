"""Pieces on their way out and in as archives."""

from __future__ import annotations

from datetime import UTC, datetime

from drelo.application.bench import Bench
from drelo.application.intake import MAX_NAME
from drelo.core.errors import Refusal
from drelo.formats.piece_archive import (
    MAX_BYTES,
    MAX_FILES,
    MAX_VERSIONS,
    NamedVersion,
    PieceArchive,
    assets_of,
    write_archive,
)
from drelo.formats.thumbnail import thumbnail
from drelo.store.blobs import Bytes
from drelo.store.pieces import Earlier, State
from drelo.work.archives import TakenArchive, take_archive


def archive_of(bench: Bench, piece_id: str) -> bytes:
    """A piece as it stands, with its named versions, as one file. Raises Refusal where it would be too large."""
    state = bench.pieces.get(piece_id)
    named = [s for s in reversed(bench.history.past(piece_id).steps) if s.name][-MAX_VERSIONS:]
    versions = tuple(
        NamedVersion(
            step.name or "",
            datetime.fromtimestamp(step.made, UTC).isoformat(),
            bench.pieces.at(piece_id, step.revision).model_dump(mode="json"),
        )
        for step in named
    )
    document = state.document.model_dump(mode="json")
    assets: dict[str, tuple[bytes, str]] = {}
    for stored in (document, *(v.document for v in versions)):
        for sha256 in assets_of(stored):
            if sha256 not in assets:
                assets[sha256] = _asset(bench, sha256)
    if len(assets) + 4 > MAX_FILES or sum(len(data) for data, _ in assets.values()) > MAX_BYTES * 0.9:
        raise Refusal("archive.too-many-pictures", megabytes=MAX_BYTES // 2**20)
    flat = bench.flat_aside(piece_id, state.document)
    return write_archive(PieceArchive(state.name, document, versions, assets), thumbnail(state.document, flat))


def take(bench: Bench, key: str, data: bytes) -> TakenArchive:
    """Work an archive out for a piece that is not there yet. Raises Refusal when it cannot be used."""
    return bench.pool.run(key, take_archive, data)


def keep(bench: Bench, key: str, taken: TakenArchive) -> State:
    """Store what an archive brought as a new piece, its named versions as its past."""
    past = [Earlier(name, _moment(made), document) for name, made, document in taken.past]
    brings = [Bytes(data, kind) for data, kind in taken.assets.values()]
    return bench.pieces.create(taken.name[:MAX_NAME], taken.document, key=key, brings=brings, past=past)


def _asset(bench: Bench, sha256: str) -> tuple[bytes, str]:
    found = bench.assets.find(sha256)
    if found is None:
        raise Refusal("piece.asset-missing", "pictures")
    return found


def _moment(made: str) -> datetime:
    return datetime.fromisoformat(made).astimezone(UTC).replace(tzinfo=None)
