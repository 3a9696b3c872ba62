"""A piece as one open file: a ZIP of its document, the pictures and fonts that it needs, and its named versions.

`piece.json` is described by `piece.schema.json`, which lies beside it in the ZIP. Bytes are named by their SHA-256.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path, PurePosixPath
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.formats.archive import read_zip, zipped
from drelo.formats.names import file_name

KIND = "drelo piece"
VERSION = 1
PIECE, README, SCHEMA, THUMBNAIL = "piece.json", "README.txt", "piece.schema.json", "thumbnail.svg"
SUFFIX = "-piece.zip"
# So many files an archive may hold, and so many bytes, packed or unpacked: pictures are packed in themselves.
MAX_FILES = 600
MAX_BYTES = 192 * 2**20
MAX_VERSIONS = 1000
# The documents themselves may have so many bytes.
MAX_PIECE = 64 * 2**20
_FONT = re.compile(r"[0-9a-f]{64}")
_ENDINGS = {
    "image/png": "png",
    "image/jpeg": "jpg",
    "image/webp": "webp",
    "image/gif": "gif",
    "image/bmp": "bmp",
    "image/tiff": "tif",
    "font/sfnt": "ttf",
}


@dataclass(frozen=True)
class NamedVersion:
    """A version that the maker named. made: ISO 8601, UTC. document: as it was stored, of whichever version."""

    name: str
    made: str
    document: Mapping[str, Any]


@dataclass(frozen=True, eq=False)
class PieceArchive:
    """What an archive holds. versions: the oldest first. assets: bytes and media types by their SHA-256."""

    name: str
    document: Mapping[str, Any]
    versions: tuple[NamedVersion, ...]
    assets: Mapping[str, tuple[bytes, str]]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class FileEntry(_Strict):
    """A file of the archive."""

    path: Annotated[str, Field(min_length=1, max_length=300)]
    media_type: Annotated[str, Field(min_length=1, max_length=60)]


class VersionEntry(_Strict):
    """A named version. made: ISO 8601, UTC."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    made: Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d{1,6})?(\+00:00|Z)$")]
    document: dict[str, Any]


