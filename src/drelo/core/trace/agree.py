"""Curves that agree with every pixel of a picture without antialiasing.

Such a pixel says one thing only: whether more than half of it is ink. Curves fitted to the calmed staircase are near,
and here they move as little as makes every pixel right.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import KDTree

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array
from drelo.core.trace.coverage import coverage
from drelo.core.trace.curves import Curves, Indices, chosen, edges, probes, together
from drelo.core.trace.refine import joined, moved
from drelo.core.trace.straight import straightened

Mask = NDArray[np.bool_]

# Chord tolerance (px) of the picture that curves would make.
FINE = 0.02
# px between the points that are moved, and how many a segment has at least.
SPACING, LEAST = 0.5, 6
# A pixel is right when it is covered by so much more, or less, than half: edges lie in the middle of what is possible
# rather than at its end.
MARGIN = 0.08
# Weight of staying where the pixels are right.
STAY = 0.05
# px that a point moves at most in one round, and the least length of edge that a wrong pixel is put down to.
MOST, LEAST_EDGE = 0.5, 0.4
ROUNDS, PATIENT_ROUNDS = 4, 8
# Straight edges are told after the first round; till before this one lines are drawn to the middle of what is possible,
# with so much weight.
STRAIGHT_AT, LEAN_TO, LEAN = 1, 3, 0.3
# Pixels that are wrong by less than this share of a pixel are right.
ROUNDING = 1e-3
# A wrong pixel is put down to the line within so many px, of which points so far apart (px) are looked at.
NEAR_LINE, APART = 3.0, 2.0
# A line takes its new place when no more than this share of what was wrong is left, or this much for each px of it:
# where the pixels themselves are ragged no curve agrees with them.
LEFT, LEFT_EACH = 0.4, 0.002


@dataclass(frozen=True, eq=False)
class Wrong:
    """Pixels of which curves cover too much or too little.

    at: shape (n, 2), px, their middles. amount: shape (n,), by what share of a pixel each is wrong.
    """

    at: Array
    amount: Array

    def near(self, spots: Array, reach: float) -> Array:
        """What is wrong within `reach` px of each spot (n, 2), summed up, px²."""
        found = KDTree(self.at).query_ball_point(spots, reach)
        return np.array([float(self.amount[i].sum()) for i in found])


def wrong_pixels(curves: Curves, bits: Mask) -> Wrong:
    """Where the picture that curves would make is not that of the bits, shape (height, width), True for ink."""
    made = _made(curves, bits)
    at = np.flatnonzero((made > 0.5) != bits)
    amount = np.abs(made.ravel()[at] - 0.5).astype(np.float64)
    y, x = np.divmod(at[amount > ROUNDING], bits.shape[1])
    return Wrong(np.stack([x + 0.5, y + 0.5], axis=1), amount[amount > ROUNDING])


def agreeing(curves: Curves, bits: Mask, count: int, patient: bool = True) -> Curves:
    """The curves of `count` lines moved so that the picture they would make is that of the bits, as far as each line
    can; in twice as many rounds if patient.
    """
    trial, straight = curves, None
    made = np.empty(bits.shape, np.float32)
    for round_ in range(PATIENT_ROUNDS if patient else ROUNDS):
        if round_ == STRAIGHT_AT:
            trial, straight = straightened(trial, bits)
            trial = joined(trial)
        found = probes(trial, SPACING, LEAST)
        size = np.bincount(found.segment, minlength=len(trial))
        shift, weight = _wanted(
            found.at, trial.lengths / np.maximum(size, 1), found.segment, _made(trial, bits, made), bits
        )
        if straight is not None and round_ < LEAN_TO:
            known, away = straight.shifts(found)
            known &= weight == STAY
            shift, weight = np.where(known, away, shift), np.where(known, LEAN, weight)
        trial = joined(moved(trial, found, shift, weight))
    after = _wrong_of_lines(trial, bits, count)
    better = after <= LEFT_EACH * np.bincount(curves.line, curves.lengths, count)
    if not better.all():
        better |= after <= LEFT * _wrong_of_lines(curves, bits, count)
    return together(chosen(curves, ~better), chosen(trial, better))


def _made(curves: Curves, bits: Mask, into: NDArray[np.float32] | None = None) -> NDArray[np.float32]:
    """Share of every pixel that curves cover."""
    height, width = bits.shape
    outline = edges(curves, FINE)
    return coverage(outline.starts, outline.ends, width, height, into)


@compiled
def _wanted(at: Array, each: Array, segment: Indices, made: NDArray[np.float32], bits: Mask) -> tuple[Array, Array]:
    """How far points on curves have to go along their normals (px) so that the pixels they lie in become right, and how
    much weight that has.

    each: shape (segments,), the length of curve that one point of a segment stands for, px.
    """
    height, width = bits.shape
    pixel = np.empty(len(at), np.int64)
    for i in range(len(at)):
        row, column = int(np.floor(at[i, 1])), int(np.floor(at[i, 0]))
        pixel[i] = min(max(row, 0), height - 1) * width + min(max(column, 0), width - 1)
    # Length of edge in each of these pixels; memory that is not written to costs nothing.
    edge = np.empty(height * width)
    for i in range(len(at)):
        edge[pixel[i]] = 0.0
    for i in range(len(at)):
        edge[pixel[i]] += each[segment[i]]
    shift, weight = np.zeros(len(at)), np.full(len(at), STAY)
    for i in range(len(at)):
        row, column = pixel[i] // width, pixel[i] % width
        over = made[row, column] - 0.5
        lack = max(MARGIN - over, 0.0) if bits[row, column] else min(-MARGIN - over, 0.0)
        if lack != 0:
            # The normal points into the ink, so that more of it moves the edge against the normal.
            shift[i] = -min(max(lack / max(edge[pixel[i]], LEAST_EDGE), -MOST), MOST)
            weight[i] = 1.0
    return shift, weight


def _wrong_of_lines(curves: Curves, bits: Mask, count: int) -> Array:
    """What is wrong beside each line, px²."""
    wrong = wrong_pixels(curves, bits)
    found = probes(curves, APART, LEAST)
    away, at = KDTree(found.at).query(wrong.at)
    near = away < NEAR_LINE
    line = curves.line[found.segment[np.asarray(at, np.int64)[near]]]
    return np.bincount(line, wrong.amount[near], count).astype(np.float64)
