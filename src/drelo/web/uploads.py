"""Files that come with a request."""

from __future__ import annotations

from werkzeug.datastructures import FileStorage

from drelo.core.errors import Refusal
from drelo.core.picture.decode import MAX_BYTES


def uploaded(file: object, unnamed: str = "") -> tuple[bytes, str]:
    """The bytes of a file that was sent, a little more than the most that is taken at the utmost, and its name.

    Raises Refusal where text was sent in the place of a file.
    """
    if not isinstance(file, FileStorage):
        raise Refusal("upload.not-a-file", "file")
    return file.stream.read(MAX_BYTES + 1), file.filename or unnamed
