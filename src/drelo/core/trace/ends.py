"""Square ends of thin strokes: two corners so close to each other that a blur makes one bend of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.trace.corners import Corners
from drelo.core.trace.samples import Samples

Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# An end turns by so much, radians, within its reach.
LEAST_TURN, MOST_TURN = 1.3, 3.9
# Lines that have shrunk to a point have samples nearer to each other than this, px.
LEAST_STEP = 0.05
# What an end turns is held against what its line turns within so many px more to either side, at scale 1.
BESIDE = 2.5
# Directions are taken over this share of the reach, to either side.
HALF = 0.27
# An end is so wide, px at scale 1; a wider one shows its corners.
LEAST_WIDTH, MOST_WIDTH = 1.0, 7.0


@dataclass(frozen=True, eq=False)
class Ends:
    """Ends of strokes.

    middle: shape (n,), samples. left, right: shape (n, 2), where the end's line meets the sides coming in and going
    out. before, along, after: shape (n, 2), unit directions. line: shape (n,), of which line each is.
    """

    middle: Indices
    left: Array
    right: Array
    before: Array
    along: Array
    after: Array
    line: Indices

    def __len__(self) -> int:
        return len(self.middle)

    def chosen(self, which: NDArray[np.bool_]) -> Ends:
        """The ends flagged."""
        return Ends(*(getattr(self, name)[which] for name in self.__dataclass_fields__))


def find_ends(samples: Samples, reach: float, scale: float, share: float = 0.0) -> Ends:
    """Places where lines turn back within `reach` px to either side, at scale 1.

    share: so much of what the line turns near by lies within the reach, where a circle is not to pass for an end.
    """
    step = float(np.median(samples.step))
    wide = _steps(reach, scale, step)
    half = max(2, round(HALF * wide))
    directions = samples.directions(half)
    turn = samples.turning(directions)
    before, after = _sums(samples, turn, wide)
    total = np.abs(before + after)
    candidate = (total > LEAST_TURN) & (total < MOST_TURN) & (before * after > 0)
    # In the middle as much is turned before as after.
    uneven = np.abs(before - after)
    best = candidate.copy()
    for k in range(1, wide + 1):
        for shift in (samples.shifted(k), samples.shifted(-k)):
            best &= ~candidate[shift] | (uneven <= uneven[shift])
    at = np.flatnonzero(best)
    first, last = samples.shifted(-wide)[at], samples.shifted(wide)[at]
    left = _meeting(samples.points[first], directions[first], samples.points[at], directions[at])
    right = _meeting(samples.points[last], directions[last], samples.points[at], directions[at])
    width = np.einsum("ij,ij->i", right - left, directions[at])
    # The end lies ahead of the side that comes in, and behind it lies the one that goes out.
    ahead = np.einsum("ij,ij->i", left - samples.points[first], directions[first])
    behind = np.einsum("ij,ij->i", samples.points[last] - right, directions[last])
    size = np.diff(samples.starts)[samples.owner[at]]
    good = (width > LEAST_WIDTH) & (width < MOST_WIDTH * scale) & (ahead > 0) & (behind > 0) & (size > 3 * wide)
    if share:
        beside = _sums(samples, turn, wide + max(1, round(BESIDE * scale / max(step, LEAST_STEP))))
        good &= total[at] > share * np.abs(beside[0] + beside[1])[at]
    found = Ends(at, left, right, directions[first], directions[at], directions[last], samples.owner[at])
    return found.chosen(good)


def with_ends(corners: Corners, samples: Samples, ends: Ends, reach: float, scale: float) -> Corners:
    """Corners with two for each end, in place of those that lie within it."""
    step = float(np.median(samples.step))
    wide = _steps(reach, scale, step)
    size = np.diff(samples.starts)
    away = corners.at[:, None] - ends.middle[None]
    same = samples.owner[corners.at][:, None] == ends.line[None]
    round_ = size[ends.line][None]
    away = np.where(same, np.minimum(np.abs(away), round_ - np.abs(away)), wide + 1)
    stays = (away > wide).all(axis=1)
    apart = np.maximum(1, np.round(np.linalg.norm(ends.right - ends.left, axis=1) / 2 / step)).astype(np.int64)
    start = samples.starts[ends.line]
    first, last = (start + (ends.middle - start + shift) % size[ends.line] for shift in (-apart, apart))
    at = np.concatenate([corners.at[stays], first, last])
    order = np.argsort(at, kind="stable")
    return Corners(
        at[order],
        np.concatenate([corners.position[stays], ends.left, ends.right])[order],
        np.concatenate([corners.before[stays], ends.before, ends.along])[order],
        np.concatenate([corners.after[stays], ends.along, ends.after])[order],
    )


def _steps(reach: float, scale: float, step: float) -> int:
    """A reach in samples; a picture that is sharper than most hides no less."""
    return max(3, round(reach * max(scale, 1.0) / max(step, LEAST_STEP)))


def _sums(samples: Samples, turn: Array, reach: int) -> tuple[Array, Array]:
    """Turning over `reach` samples before and after each."""
    before, after = np.zeros(len(turn)), np.zeros(len(turn))
    for k in range(reach):
        after += turn[samples.shifted(k)]
        before += turn[samples.shifted(-k - 1)]
    return before, after


def _meeting(point: Array, direction: Array, other: Array, along: Array) -> Array:
    """Where lines meet, shape (n, 2); NaN where they are all but parallel."""
    cross = direction[:, 0] * along[:, 1] - direction[:, 1] * along[:, 0]
    gap = other - point
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (gap[:, 0] * along[:, 1] - gap[:, 1] * along[:, 0]) / cross
    return np.asarray(point + np.where(np.abs(cross) > 0.2, t, np.nan)[:, None] * direction)
