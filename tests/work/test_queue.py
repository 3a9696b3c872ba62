"""Which job comes next: rules without processes."""

from __future__ import annotations

from drelo.work.job import Job
from drelo.work.queue import home, needs_more, next_job
from tests.work.jobs import sleep


def job(number: int, piece: str, **more) -> Job:
    return Job(number, piece, sleep, (), **more)


class TestWhichComesNext:
    def piece_of(self, worker: int) -> str:
        return next(p for p in map(str, range(99)) if home(job(0, p), 2) == worker)

    def test_a_piece_goes_to_the_worker_that_knows_it(self):
        mine, other = job(1, self.piece_of(0)), job(2, self.piece_of(1))
        assert next_job([other, mine], {}, 0, 2) is mine
        assert next_job([mine, other], {}, 1, 2) is other

    def test_what_can_wait_goes_to_another_worker_than_the_piece(self):
        for piece in ("pear", "snail", "crest"):
            own, other = home(job(1, piece), 2), home(job(2, piece, aside=True), 2)
            assert own != other
            later = job(3, piece, aside=True)
            assert next_job([later], {}, own, 2) is None
            assert next_job([later], {}, other, 2) is later

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
