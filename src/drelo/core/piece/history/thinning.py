"""Which steps of a piece's past are kept: every one for a week, then one an hour, then one a day; named ones always."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

# Seconds: every step is kept so long, then the last of each hour so long, then the last of each day.
HOUR, DAY = 3600.0, 86_400.0
EVERY, HOURLY = 7 * DAY, 60 * DAY


@dataclass(frozen=True)
class Kept:
    """A step as the rule sees it. made: seconds since 1970."""

    revision: int
    made: float
    named: bool


def that_go(steps: Sequence[Kept], moment: float, always: frozenset[int]) -> list[int]:
    """Revisions that are thinned out. moment: the present, seconds since 1970.

    always: revisions that stay in any case, such as the one that is shown.
    """
    last: dict[tuple[float, int], int] = {}
    gone = []
    for step in sorted(steps, key=lambda s: s.revision):
        age = moment - step.made
        if age <= EVERY or step.named or step.revision in always:
            continue
        length = HOUR if age <= HOURLY else DAY
        slot = (length, int(step.made // length))
        before = last.get(slot)
        if before is not None:
            gone.append(before)
        last[slot] = step.revision
    return gone
