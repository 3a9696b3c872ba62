"""Workers that are other machines: each job goes to one that knows its piece, and to another when that one is gone."""

from __future__ import annotations

import logging
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, TypeVar

from celery import Celery
from celery.exceptions import TaskRevokedError
from celery.exceptions import TimeoutError as NotYet
from celery.result import AsyncResult
from kombu.exceptions import OperationalError
from redis.exceptions import RedisError

from drelo.core.errors import Busy, Refusal, Superseded
from drelo.work.job import SECONDS
from drelo.work.machines.engine import REPORT, RUN, STOP, address_of, queue_of
from drelo.work.machines.placing import Report, Sent, is_lost, machine_for
from drelo.work.pool import MAX_WAITING
from drelo.work.workers import State, given_up, nobody_left

T = TypeVar("T")
log = logging.getLogger(__name__)

# How often machines are asked how they are, and how long they have to answer, s.
ASK, ANSWER = 1.0, 0.3
# A machine that was not heard for so long, s, is gone.
SILENCE = 5.0
# How often it is looked whether anybody still waits for a job, and whether somebody is at it, s.
LOOK = 0.25
# A job that no machine could be found for waits so long, s; so does one whose broker is away.
PATIENCE = 20.0
# A machine says itself what took too long; one that says nothing is given so much longer, s.
GRACE = 15.0
# A job is sent so often where machines go while it is on its way; it is not given to more than so many that go while
# they have it, for it may be what ends them.
MOST_SENT, MOST_DEATHS = 6, 3
_AWAY = (OperationalError, RedisError, OSError)


@dataclass(eq=False)
class _Call:
    """A job that somebody here waits for.

    unwanted: a newer one has taken its place. begun: its machine said that it had it.
    """

    piece: str
    lane: str | None
    sent: Sent
    unwanted: bool = False
    begun: bool = False


