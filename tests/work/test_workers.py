"""Workers with real processes, of this machine and of others: what dies is replaced, what is stuck is stopped, what is
short does not wait."""

from __future__ import annotations

import os
import signal
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from pathlib import Path

import pytest

from drelo.core.errors import Busy, Superseded
from drelo.work import pool as pools
from drelo.work.job import Job
from drelo.work.machines.engine import engine
from drelo.work.machines.machines import Machines
from drelo.work.pool import Pool
from drelo.work.workers import Workers, given_up, heard, lane_of, window
from tests.redis import Redis
from tests.refusals import refused
from tests.work.jobs import (
    chatty,
    deaf,
    die,
    die_once,
    give_up,
    greedy,
    load,
    loaded,
    rights,
    sleep,
    unsendable,
    whoami,
)
from tests.work.machines import KEY, Machine, joined

# Of a job's fate, where it is another machine that is at it, one hears later, s.
SLOWER = {"here": 0.0, "elsewhere": 2.0}


@pytest.fixture(scope="module", params=["here", "elsewhere"])
def workers(request: pytest.FixtureRequest) -> Iterator[Workers]:
    if request.param == "here":
        pool = Pool(2)
        yield pool
        pool.close()
        return
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        redis = Redis(folder)
        redis.start()
        machine = Machine(redis.address, "one", folder)
        machines = Machines(engine(redis.address, KEY))
        try:
            joined(machines, "one")
            yield machines
        finally:
            machines.close()
            machine.kill()
            redis.stop()


@pytest.fixture
def slower(workers: Workers) -> float:
    return SLOWER["here" if isinstance(workers, Pool) else "elsewhere"]


def in_thread(target: Callable[..., object], *arguments, **named) -> tuple[threading.Thread, list[object]]:
    """Runs something; the list gets its result, or its error."""
    found: list[object] = []

    def run() -> None:
        try:
            found.append(target(*arguments, **named))
        except Exception as error:
            found.append(error)

    thread = threading.Thread(target=run)
    thread.start()
    return thread, found


