"""Square ends of thin strokes: two corners so close to each other that a blur makes one bend of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.near import points_tree
from drelo.core.trace.corners.corners import Corners
from drelo.core.trace.seen.samples import Samples

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
# A line turns right back when the cosine of the directions is below this, and its sides are less than so many px apart
# where it comes and goes so many px away.
RIGHT_BACK, NARROW, SIDES = -0.85, 1.6, 2.5
# A corner or a line nearer to an end than this, px, is the end's.
END_NEAR = 1.3


@dataclass(frozen=True, eq=False)
class LineEnds:
    """Where level and upright lines of one pixel end.

    position: shape (n, 2), px, the middle of the end. ahead: shape (n, 2), unit direction out of the line.
    """

    position: Array
    ahead: Array


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
    first, last = samples.stepped(at, -wide), samples.stepped(at, wide)
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


def parted(
    corners: Corners, samples: Samples, known: LineEnds | None = None, among: NDArray[np.bool_] | None = None
) -> Corners:
    """Corners with two for each end of a line that is hardly a pixel wide, where one is seen at most.

    Such ends are those that are known, and corners at which a line turns right back. Their corners are as far apart as
    the line's sides are near by.
    among: shape (samples,), those that may be corners; None takes all.
    """
    back = np.flatnonzero(np.einsum("ij,ij->i", corners.before, corners.after) < RIGHT_BACK)
    ahead = corners.before[back] - corners.after[back]
    at, tip = corners.at[back], corners.position[back]
    sure = np.zeros(len(at), bool)
    if known is not None and len(known.position):
        here = np.arange(len(samples.points)) if among is None else np.flatnonzero(among)
        away, nearest = points_tree(samples.points[here]).query(known.position)
        near = here[nearest]
        there = away < END_NEAR
        apart = points_tree(known.position).query(tip)[0] > END_NEAR if len(tip) else sure
        at = np.concatenate([at[apart], near[there]])
        tip = np.concatenate([tip[apart], known.position[there]])
        ahead = np.concatenate([ahead[apart], known.ahead[there]])
        sure = np.arange(len(at)) >= apart.sum()
    ahead /= np.maximum(np.linalg.norm(ahead, axis=1, keepdims=True), 1e-9)
    start, size = samples.starts[samples.owner[at]], np.diff(samples.starts)[samples.owner[at]]
    steps = np.maximum(2, np.round(SIDES / np.maximum(samples.step[samples.owner[at]], LEAST_STEP))).astype(np.int64)
    # Halfway round a short line its other end begins.
    steps = np.minimum(steps, size // 4)
    into, out = (samples.points[start + (at - start + shift) % size] for shift in (-steps, steps))
    aside = (out - into) / 2
    aside -= np.einsum("ij,ij->i", aside, ahead)[:, None] * ahead
    half = np.linalg.norm(aside, axis=1)
    aside *= (np.where(sure, 0.5, np.maximum(half, LEAST_WIDTH / 2)) / np.maximum(half, 1e-9))[:, None]
    good = (half > 1e-9) & (sure | (2 * half < NARROW))
    at, tip, ahead, aside = at[good], tip[good], ahead[good], aside[good]
    if not len(at):
        return corners
    along = aside / np.linalg.norm(aside, axis=1, keepdims=True)
    stays = points_tree(tip).query(corners.position)[0] > END_NEAR
    all_at = np.concatenate([corners.at[stays], at, samples.stepped(at, 1)])
    order = np.argsort(all_at, kind="stable")
    return Corners(
        all_at[order],
        np.concatenate([corners.position[stays], tip - aside, tip + aside])[order],
        np.concatenate([corners.before[stays], ahead, along])[order],
        np.concatenate([corners.after[stays], along, -ahead])[order],
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
