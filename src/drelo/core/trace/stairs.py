"""Corners of pictures without antialiasing, read off their pixels.

Along a straight edge or a smooth curve one of the two directions in which the border of the pixels runs has only steps
of one pixel. Where both runs at a corner of the border are longer, the shape itself has a corner there.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import KDTree

from drelo.core.compiled import compiled
from drelo.core.trace.corners import Corners
from drelo.core.trace.samples import Samples

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Indices = NDArray[np.int64]

# px: the shorter and the longer of the two runs at a corner are at least so long; one pair of them.
RUNS = ((2, 8), (3, 5))
# A line passes a corner of its pixels within this, px. A corner found so near is the better one, for it knows how its
# sides lean; one further off, but so near, mixes it with another.
NEAR, THERE, SAME = 1.5, 0.9, 2.6


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
    quad = np.stack([padded[:-1, :-1], padded[:-1, 1:], padded[1:, :-1], padded[1:, 1:]]).astype(np.int8)
    # Of the four pixels round a corner one differs from the three others.
    count = quad.sum(axis=0)
    y, x = np.nonzero((count == 1) | (count == 3))
    odd = np.argmax(quad[:, y, x] == (count[y, x] == 1), axis=0)
    # The runs go along the sides of the odd pixel.
    right, down = odd % 2 == 1, odd // 2 == 1
    level_after, level_before = _runs(padded)
    upright_after, upright_before = _runs(np.ascontiguousarray(padded.T))
    level = np.where(right, level_after[y, x], level_before[y, x])
    upright = np.where(down, upright_after[x, y], upright_before[x, y])
    short, long = np.minimum(level, upright), np.maximum(level, upright)
    good = np.any([(short >= a) & (long >= b) for a, b in RUNS], axis=0)
    sign = np.where(np.stack([right, down], axis=1), 1.0, -1.0)[good]
    zero = np.zeros(len(sign))
    return StairCorners(
        np.stack([x[good], y[good]], axis=1).astype(np.float64),
        np.stack([sign[:, 0], zero], axis=1),
        np.stack([zero, sign[:, 1]], axis=1),
    )


def stair_corners_of(labels: NDArray[np.int16], count: int) -> StairCorners:
    """Those of the areas of each of `count` labels, shape (height, width)."""
    found = [stair_corners(labels == k) for k in range(count)]
    position = np.concatenate([f.position for f in found])
    # A corner of one area is mostly one of its neighbour too.
    _, first = np.unique(position, axis=0, return_index=True)
    level, upright = (np.concatenate([getattr(f, name) for f in found])[first] for name in ("level", "upright"))
    return StairCorners(position[first], level, upright)


@compiled
def _runs(padded: Mask) -> tuple[Indices, Indices]:
    """Lengths of the runs of border between every two rows that begin and that end at each corner of pixels."""
    rows, columns = padded.shape[0] - 1, padded.shape[1] - 1
    after, before = np.zeros((rows, columns), np.int64), np.zeros((rows, columns), np.int64)
    for y in range(rows):
        begin = 0
        for x in range(1, columns + 2):
            # A run goes on as long as the ink stays on the same side.
            if x <= columns and padded[y, x] == padded[y, begin] and padded[y + 1, x] == padded[y + 1, begin]:
                continue
            if padded[y, begin] != padded[y + 1, begin]:
                after[y, begin - 1] = x - begin
                before[y, x - 1] = x - begin
            begin = x
    return after, before


def with_stairs(corners: Corners, samples: Samples, stairs: StairCorners, among: Mask | None = None) -> Corners:
    """Corners with those of the pixels that are not among them, in place of others near by.

    among: shape (samples,), those that may be corners; None takes all.
    """
    here = np.arange(len(samples.points)) if among is None else np.flatnonzero(among)
    away, nearest = KDTree(samples.points[here]).query(stairs.position)
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
