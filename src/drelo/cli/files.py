"""Files read whole and written whole or not at all."""

from __future__ import annotations

import json
import os
import shutil
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from drelo.core.errors import Refusal


def read(path: Path, what: str, limit: int) -> bytes:
    """All bytes of a file. Raises Refusal when it cannot be read or has more than `limit` bytes."""
    try:
        if path.stat().st_size > limit:
            raise Refusal("file.too-large", what=what, path=path, megabytes=limit // 2**20)
        return path.read_bytes()
    except OSError as error:
        raise Refusal("file.unreadable", what=what, path=path, reason=error.strerror or error) from None


def write(path: Path, data: bytes) -> None:
    """Write through a neighbour, so that a failure leaves nothing behind."""
    try:
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    except OSError as error:
        raise Refusal("file.unwritable", path=path, reason=error.strerror or error) from None
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        os.chmod(name, 0o666 & ~_umask())
        os.replace(name, path)
    except OSError as error:
        Path(name).unlink(missing_ok=True)
        raise Refusal("file.unwritable", path=path, reason=error.strerror or error) from None


@contextmanager
def together(out: Path) -> Iterator[Path]:
    """A folder beside `out` whose files all move into it at the end, or none. Raises Refusal."""
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        folder = Path(tempfile.mkdtemp(dir=out.parent, prefix=f".{out.name}."))
    except OSError as error:
        raise Refusal("file.unwritable", path=out, reason=error.strerror or error) from None
    try:
        yield folder
        out.mkdir(exist_ok=True)
        for path in sorted(folder.iterdir()):
            path.chmod(0o666 & ~_umask())
            path.replace(out / path.name)
    except OSError as error:
        raise Refusal("file.unwritable", path=out, reason=error.strerror or error) from None
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def progress(done: int, of: int, what: str) -> None:
    """A line on a terminal that is written over; nothing where nobody watches."""
    if sys.stderr.isatty():
        end = "\n" if done == of else ""
        print(f"\r\033[K{done} of {of}: {what}", end=end, file=sys.stderr, flush=True)


def write_report(path: Path | None, report: dict[str, Any]) -> None:
    if path is not None:
        write(path, (json.dumps(report, indent=2, ensure_ascii=False) + "\n").encode())


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