class Machines:
    """The machines of a workshop, as one who gives them work sees them."""

    def __init__(self, app: Celery) -> None:
        self._app = app
        # Guards all below.
        self._lock = threading.Lock()
        self._machines: dict[str, Report] = {}
        self._calls: set[_Call] = set()
        self._closing = threading.Event()
        self._asker: threading.Thread | None = None

    def warm(self) -> None:
        with self._lock:
            if self._asker is not None or self._closing.is_set():
                return
            self._asker = threading.Thread(target=self._ask_on, name="machines", daemon=True)
            self._asker.start()

    def state(self) -> State:
        heard = self._heard().values()
        return State(
            ready=sum(r.ready for r in heard),
            running=sum(r.running for r in heard),
            waiting=sum(r.waiting for r in heard),
            longest=max((r.longest for r in heard), default=0.0),
        )

    def by_machine(self) -> dict[str, State]:
        return {n: State(r.ready, r.running, r.waiting, r.longest) for n, r in sorted(self._heard().items())}

    def machines(self) -> dict[str, Report]:
        """The machines that are there, by name, as each said last."""
        return self._heard()

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
        """As `Workers` has it. Raises Busy too where no machine is there, or the broker is away."""
        self.warm()
        job = (piece, function, arguments, {"lane": lane, "aside": aside, "rank": rank, "seconds": seconds})
        if lane is not None:
            self._supersede(piece, lane)
        deaths = 0
        for _ in range(MOST_SENT):
            call, result = self._send(piece, lane, job, seconds)
            try:
                answer = self._answer(call, result, seconds)
            finally:
                with self._lock:
                    self._calls.discard(call)
            if answer is not None:
                good, value = answer
                if not good:
                    raise value
                found: T = value
                return found
            log.warning("machine %s is not at job %s any more; it is done once more", call.sent.machine, call.sent.job)
            # One that was still on its way when its machine went has not brought it down, nor one whose machine lives.
            deaths += call.begun and call.sent.machine not in self._heard()
            if deaths == MOST_DEATHS:
                break
        raise Refusal("machines.went-away")

    def close(self) -> None:
        self._closing.set()
        if self._asker is not None:
            self._asker.join(2 * ASK)
        self._app.close()

    def _send(
        self, piece: str, lane: str | None, job: tuple[Any, ...], seconds: float
    ) -> tuple[_Call, AsyncResult[Any]]:
        """Sends a job to the machine that knows its piece best. Raises Busy where none can be had for long."""
        until = time.monotonic() + PATIENCE
        while True:
            with self._lock:
                name = self._place(piece)
                if name is not None:
                    sent = Sent(uuid.uuid4().hex, name, time.monotonic())
                    call = _Call(piece, lane, sent)
                    self._calls.add(call)
            if name is not None:
                try:
                    result = self._app.send_task(
                        RUN, job, task_id=sent.job, queue=queue_of(name), expires=seconds, retry=False
                    )
                except BaseException as error:
                    with self._lock:
                        self._calls.discard(call)
                    if not isinstance(error, _AWAY):
                        raise
                    log.warning("the broker is away: %s", error)
                else:
                    return call, result
            if time.monotonic() > until or self._closing.is_set():
                raise Busy
            if given_up.get(nobody_left)():
                raise Superseded
            time.sleep(LOOK)

    def _place(self, piece: str) -> str | None:
        heard = {name: report for name, report in self._machines.items() if time.monotonic() - report.at < SILENCE}
        since = Counter(
            c.sent.machine for c in self._calls if c.sent.machine in heard and c.sent.at > heard[c.sent.machine].at
        )
        return machine_for(piece, heard, since, MAX_WAITING)

    def _answer(self, call: _Call, result: AsyncResult[Any], seconds: float) -> tuple[bool, Any] | None:
        """What came of a job; None where nobody is at it any more. Raises Superseded; Refusal when it took too long."""
        gone = given_up.get(nobody_left)
        until = time.monotonic() + seconds + GRACE
        try:
            while True:
                try:
                    answer: tuple[bool, Any] = result.get(timeout=LOOK)
                    return answer
                except NotYet:
                    pass
                except TaskRevokedError:
                    # It waited longer than it may, and nobody has begun it.
                    return None
                except _AWAY as error:
                    log.warning("the broker is away: %s", error)
                    time.sleep(LOOK)
                if call.unwanted or gone():
                    self._stop(call)
                    raise Superseded
                with self._lock:
                    lost = is_lost(call.sent, self._machines, time.monotonic(), SILENCE)
                if lost:
                    return None
                if time.monotonic() > until:
                    self._stop(call)
                    raise Refusal("work.too-slow", seconds=seconds)
        finally:
            # It goes by itself before long where this fails.
            with suppress(*_AWAY):
                result.forget()

    def _supersede(self, piece: str, lane: str) -> None:
        with self._lock:
            for call in self._calls:
                if (call.piece, call.lane) == (piece, lane):
                    call.unwanted = True

    def _stop(self, call: _Call) -> None:
        try:
            self._app.control.broadcast(
                STOP, arguments={"job": call.sent.job}, destination=[address_of(call.sent.machine)]
            )
        except _AWAY as error:
            log.warning("a job could not be stopped: %s", error)

    def _heard(self) -> dict[str, Report]:
        now = time.monotonic()
        with self._lock:
            return {name: report for name, report in self._machines.items() if now - report.at < SILENCE}

    def _ask_on(self) -> None:
        while not self._closing.is_set():
            try:
                self._ask()
            except _AWAY as error:
                log.warning("the broker is away: %s", error)
            except Exception:
                # Without its news no machine would be found any more.
                log.exception("machines could not be asked")
            self._closing.wait(ASK)

    def _ask(self) -> None:
        begun = time.monotonic()
        answers = self._app.control.broadcast(REPORT, reply=True, timeout=ANSWER)
        for answer in answers or []:
            for address, told in answer.items():
                if "workers" not in told:
                    continue
                name = address.partition("@")[2]
                report = Report(
                    at=begun,
                    workers=told["workers"],
                    ready=told["ready"],
                    running=told["running"],
                    waiting=told["waiting"],
                    longest=told["longest"],
                    jobs=frozenset(told["jobs"]),
                )
                with self._lock:
                    if name not in self._machines:
                        log.info("machine %s has joined", name)
                    self._machines[name] = report
                    for call in self._calls:
                        call.begun = call.begun or call.sent.job in report.jobs
        with self._lock:
            for name in [n for n, r in self._machines.items() if begun - r.at > 4 * SILENCE]:
                log.warning("machine %s is gone", name)
                del self._machines[name]
