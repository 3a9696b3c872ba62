"""A worker process: takes one job after the other from a connection, and can be told to stop the one it is at."""

from __future__ import annotations

import ctypes
import gc
import os
import pickle
import resource
import signal
from collections.abc import Callable
from multiprocessing import parent_process
from multiprocessing.connection import Connection
from types import FrameType
from typing import Any

from drelo.core.errors import Refusal, Superseded
from drelo.guard import drop_rights, end_with_parent

# How seldom a worker looks for rings of references: objects made, and rounds of the two younger generations.
COLLECT = (50_000, 20, 50)
# Memory that jobs may take beyond what a worker begins with, bytes.
MEMORY = 3 * 2**30
# A worker that holds more than this, bytes, forgets the older half of what it remembers.
FULL = 700 * 2**20
# A job that is to stop while something is loaded is told again after so long, s.
AGAIN = 0.02

Task = tuple[int, Callable[..., Any], tuple[Any, ...]]
"""The number of a job, its function and its arguments."""

# The number of the job that is to stop, which the parent writes; the one that this worker is at.
_stopped: Any = None
_job = 0


def serve(connection: Connection, stopped: Any) -> None:
    """What a worker does all its life: jobs come as `Task`, answers go as (whether good, result or error, memory).

    What a job tells while it goes on is sent as an answer of which it is not known yet whether it is good: None.
    """
    global _stopped
    _stopped = stopped
    # It ends with its parent, however that ends.
    end_with_parent()
    parent = parent_process()
    if parent is not None and not parent.is_alive():
        # It was gone before it could be heeded.
        return
    # Where the program is somebody else's, root keeps compiled loops there by rights that others have not.
    if os.stat(__file__).st_uid == os.geteuid():
        drop_rights()
    # Ctrl+C reaches the whole terminal group; workers end when their pool is closed.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    for each in (signal.SIGUSR1, signal.SIGALRM):
        signal.signal(each, _heed)
    from drelo.work import tasks

    tasks.warm()
    # What a worker remembers is large and holds no rings of references: to go through it all takes longer than a job.
    gc.freeze()
    gc.set_threshold(*COLLECT)
    _limit_memory()
    connection.send(None)
    while True:
        try:
            task: Task | None = connection.recv()
        except EOFError:
            return
        if task is None:
            # A sign of life.
            connection.send(None)
            continue
        number, function, arguments = task
        good, value = _answer(number, function, arguments, connection)
        del task, function, arguments
        try:
            connection.send((good, value, _memory()))
        except (TypeError, AttributeError, pickle.PicklingError) as error:
            connection.send((False, RuntimeError(f"{value!r} cannot be sent: {error}"), _memory()))
        del value
        if _memory() > FULL:
            tasks.forget_half()
            gc.collect()
            # What was freed goes back to the system.
            ctypes.CDLL(None).malloc_trim(0)


class _Watch:
    """As `Watch` of the workers has it."""

    def __init__(self, number: int, connection: Connection) -> None:
        self._number, self._connection = number, connection

    def __call__(self) -> None:
        if _stopped.value == self._number:
            raise Superseded

    def tell(self, what: Any) -> None:
        global _job
        # Stopped in the middle of it, half an answer would be on its way.
        _job = 0
        try:
            self._connection.send((None, what, 0))
        finally:
            _job = self._number
        self()


def _answer(
    number: int, function: Callable[..., Any], arguments: tuple[Any, ...], connection: Connection
) -> tuple[bool, Any]:
    global _job
    checkpoint = _Watch(number, connection)
    try:
        try:
            _job = number
            checkpoint()
            return True, function(checkpoint, *arguments)
        finally:
            _job = 0
    except Exception as error:
        return False, _told(error)


def _told(error: Exception) -> Exception:
    """An error as the parent gets it: what ran out of memory says so."""
    if isinstance(error, MemoryError) or "bad_alloc" in str(error):
        return Refusal("work.too-much-memory")
    return error


def _heed(_signal: int, frame: FrameType | None) -> None:
    """Ends the job that is to stop; between jobs there is nothing to end."""
    global _job
    if not _job or _stopped.value != _job:
        return
    if _is_loading(frame):
        signal.setitimer(signal.ITIMER_REAL, AGAIN)
        return
    _job = 0
    raise Superseded


def _is_loading(frame: FrameType | None) -> bool:
    """Whether a module or a compiled loop is being loaded: half loaded it would be of no use to all later jobs."""
    while frame is not None:
        place = frame.f_code.co_filename
        if place.startswith("<frozen importlib") or "/numba/" in place:
            return True
        frame = frame.f_back
    return False


def _limit_memory() -> None:
    with open("/proc/self/statm", "rb") as file:
        size = int(file.read().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (size + MEMORY, resource.RLIM_INFINITY))


def _memory() -> int:
    """Bytes that this process holds."""
    with open("/proc/self/statm", "rb") as file:
        return int(file.read().split()[1]) * os.sysconf("SC_PAGESIZE")
