"""The data folder: where it is, and that only one copy works on it."""

from __future__ import annotations

import fcntl
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

from pymysql.err import OperationalError

from drelo.core.errors import Refusal
from drelo.settings import PREFIX, settings
from drelo.store.server import Address, Server, ServerError, create_database, elsewhere, told

T = TypeVar("T")
DATA_VARIABLE = f"{PREFIX}DATA"
DATABASE = "drelo"


def data_folder() -> Path:
    return settings().data


def step(name: str, action: Callable[[], T]) -> T:
    """Does one step of a command. Raises Refusal naming it."""
    try:
        return action()
    except (ServerError, OSError, OperationalError) as error:
        raise Refusal("start.step-failed", name=name, reason=str(error)) from None


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Only one copy works on a data folder."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / "lock").open("w")
    except OSError as error:
        raise Refusal("folder.unusable", folder=folder, reason=error.strerror, setting=DATA_VARIABLE) from None
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Refusal("folder.taken", folder=folder, setting=DATA_VARIABLE) from None
        yield


def _is_worked_on(folder: Path) -> bool:
    try:
        with alone(folder):
            return False
    except Refusal:
        return True


@contextmanager
def database(folder: Path, beside: bool = False) -> Iterator[Address]:
    """The database of a data folder: for this command alone, or beside a Drelo that works on it.

    Where DRELO_DATABASE says that it is on a server of its own, that one.
    """
    if settings().database:
        address = step("database", lambda: elsewhere(settings().database))
        step("database", lambda: create_database(address, DATABASE))
        yield address
        return
    running = told(folder) if beside and _is_worked_on(folder) else None
    if running is not None:
        yield running
        return
    with alone(folder):
        server = Server(folder)
        address = step("database", server.start)
        try:
            step("database", lambda: create_database(address, DATABASE))
            yield address
        finally:
            server.stop()
