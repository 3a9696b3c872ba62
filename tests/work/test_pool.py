"""The pool with real processes: what dies is replaced, what is stuck is stopped, what is short does not wait."""

from __future__ import annotations

import os
import signal
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from drelo.core.errors import Busy, Refusal, Superseded
from drelo.work import pool as pools
from drelo.work.job import Job
from drelo.work.pool import Pool, given_up
from drelo.work.queue import home, needs_more, next_job


def whoami(checkpoint) -> int:
    return os.getpid()


def sleep(checkpoint, seconds: float) -> str:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        time.sleep(0.01)
        checkpoint()
    return "done"


def deaf(checkpoint, seconds: float) -> str:
    """Heeds nothing."""
    signal.pthread_sigmask(signal.SIG_BLOCK, [signal.SIGUSR1])
    time.sleep(seconds)
    return "done"


def die(checkpoint) -> None:
    os._exit(9)


def die_once(checkpoint, mark: str) -> str:
    if not Path(mark).exists():
        Path(mark).touch()
        os._exit(9)
    return "done"


def greedy(checkpoint) -> int:
    return len(bytearray(8 * 2**30))


def unsendable(checkpoint) -> object:
    return threading.Lock()


@pytest.fixture(scope="module")
def pool() -> Iterator[Pool]:
    pool = Pool(2)
    yield pool
    pool.close()


def in_thread(target, *arguments, **named) -> tuple[threading.Thread, list[object]]:
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


class TestFaults:
    def test_an_idle_worker_that_is_killed_is_replaced_before_anybody_minds(self, pool):
        was = pool.run("idle", whoami)
        os.kill(was, signal.SIGKILL)
        begin = time.monotonic()
        assert pool.run("idle", whoami) != was
        assert time.monotonic() - begin < 3

    def test_what_a_killed_worker_was_at_is_done_once_more(self, pool, tmp_path):
        assert pool.run("once", die_once, str(tmp_path / "mark")) == "done"

    def test_what_kills_its_worker_twice_is_refused(self, pool):
        with pytest.raises(Refusal, match="failed twice"):
            pool.run("victim", die)
        assert pool.run("victim", sleep, 0.0) == "done"

    def test_too_much_memory_is_a_refusal_and_the_worker_lives(self, pool):
        was = pool.run("greedy", whoami)
        with pytest.raises(Refusal, match="memory"):
            pool.run("greedy", greedy)
        assert pool.run("greedy", whoami) == was

    def test_what_cannot_be_sent_back_is_an_error_and_the_worker_lives(self, pool):
        was = pool.run("unsendable", whoami)
        with pytest.raises(RuntimeError, match="cannot be sent"):
            pool.run("unsendable", unsendable)
        assert pool.run("unsendable", whoami) == was

    def test_workers_end_with_the_pool(self):
        pool = Pool(1)
        number = pool.run("end", whoami)
        pool.close()
        until = time.monotonic() + 5
        while Path(f"/proc/{number}").exists() and time.monotonic() < until:
            time.sleep(0.05)
        assert not Path(f"/proc/{number}").exists()


class TestTime:
    @pytest.mark.parametrize("job", [sleep, deaf])
    def test_what_takes_too_long_is_stopped_whether_it_heeds_or_not(self, pool, job):
        begin = time.monotonic()
        with pytest.raises(Refusal, match="took longer than 1 s"):
            pool.run("late", job, 60.0, seconds=1.0)
        assert time.monotonic() - begin < 3
        assert pool.run("late", sleep, 0.0) == "done"

    def test_what_nobody_waits_for_is_stopped(self, pool):
        pool.run("gone", sleep, 0.0)
        gone = threading.Event()

        def ask() -> str:
            given_up.set(gone.is_set)
            return pool.run("gone", sleep, 60.0)

        thread, found = in_thread(ask)
        time.sleep(0.3)
        gone.set()
        thread.join(5)
        assert isinstance(found[0], Superseded)
        until = time.monotonic() + 5
        while pool.state().running and time.monotonic() < until:
            time.sleep(0.02)
        assert pool.state().running == 0

    def test_short_jobs_do_not_wait_behind_long_ones_however_many(self, pool):
        pool.run("a", sleep, 0.0)
        threads = [in_thread(pool.run, f"long {n}", sleep, 6.0)[0] for n in range(3)]
        time.sleep(1.2)
        # The first may have to wait until another worker is started; from then on none does.
        pool.run("short", sleep, 0.0)
        begin = time.monotonic()
        for n in range(5):
            assert pool.run(f"short {n}", sleep, 0.0) == "done"
        assert time.monotonic() - begin < 1.5
        for thread in threads:
            thread.join(30)

    def test_when_too_many_wait_the_next_is_turned_away(self, pool, monkeypatch):
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


