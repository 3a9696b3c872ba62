"""Which job comes next: pure rules over what waits and what runs.

A piece has a worker of its own, whose memory is warm for it; where that one is busy, any free one may take its job.
What takes long never keeps the last worker, so that a short job never waits behind long ones.
"""

from __future__ import annotations

import zlib
from collections.abc import Mapping, Sequence

from drelo.work.job import LONG, Job

# A job waits so long, s, for its own worker before another takes it; longer where that one is at the same piece, for
# then it remembers most of what the job needs.
PATIENCE, PATIENCE_WITH_ITSELF = 0.05, 1.5
# Where short jobs wait so long, s, behind long ones, or long ones among themselves, another worker is started.
TOO_LONG, TOO_LONG_FOR_LONG = 0.2, 1.0


def home(job: Job, workers: int) -> int:
    """The worker whose memory is warm for a job's piece; what works aside has the next one."""
    return (zlib.crc32(job.piece.encode()) + job.aside) % workers


def next_job(
    waiting: Sequence[Job], running: Mapping[int, Job], worker: int, workers: int, living: int = 0
) -> Job | None:
    """The job that a free worker takes; None where it had better wait.

    waiting: in the order in which they were asked for. running: by the workers that run them. worker: its number; those
    from `workers` on are spare ones. living: how many workers there are, spare ones among them.
    """
    may_be_long = sum(job.is_long() for job in running.values()) + 1 < max(workers, living, 2)

    def place(job: Job) -> tuple[bool, int, bool, float]:
        # One worker's jobs are left to it as long as another has some of its own.
        others = home(job, workers) != worker and job.waited() < LONG
        return job.long, job.rank, others, job.asked

    for job in sorted(waiting, key=place):
        if job.long and not may_be_long:
            continue
        if home(job, workers) == worker or job.tries:
            return job
        at_home = running.get(home(job, workers))
        patience = PATIENCE_WITH_ITSELF if at_home and at_home.piece == job.piece else PATIENCE
        if job.waited() > patience:
            return job
    return None


def needs_more(waiting: Sequence[Job], running: Mapping[int, Job], living: int) -> bool:
    """Whether jobs wait because of long ones: short ones since all workers are at these, long ones for their turn."""
    long = sum(job.is_long() for job in running.values())
    if any(not job.long and job.waited() > TOO_LONG for job in waiting) and long >= living:
        return True
    return any(job.long and job.waited() > TOO_LONG_FOR_LONG for job in waiting) and long + 1 >= living
