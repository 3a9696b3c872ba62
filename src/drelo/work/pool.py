"""Worker processes, so that long computations never hold up the page.

Work is ordered in lanes: in one lane only the newest job counts. What waits is dropped, what runs is told to stop at
its next checkpoint. A piece always goes to the same worker, whose memory of stages is then warm.
"""

from __future__ import annotations

import itertools
import multiprocessing
import os
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
# Numeric libraries would start a thread a core in every worker.
_ONE_THREAD = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS")

_newest: Any = None


def _start(newest: Any) -> None:
    global _newest
    _newest = newest
    # Ctrl+C reaches the whole terminal group; workers end when their pool is shut down.
    import signal

    signal.signal(signal.SIGINT, signal.SIG_IGN)
    from drelo.work import tasks

    tasks.warm()


def _run(slot: int, ticket: int, function: Callable[..., T], arguments: tuple[Any, ...]) -> T:
    def checkpoint() -> None:
        if slot >= 0 and _newest[slot] > ticket:
            raise Superseded

    checkpoint()
    return function(checkpoint, *arguments)


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
        self._executors = [self._executor() for _ in range(workers)]

    def _executor(self) -> ProcessPoolExecutor:
        return ProcessPoolExecutor(1, mp_context=self._context, initializer=_start, initargs=(self._newest,))

    def warm(self) -> None:
        """Start the workers without waiting for them."""
        for executor in self._executors:
            executor.submit(_run, -1, 0, _nothing, ())

    def run(self, piece: str, function: Callable[..., T], *arguments: Any, lane: str | None = None) -> T:
        """Run `function(checkpoint, *arguments)` in the piece's worker and wait for its result.

        lane: when given, a newer job of the same lane and piece supersedes this one, which then raises Superseded.
        """
        number = zlib.crc32(piece.encode()) % len(self._executors)
        with self._lock:
            ticket = next(self._tickets)
            slot = -1
            name = f"{piece}/{lane}"
            if lane is not None:
                slot = zlib.crc32(name.encode()) % SLOTS
                self._newest[slot] = ticket
                before = self._waiting.pop(name, None)
                if before is not None:
                    before.cancel()
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
                self._executors[number] = self._executor()
            raise
        finally:
            with self._lock:
                if self._waiting.get(name) is future:
                    del self._waiting[name]

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
