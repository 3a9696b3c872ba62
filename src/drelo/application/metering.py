"""Workers of a shared workshop: what each person has worked out is counted, and held to their limits."""

from __future__ import annotations

import logging
import math
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any, TypeVar

from sqlalchemy.exc import SQLAlchemyError

from drelo.core.errors import Busy, Superseded
from drelo.core.people.limits import Limits, check_time
from drelo.store.author import author
from drelo.store.consumption import Consumption
from drelo.work.job import SECONDS
from drelo.work.metering import metered
from drelo.work.workers import State, Workers, given_up, nobody_left

T = TypeVar("T")
log = logging.getLogger(__name__)
# What was counted is written down so often, s; and so often it is looked what others have counted and keepers changed.
WRITE, LOOK = 5.0, 30.0
# Who has as many jobs as they may waits so long for one of them to end, s; so often it is looked whether they still do.
PATIENCE, TURN = 20.0, 0.25


@dataclass
class _Account:
    """What this process knows of somebody. looked: when it was read, s. unwritten: seconds that were counted since."""

    day: date
    looked: float
    limits: Limits
    seconds: float
    unwritten: float = 0.0


class Metered:
    """Workers whose jobs are counted for the person whose request is answered."""

    def __init__(self, workers: Workers, consumption: Consumption, limits: Limits) -> None:
        """limits: of everybody who has none of their own."""
        self._workers = workers
        self._consumption = consumption
        self.limits = limits
        # Guards all below; told when a job has ended.
        self._lock = threading.Condition()
        self._known: dict[str, _Account] = {}
        self._at_once: Counter[str] = Counter()
        self._written = time.monotonic()

    def warm(self) -> None:
        self._workers.warm()

    def state(self) -> State:
        return self._workers.state()

    def by_machine(self) -> dict[str, State]:
        return self._workers.by_machine()

    def close(self) -> None:
        self.write()
        self._workers.close()

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
        """As `Workers` has it. Raises Busy where somebody has too many jobs, Refusal when their time is used up."""
        account = author.get()
        if account is None:
            return self._workers.run(piece, function, *arguments, lane=lane, aside=aside, rank=rank, seconds=seconds)
        with self._counted(account) as count:
            done: tuple[T, float] = self._workers.run(
                piece, metered, function, *arguments, lane=lane, aside=aside, rank=rank, seconds=seconds
            )
            count(done[1])
            return done[0]

    @contextmanager
    def _counted(self, account: str) -> Iterator[Callable[[float], None]]:
        known = self._of(account)
        check_time(known.seconds, known.limits)
        self._wait_for_turn(account, known)

        def count(took: float) -> None:
            with self._lock:
                known.seconds += took
                known.unwritten += took

        begun, done = time.monotonic(), False
        try:
            try:
                yield count
                done = True
            finally:
                if not done:
                    # What failed or was stopped has not said how long it took.
                    count(time.monotonic() - begun)
        finally:
            with self._lock:
                self._at_once[account] -= 1
                if not self._at_once[account]:
                    del self._at_once[account]
                self._lock.notify_all()
            if time.monotonic() - self._written > WRITE:
                self.write()

    def _wait_for_turn(self, account: str, known: _Account) -> None:
        gone = given_up.get(nobody_left)
        until = time.monotonic() + PATIENCE
        with self._lock:
            while self._at_once[account] >= known.limits.jobs:
                if gone():
                    raise Superseded
                if time.monotonic() > until:
                    raise Busy
                self._lock.wait(TURN)
            self._at_once[account] += 1

    def _of(self, account: str) -> _Account:
        now, day = time.monotonic(), datetime.now(UTC).date()
        with self._lock:
            known = self._known.get(account)
        if known is not None and known.day == day and now - known.looked < LOOK:
            return known
        if known is not None and known.day != day:
            # What is counted from now on is of the new day.
            self.write()
        limits = self.limits.but(self._consumption.own_limits(account))
        seconds = self._consumption.seconds(account, day)
        with self._lock:
            known = self._known.setdefault(account, _Account(day, now, limits, 0.0))
            known.day, known.looked, known.limits = day, now, limits
            known.seconds = seconds + known.unwritten
            return known

    def forget(self, account: str) -> None:
        """What somebody may use has changed."""
        with self._lock:
            if account in self._known:
                self._known[account].looked = -math.inf

    def write(self) -> None:
        """Write down what was counted."""
        with self._lock:
            self._written = time.monotonic()
            days: dict[date, dict[str, float]] = {}
            for account, known in self._known.items():
                if known.unwritten:
                    days.setdefault(known.day, {})[account] = known.unwritten
                    known.unwritten = 0.0
        for day, seconds in days.items():
            try:
                self._consumption.spend(day, seconds)
            except SQLAlchemyError as error:
                log.warning("what was computed could not be written down: %s", error)
