"""Worker processes, so that long computations never hold up the page.

Work is ordered in lanes: in one lane only the newest job counts. What waits is dropped, what runs is stopped by a
signal, which Python heeds as soon as the library call it is in comes back. A piece always goes to the same worker,
whose memory of stages is then warm.
"""

from __future__ import annotations

import gc
import itertools
import multiprocessing
import os
import signal
import threading
import zlib
from collections.abc import Callable
from concurrent.futures import CancelledError, Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Any, TypeVar

from drelo.core.errors import Superseded

T = TypeVar("T")

# Lanes whose newest ticket workers can see; lanes beyond share a slot, which at worst repeats a preview.
SLOTS = 1024
WORKERS = 2
# How seldom a worker looks for rings of references: objects made, and rounds of the two younger generations.
COLLECT = (50_000, 20, 50)
# Numeric libraries would start a thread a core in every worker.
_ONE_THREAD = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS")

_newest: Any = None
# The job that this worker is at: its slot and ticket.
_job: tuple[int, int] | None = None


def _start(newest: Any, pids: Any, number: int) -> None:
    global _newest
    _newest = newest
    # Ctrl+C reaches the whole terminal group; workers end when their pool is shut down.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGUSR1, _heed)
    # From here on a signal finds the handler.
    pids[number] = os.getpid()
    from drelo.work import tasks

    tasks.warm()
    # What a worker remembers is large and holds no rings of references: to go through it all takes longer than a job.
    gc.freeze()
    gc.set_threshold(*COLLECT)


def _heed(_signal: int, _frame: object) -> None:
    """Ends the job when a newer one has taken its place; between jobs there is nothing to end."""
    global _job
    if _job is not None and _newest[_job[0]] > _job[1]:
        _job = None
        raise Superseded


def _run(slot: int, ticket: int, function: Callable[..., T], arguments: tuple[Any, ...]) -> T:
    global _job

    def checkpoint() -> None:
        if slot >= 0 and _newest[slot] > ticket:
            raise Superseded

    checkpoint()
    _job = (slot, ticket) if slot >= 0 else None
    try:
        return function(checkpoint, *arguments)
    finally:
        _job = None


class Pool:
    """A few worker processes."""

    def __init__(self, workers: int = WORKERS) -> None:
        for name in _ONE_THREAD:
            os.environ.setdefault(name, "1")
        self._context = multiprocessing.get_context("spawn")
        self._newest = self._context.Array("Q", SLOTS, lock=False)
        self._tickets = itertools.count(1)
        self._lock = threading.Lock()
        self._waiting: dict[str, Future[Any]] = {}
        self._pids = self._context.Array("q", workers, lock=False)
        self._executors = [self._executor(number) for number in range(workers)]

    def _executor(self, number: int) -> ProcessPoolExecutor:
        self._pids[number] = 0
        arguments = (self._newest, self._pids, number)
        return ProcessPoolExecutor(1, mp_context=self._context, initializer=_start, initargs=arguments)

    def warm(self) -> None:
        """Start the workers without waiting for them."""
        for executor in self._executors:
            executor.submit(_run, -1, 0, _nothing, ())

    def run(
        self, piece: str, function: Callable[..., T], *arguments: Any, lane: str | None = None, aside: bool = False
    ) -> T:
        """Run `function(checkpoint, *arguments)` in the piece's worker and wait for its result.

        lane: when given, a newer job of the same lane and piece supersedes this one, which then raises Superseded.
        aside: in another worker, for what takes long and must not keep the piece's previews waiting.
        """
        number = (zlib.crc32(piece.encode()) + aside) % len(self._executors)
        with self._lock:
            ticket = next(self._tickets)
            slot = -1
            name = f"{piece}/{lane}"
            if lane is not None:
                slot = zlib.crc32(name.encode()) % SLOTS
                self._newest[slot] = ticket
                before = self._waiting.pop(name, None)
                if before is not None and not before.cancel() and not before.done():
                    self._signal(number)
            future = self._submit(number, slot, ticket, function, arguments)
            if lane is not None:
                self._waiting[name] = future
        try:
            return future.result()
        except CancelledError:
            raise Superseded from None
        except BrokenProcessPool:
            # A worker died (out of memory, most likely): start another, and say so.
            with self._lock:
                self._executors[number].shutdown(wait=False)
                self._executors[number] = self._executor(number)
            raise
        finally:
            with self._lock:
                if self._waiting.get(name) is future:
                    del self._waiting[name]

    def _signal(self, number: int) -> None:
        pid = self._pids[number]
        alive = any(p.pid == pid and p.is_alive() for p in (self._executors[number]._processes or {}).values())
        if alive:
            os.kill(pid, signal.SIGUSR1)

    def _submit(
        self, number: int, slot: int, ticket: int, function: Callable[..., T], arguments: tuple[Any, ...]
    ) -> Future[T]:
        return self._executors[number].submit(_run, slot, ticket, function, arguments)

    def close(self) -> None:
        """End the workers."""
        for executor in self._executors:
            executor.shutdown(wait=False, cancel_futures=True)
            for process in list((executor._processes or {}).values()):
                process.terminate()


def _nothing(checkpoint: Callable[[], None]) -> None:
    checkpoint()
