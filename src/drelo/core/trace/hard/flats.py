"""A picture without antialiasing: of every pixel one thing is known, what covers more of it than anything else."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array
from drelo.core.trace.fit.curves import Curves, Indices, Probes, edges
from drelo.core.trace.seen.coverage import mixed

Mask = NDArray[np.bool_]
Labels = NDArray[np.int16]
Shares = NDArray[np.float32]

# Chord tolerance (px) of the picture that curves would make.
FINE = 0.02
# Pixels that are wrong by less than this share of a pixel are right.
ROUNDING = 1e-3


@dataclass(frozen=True, eq=False)
class Wrong:
    """Pixels of which curves cover too much or too little.

    at: shape (n, 2), px, their middles. amount: shape (n,), by what share of a pixel each is wrong.
    """

    at: Array
    amount: Array


@dataclass(frozen=True, eq=False)
class Frame:
    """Edges along the border of a picture, and the labels (−1 outside) beside them, as they run."""

    starts: Array
    ends: Array
    left: Indices
    right: Indices


@dataclass(frozen=True, eq=False)
class Flats:
    """labels: shape (height, width), 0 and up. left, right: shape (lines,), labels beside every line as it runs."""

    labels: Labels
    left: Indices
    right: Indices
    frame: Frame | None = None

    @staticmethod
    def of_ink(bits: Mask, lines: int) -> Flats:
        """Of so many lines with ink (1) on their left and paper (0) on their right; bits: True for ink."""
        return Flats(bits.astype(np.int16), np.ones(lines, np.int64), np.zeros(lines, np.int64))

    @cached_property
    def count(self) -> int:
        """How many labels there are besides 0."""
        return int(max(self.left.max(initial=0), self.right.max(initial=0), self.labels.max(initial=0)))

    def shares(self, curves: Curves, into: Shares | None = None) -> Shares:
        """How much of every pixel each label but 0, which has the rest, would cover, shape (height, width, labels - 1).

        into: an array of that shape that is no longer needed.
        """
        height, width = self.labels.shape
        outline = edges(curves, FINE)
        starts, ends = outline.starts, outline.ends
        left, right = self.left[outline.line], self.right[outline.line]
        if self.frame is not None:
            starts, ends = np.concatenate([starts, self.frame.starts]), np.concatenate([ends, self.frame.ends])
            left, right = np.concatenate([left, self.frame.left]), np.concatenate([right, self.frame.right])
        # Label 0 and what lies outside (-1) have no channel.
        one = np.zeros((self.count + 2, self.count))
        one[1:-1] = np.eye(self.count)
        return mixed(starts, ends, one[left] - one[right], width, height, into)

    def wrong(self, curves: Curves) -> Wrong:
        """Where the picture that curves would make is another."""
        shares = self.shares(curves)
        if self.count == 1:
            at = np.flatnonzero((shares[..., 0] > 0.5) != (self.labels == 1))
            amount = np.abs(shares.ravel()[at] - 0.5).astype(np.float64)
        else:
            at, amount = _wrong(shares, self.labels)
        at, amount = at[amount > ROUNDING], amount[amount > ROUNDING]
        y, x = np.divmod(at, self.labels.shape[1])
        return Wrong(np.stack([x + 0.5, y + 0.5], axis=1), amount)

    def lacks(self, found: Probes, line: Indices, shares: Shares, margin: float) -> Array:
        """By what share of the pixel in which each point lies what is left of its line there lacks of being more than
        what is right of it by `margin`, or if negative has too much; 0 where it is right, or the pixel is neither's.

        line: shape (points,).
        """
        return _lacks(found.at, self.left[line], self.right[line], shares, self.labels, margin)


@compiled
def _share(shares: Shares, row: int, column: int, k: int) -> float:
    if k > 0:
        return float(shares[row, column, k - 1])
    rest = 1.0
    for c in range(shares.shape[2]):
        rest -= shares[row, column, c]
    return rest


@compiled
def _wrong(shares: Shares, labels: Labels) -> tuple[Indices, Array]:
    """Pixels of which their own label has less than another, and half of how much less."""
    height, width, count = shares.shape
    amount, at = np.empty(labels.size), np.empty(labels.size, np.int64)
    found = 0
    for row in range(height):
        for column in range(width):
            own = _share(shares, row, column, labels[row, column])
            if own >= 0.5:
                continue
            most = 0.0
            for k in range(count + 1):
                if k != labels[row, column]:
                    most = max(most, _share(shares, row, column, k))
            if most > own:
                at[found], amount[found] = row * width + column, (most - own) / 2
                found += 1
    return at[:found].copy(), amount[:found].copy()


@compiled
def _lacks(at: Array, left: Indices, right: Indices, shares: Shares, labels: Labels, margin: float) -> Array:
    height, width = labels.shape
    lacks = np.zeros(len(at))
    for i in range(len(at)):
        row = min(max(int(np.floor(at[i, 1])), 0), height - 1)
        column = min(max(int(np.floor(at[i, 0])), 0), width - 1)
        a, b, own = left[i], right[i], labels[row, column]
        if own != a and own != b:
            continue
        over = (_share(shares, row, column, a) - _share(shares, row, column, b)) / 2
        lacks[i] = max(margin - over, 0.0) if own == a else min(-margin - over, 0.0)
    return lacks
