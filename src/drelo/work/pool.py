"""Worker processes, so that long computations never hold up the page, and what goes wrong in one ends with it.

Work is ordered in lanes: in one lane only the newest job counts. What waits is dropped, what runs is stopped by a
signal, which Python heeds as soon as the library call it is in comes back. A worker that dies is started again, and
what it was at is done once more; what runs for too long, or for nobody, is stopped.
"""

from __future__ import annotations

import itertools
import logging
import multiprocessing
import os
import signal
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from multiprocessing.connection import Connection, wait
from typing import Any, TypeVar

from drelo.core.errors import Busy, Refusal, Superseded
from drelo.work.job import LONG, SECONDS, Job
from drelo.work.queue import needs_more, next_job
from drelo.work.worker import COLLECT as COLLECT
from drelo.work.worker import serve
from drelo.work.workers import State, given_up, heard, nobody_hears, nobody_left

T = TypeVar("T")
log = logging.getLogger(__name__)

WORKERS = 2
# Started where short jobs would wait behind long ones; a spare worker that had nothing to do for so long, s, ends.
SPARE, IDLE = 2, 30.0
# So many jobs may wait.
MAX_WAITING = 44
# A worker that holds more than this, bytes, is replaced when it has nothing to do.
HEAVY = 1200 * 2**20
# A job that is told to stop has so long, s, before its worker is ended.
GRACE = 2.0
# Workers that die one after the other are started again ever later, s.
BACK_OFF, MOST_BACK_OFF = 0.1, 10.0
# How often it is looked whether anybody still waits, and whether idle workers live, s.
LOOK = 0.25
# Of so many kinds of jobs it is remembered how long they took.
REMEMBERED = 2000
# Numeric libraries would start a thread a core in every worker.
_ONE_THREAD = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS")


class Pool:
    """A few worker processes of this machine."""

    def __init__(self, workers: int = WORKERS, spare: int = SPARE) -> None:
        for name in _ONE_THREAD:
            os.environ.setdefault(name, "1")
        self.workers = workers
        self._spare = spare
        self._numbers = itertools.count(1)
        # Guards all below; told of whatever changes.
        self._changed = threading.Condition()
        self._waiting: list[Job] = []
        self._took: OrderedDict[tuple[str, str], float] = OrderedDict()
        self._closing = False
        self._hands: list[_Hand] = []

    def warm(self) -> None:
        """Start the workers without waiting for them."""
        with self._changed:
            if self._hands or self._closing:
                return
            self._hands = [_Hand(self, number) for number in range(self.workers)]
            for hand in self._hands:
                hand.start()

    def state(self) -> State:
        with self._changed:
            ready = sum(hand.ready for hand in self._hands)
            longest = max((job.waited() for job in self._waiting), default=0.0)
            return State(ready, len(self._running()), len(self._waiting), longest)

    def by_machine(self) -> dict[str, State]:
        return {"": self.state()}

    def run(
        self,
        piece: str,
        function: Callable[..., T],
        *arguments: Any,
        lane: str | None = None,
        aside: bool = False,
        rank: int = 0,
        seconds: float = SECONDS,
    ) -> T:
        """As `Workers` has it: in the piece's own worker if it is free."""
        self.warm()
        job = Job(
            next(self._numbers), piece, function, arguments, lane, rank, aside, aside, seconds, heard.get(nobody_hears)
        )
        job.long = job.long or self._took.get(job.kind, 0.0) > LONG
        with self._changed:
            if len(self._waiting) >= MAX_WAITING:
                raise Busy
            if lane is not None:
                for other in [
                    j for j in (*self._waiting, *self._running().values()) if (j.piece, j.lane) == (piece, lane)
                ]:
                    self._give_up(other)
            self._waiting.append(job)
            self._changed.notify_all()
        gone = given_up.get(nobody_left)
        while True:
            try:
                found: T = job.future.result(LOOK)
                return found
            except TimeoutError:
                if job.future.done():
                    # It has ended just now, or this is its own error.
                    ended: T = job.future.result()
                    return ended
                if gone():
                    with self._changed:
                        self._give_up(job)
                if self._waiting:
                    self._start_spare()

    def close(self) -> None:
        """End the workers."""
        with self._changed:
            self._closing = True
            for job in self._waiting:
                job.fail(Superseded())
            self._waiting.clear()
            self._changed.notify_all()
        for hand in self._hands:
            hand.end()
        for hand in self._hands:
            hand.join(GRACE)

    # What hands ask for; each under the lock.

    def _running(self) -> dict[int, Job]:
        return {hand.number: hand.job for hand in self._hands if hand.job is not None}

    def _give_up(self, job: Job) -> None:
        """Nobody waits for this job any more."""
        job.unwanted = True
        if job in self._waiting:
            self._waiting.remove(job)
        for hand in self._hands:
            if hand.job is job:
                hand.stop(job)
        job.fail(Superseded())

    def _start_spare(self) -> None:
        with self._changed:
            living = [hand for hand in self._hands if hand.is_alive()]
            spare = len(living) - self.workers
            if self._closing or spare >= self._spare or not needs_more(self._waiting, self._running(), len(living)):
                return
            self._hands = living
            taken = {hand.number for hand in living}
            number = next(n for n in itertools.count(self.workers) if n not in taken)
            hand = _Hand(self, number)
            self._hands.append(hand)
            hand.start()

    def _next(self, hand: _Hand) -> Job | None:
        living = sum(h.is_alive() for h in self._hands)
        return next_job(self._waiting, self._running(), hand.number, self.workers, living)

    def take(self, hand: _Hand) -> Job | None:
        """The next job for a hand; None when it is time to look after its worker, or to end."""
        with self._changed:
            job = None if self._closing else self._next(hand)
            if job is None:
                self._changed.wait(LOOK if not self._waiting else LOOK / 10)
                return None
            self._waiting.remove(job)
            job.begun = time.monotonic()
            hand.job = job
            return job

    def done(self, hand: _Hand, job: Job) -> None:
        """A hand is free again."""
        with self._changed:
            hand.job = None
            if not job.unwanted:
                self._took[job.kind] = job.ran()
                self._took.move_to_end(job.kind)
                while len(self._took) > REMEMBERED:
                    self._took.popitem(last=False)
            self._changed.notify_all()

    def again(self, hand: _Hand, job: Job, begun: bool) -> None:
        """A job's worker died: it is done once more, and no more if it was over this job."""
        with self._changed:
            hand.job = None
            job.tries += begun
            job.begun = 0.0
            if job.tries > 1:
                job.fail(Refusal("work.failed-twice"))
            elif not job.future.done() and not self._closing:
                self._waiting.insert(0, job)
            self._changed.notify_all()

    @property
    def closing(self) -> bool:
        return self._closing


