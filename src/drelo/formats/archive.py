"""Several files in one, as ZIP."""

from __future__ import annotations

import io
import lzma
import struct
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from drelo.core.errors import Refusal

MAX_FILES = 100
MAX_UNPACKED = 100 * 2**20
# Half the time of the usual level for a twentieth more bytes.
QUICK = 1
# What the library raises where an archive, or what is packed in it, is broken.
BROKEN = (
    zipfile.BadZipFile,
    NotImplementedError,
    RuntimeError,
    LookupError,
    EOFError,
    OSError,
    OverflowError,
    UnicodeError,
    struct.error,
    zlib.error,
    lzma.LZMAError,
)
# Kinds of files that are packed in themselves.
PACKED = (".3mf", ".zip", ".png")
# A fixed date, so that the same files give the same bytes.
_DATE = (1980, 1, 1, 0, 0, 0)


def zipped(files: Mapping[str, bytes]) -> bytes:
    """A ZIP of files by their names."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for name, data in files.items():
            # An entry of its own does not take the archive's level over.
            archive.writestr(zipfile.ZipInfo(name, _DATE), data, zipfile.ZIP_DEFLATED, QUICK)
    return packed.getvalue()


def zip_stream(files: Iterable[tuple[str, bytes]]) -> Iterator[bytes]:
    """A ZIP of names and files, in pieces as they come: never more than one file is held."""
    out = _Pieces()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in files:
            packed = name.endswith(PACKED)
            how = zipfile.ZIP_STORED if packed else zipfile.ZIP_DEFLATED
            archive.writestr(zipfile.ZipInfo(name, _DATE), data, how, QUICK)
            yield out.taken()
    yield out.taken()


class _Pieces(io.RawIOBase):
    """Takes what is written, to be fetched piece by piece; there is no going back in it."""

    def __init__(self) -> None:
        self._held: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: Any, /) -> int:
        self._held.append(bytes(data))
        return len(data)

    def taken(self) -> bytes:
        found = b"".join(self._held)
        self._held.clear()
        return found


def unzipped(data: bytes) -> dict[str, bytes]:
    """The files of a ZIP of our own."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def read_zip(data: bytes, most_files: int = MAX_FILES, most_bytes: int = MAX_UNPACKED) -> dict[str, bytes]:
    """The files of somebody's ZIP. Raises Refusal when it is broken, locked, or unpacks to more than is taken."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = [e for e in archive.infolist() if not e.is_dir()]
            if len(entries) > most_files or sum(e.file_size for e in entries) > most_bytes:
                raise Refusal("zip.too-large", "files", files=most_files, megabytes=most_bytes // 2**20)
            # A reader stops at the size that an entry states, so that no entry can unpack to more.
            return {e.filename: archive.read(e) for e in entries}
    except BROKEN as error:
        raise Refusal("zip.unreadable", "files", reason=str(error)) from None
    except ValueError as error:
        if isinstance(error, Refusal):
            raise
        raise Refusal("zip.damaged", "files") from None
