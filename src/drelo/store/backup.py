"""Backups: everything that makers brought and made, as one ZIP of SQL and what is known of it."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import subprocess
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import IO

from drelo.core.errors import Refusal
from drelo.store.server import Address, ServerError

KIND, VERSION = "drelo backup", 1
SQL, MANIFEST = "drelo.sql", "backup.json"
BLOCK = 2**20
# What can be made again is left out.
LEFT_OUT = "derived"


@dataclass(frozen=True)
class Backup:
    """What a backup says of itself: size and SHA-256 of its SQL."""

    kind: str
    version: int
    bytes: int
    sha256: str


def back_up(address: Address, database: str, out: Path) -> Backup:
    """Write a backup; a failure leaves nothing behind. Raises ServerError."""
    fresh = out.with_name(f".{out.name}.new")
    digest, size = hashlib.sha256(), 0
    words = ["--single-transaction", "--skip-lock-tables", "--no-tablespaces", "--hex-blob"]
    words += ["--default-character-set=utf8mb4", f"--ignore-table-data={database}.{LEFT_OUT}", database]
    try:
        with _client("mariadb-dump", address, words, stdout=subprocess.PIPE) as process:
            assert process.stdout is not None
            with zipfile.ZipFile(fresh, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
                with archive.open(SQL, "w", force_zip64=True) as entry:
                    while block := process.stdout.read(BLOCK):
                        digest.update(block)
                        size += len(block)
                        entry.write(block)
                made = Backup(KIND, VERSION, size, digest.hexdigest())
                archive.writestr(MANIFEST, json.dumps(asdict(made), indent=1))
        os.replace(fresh, out)
    finally:
        fresh.unlink(missing_ok=True)
    return made


def verify(path: Path) -> Backup:
    """What a backup says of itself, held against what it holds. Raises Refusal when it is none or damaged."""
    with _opened(path) as archive:
        told = _manifest(archive)
        digest, size = hashlib.sha256(), 0
        with archive.open(SQL) as entry:
            while block := entry.read(BLOCK):
                digest.update(block)
                size += len(block)
    if (size, digest.hexdigest()) != (told.bytes, told.sha256):
        raise Refusal("backup.damaged", path=path)
    return told


def restore(address: Address, database: str, path: Path) -> None:
    """Fill a new, empty database from a backup that was verified. Raises ServerError."""
    with _opened(path) as archive, archive.open(SQL) as entry:
        words = ["--default-character-set=utf8mb4", database]
        with _client("mariadb", address, words, stdin=subprocess.PIPE) as process:
            assert process.stdin is not None
            with process.stdin:
                _copy(entry, process.stdin)


def _copy(source: IO[bytes], to: IO[bytes]) -> None:
    try:
        shutil.copyfileobj(source, to, BLOCK)
    except BrokenPipeError:
        # What the program says at its end tells more.
        return


@contextmanager
def _client(program: str, address: Address, words: list[str], **pipes: int) -> Iterator[subprocess.Popen[bytes]]:
    """A program of the database beside its server; raises ServerError when it fails."""
    found = shutil.which(program)
    if found is None:
        raise ServerError(f"{program} is missing. Install Debian's package mariadb-client.")
    where = ["--no-defaults", "--protocol=tcp", f"--host={address.host}", f"--port={address.port}"]
    where += [f"--user={address.user}", f"--ssl-ca={address.ca}" if address.ca else "--skip-ssl"]
    process = subprocess.Popen(
        [found, *where, *words],
        env={**os.environ, "MYSQL_PWD": address.password},
        stderr=subprocess.PIPE,
        **pipes,  # type: ignore[call-overload]
    )
    try:
        yield process
        said = process.stderr.read().decode(errors="replace").strip() if process.stderr else ""
        if process.wait():
            raise ServerError(f"{program} failed: {said[-400:]}")
    finally:
        process.kill()
        process.wait()
        for pipe in (process.stdout, process.stderr):
            if pipe is not None:
                pipe.close()


@contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    try:
        with zipfile.ZipFile(path) as archive:
            yield archive
    except OSError as error:
        raise Refusal("backup.unreadable", path=path, reason=error.strerror or error) from None
    except (zipfile.BadZipFile, KeyError, zlib.error, EOFError):
        raise Refusal("backup.not-one", path=path) from None


def _manifest(archive: zipfile.ZipFile) -> Backup:
    try:
        told = Backup(**json.loads(archive.read(MANIFEST)))
    except (ValueError, TypeError):
        raise zipfile.BadZipFile from None
    if told.kind != KIND:
        raise zipfile.BadZipFile
    if told.version > VERSION:
        raise Refusal("backup.newer")
    return told