def job(number: int, piece: str, **more) -> Job:
    return Job(number, piece, sleep, (), **more)


class TestWhichComesNext:
    """Rules without processes."""

    def piece_of(self, worker: int) -> str:
        return next(p for p in map(str, range(99)) if home(job(0, p), 2) == worker)

    def test_a_piece_goes_to_the_worker_that_knows_it(self):
        mine, other = job(1, self.piece_of(0)), job(2, self.piece_of(1))
        assert next_job([other, mine], {}, 0, 2) is mine
        assert next_job([mine, other], {}, 1, 2) is other

    def test_any_free_worker_takes_what_has_waited(self):
        other = job(2, self.piece_of(1))
        assert next_job([other], {1: job(1, "elsewhere")}, 0, 2) is None
        other.asked -= 0.1
        assert next_job([other], {1: job(1, "elsewhere")}, 0, 2) is other

    def test_what_runs_for_the_same_piece_is_waited_for_longer(self):
        piece = self.piece_of(1)
        second = job(2, piece)
        second.asked -= 0.5
        assert next_job([second], {1: job(1, piece)}, 0, 2) is None
        second.asked -= 2
        assert next_job([second], {1: job(1, piece)}, 0, 2) is second

    def test_long_jobs_leave_a_worker_free(self):
        first, second = job(1, self.piece_of(1), long=True), job(2, self.piece_of(0), long=True)
        short = job(3, self.piece_of(0))
        assert next_job([second], {1: first}, 0, 2) is None
        assert next_job([second, short], {1: first}, 0, 2) is short
        assert next_job([second], {}, 0, 2) is second

    def test_a_worker_does_its_own_jobs_before_it_takes_anothers(self):
        other, own = job(1, self.piece_of(1)), job(2, self.piece_of(0))
        other.asked -= 0.5
        assert next_job([other, own], {1: job(3, "elsewhere")}, 0, 2) is own
        other.asked -= 2
        assert next_job([other, own], {1: job(3, "elsewhere")}, 0, 2) is other

    def test_what_a_hand_waits_for_comes_before_what_is_looked_at(self):
        look, edit = job(1, self.piece_of(0), rank=1), job(2, self.piece_of(0))
        assert next_job([look, edit], {}, 0, 2) is edit

    def test_what_was_tried_is_taken_by_whoever_is_free(self):
        again = job(1, self.piece_of(1), tries=1)
        assert next_job([again], {}, 0, 2) is again

    def test_more_workers_are_wanted_where_short_jobs_are_stuck(self):
        long = {0: job(1, "a", long=True), 1: job(2, "b", long=True)}
        stuck = job(3, "c")
        assert not needs_more([stuck], long, 2)
        stuck.asked -= 1
        assert needs_more([stuck], long, 2)
        assert not needs_more([stuck], {0: long[0]}, 2)
        waiting = job(4, "d", long=True)
        assert not needs_more([waiting], {0: long[0]}, 2)
        waiting.asked -= 2
        assert needs_more([waiting], {0: long[0]}, 2)
        assert not needs_more([waiting], {0: long[0]}, 3)
        assert next_job([waiting], {0: long[0]}, 2, 2, 3) is waiting
