"""Level lines of a field at sub-pixel accuracy."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.errors import Refusal
from drelo.core.picture.patterns import patterns

# More crossing points than this is a picture of noise.
MAX_POINTS = 4_000_000

# Lines keep off the centres of pixels by this share of the way to the next: where values are right at the level several
# would meet in one.
INNER = 0.002

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
# Of a saddle of which one line is walked, what is left: this and the sides of the other line, four times in and out.
_LEFT_OVER = 16

_IN = np.zeros(32, np.int64)
_OUT = np.zeros(32, np.int64)
for _code, (_in, _out) in _CROSSING.items():
    _IN[_code], _OUT[_code] = _in, _out
for _rest in range(16):
    _IN[_LEFT_OVER + _rest], _OUT[_LEFT_OVER + _rest] = divmod(_rest, 4)
# By pattern (5, 10), whether joined, which of the two lines, and in or out.
_SADDLES = np.array([[_PARTED[5], _JOINED[5]], [_PARTED[10], _JOINED[10]]])


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

    def moved(self, offset: tuple[float, float]) -> list[NDArray[np.float64]]:
        """Each line's points, shape (k, 2), moved by an offset, px."""
        return np.split(self.points + np.array(offset), self.starts[1:-1])

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
    field = np.asarray(cv2.copyMakeBorder(values, 1, 1, 1, 1, cv2.BORDER_REPLICATE), np.float32)
    for border in (field[0], field[-1], field[1:-1, 0], field[1:-1, -1]):
        # Mirrored about the level, the crossing falls exactly on the border of the picture.
        border[:] = np.where(border > level, 2 * level - border, border)
    code, cells, count = patterns(field > level)
    if count > MAX_POINTS:
        raise Refusal("trace.specks-everywhere")
    return ClosedLines(*_walked(field, level, code, cells, count))


@compiled
def _walked(
    field: NDArray[np.float32], level: float, code: NDArray[np.uint8], cells: NDArray[np.int64], count: int
) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Every line from cell to cell until it is back where it began; `code` is used up."""
    points = np.empty((count, 2))
    starts = np.zeros(count + 1, np.int64)
    done = lines = 0
    for i in range(len(cells)):
        first_row, first_column = cells[i] // code.shape[1], cells[i] % code.shape[1]
        while code[first_row, first_column] != 0:
            r, c, side = first_row, first_column, -1
            while True:
                pattern = code[r, c]
                if pattern == 5 or pattern == 10:
                    mean = (field[r, c] + field[r, c + 1] + field[r + 1, c] + field[r + 1, c + 1]) / 4
                    pair = _SADDLES[0 if pattern == 5 else 1, 1 if mean > level else 0]
                    which = 1 if pair[1, 0] == side else 0
                    side, leaves = pair[which, 0], pair[which, 1]
                    code[r, c] = _LEFT_OVER + 4 * pair[1 - which, 0] + pair[1 - which, 1]
                else:
                    side, leaves = _IN[pattern], _OUT[pattern]
                    code[r, c] = 0
                # Where the line crosses the side on which it comes in.
                row, column = r + (side == BOTTOM), c + (side == RIGHT)
                upright = side in (LEFT, RIGHT)
                here = np.float64(field[row, column])
                there = np.float64(field[row + 1, column] if upright else field[row, column + 1])
                t = min(max((level - here) / (there - here), INNER), 1 - INNER)
                # The padding shifts by one pixel, the pixel centre by half of one.
                points[done, 0] = column - 0.5 + (0.0 if upright else t)
                points[done, 1] = row - 0.5 + (t if upright else 0.0)
                done += 1
                r += (leaves == BOTTOM) - (leaves == TOP)
                c += (leaves == RIGHT) - (leaves == LEFT)
                side = (leaves + 2) % 4
                # A line is whole when the cell it comes to holds none that goes on from there.
                if code[r, c] == 0 or (code[r, c] >= _LEFT_OVER and _IN[code[r, c]] != side):
                    break
            lines += 1
            starts[lines] = done
    return points[:done], starts[: lines + 1].copy()
