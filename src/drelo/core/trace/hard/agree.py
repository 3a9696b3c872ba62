"""Curves that agree with every pixel of a picture without antialiasing.

Such a pixel says one thing only: what covers more of it than anything else. Curves fitted to the calmed staircase are
near, and here they move as little as makes every pixel right.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array
from drelo.core.trace.fit.curves import Curves, Probes, chosen, probes, together
from drelo.core.trace.fit.refine import Hold, as_is, joined, moved
from drelo.core.trace.hard.flats import Flats, Shares
from drelo.core.trace.hard.straight import straightened

# px between the points that are moved, also where there is time, and how many a segment has at least.
SPACING, PATIENT_SPACING, LEAST = 1.0, 0.5, 6
# A pixel is right when it is covered by so much more, or less, than half: edges lie in the middle of what is possible
# rather than at its end.
MARGIN = 0.08
# Weight of staying where the pixels are right.
STAY = 0.05
# px that a point moves at most in one round, and the least length of edge that a wrong pixel is put down to.
MOST, LEAST_EDGE = 0.5, 0.4
ROUNDS, PATIENT_ROUNDS = 3, 8
# Straight edges are told after the first round; till before this one lines are drawn to the middle of what is possible,
# with so much weight.
STRAIGHT_AT, LEAN_TO, LEAN = 1, 2, 0.3
# A line takes its new place when no more than this share of what was wrong is left, or this much for each px of it:
# where the pixels themselves are ragged no curve agrees with them.
LEFT, LEFT_EACH = 0.4, 0.002


def agreeing(curves: Curves, flats: Flats, count: int, patient: bool = True, hold: Hold = as_is) -> Curves:
    """The curves of `count` lines moved so that the picture they would make is that of the flats, as far as each line
    can; in more rounds and by more points if patient.
    """
    spacing, rounds = (PATIENT_SPACING, PATIENT_ROUNDS) if patient else (SPACING, ROUNDS)
    seen = _seen(curves, flats, spacing)
    before = seen.wrong_of_lines(curves, count)
    trial, straight = curves, None
    for round_ in range(rounds):
        if round_ == STRAIGHT_AT:
            trial, straight = straightened(trial, flats)
            trial = joined(trial)
        if round_:
            seen = _seen(trial, flats, spacing, seen.shares)
        shift, weight = _wanted(seen.found.at, seen.each, seen.lacks, *seen.shares.shape[:2])
        if straight is not None and round_ < LEAN_TO:
            known, away = straight.shifts(seen.found)
            known &= weight == STAY
            shift, weight = np.where(known, away, shift), np.where(known, LEAN, weight)
        trial = joined(hold(moved(trial, seen.found, shift, weight)))
    # Lines that end in common do so where they have moved to.
    left = np.full(count, LEFT)
    left[curves.line[curves.void]] = 1.0
    enough = np.maximum(left * before, LEFT_EACH * np.bincount(curves.line, curves.lengths, count))
    # Mostly what was wrong before the last step is little enough already.
    better = seen.wrong_of_lines(trial, count) <= enough
    if not better.all():
        better |= _seen(trial, flats, spacing, seen.shares).wrong_of_lines(trial, count) <= enough
    return joined(hold(together(chosen(curves, ~better), chosen(trial, better))))


@dataclass(frozen=True, eq=False)
class _Seen:
    """Points on curves held against the pixels in which they lie.

    each: shape (n,), the length of curve that a point stands for, px. lacks: shape (n,), what its left lacks of being
    right by MARGIN. shares: what labels cover of all pixels.
    """

    found: Probes
    each: Array
    lacks: Array
    shares: Shares

    def wrong_of_lines(self, curves: Curves, count: int) -> Array:
        """What is wrong in the pixels that each of so many lines runs through, px²."""
        wrong = np.maximum(np.abs(self.lacks) - MARGIN, 0) * self.each
        return np.bincount(curves.line[self.found.segment], wrong, count).astype(np.float64)


def _seen(curves: Curves, flats: Flats, spacing: float, into: Shares | None = None) -> _Seen:
    """into: shares that are no longer needed."""
    found = probes(curves, spacing, LEAST)
    shares = flats.shares(curves, into)
    size = np.bincount(found.segment, minlength=len(curves))
    each = (curves.lengths / np.maximum(size, 1))[found.segment]
    return _Seen(found, each, flats.lacks(found, curves.line[found.segment], shares, MARGIN), shares)


@compiled
def _wanted(at: Array, each: Array, lacks: Array, height: int, width: int) -> tuple[Array, Array]:
    """How far points on curves have to go along their normals (px) so that the pixels they lie in become right, and how
    much weight that has.

    each: shape (n,), the length of curve that a point stands for, px. lacks: shape (n,), what its left lacks.
    """
    pixel = np.empty(len(at), np.int64)
    for i in range(len(at)):
        row, column = int(np.floor(at[i, 1])), int(np.floor(at[i, 0]))
        pixel[i] = min(max(row, 0), height - 1) * width + min(max(column, 0), width - 1)
    # Length of edge in each of these pixels; memory that is not written to costs nothing.
    edge = np.empty(height * width)
    for i in range(len(at)):
        edge[pixel[i]] = 0.0
    for i in range(len(at)):
        edge[pixel[i]] += each[i]
    shift, weight = np.zeros(len(at)), np.full(len(at), STAY)
    for i in range(len(at)):
        if lacks[i] != 0:
            # The normal points to the left, so that more of that moves the edge against the normal.
            shift[i] = -min(max(lacks[i] / max(edge[pixel[i]], LEAST_EDGE), -MOST), MOST)
            weight[i] = 1.0
    return shift, weight
