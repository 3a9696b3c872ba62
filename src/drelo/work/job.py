"""A job: what is to be run, for which piece, and what becomes of it."""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, field
from typing import Any

# A job may run so long, s; then it is stopped.
SECONDS = 120.0
# What is expected to take longer than this, s, or has, is long: it never keeps all workers.
LONG = 1.0


@dataclass(eq=False)
class Job:
    """One call of a function in a worker.

    piece: its own worker is the one whose memory is warm for it. lane: in one lane of a piece only the newest counts.
    rank: jobs of a lower one come first: what a hand waits for before what is only looked at.
    aside: what takes long and must not keep the piece's own worker. long: it is expected to take long.
    seconds: how long it may run. heard: takes what it tells while it goes on.
    """

    number: int
    piece: str
    function: Callable[..., Any]
    arguments: tuple[Any, ...]
    lane: str | None = None
    rank: int = 0
    aside: bool = False
    long: bool = False
    seconds: float = SECONDS
    heard: Callable[[Any], None] = lambda _told: None
    future: Future[Any] = field(default_factory=Future)
    asked: float = field(default_factory=time.monotonic)
    begun: float = 0.0
    tries: int = 0
    unwanted: bool = False

    @property
    def kind(self) -> tuple[str, str]:
        """Of which kind it is, as far as the time it takes goes."""
        names = [getattr(value, "__name__", "") for value in (self.function, *self.arguments) if callable(value)]
        # Whichever page asks: see `lane_of`.
        lane = (self.lane or "").partition(" ")[0]
        return self.piece, f"{' '.join(names)} {lane}"

    def waited(self) -> float:
        return time.monotonic() - self.asked

    def ran(self) -> float:
        return time.monotonic() - self.begun if self.begun else 0.0

    def is_long(self) -> bool:
        return self.long or self.ran() > LONG

    def succeed(self, value: Any) -> None:
        if not self.future.done():
            self.future.set_result(value)

    def fail(self, error: BaseException) -> None:
        if not self.future.done():
            self.future.set_exception(error)