class PieceFile(_Strict):
    """`piece.json`. document: what the maker decided; files: the bytes that it and the versions name, by SHA-256."""

    kind: Literal["drelo piece"]
    version: Literal[1]
    name: Annotated[str, Field(min_length=1, max_length=200)]
    document: dict[str, Any]
    versions: Annotated[list[VersionEntry], Field(max_length=MAX_VERSIONS)] = []
    files: dict[Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")], FileEntry] = {}


def write_archive(archive: PieceArchive, thumbnail: bytes) -> bytes:
    """The ZIP. The same piece gives the same bytes."""
    files: dict[str, FileEntry] = {}
    packed: dict[str, bytes] = {}
    titles = dict(_titles((archive.document, *(v.document for v in archive.versions))))
    for sha256, (data, media_type) in sorted(archive.assets.items()):
        folder = "fonts" if media_type.startswith("font/") else "pictures"
        stem = file_name(PurePosixPath(titles.get(sha256, "file")).stem)
        path = f"{folder}/{stem}-{sha256[:12]}.{_ENDINGS.get(media_type, 'bin')}"
        files[sha256] = FileEntry(path=path, media_type=media_type)
        packed[path] = data
    told = PieceFile(
        kind="drelo piece",
        version=1,
        name=archive.name,
        document=dict(archive.document),
        versions=[VersionEntry(name=v.name, made=v.made, document=dict(v.document)) for v in archive.versions],
        files=files,
    )
    text = json.dumps(told.model_dump(mode="json"), indent=1, ensure_ascii=False)
    return zipped(
        {
            README: _readme(archive, files).encode(),
            PIECE: text.encode(),
            SCHEMA: _schema_text().encode(),
            THUMBNAIL: thumbnail,
            **packed,
        }
    )


def read_archive(data: bytes) -> PieceArchive:
    """What an archive holds; every file is held against its name. Raises Refusal.

    A ZIP that holds no piece is refused with the field "kind".
    """
    files = read_zip(data, MAX_FILES, MAX_BYTES)
    text = files.get(PIECE)
    if text is None:
        raise Refusal("archive.no-piece-file", "kind")
    told = _told(text)
    assets = {}
    for sha256, entry in told.files.items():
        found = files.get(entry.path)
        if found is None:
            raise Refusal("archive.file-missing", "files", path=entry.path)
        if hashlib.sha256(found).hexdigest() != sha256:
            raise Refusal("archive.file-changed", "files", path=entry.path)
        assets[sha256] = (found, entry.media_type)
    for document in (told.document, *(v.document for v in told.versions)):
        for sha256 in assets_of(document):
            if sha256 not in assets:
                raise Refusal("archive.asset-missing", "files")
    versions = tuple(NamedVersion(v.name, v.made, v.document) for v in told.versions)
    return PieceArchive(told.name, told.document, versions, assets)


def assets_of(document: Mapping[str, Any]) -> Iterator[str]:
    """SHA-256 of every picture and font that a stored document names, of whichever version."""
    for sha256, _ in _titles((document,)):
        yield sha256


def piece_schema() -> dict[str, Any]:
    """JSON Schema of `piece.json`, with that of the document as it is now."""
    schema = PieceFile.model_json_schema()
    document = Document.model_json_schema(ref_template="#/$defs/{model}")
    schema["$defs"] |= document.pop("$defs", {}) | {"Document": document}
    schema["properties"]["document"] = {"$ref": "#/$defs/Document"}
    schema["$defs"]["VersionEntry"]["properties"]["document"] = {"$ref": "#/$defs/Document"}
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "A piece of Drelo"
    return schema


def shipped_schema() -> Path:
    """Where the published schema lies."""
    return Path(__file__).with_name(SCHEMA)


@cache
def _schema_text() -> str:
    return shipped_schema().read_text()


def _told(text: bytes) -> PieceFile:
    if len(text) > MAX_PIECE:
        raise Refusal("archive.too-large-a-piece", PIECE, megabytes=MAX_PIECE // 2**20)
    try:
        value = json.loads(text)
    except (ValueError, RecursionError):
        raise Refusal("archive.piece-unreadable", PIECE) from None
    if not isinstance(value, dict) or value.get("kind") != KIND:
        raise Refusal("archive.no-piece", "kind")
    version = value.get("version")
    if isinstance(version, int) and version > VERSION:
        raise Refusal("archive.newer", "version", version=version)
    try:
        return PieceFile.model_validate(value)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        raise Refusal("archive.invalid", where, where=where, problem=first["msg"]) from None


def _titles(documents: Sequence[Mapping[str, Any]]) -> Iterator[tuple[str, str]]:
    """SHA-256 and what it is called, of every picture and font that documents name."""
    for document in documents:
        for picture in _rows(document.get("pictures")) or _rows([document.get("source")]):
            if isinstance(picture.get("asset"), str):
                yield picture["asset"], str(picture.get("name", "picture"))
        for thing in _rows(document.get("drawn")):
            font = thing.get("font")
            if isinstance(font, str) and _FONT.fullmatch(font):
                yield font, "font"


def _rows(value: Any) -> list[Mapping[str, Any]]:
    return [row for row in value if isinstance(row, dict)] if isinstance(value, list | tuple) else []


def _readme(archive: PieceArchive, files: Mapping[str, FileEntry]) -> str:
    lines = [
        f"{archive.name}",
        "",
        "A piece of Drelo, which turns pictures into outlines and outlines into solids to print.",
        "Drop this ZIP on Drelo's page to go on with it, or: ./drelo piece import FILE.zip",
        "",
        f"{PIECE:<20} all that was decided: pictures, outlines, heights, form, filaments (lengths in mm)",
        f"{SCHEMA:<20} what {PIECE} may hold (JSON Schema)",
        f"{THUMBNAIL:<20} how it looks from above",
        *(f"{entry.path}" for entry in files.values()),
    ]
    if archive.versions:
        lines += [
            "",
            "Named versions:",
            *(f"  {v.made[:16].replace('T', ' ')}  {v.name}" for v in archive.versions),
        ]
    lines += ["", "Pictures and fonts are unchanged; their own licences still apply.", ""]
    return "\n".join(lines)
