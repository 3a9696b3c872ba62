"""Evenly spaced samples along closed lines, with directions and turning."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.trace.seen.level_lines import ClosedLines

# Samples a pixel of length: fine enough for the corners of a pixel-wide neck.
SPACING = 0.5
MIN_SAMPLES = 16
# Lines are averaged over at most this share of their length.
MOST_CALM = 0.06


@dataclass(frozen=True, eq=False)
class Samples:
    """Samples of all lines in one array.

    points: shape (n, 2), px.
    starts: shape (lines + 1,).
    step: shape (lines,), px of length between two samples.
    """

    points: NDArray[np.float64]
    starts: NDArray[np.int64]
    step: NDArray[np.float64]

    @cached_property
    def owner(self) -> NDArray[np.int64]:
        return np.repeat(np.arange(len(self.starts) - 1), np.diff(self.starts))

    @cached_property
    def _shifts(self) -> dict[int, NDArray[np.int64]]:
        return {}

    def shifted(self, by: int) -> NDArray[np.int64]:
        """Index of the sample `by` steps further round the same line, for every sample."""
        if by not in self._shifts:
            start = self.starts[self.owner]
            size = np.diff(self.starts)[self.owner]
            index = np.arange(len(self.points)) + by
            if abs(by) >= MIN_SAMPLES:
                index = start + (index - start) % size
            else:
                # No line is shorter than the shift, so one turn is enough.
                index += np.where(index < start, size, 0) - np.where(index >= start + size, size, 0)
            self._shifts[by] = index
        return self._shifts[by]

    def stepped(self, at: NDArray[np.int64], by: int) -> NDArray[np.int64]:
        """Index of the sample `by` steps further round the same line than each of some, of the shape of `at`."""
        start = self.starts[self.owner[at]]
        size = self.starts[self.owner[at] + 1] - start
        return np.asarray(start + (at + by - start) % size)

    def around(self, at: NDArray[np.int64], reach: int) -> NDArray[np.int64]:
        """Indices of the samples up to `reach` steps before and after each of some, shape (len(at), 2 reach + 1)."""
        start = self.starts[self.owner[at]][:, None]
        size = np.diff(self.starts)[self.owner[at]][:, None]
        return np.asarray(start + (at[:, None] + np.arange(-reach, reach + 1) - start) % size)

    def directions(self, reach: int) -> NDArray[np.float64]:
        """Unit direction at every sample by least squares over `reach` samples to either side, shape (n, 2)."""
        return _directions(self.points, self.starts, reach)

    def unfolded(self, directions: NDArray[np.float64], reach: int, closed: NDArray[np.bool_]) -> NDArray[np.float64]:
        """Directions, taken over `reach` samples, of lines of which open ones run there and back, shape (n, 2).

        On the way back they are turned round, and near the tips, where they would mix both ways, those of a little
        further on hold: as if lines went straight on beyond their tips.
        """
        start, size = self.starts[:-1][self.owner], np.diff(self.starts)[self.owner]
        along = np.arange(len(self.points)) - start
        half = size // 2
        there = np.where(along > half, size - along, along)
        clear = np.minimum(reach, half // 2)
        held = np.clip(there, clear, half - clear)
        index = np.where(closed[self.owner], np.arange(len(self.points)), start + held)
        return directions[index]

    def turning(self, directions: NDArray[np.float64], before: int = 0, after: int = 1) -> NDArray[np.float64]:
        """Signed angle from the direction `before` samples back to the one `after` further on, radians, shape (n,)."""
        return _angles(directions, self.starts, before, after)


@compiled
def _angles(directions: NDArray[np.float64], starts: NDArray[np.int64], before: int, after: int) -> NDArray[np.float64]:
    angles = np.empty(len(directions))
    for line in range(len(starts) - 1):
        low, size = starts[line], starts[line + 1] - starts[line]
        one, other = -before % size, after % size
        for i in range(size):
            ax, ay = directions[low + one, 0], directions[low + one, 1]
            bx, by = directions[low + other, 0], directions[low + other, 1]
            angles[low + i] = np.arctan2(ax * by - ay * bx, ax * bx + ay * by)
            one = one + 1 if one + 1 < size else 0
            other = other + 1 if other + 1 < size else 0
    return angles


@compiled
def _directions(points: NDArray[np.float64], starts: NDArray[np.int64], reach: int) -> NDArray[np.float64]:
    result = np.zeros_like(points)
    for line in range(len(starts) - 1):
        low, high = starts[line], starts[line + 1]
        for i in range(low, high):
            x = y = 0.0
            inside = i - reach >= low and i + reach < high
            for k in range(1, reach + 1):
                after, before = i + k, i - k
                if not inside:
                    after, before = low + (after - low) % (high - low), low + (before - low) % (high - low)
                x += k * (points[after, 0] - points[before, 0])
                y += k * (points[after, 1] - points[before, 1])
            length = np.sqrt(x * x + y * y)
            if length > 0:
                result[i, 0], result[i, 1] = x / length, y / length
    return result


def calmed(samples: Samples, sigma: float) -> Samples:
    """The samples averaged along their lines with a Gaussian of standard deviation `sigma` px; less on short lines,
    which would shrink to a point.
    """
    length = samples.step * np.diff(samples.starts)
    steps = np.minimum(sigma, MOST_CALM * length) / SPACING
    return Samples(_averaged(samples.points, samples.starts, steps), samples.starts, samples.step)


@compiled
def _averaged(
    points: NDArray[np.float64], starts: NDArray[np.int64], steps: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Gaussian means round each line, of a standard deviation of so many samples for each."""
    result = np.empty_like(points)
    for line in range(len(starts) - 1):
        low, high = starts[line], starts[line + 1]
        result[low:high] = points[low:high]
        total = 1.0
        for k in range(1, min(int(np.round(2.5 * steps[line])), MIN_SAMPLES - 1) + 1):
            weight = np.exp(-0.5 * (k / steps[line]) ** 2)
            for i in range(low, high):
                after = i + k if i + k < high else i + k - high + low
                before = i - k if i - k >= low else i - k + high - low
                result[i, 0] += weight * (points[after, 0] + points[before, 0])
                result[i, 1] += weight * (points[after, 1] + points[before, 1])
            total += 2 * weight
        result[low:high] /= total
    return result


