"""Corners: where the direction of a line changes at once, whatever the scale at which one looks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.trace.seen.samples import SPACING, Samples

# Smallest change of direction that makes a corner, radians.
MIN_TURN = 0.5
# Share of the turn over a long stretch that must happen in a short one. On a circle it is one half.
MIN_SHARE = 0.7
# A corner drawn off further than this (px, at scale 1) from the line is not believed.
MAX_REACH = 1.6


@dataclass(frozen=True, eq=False)
class Corners:
    """Corners of all lines, in the order of their samples.

    at: shape (k,), indices of samples.
    position: shape (k, 2), px: where the sides meet when drawn on to each other.
    before, after: shape (k, 2), unit directions of the line coming in and going out.
    """

    at: NDArray[np.int64]
    position: NDArray[np.float64]
    before: NDArray[np.float64]
    after: NDArray[np.float64]

    def chosen(self, which: NDArray[np.bool_]) -> Corners:
        """The corners flagged."""
        return Corners(self.at[which], self.position[which], self.before[which], self.after[which])


def find_corners(samples: Samples, scale: float, closed: NDArray[np.bool_] | None = None) -> Corners:
    """Corners of sampled lines.

    scale: 1 for a clean antialiased picture, larger where noise or staircases would look like corners.
    closed: shape (lines,): the others run there and back, and their tips are no corners.
    """
    half = max(2, round(1.5 * scale / SPACING))
    near = half + max(1, round(0.5 * scale / SPACING))
    far = near + round(2 * scale / SPACING)
    directions = samples.directions(half)
    if closed is not None:
        directions = samples.unfolded(directions, half, closed)
    turn = samples.turning(directions)
    short = _turn_within(samples, turn, near)
    long = _turn_within(samples, turn, far)
    size = np.abs(short)
    at = np.flatnonzero((size > MIN_TURN) & (size > MIN_SHARE * np.abs(long)))
    best = np.ones(len(at), np.bool_)
    for k in range(1, near):
        best &= size[at] >= size[samples.stepped(at, k)] - 1e-12
        best &= size[at] > size[samples.stepped(at, -k)] + 1e-12
    at = at[best]
    gap = max(1, round(0.8 * scale / SPACING))
    before_at = samples.stepped(at, -(gap + half))
    after_at = samples.stepped(at, gap + half)
    before, after = directions[before_at], directions[after_at]
    position = _meeting(samples, before_at, before, after_at, after, half)
    off = np.linalg.norm(position - samples.points[at], axis=1)
    position = np.where((off < MAX_REACH * scale)[:, None], position, samples.points[at])
    return Corners(at, position, before, after)


def _turn_within(samples: Samples, turn: NDArray[np.float64], reach: int) -> NDArray[np.float64]:
    """Sum of the turning from `reach` samples before to `reach` samples after, never more than once round."""
    return _summed(np.concatenate([[0.0], np.cumsum(turn)]), samples.starts, reach)


@compiled
def _summed(total: NDArray[np.float64], starts: NDArray[np.int64], reach: int) -> NDArray[np.float64]:
    sums = np.empty(len(total) - 1)
    for line in range(len(starts) - 1):
        start, end = starts[line], starts[line + 1]
        here = min(reach, (end - start) // 2 - 1)
        for i in range(start, end):
            low, high = i - here, i + here
            sums[i] = total[min(high, end)] - total[max(low, start)]
            if low < start:
                sums[i] += total[end] - total[low + end - start]
            if high > end:
                sums[i] += total[high - end + start] - total[start]
    return sums


def _meeting(
    samples: Samples,
    at: NDArray[np.int64],
    direction: NDArray[np.float64],
    other_at: NDArray[np.int64],
    other: NDArray[np.float64],
    half: int,
) -> NDArray[np.float64]:
    """Where two lines meet, each through the mean of the samples round its index, shape (k, 2); NaN when parallel."""
    p, q = (samples.points[samples.around(i, half)].mean(axis=1) for i in (at, other_at))
    cross = direction[:, 0] * other[:, 1] - direction[:, 1] * other[:, 0]
    gap = q - p
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (gap[:, 0] * other[:, 1] - gap[:, 1] * other[:, 0]) / cross
    return np.asarray(p + np.where(np.abs(cross) > 0.1, t, np.nan)[:, None] * direction)
