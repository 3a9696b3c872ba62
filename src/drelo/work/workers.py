"""What everybody sees of workers, whether they are processes of this machine or other machines."""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, Protocol, TypeVar

from drelo.work.job import SECONDS

T = TypeVar("T")

given_up: ContextVar[Callable[[], bool]] = ContextVar("given_up")
"""Tells whether who asked for what runs in this context has gone."""

heard: ContextVar[Callable[[Any], None]] = ContextVar("heard")
"""Takes what a job that is run from this context tells while it goes on. Of one on another machine nothing is heard."""


window: ContextVar[str] = ContextVar("window")
"""Names the page for which this context works; two pages of the same piece do not take each other's place."""


def lane_of(name: str | None) -> str | None:
    """The lane of that name which only this context's page is in."""
    return None if name is None else f"{name} {window.get('')}"


def nobody_left() -> bool:
    """What `given_up` says where nobody can go."""
    return False


def nobody_hears(_told: Any) -> None:
    """What `heard` does where nobody wants to know."""


class Watch(Protocol):
    """What a job has of who waits for it."""

    def __call__(self) -> None:
        """Raises Superseded when nobody wants the job any more."""

    def tell(self, what: Any) -> None:
        """What is known by now goes to `heard`."""


@dataclass(frozen=True)
class State:
    """How workers are: those that are ready, jobs that run and that wait, and the longest wait of these, s."""

    ready: int
    running: int
    waiting: int
    longest: float = 0.0


class Workers(Protocol):
    """They run functions elsewhere. A piece has some that are warm for it; in a lane only the newest job counts."""

    def warm(self) -> None:
        """Get ready without waiting for it."""

    def state(self) -> State: ...

    def by_machine(self) -> dict[str, State]:
        """The same of each machine that is there, by its name; the own one's is empty."""

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
        """Run `function(checkpoint, *arguments)` where the piece is known best, and wait for its result.

        lane: when given, a newer job of the same lane and piece supersedes this one, which then raises Superseded.
        aside: for what takes long and must not keep the piece's previews waiting. rank: those of a lower one come
        first. seconds: how long it may run.

        Raises Busy when too many wait, Refusal when it took too long or its worker died twice.
        """

    def close(self) -> None:
        """End what was started for it."""
