"""Several files in one, as ZIP."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping

# A fixed date, so that the same files give the same bytes.
_DATE = (1980, 1, 1, 0, 0, 0)


def zipped(files: Mapping[str, bytes]) -> bytes:
    """A ZIP of files by their names."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
        for name, data in files.items():
            entry = zipfile.ZipInfo(name, _DATE)
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, data)
    return packed.getvalue()


def unzipped(data: bytes) -> dict[str, bytes]:
    """The files of a ZIP of our own."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}
