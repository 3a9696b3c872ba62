"""Corners of pictures without antialiasing, read off their pixels.

Along a straight edge or a smooth curve one of the two directions in which the border of the pixels runs has only steps
of one pixel. Where both runs at a corner of the border are longer, the shape itself has a corner there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import KDTree

from drelo.core.compiled import compiled
from drelo.core.trace.corners import Corners
from drelo.core.trace.level_lines import patterns
from drelo.core.trace.samples import Samples

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Indices = NDArray[np.int64]

# px: the shorter and the longer of the two runs at a corner are at least so long; one pair of them.
RUNS = ((2, 8), (3, 5))
# A line passes a corner of its pixels within this, px. A corner found so near is the better one, for it knows how its
# sides lean; one further off, but so near, mixes it with another.
NEAR, THERE, SAME = 1.5, 0.9, 2.6
# Points a leaf of a tree that is asked little: it is built quickly.
LEAF = 32


@dataclass(frozen=True, eq=False)
class StairCorners:
    """Corners of the border of pixels.

    position: shape (n, 2), px. level, upright: shape (n, 2), unit directions of the two runs, away from the corner.
    """

    position: Array
    level: Array
    upright: Array


def stair_corners(ink: Mask) -> StairCorners:
    """Where long runs of the border of ink, shape (height, width), meet."""
    padded = np.pad(ink, 1)
    code, cells, _ = patterns(padded)
    at, odd, runs = _bends(padded, code, cells, max(long for _, long in RUNS))
    short, long = runs.min(axis=1), runs.max(axis=1)
    good = np.any([(short >= a) & (long >= b) for a, b in RUNS], axis=0)
    # The runs go along the sides of the odd pixel.
    sign = np.where(odd[good], 1.0, -1.0)
    zero = np.zeros(len(sign))
    return StairCorners(
        at[good].astype(np.float64), np.stack([sign[:, 0], zero], axis=1), np.stack([zero, sign[:, 1]], axis=1)
    )


@compiled
def _bends(padded: Mask, code: NDArray[np.uint8], cells: Indices, longest: int) -> tuple[Indices, Mask, Indices]:
    """Corners of pixels round which one of four differs from the three others.

    Gives x and y of each, whether the odd pixel lies to the right and below, and how long the level and the upright run
    of border beside it are, up to `longest`; all of shape (n, 2).
    """
    columns = padded.shape[1] - 1
    at, odd = np.empty((len(cells), 2), np.int64), np.empty((len(cells), 2), np.bool_)
    found = 0
    for i in range(len(cells)):
        y, x = cells[i] // columns, cells[i] % columns
        pattern = code[y, x]
        a, b, c, d = pattern & 1, (pattern >> 1) & 1, (pattern >> 3) & 1, (pattern >> 2) & 1
        count = a + b + c + d
        if count != 1 and count != 3:
            continue
        alone = 1 if count == 1 else 0
        at[found] = x, y
        odd[found] = b == alone or d == alone, c == alone or d == alone
        found += 1
    runs = np.empty((found, 2), np.int64)
    for i in range(found):
        x, y = at[i]
        runs[i, 0] = _run(padded, y, x + odd[i, 0], longest, 0, 1 if odd[i, 0] else -1)
        runs[i, 1] = _run(padded, y + odd[i, 1], x, longest, 1 if odd[i, 1] else -1, 0)
    return at[:found], odd[:found], runs


@compiled
def _run(padded: Mask, y: int, x: int, longest: int, down: int, right: int) -> int:
    """Over how many pixels from one the border goes on along a row (right) or a column (down), up to `longest`."""
    # The border runs between this pixel and the one below it, or to its right; the ink stays on the same side.
    beside_y, beside_x = (1, 0) if right else (0, 1)
    one, other = padded[y, x], padded[y + beside_y, x + beside_x]
    for step in range(1, longest):
        r, c = y + down * step, x + right * step
        if r < 0 or c < 0 or r + beside_y >= padded.shape[0] or c + beside_x >= padded.shape[1]:
            return step
        if padded[r, c] != one or padded[r + beside_y, c + beside_x] != other:
            return step
    return longest


@dataclass(frozen=True, eq=False)
class LineEnds:
    """Where level and upright lines of one pixel end.

    position: shape (n, 2), px, the middle of the end. ahead: shape (n, 2), unit direction out of the line.
    """

    position: Array
    ahead: Array


def line_ends(ink: Mask, near: Mask) -> LineEnds:
    """Ends of lines of one pixel among the flagged pixels; both of shape (height, width)."""
    position, ahead = [np.empty((0, 2))], [np.empty((0, 2))]
    padded = np.pad(ink, 1)
    y, x = np.nonzero(near & ink)
    for right, down in ((1, 0), (0, 1), (-1, 0), (0, -1)):
        ends = _ends(padded, y, x, down, right)
        position.append(np.stack([x[ends] + (1 + right) / 2, y[ends] + (1 + down) / 2], axis=1))
        ahead.append(np.tile([float(right), float(down)], (int(ends.sum()), 1)))
    return LineEnds(np.concatenate(position), np.concatenate(ahead))


@compiled
def _ends(padded: Mask, y: Indices, x: Indices, down: int, right: int) -> Mask:
    """At which pixels a line of one pixel and at least two long ends in a direction."""
    ends = np.zeros(len(y), np.bool_)
    for i in range(len(y)):
        r, c = y[i] + 1, x[i] + 1
        ends[i] = padded[r - down, c - right] and not padded[r + down, c + right]
        for on in (-1, 0, 1):
            # To both sides of the line.
            for side in (-1, 1):
                ends[i] &= not padded[r + on * down + side * right, c + on * right + side * down]
    return ends


def all_ends(*ends: LineEnds) -> LineEnds:
    """All of them together."""
    return LineEnds(np.concatenate([e.position for e in ends]), np.concatenate([e.ahead for e in ends]))


@dataclass(frozen=True, eq=False)
class Stairs:
    """What the pixels show besides level lines: corners, and ends of lines of one pixel."""

    corners: StairCorners
    ends: LineEnds


def stairs_of(labels: NDArray[np.int16], thin: Sequence[Mask]) -> Stairs:
    """Those of the areas of each label, shape (height, width); thin: which pixels of each are lines of one pixel."""
    found = [stair_corners(labels == k) for k in range(len(thin))]
    position = np.concatenate([f.position for f in found])
    # A corner of one area is mostly one of its neighbour too.
    _, first = np.unique(position, axis=0, return_index=True)
    level, upright = (np.concatenate([getattr(f, name) for f in found])[first] for name in ("level", "upright"))
    ends = all_ends(*(line_ends(labels == k, line) for k, line in enumerate(thin)))
    return Stairs(StairCorners(position[first], level, upright), ends)


def with_stairs(corners: Corners, samples: Samples, stairs: StairCorners, among: Mask | None = None) -> Corners:
    """Corners with those of the pixels that are not among them, in place of others near by.

    among: shape (samples,), those that may be corners; None takes all.
    """
    here = np.arange(len(samples.points)) if among is None else np.flatnonzero(among)
    away, nearest = KDTree(samples.points[here], LEAF, False, balanced_tree=False).query(stairs.position)
    there = KDTree(corners.position).query(stairs.position)[0] < THERE
    new = (away < NEAR) & ~there
    at, position = here[np.asarray(nearest, np.int64)[new]], stairs.position[new]
    level, upright = stairs.level[new], stairs.upright[new]
    # The line comes in along one run and goes out along the other.
    ahead = samples.points[samples.shifted(4)][at] - samples.points[samples.shifted(-4)][at]
    comes_level = (np.einsum("ij,ij->i", ahead, upright - level) > 0)[:, None]
    before, after = np.where(comes_level, -level, -upright), np.where(comes_level, upright, level)
    stays = KDTree(position).query(corners.position)[0] >= SAME
    all_at = np.concatenate([corners.at[stays], at])
    order = np.argsort(all_at, kind="stable")
    return Corners(
        all_at[order],
        np.concatenate([corners.position[stays], position])[order],
        np.concatenate([corners.before[stays], before])[order],
        np.concatenate([corners.after[stays], after])[order],
    )