def lives(process: int) -> bool:
    """Whether a process is there and not only waits to be told of as dead."""
    try:
        state = Path(f"/proc/{process}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except FileNotFoundError:
        return False
    return state != "Z"


def nothing_runs(workers: Workers, seconds: float) -> bool:
    until = time.monotonic() + seconds
    while workers.state().running and time.monotonic() < until:
        time.sleep(0.02)
    return workers.state().running == 0


class TestSeen:
    def test_what_runs_is_seen_on_its_machine(self, workers):
        # A worker that is still coming up would not take the job at once.
        workers.run("seen", bool)
        thread, _ = in_thread(workers.run, "seen", sleep, 1.5)
        seen = workers.by_machine()
        while thread.is_alive() and not any(state.running for state in seen.values()):
            time.sleep(0.05)
            seen = workers.by_machine()
        thread.join()
        assert sum(state.running for state in seen.values()) == 1
        assert all(state.ready for state in seen.values())


class TestFaults:
    def test_an_idle_worker_that_is_killed_is_replaced_before_anybody_minds(self, workers, slower):
        was = workers.run("idle", whoami)
        os.kill(was, signal.SIGKILL)
        begin = time.monotonic()
        assert workers.run("idle", whoami) != was
        assert time.monotonic() - begin < 15 + slower

    def test_what_a_killed_worker_was_at_is_done_once_more(self, workers, tmp_path):
        assert workers.run("once", die_once, str(tmp_path / "mark")) == "done"

    def test_what_kills_its_worker_twice_is_refused(self, workers):
        with refused("failed twice"):
            workers.run("victim", die)
        assert workers.run("victim", sleep, 0.0) == "done"

    def test_too_much_memory_is_a_refusal_and_the_worker_lives(self, workers):
        was = workers.run("greedy", whoami)
        with refused("memory"):
            workers.run("greedy", greedy)
        assert lives(was)
        assert workers.run("greedy", sleep, 0.0) == "done"

    def test_what_cannot_be_sent_back_is_an_error_and_the_worker_lives(self, workers):
        was = workers.run("unsendable", whoami)
        with pytest.raises(RuntimeError, match="cannot be sent"):
            workers.run("unsendable", unsendable)
        assert lives(was)
        assert workers.run("unsendable", sleep, 0.0) == "done"


class TestTime:
    @pytest.mark.parametrize("job", [sleep, deaf])
    def test_what_takes_too_long_is_stopped_whether_it_heeds_or_not(self, workers, slower, job):
        begin = time.monotonic()
        with refused("took longer than 1 s"):
            workers.run("late", job, 60.0, seconds=1.0)
        assert time.monotonic() - begin < 15 + slower
        assert workers.run("late", sleep, 0.0) == "done"

    def test_what_nobody_waits_for_is_stopped(self, workers, slower):
        workers.run("gone", sleep, 0.0)
        gone = threading.Event()

        def ask() -> str:
            given_up.set(gone.is_set)
            return workers.run("gone", sleep, 60.0)

        thread, found = in_thread(ask)
        time.sleep(0.3 + slower)
        gone.set()
        thread.join(5)
        assert isinstance(found[0], Superseded)
        assert nothing_runs(workers, 5 + slower)

    def test_a_newer_job_of_a_lane_stops_the_older_one(self, workers, slower):
        workers.run("lane", sleep, 0.0)
        thread, found = in_thread(workers.run, "lane", sleep, 60.0, lane="flat")
        time.sleep(0.3 + slower)
        begin = time.monotonic()
        assert workers.run("lane", sleep, 0.0, lane="flat") == "done"
        assert time.monotonic() - begin < 15
        thread.join(5)
        assert isinstance(found[0], Superseded)

    def test_in_a_lane_of_two_windows_each_has_its_newest(self, workers, slower):
        def ask(name: str, seconds: float) -> str:
            window.set(name)
            return workers.run("windows", sleep, seconds, lane=lane_of("flat"))

        first, second = (in_thread(ask, name, 60.0) for name in ("one", "other"))
        time.sleep(0.3 + slower)
        assert in_thread(ask, "one", 0.0)[0].join(20 + slower) is None
        first[0].join(10 + slower)
        assert isinstance(first[1][0], Superseded)
        assert not second[1]
        in_thread(ask, "other", 0.0)[0].join(20 + slower)
        second[0].join(10 + slower)
        assert isinstance(second[1][0], Superseded)

    def test_other_lanes_and_pieces_go_on(self, workers):
        jobs = [
            in_thread(workers.run, "lane", sleep, 0.6, lane="flat"),
            in_thread(workers.run, "lane", sleep, 0.0, lane="solid"),
            in_thread(workers.run, "other", sleep, 0.0, lane="flat"),
        ]
        for thread, _ in jobs:
            thread.join(10)
        assert [found for _, found in jobs] == [["done"]] * 3

    def test_short_jobs_do_not_wait_behind_long_ones_however_many(self, workers, slower):
        workers.run("a", sleep, 0.0)
        threads = [in_thread(workers.run, f"long {n}", sleep, 6.0)[0] for n in range(3)]
        time.sleep(1.2)
        # The first may have to wait until another worker is started; from then on none does.
        workers.run("short", sleep, 0.0)
        begin = time.monotonic()
        for n in range(5):
            assert workers.run(f"short {n}", sleep, 0.0) == "done"
        assert time.monotonic() - begin < 3.5 + slower
        for thread in threads:
            thread.join(30)

    def test_fifty_megabytes_come_back(self, workers):
        assert len(workers.run("large", bytes_of, 50 * 2**20)) == 50 * 2**20


def bytes_of(checkpoint, number: int) -> bytes:
    return os.urandom(1024) * (number // 1024)


class TestPool:
    """What is asked of the workers of this machine alone."""

    def test_workers_end_with_the_pool(self):
        pool = Pool(1)
        number = pool.run("end", whoami)
        pool.close()
        until = time.monotonic() + 5
        while Path(f"/proc/{number}").exists() and time.monotonic() < until:
            time.sleep(0.05)
        assert not Path(f"/proc/{number}").exists()

    def test_when_too_many_wait_the_next_is_turned_away(self, monkeypatch):
        pool = Pool(2)
        monkeypatch.setattr(pools, "MAX_WAITING", 2)
        threads = [in_thread(pool.run, f"full {n}", sleep, 1.5, aside=True)[0] for n in range(3)]
        time.sleep(0.5)
        while pool.state().waiting < 2:
            threads.append(in_thread(pool.run, f"full {len(threads)}", sleep, 1.5, aside=True)[0])
            time.sleep(0.1)
        with pytest.raises(Busy):
            pool.run("one more", sleep, 0.0)
        for thread in threads:
            thread.join(30)
        pool.close()


def test_a_worker_has_no_more_rights_than_other_accounts():
    pool = Pool(1)
    try:
        assert pool.run("piece", rights) == {"CapEff": 0, "CapPrm": 0}
    finally:
        pool.close()


def test_a_job_is_heard_while_it_goes_on():
    pool = Pool(1)
    try:
        told: list[object] = []

        def hear(what: object) -> None:
            told.append((what, time.monotonic()))
            if what == 1:
                raise ValueError("Whoever hears fails.")

        token = heard.set(hear)
        try:
            assert pool.run("piece", chatty, 3, 0.3) == "done"
        finally:
            heard.reset(token)
        ended = time.monotonic()
        assert [what for what, _ in told] == [0, 1, 2]
        # As it goes on, not at its end.
        assert ended - told[0][1] > 0.5
        # Who does not listen hears nothing, and gets the same.
        assert pool.run("piece", chatty, 2, 0.0) == "done"
        assert len(told) == 3
    finally:
        pool.close()


def test_what_is_stopped_while_it_tells_leaves_no_half_answer():
    """Told as fast as it can and stopped at any moment, the worker goes on to answer as it should."""
    pool = Pool(1, spare=0)
    try:
        number = pool.run("piece", whoami)
        for pause in (0.0, 0.001, 0.003, 0.01, 0.02, 0.05):
            thread, found = in_thread(pool.run, "piece", chatty, 10**6, 0.0, 300_000, lane="talk")
            time.sleep(0.1 + pause)
            assert pool.run("piece", chatty, 1, 0.0, lane="talk") == "done"
            thread.join(10)
            assert isinstance(found[0], Superseded)
        assert pool.run("piece", whoami) == number
    finally:
        pool.close()


# A module of which something is kept even where it is broken off, as of packages whose modules need each other.
HALVES = """
import pathlib, sys, time
sys.modules["one_half"] = sys.modules[__name__]
pathlib.Path(__file__).with_name("begun").touch()
until = time.monotonic() + 0.6
while time.monotonic() < until:
    time.sleep(0.01)
SECOND = True
"""


def test_what_is_stopped_while_it_loads_a_module_loads_it_to_its_end(tmp_path):
    (tmp_path / "halves.py").write_text(HALVES)
    pool = Pool(1, spare=0)
    try:
        number = pool.run("piece", whoami)
        thread, found = in_thread(pool.run, "piece", load, str(tmp_path), lane="load")
        while not (tmp_path / "begun").exists():
            time.sleep(0.01)
        assert pool.run("piece", sleep, 0.0, lane="load") == "done"
        thread.join(10)
        assert isinstance(found[0], Superseded)
        assert pool.run("piece", loaded)
        assert pool.run("piece", whoami) == number
    finally:
        pool.close()


class _JustEnded(Future):
    """Ends in the moment in which one gives up to wait for it."""

    def result(self, timeout: float | None = None) -> object:
        found = super().result(10)
        if timeout is not None:
            raise TimeoutError
        return found


def test_what_ends_in_the_moment_in_which_it_is_looked_after_has_come(monkeypatch):
    monkeypatch.setattr(pools, "Job", lambda *values: Job(*values, future=_JustEnded()))
    pool = Pool(1)
    try:
        assert pool.run("piece", sleep, 0.0) == "done"
        with pytest.raises(Superseded):
            pool.run("piece", give_up)
    finally:
        pool.close()