def sample(lines: ClosedLines, spacing: float = SPACING) -> Samples:
    """Samples of the lines, evenly spaced along each, about `spacing` px apart."""
    following = lines.following
    piece = np.linalg.norm(lines.points[following] - lines.points, axis=1)
    length = lines.lengths()
    # An even number, so that the middle of a line that runs there and back falls on a sample.
    count = np.maximum(MIN_SAMPLES, 2 * np.round(length / spacing / 2)).astype(np.int64)
    owner = lines.owner
    # One long ruler for all lines, each a little apart from the next, so that one interpolation serves all.
    gap = 1.0
    base = np.concatenate([[0.0], np.cumsum(length + gap)])[:-1]
    before = np.cumsum(piece) - piece
    along = before - before[lines.starts[:-1]][owner] + base[owner]
    ends = lines.starts[1:]
    ruler = np.insert(along, ends, base + length)
    x = np.insert(lines.points[:, 0], ends, lines.points[lines.starts[:-1], 0])
    y = np.insert(lines.points[:, 1], ends, lines.points[lines.starts[:-1], 1])
    starts = np.concatenate([[0], np.cumsum(count)])
    who = np.repeat(np.arange(len(count)), count)
    at = base[who] + (np.arange(starts[-1]) - starts[who]) * (length / count)[who]
    points = np.stack([np.interp(at, ruler, x), np.interp(at, ruler, y)], axis=1)
    return Samples(points, starts, length / count)
