"""The data folder: where it is, and that only one copy works on it."""

from __future__ import annotations

import fcntl
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

from drelo.core.errors import Refusal
from drelo.settings import PREFIX, settings
from drelo.store.server import Address, Server, ServerError, create_database

T = TypeVar("T")
DATA_VARIABLE = f"{PREFIX}DATA"
DATABASE = "drelo"


def data_folder() -> Path:
    return settings().data


def step(name: str, action: Callable[[], T]) -> T:
    """Does one step of a command. Raises Refusal naming it."""
    try:
        return action()
    except (ServerError, OSError) as error:
        raise Refusal(f"{name} failed: {error}") from None


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Only one copy works on a data folder."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / "lock").open("w")
    except OSError as error:
        raise Refusal(f"The data folder {folder} cannot be used: {error.strerror}. Set {DATA_VARIABLE}.") from None
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Refusal(
                f"Another Drelo works on the data folder {folder}. Stop it, or set {DATA_VARIABLE} to another folder."
            ) from None
        yield


@contextmanager
def database(folder: Path) -> Iterator[Address]:
    """The database of a data folder, for this command alone."""
    with alone(folder):
        server = Server(folder)
        address = step("database", server.start)
        try:
            step("database", lambda: create_database(address, DATABASE))
            yield address
        finally:
            server.stop()
