"""Which machine does a job: pure rules over what the machines said of themselves."""

from __future__ import annotations

import zlib
from collections.abc import Mapping
from dataclasses import dataclass

# A piece stays with its machine until so many jobs a worker are there: a machine that does not know a piece works it
# all out anew, which takes longer than a few jobs before one's own.
CROWDED = 4


@dataclass(frozen=True)
class Report:
    """What a machine says of itself. at: when it was heard, s. jobs: the ids of all that it has at hand.

    workers: so many jobs it does at once. ready: workers that are warm. running, waiting: its jobs. longest: how long
    the one has waited that has waited longest, s.
    """

    at: float
    workers: int
    ready: int
    running: int
    waiting: int
    longest: float
    jobs: frozenset[str]


def machine_for(piece: str, machines: Mapping[str, Report], sent: Mapping[str, int], most: int) -> str | None:
    """The machine for a job: the one that knows its piece, unless so much waits there that another is worth it.

    Of all that could, each piece has its order of machines; when one leaves, only its pieces move. sent: jobs sent to a
    machine since its report. most: jobs that a machine may have at once. None where all have so many.
    """

    def load(name: str) -> int:
        report = machines[name]
        return report.running + report.waiting + sent.get(name, 0)

    def share(name: str) -> float:
        return load(name) / machines[name].workers

    order = sorted((name for name in machines if load(name) < most), key=lambda name: _draw(piece, name))
    if not order:
        return None
    home = order[0]
    if share(home) < CROWDED:
        return home
    freest = min(order, key=share)
    return freest if share(freest) * 2 <= share(home) else home


def _draw(piece: str, machine: str) -> int:
    return zlib.crc32(f"{piece} {machine}".encode())


@dataclass(frozen=True)
class Sent:
    """A job on its way. at: when it went, s."""

    job: str
    machine: str
    at: float


def is_lost(sent: Sent, machines: Mapping[str, Report], now: float, silence: float) -> bool:
    """Whether nobody is at a job any more: its machine is silent, or has twice reported since without it.

    now: s. silence: a machine that was not heard for so long, s, is gone.
    """
    report = machines.get(sent.machine)
    if report is None or now - report.at > silence:
        return now - sent.at > silence
    return sent.job not in report.jobs and report.at - sent.at > silence / 2
