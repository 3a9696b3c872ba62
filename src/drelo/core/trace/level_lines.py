"""Level lines of a field at sub-pixel accuracy."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.errors import Refusal

# More crossing points than this is a picture of noise.
MAX_POINTS = 4_000_000

# Sides of a cell between four pixel centres.
TOP, RIGHT, BOTTOM, LEFT = range(4)
# For every pattern of ink in a cell's corners (top left 1, top right 2, bottom right 4, bottom left 8): the side where
# the line comes in and the side where it goes out, ink on its left as seen on the screen.
_CROSSING = {
    1: (LEFT, TOP), 2: (TOP, RIGHT), 4: (RIGHT, BOTTOM), 8: (BOTTOM, LEFT),
    3: (LEFT, RIGHT), 6: (TOP, BOTTOM), 12: (RIGHT, LEFT), 9: (BOTTOM, TOP),
    14: (TOP, LEFT), 13: (RIGHT, TOP), 11: (BOTTOM, RIGHT), 7: (LEFT, BOTTOM),
}  # fmt: skip
# Saddles hold two lines: with the ink parted, and with the ink joined across the middle.
_PARTED = {5: ((LEFT, TOP), (RIGHT, BOTTOM)), 10: ((TOP, RIGHT), (BOTTOM, LEFT))}
_JOINED = {5: ((RIGHT, TOP), (LEFT, BOTTOM)), 10: ((TOP, LEFT), (BOTTOM, RIGHT))}

_IN = np.zeros(16, np.int64)
_OUT = np.zeros(16, np.int64)
for _code, (_in, _out) in _CROSSING.items():
    _IN[_code], _OUT[_code] = _in, _out


@dataclass(frozen=True, eq=False)
class ClosedLines:
    """Closed polylines laid end to end in one array, so that all are worked on at once.

    points: shape (n, 2), px, x to the right and y down; a line does not repeat its start.
    starts: shape (lines + 1,): line i is points[starts[i]:starts[i + 1]].
    """

    points: NDArray[np.float64]
    starts: NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.starts) - 1

    @property
    def owner(self) -> NDArray[np.int64]:
        """Which line each point belongs to, shape (n,)."""
        return np.repeat(np.arange(len(self)), np.diff(self.starts))

    @property
    def following(self) -> NDArray[np.int64]:
        """Index of the point after each point, shape (n,)."""
        after = np.arange(1, len(self.points) + 1)
        after[self.starts[1:] - 1] = self.starts[:-1]
        return after

    def areas(self) -> NDArray[np.float64]:
        """Signed area of each line, px²: positive round ink, negative round a hole."""
        if not len(self):
            return np.empty(0)
        p, q = self.points, self.points[self.following]
        # On the screen y points down, so the sign is turned.
        return -0.5 * np.add.reduceat(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0], self.starts[:-1])

    def lengths(self) -> NDArray[np.float64]:
        """Length of each line, px."""
        if not len(self):
            return np.empty(0)
        step = np.linalg.norm(self.points[self.following] - self.points, axis=1)
        return np.add.reduceat(step, self.starts[:-1])

    def chosen(self, keep: NDArray[np.bool_]) -> ClosedLines:
        """Only the lines that are kept, in their order."""
        sizes = np.diff(self.starts)
        starts = np.concatenate([[0], np.cumsum(sizes[keep])])
        return ClosedLines(self.points[np.repeat(keep, sizes)], starts)


def level_lines(values: NDArray[np.float32], level: float) -> ClosedLines:
    """Lines where the field equals `level`, by marching squares with linear interpolation.

    values: shape (height, width), at pixel centres. A shape that runs off the picture is closed along its border.
    Source: W. Lorensen and H. Cline, "Marching cubes", 1987, in two dimensions; saddles are decided by the mean
    of their corners.
    """
    field = np.pad(values, 1, mode="edge")
    for border in (field[0], field[-1], field[1:-1, 0], field[1:-1, -1]):
        # Mirrored about the level, the crossing falls exactly on the border of the picture.
        border[:] = np.where(border > level, 2 * level - border, border)
    ink = (field > level).view(np.uint8)
    code = ink[:-1, :-1] + (ink[:-1, 1:] << 1) + (ink[1:, 1:] << 2) + (ink[1:, :-1] << 3)
    # Neither 0 nor 15: in eight bits, 0 less 1 is the largest number.
    where = np.flatnonzero(code - np.uint8(1) < 14)
    if len(where) > MAX_POINTS:
        raise Refusal(
            "The picture falls apart into far too many specks to be traced. Blur it, clean it, or choose a calmer one."
        )
    if not len(where):
        return ClosedLines(np.empty((0, 2)), np.zeros(1, np.int64))
    width = field.shape[1]
    row, column = np.divmod(where, width - 1)
    kind = code.ravel()[where]
    plain = (kind != 5) & (kind != 10)
    starts, ends = (
        [_side(row, column, _IN[kind], field.shape)[plain]],
        [_side(row, column, _OUT[kind], field.shape)[plain]],
    )
    for saddle in (5, 10):
        at = kind == saddle
        r, c = row[at], column[at]
        mean = (field[r, c] + field[r, c + 1] + field[r + 1, c] + field[r + 1, c + 1]) / 4
        for table, chosen in ((_JOINED, mean > level), (_PARTED, mean <= level)):
            for side_in, side_out in table[saddle]:
                starts.append(_side(r[chosen], c[chosen], side_in, field.shape))
                ends.append(_side(r[chosen], c[chosen], side_out, field.shape))
    begin, end = np.concatenate(starts), np.concatenate(ends)
    order = np.argsort(begin)
    begin, end = begin[order], end[order]
    following = np.searchsorted(begin, end)
    walk, line_starts = _cycles(following)
    return ClosedLines(_crossings(begin, field, level)[walk], line_starts)


def _side(
    row: NDArray[np.int64], column: NDArray[np.int64], side: NDArray[np.int64] | int, shape: tuple[int, ...]
) -> NDArray[np.int64]:
    """Number of the grid edge at a side of a cell: level edges first, then upright ones."""
    upright = (side == LEFT) | (side == RIGHT)
    r = row + (side == BOTTOM)
    c = column + (side == RIGHT)
    return r * shape[1] + c + upright * (shape[0] * shape[1])


def _crossings(edge: NDArray[np.int64], field: NDArray[np.float32], level: float) -> NDArray[np.float64]:
    upright, at = np.divmod(edge, field.size)
    row, column = np.divmod(at, field.shape[1])
    here = field[row, column].astype(np.float64)
    there = field[row + upright, column + 1 - upright].astype(np.float64)
    t = (level - here) / (there - here)
    # The padding shifts by one pixel, the pixel centre by half of one.
    return np.stack([column + t * (1 - upright) - 0.5, row + t * upright - 0.5], axis=1)


@compiled
def _cycles(following: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    count = len(following)
    seen = np.zeros(count, np.bool_)
    walk = np.empty(count, np.int64)
    starts = np.zeros(count + 1, np.int64)
    lines = done = 0
    for first in range(count):
        if seen[first]:
            continue
        at = first
        while not seen[at]:
            seen[at] = True
            walk[done] = at
            done += 1
            at = following[at]
        lines += 1
        starts[lines] = done
    return walk, starts[: lines + 1].copy()
