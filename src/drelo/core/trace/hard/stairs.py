"""Corners of pictures without antialiasing, read off their pixels.

Along a straight edge or a smooth curve one of the two directions in which the border of the pixels runs has only steps
of one pixel. Where both runs at a corner of the border are longer, the shape itself has a corner there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.near import points_tree
from drelo.core.picture.patterns import patterns
from drelo.core.trace.corners.corners import Corners
from drelo.core.trace.corners.ends import LineEnds
from drelo.core.trace.seen.samples import Samples

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Indices = NDArray[np.int64]

# px: the shorter and the longer of the two runs at a corner are at least so long; one pair of them.
RUNS = ((2, 8), (3, 5))
# px: where all runs are at least so long for two corners on, one is a corner of the shape.
WHOLE = 2
# px: where a side so long begins at a corner, and at its end one so long goes back on the same side, is another corner.
END = (3, 2)
# A line passes a corner of its pixels within this, px. A corner found so near is the better one, for it knows how its
# sides lean; one further off, but so near, mixes it with another.
NEAR, THERE, SAME = 1.5, 0.9, 2.6
# What is no further (px) from a side of pixels lies beside it.
BESIDE = 1.0
# Points a leaf of a tree that is asked little: it is built quickly.
LEAF = 32


@dataclass(frozen=True, eq=False)
class StairCorners:
    """Corners of the border of pixels.

    position: shape (n, 2), px. level, upright: shape (n, 2), unit directions of the two runs, away from the corner.
    sides: shape (m, 2, 2), px, both ends of short runs from one of them to another.
    """

    position: Array
    level: Array
    upright: Array
    sides: Array


def stair_corners(ink: Mask) -> StairCorners:
    """Where long runs of the border of ink, shape (height, width), meet."""
    padded = np.pad(ink, 1)
    code, cells, _ = patterns(padded)
    at, odd, runs = _bends(padded, code, cells, max(long for _, long in RUNS))
    # Curves and edges that lean have runs of one pixel everywhere.
    whole = runs.min(axis=1) >= WHOLE
    at, odd, runs = at[whole], odd[whole], runs[whole]
    short, long = runs.min(axis=1), runs.max(axis=1)
    other, found = _other_ends(at, runs, odd, padded.shape[1])
    good = np.any([(short >= a) & (long >= b) for a, b in RUNS], axis=0)
    good |= _far_ends(runs, odd, good, other, found) | found.all(axis=1)
    # The runs go along the sides of the odd pixel.
    sign = np.where(odd[good], 1.0, -1.0)
    zero = np.zeros(len(sign))
    # Each is one corner's run to the right or down.
    one, way = np.nonzero(good[:, None] & found & good[other] & odd)
    return StairCorners(
        at[good].astype(np.float64),
        np.stack([sign[:, 0], zero], axis=1),
        np.stack([zero, sign[:, 1]], axis=1),
        np.stack([at[one], at[other[one, way]]], axis=1).astype(np.float64),
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


def _other_ends(at: Indices, runs: Indices, odd: Mask, columns: int) -> tuple[Indices, Mask]:
    """Those at the other ends of the level and the upright run of each, and which there are; of shape (n, 2)."""
    # They stand in the order of the picture's rows.
    key = at[:, 1] * columns + at[:, 0]
    wanted = key[:, None] + runs * np.where(odd, 1, -1) * np.array([1, columns])
    other = np.minimum(np.searchsorted(key, wanted), max(len(key) - 1, 0))
    return other, key[other] == wanted


def _far_ends(runs: Indices, odd: Mask, good: Mask, other: Indices, found: Mask) -> Mask:
    """Which corners end a side that begins at a good one, turn as that does, and go on: both ends of a flat end."""
    far = np.zeros(len(runs), np.bool_)
    for upright in (0, 1):
        one = np.flatnonzero(
            good & found[:, upright] & (runs[:, upright] >= END[0]) & (runs[:, upright] < runs[:, 1 - upright])
        )
        end = other[one, upright]
        turns_back = (odd[end, 1 - upright] == odd[one, 1 - upright]) & (odd[end, upright] != odd[one, upright])
        far[end[turns_back & (runs[end, 1 - upright] >= END[1])]] = True
    return far


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
    sides = np.concatenate([f.sides for f in found])
    return Stairs(StairCorners(position[first], level, upright, sides), ends)


def _within(points: Array, sides: Array) -> Mask:
    """Which points lie beside one of the sides, shape (m, 2, 2), level or upright."""
    within = np.zeros(len(points), np.bool_)
    half = np.linalg.norm(sides[:, 1] - sides[:, 0], axis=1) / 2
    for i, near in enumerate(points_tree(sides.mean(axis=1)).within(points, half.max(initial=0) + BESIDE)):
        low, high = sides[near].min(axis=1) - BESIDE, sides[near].max(axis=1) + BESIDE
        within[i] = ((points[i] > low) & (points[i] < high)).all(axis=1).any()
    return within


@compiled
def _in_reach(points: Array, corners: Array) -> Mask:
    """Which points lie in a pixel that is no further than NEAR from a corner of pixels."""
    width, height = 2, 2
    for i in range(len(points)):
        width, height = max(width, int(points[i, 0]) + 2), max(height, int(points[i, 1]) + 2)
    reach = int(np.ceil(NEAR))
    near = np.zeros((height, width), np.bool_)
    for i in range(len(corners)):
        x, y = int(corners[i, 0]), int(corners[i, 1])
        near[max(y - reach, 0) : max(y + reach, 0), max(x - reach, 0) : max(x + reach, 0)] = True
    found = np.empty(len(points), np.bool_)
    for i in range(len(points)):
        found[i] = near[max(int(points[i, 1]), 0), max(int(points[i, 0]), 0)]
    return found


def with_stairs(corners: Corners, samples: Samples, stairs: StairCorners, among: Mask | None = None) -> Corners:
    """Corners with those of the pixels that are not among them, in place of others near by.

    among: shape (samples,), those that may be corners; None takes all.
    """
    near = _in_reach(samples.points, stairs.position)
    if among is not None:
        near &= among
        corners = corners.chosen(among[corners.at])
    here = np.flatnonzero(near)
    away, nearest = points_tree(samples.points[here], LEAF, balanced=False).query(stairs.position)
    new = (away < NEAR) & (points_tree(corners.position).query(stairs.position)[0] >= THERE)
    at, position = here[nearest[new]], stairs.position[new]
    level, upright = stairs.level[new], stairs.upright[new]
    # The line comes in along one run and goes out along the other.
    ahead = samples.points[samples.stepped(at, 4)] - samples.points[samples.stepped(at, -4)]
    comes_level = (np.einsum("ij,ij->i", ahead, upright - level) > 0)[:, None]
    before, after = np.where(comes_level, -level, -upright), np.where(comes_level, upright, level)
    # A corner that mixes two of them may lie beyond both, where their sides meet.
    stays = points_tree(position).query(corners.position)[0] >= SAME
    stays &= ~_within(samples.points[corners.at], stairs.sides)
    stays |= points_tree(stairs.position).query(corners.position)[0] < THERE
    all_at = np.concatenate([corners.at[stays], at])
    order = np.argsort(all_at, kind="stable")
    return Corners(
        all_at[order],
        np.concatenate([corners.position[stays], position])[order],
        np.concatenate([corners.before[stays], before])[order],
        np.concatenate([corners.after[stays], after])[order],
    )
