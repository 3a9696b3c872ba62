"""Ink that two strokes share, side by side, parted into both.

Where two strokes lie along each other, like the wall of a house on the line of the ground, there is one run, wider than
either. Each of them keeps to its own edge of the ink.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from drelo.core.trace.fit.curves import Flags
from drelo.core.trace.strokes.middles import OTHER_PEN, Array, Middle, heading

# Two strokes share ink that is at least so many times as wide as either, and at most so many times, and px more, as
# wide as both.
WIDER, AS_BOTH, AS_BOTH_PX = 1.2, 1.08, 0.5
# At an end of the ink they go on within this angle, radians.
ONWARD = 0.7
# Where the ink is somewhere as narrow as this many times a stroke, two cross.
CROSSED = 1.15
# The shared ink is seen along at least so many widths of a stroke.
SEEN = 1.5


def parted(middles: Sequence[Middle], joints: int) -> list[Middle]:
    """The middles, those of ink that two strokes share replaced by both. joints: how many there are."""
    at: list[list[tuple[int, int]]] = [[] for _ in range(joints)]
    for i, middle in enumerate(middles):
        for end, joint in enumerate((middle.run.start, middle.run.end)):
            if joint >= 0:
                at[joint].append((i, end))
    result = []
    for i, middle in enumerate(middles):
        two = _abreast(i, middles, at)
        result += [middle] if two is None else [_along(middle, side, width) for side, width in enumerate(two)]
    return result


def _abreast(i: int, middles: Sequence[Middle], at: Sequence[Sequence[tuple[int, int]]]) -> tuple[float, float] | None:
    """The widths of the two strokes that share a run's ink, by its sides; None where it is one stroke's."""
    middle = middles[i]
    found = [pair for end in (0, 1) if (pair := _forked(i, end, middles, at)) is not None]
    if not found:
        return None
    one, other = (float(width) for width in np.mean(found, axis=0))
    thick = max(one, other)
    if not WIDER * thick < middle.width < AS_BOTH * (one + other) + AS_BOTH_PX:
        return None
    seen = _seen(middle)
    if seen.sum() < max(2.0, SEEN * thick):
        return None
    if len(found) == 2:
        crossed = np.linalg.norm(middle.edges[0] - middle.edges[1], axis=1)[seen].min() < CROSSED * thick
        if crossed or any(max(pair) > OTHER_PEN * min(pair) for pair in zip(*found, strict=True)):
            return None
    return one, other


def _forked(
    i: int, end: int, middles: Sequence[Middle], at: Sequence[Sequence[tuple[int, int]]]
) -> tuple[float, float] | None:
    """The widths of two strokes in which a run goes on at one of its ends, by the run's sides; None where it does not
    part in two.
    """
    run = middles[i].run
    joint = (run.start, run.end)[end]
    others = [other for other in at[joint] if other[0] != i] if joint >= 0 else []
    if len(others) != 2 or others[0][0] == others[1][0]:
        return None
    point, out = heading(middles[i], end, alone=True)
    sides: dict[int, float] = {}
    for other, its_end in others:
        there, back = heading(middles[other], its_end, alone=True)
        if -back @ out < np.cos(ONWARD):
            return None
        away = there - point
        # The first edge of a run lies to the left of its way as seen on the screen.
        left = (float(out[0] * away[1] - out[1] * away[0]) < 0) == (end == 1)
        sides[0 if left else 1] = middles[other].width
    return (sides[0], sides[1]) if len(sides) == 2 else None


def _along(middle: Middle, side: int, width: float) -> Middle:
    """The stroke that keeps to one of the edges of a shared run."""
    inward = (-1 if side == 0 else 1) * width / 2 * middle.normal
    seen = _seen(middle)
    points: Array = np.where(seen[:, None], middle.edges[side] + inward, middle.points)
    return replace(middle, points=points, width=width, believed=seen, line=points[seen], shares=True)


def _seen(middle: Middle) -> Flags:
    """Points where both edges of the ink were found, and no third stroke lies along it."""
    return middle.believed & middle.alone & np.isfinite(middle.edges).all(axis=(0, 2))