class _Hand(threading.Thread):
    """Holds one worker process: starts it, gives it jobs, looks after it. Its process dies with this thread."""

    def __init__(self, pool: Pool, number: int) -> None:
        super().__init__(name=f"worker {number}", daemon=True)
        self._pool = pool
        self.number = number
        self.job: Job | None = None
        self.ready = False
        self._context = multiprocessing.get_context("spawn")
        self._process: Any = None
        self._connection: Connection | None = None
        self._stopped = self._context.Value("Q", 0, lock=False)
        self._stop_by = 0.0

    def run(self) -> None:
        failures, idle_since = 0, time.monotonic()
        while not self._pool.closing:
            if not self._alive():
                if failures:
                    time.sleep(min(BACK_OFF * 2**failures, MOST_BACK_OFF))
                failures = 0 if self._begin() else failures + 1
                continue
            job = self._pool.take(self)
            if job is not None:
                self._work(job)
                idle_since = time.monotonic()
            elif self.number >= self._pool.workers and time.monotonic() - idle_since > IDLE:
                break
        self.end()
        if self._process is not None:
            self._process.join(GRACE)

    def stop(self, job: Job) -> None:
        """The job that runs is to stop."""
        self._stopped.value = job.number
        self._stop_by = time.monotonic() + GRACE
        self._signal(signal.SIGUSR1)

    def end(self) -> None:
        self.ready = False
        self._signal(signal.SIGKILL)

    def _signal(self, number: int) -> None:
        process = self._process
        if process is not None and process.pid is not None and process.is_alive():
            os.kill(process.pid, number)

    def _alive(self) -> bool:
        return self.ready and self._process is not None and self._process.is_alive()

    def _begin(self) -> bool:
        """Start a worker and wait until it is warm."""
        self.end()
        if self._process is not None:
            self._process.join()
            log.warning("worker %s ended; another is started", self.number)
        self._connection, other = self._context.Pipe()
        self._stopped.value = 0
        self._process = self._context.Process(
            target=serve, args=(other, self._stopped), name=f"drelo worker {self.number}", daemon=True
        )
        self._process.start()
        other.close()
        try:
            self._connection.recv()
        except (EOFError, OSError):
            return False
        self.ready = True
        return True

    def _work(self, job: Job) -> None:
        """Have a job done. Its worker may die, or have to be ended, over it."""
        assert self._connection is not None
        self._stop_by = 0.0
        begun = False
        try:
            # One that died while it had nothing to do has not died of this job.
            self._connection.send(None)
            self._connection.recv()
            self._connection.send((job.number, job.function, job.arguments))
            begun = True
            until = job.begun + job.seconds
            while True:
                if self._connection.poll(0):
                    good, value, memory = self._connection.recv()
                    if good is not None:
                        break
                    _hear(job, value)
                    continue
                wait([self._connection, self._process.sentinel], LOOK)
                now = time.monotonic()
                if now > until and not job.future.done():
                    job.fail(Refusal("work.too-slow", seconds=job.seconds))
                    self.stop(job)
                if self._stop_by and now > self._stop_by:
                    self.end()
                if not self._connection.poll(0) and not self._process.is_alive():
                    raise EOFError
        except (EOFError, OSError):
            self._pool.again(self, job, begun)
            return
        # Free first: whoever gets the answer and asks on finds the worker that is warm for the piece.
        self._pool.done(self, job)
        if good:
            job.succeed(value)
        else:
            job.fail(value)
        if memory > HEAVY:
            self.end()


def _hear(job: Job, what: Any) -> None:
    """Something that a job tells while it goes on; whatever comes of it, the job does."""
    if job.future.done():
        return
    try:
        job.heard(what)
    except Exception:
        log.exception("what a job told was lost")
