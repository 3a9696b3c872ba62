"""A piece's past as lines to read: several small steps of one kind, made soon after each other, are one that opens."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from drelo.core.piece.history.telling import Told

# Steps of one kind that follow each other within so many seconds are one line.
SOON = 600.0
# So much of a step is kept; the rest is counted.
MOST = 6


@dataclass(frozen=True)
class Step:
    """A revision without its document. made: seconds since 1970.

    told: what it changed, the first of it; more: how much else. by: who made it, where there are several people.
    """

    revision: int
    parent: int | None
    made: float
    name: str | None
    told: tuple[Told, ...]
    more: int = 0
    by: str | None = None

    @property
    def kind(self) -> tuple[tuple[str, str], ...]:
        return tuple((t.path, t.what) for t in self.told)


@dataclass(frozen=True)
class Line:
    """Steps that are read as one, the newest first. told: what they changed together."""

    told: tuple[Told, ...]
    steps: tuple[Step, ...]


def lines(newest_first: Iterable[Step]) -> list[Line]:
    """The past as lines. A step with a name begins a line of its own, and so does whatever follows it."""
    groups: list[list[Step]] = []
    for step in newest_first:
        if groups and _goes_with(groups[-1][-1], step):
            groups[-1].append(step)
        else:
            groups.append([step])
    return [Line(_sum(group), tuple(group)) for group in groups]


def _goes_with(later: Step, earlier: Step) -> bool:
    return (
        later.parent == earlier.revision
        and later.name is None
        and earlier.name is None
        and bool(later.told)
        and later.kind == earlier.kind
        and later.by == earlier.by
        and later.made - earlier.made <= SOON
    )


def _sum(steps: Sequence[Step]) -> tuple[Told, ...]:
    """From what the first of them found to what the last one left."""
    last, first = steps[0], steps[-1]
    return tuple(
        new.model_copy(update={"before": old.before}) if new.how == "set" else new
        for old, new in zip(first.told, last.told, strict=True)
    )
