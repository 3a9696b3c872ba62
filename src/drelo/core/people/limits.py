"""How much of a shared workshop one person may use."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace

from drelo.core.errors import Refusal

MEGABYTE = 10**6


@dataclass(frozen=True)
class Limits:
    """Pieces that one has; megabytes of what one made and brought; jobs at once; minutes of computing a day."""

    pieces: int = 1000
    megabytes: int = 2000
    jobs: int = 6
    minutes: int = 240

    def but(self, own: Mapping[str, int]) -> Limits:
        """These limits, with those that one person has otherwise."""
        return replace(self, **{name: own[name] for name in asdict(self) if name in own})


@dataclass(frozen=True)
class Used:
    """What somebody uses: pieces that are not deleted, bytes, and seconds of computing today."""

    pieces: int = 0
    bytes: int = 0
    seconds: float = 0.0


def check_room(used: Used, limits: Limits, pieces: int) -> None:
    """Whether somebody may bring something more, and so many pieces more. Raises Refusal saying what is full."""
    if pieces and used.pieces + pieces > limits.pieces:
        raise Refusal("limits.pieces", pieces=limits.pieces)
    if used.bytes >= limits.megabytes * MEGABYTE:
        raise Refusal("limits.megabytes", megabytes=limits.megabytes)


def check_time(seconds: float, limits: Limits) -> None:
    """Whether somebody may have more worked out today. Raises Refusal when their minutes are used up."""
    if seconds >= 60 * limits.minutes:
        raise Refusal("limits.minutes", minutes=limits.minutes)
