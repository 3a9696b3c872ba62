"""Chords of many contours in a grid: where they meet, and how far points are from them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# A grid has about so many cells for each chord, and at most so many.
CELLS_A_CHORD, MOST_CELLS = 2.0, 4_000_000


@dataclass(frozen=True, eq=False)
class Chords:
    """Straight pieces of lines, end to end.

    starts, ends: shape (n, 2). line: shape (n,), of which line each is; those of one line stand together, in order.
    closed: shape (lines,): where the last chord ends in the first one's start.
    """

    starts: Array
    ends: Array
    line: Indices
    closed: NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Meetings:
    """Where chords cross or touch that are no neighbours: both lines of each, shape (m,), and a point, shape (m, 2)."""

    one: Indices
    other: Indices
    at: Array

    def __len__(self) -> int:
        return len(self.one)


@dataclass(frozen=True, eq=False)
class Grid:
    """Chords by the cells of a grid that they run through."""

    chords: Chords
    low: Array
    cell: float
    columns: int
    rows: int
    bounds: Indices
    held: Indices


def chords_of(polylines: Sequence[Array], closed: Sequence[bool]) -> Chords:
    """Chords of polylines, each of shape (k, 2); a closed one does not repeat its start. Empty chords are left out."""
    starts, ends = [np.empty((0, 2))], [np.empty((0, 2))]
    for points, ring in zip(polylines, closed, strict=True):
        starts.append(points if ring else points[:-1])
        ends.append(np.roll(points, -1, axis=0) if ring else points[1:])
    all_starts, all_ends = np.concatenate(starts), np.concatenate(ends)
    line = np.repeat(np.arange(len(polylines)), [len(s) for s in starts[1:]])
    some = np.any(all_starts != all_ends, axis=1)
    return Chords(all_starts[some], all_ends[some], line[some].astype(np.int64), np.asarray(closed, bool))


def grid_of(chords: Chords, least: float = 0.0) -> Grid:
    """A grid whose cells are at least `least` wide."""
    if not len(chords.starts):
        return Grid(chords, np.zeros(2), max(least, 1.0), 1, 1, np.zeros(2, np.int64), np.empty(0, np.int64))
    low = np.minimum(chords.starts, chords.ends).min(axis=0)
    reach = np.maximum(chords.starts, chords.ends).max(axis=0) - low
    cells = min(CELLS_A_CHORD * len(chords.starts) + 16, MOST_CELLS)
    size = max(float(np.sqrt(max(reach[0] * reach[1], 1e-300) / cells)), float(reach.max()) / cells, least, 1e-9)
    columns, rows = (int(n) + 1 for n in np.floor(reach / size))
    bounds = np.zeros(columns * rows + 1, np.int64)
    _through(chords.starts, chords.ends, low, size, columns, rows, bounds[1:], np.empty(0, np.int64), False)
    np.cumsum(bounds, out=bounds)
    held = np.empty(int(bounds[-1]), np.int64)
    _through(chords.starts, chords.ends, low, size, columns, rows, bounds[:-1].copy(), held, True)
    return Grid(chords, low, size, columns, rows, bounds, held)


def meetings(grid: Grid, at_ends: bool = False) -> Meetings:
    """Where lines cross or touch each other or themselves; where one turns back on itself, too.

    at_ends: several lines may end in the same point, and two may be the same.
    """
    c = grid.chords
    many = _meet(c.starts, c.ends, c.line, c.closed, grid.bounds, grid.held, at_ends, np.empty((0, 2), np.int64))
    pairs = np.empty((many, 2), np.int64)
    _meet(c.starts, c.ends, c.line, c.closed, grid.bounds, grid.held, at_ends, pairs)
    pairs = np.unique(pairs, axis=0)
    a, b = pairs.T
    return Meetings(c.line[a], c.line[b], _places(c.starts[a], c.ends[a], c.starts[b], c.ends[b]))


def distances(grid: Grid, points: Array, line: Indices, most: float) -> Array:
    """How far each point, shape (n, 2), is from its own line's chords, line: shape (n,); `most` where it is further.

    The cells of the grid are at least `most` wide.
    """
    c = grid.chords
    return _distances(
        c.starts, c.ends, c.line, grid.low, grid.cell, grid.columns, grid.bounds, grid.held, points, line, most
    )


def _places(a: Array, b: Array, c: Array, d: Array) -> Array:
    """Where chords from a to b and from c to d meet; of chords along each other the middle of what they share."""
    u, v, w = b - a, d - c, c - a
    across = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (w[:, 0] * v[:, 1] - w[:, 1] * v[:, 0]) / across
    along = np.einsum("ni,ni->n", u, u)
    low = np.clip(np.minimum(np.einsum("ni,ni->n", w, u), np.einsum("ni,ni->n", d - a, u)) / along, 0, 1)
    high = np.clip(np.maximum(np.einsum("ni,ni->n", w, u), np.einsum("ni,ni->n", d - a, u)) / along, 0, 1)
    t = np.where(np.isfinite(t), np.clip(t, 0, 1), (low + high) / 2)
    return np.asarray(a + t[:, None] * u)


@compiled
def _through(
    starts: Array,
    ends: Array,
    low: Array,
    cell: float,
    columns: int,
    rows: int,
    place: Indices,
    held: Indices,
    fill: bool,
) -> None:
    """Counts the chords of each cell in `place`, or writes their numbers from there on."""
    slack = 1e-9
    for i in range(len(starts)):
        xa, ya = (starts[i, 0] - low[0]) / cell, (starts[i, 1] - low[1]) / cell
        xb, yb = (ends[i, 0] - low[0]) / cell, (ends[i, 1] - low[1]) / cell
        if ya > yb:
            xa, ya, xb, yb = xb, yb, xa, ya
        first, last = max(0, int(ya - slack)), min(rows - 1, int(yb + slack))
        for row in range(first, last + 1):
            # What of the chord lies in this row.
            if yb > ya:
                t0 = min(max((row - slack - ya) / (yb - ya), 0.0), 1.0)
                t1 = min(max((row + 1 + slack - ya) / (yb - ya), 0.0), 1.0)
            else:
                t0, t1 = 0.0, 1.0
            x0, x1 = xa + t0 * (xb - xa), xa + t1 * (xb - xa)
            left, right = min(x0, x1), max(x0, x1)
            for column in range(max(0, int(left - slack)), min(columns - 1, int(right + slack)) + 1):
                at = row * columns + column
                if fill:
                    held[place[at]] = i
                place[at] += 1


@compiled
def _side(ax: float, ay: float, bx: float, by: float, px: float, py: float) -> float:
    return (bx - ax) * (py - ay) - (by - ay) * (px - ax)


@compiled
def _meet(
    starts: Array,
    ends: Array,
    line: Indices,
    closed: NDArray[np.bool_],
    bounds: Indices,
    held: Indices,
    at_ends: bool,
    pairs: Indices,
) -> int:
    """How many pairs of chords meet, a pair counted for each cell that both run through; written as far as there is
    room.
    """
    found = 0
    for cell in range(len(bounds) - 1):
        for p in range(bounds[cell], bounds[cell + 1]):
            i = held[p]
            ax, ay, bx, by = starts[i, 0], starts[i, 1], ends[i, 0], ends[i, 1]
            left, right, top, bottom = min(ax, bx), max(ax, bx), min(ay, by), max(ay, by)
            for q in range(p + 1, bounds[cell + 1]):
                j = held[q]
                cx, cy, dx, dy = starts[j, 0], starts[j, 1], ends[j, 0], ends[j, 1]
                if max(cx, dx) < left or min(cx, dx) > right or max(cy, dy) < top or min(cy, dy) > bottom:
                    continue
                of_c, of_d = _side(ax, ay, bx, by, cx, cy), _side(ax, ay, bx, by, dx, dy)
                of_a, of_b = _side(cx, cy, dx, dy, ax, ay), _side(cx, cy, dx, dy, bx, by)
                if of_c * of_d > 0 or of_a * of_b > 0:
                    continue
                same = line[i] == line[j]
                ends_meet = (
                    (ax == cx and ay == cy)
                    or (ax == dx and ay == dy)
                    or (bx == cx and by == cy)
                    or (bx == dx and by == dy)
                )
                if at_ends and not same:
                    # An area between two that are the same has gone.
                    forth = ax == cx and ay == cy and bx == dx and by == dy
                    back = ax == dx and ay == dy and bx == cx and by == cy
                    if forth or back:
                        continue
                neighbours = same and ends_meet and (abs(i - j) == 1 or closed[line[i]])
                if neighbours or (at_ends and ends_meet):
                    # Meeting in an end they lie along each other only when they point the same way from it.
                    flat = of_c == 0 and of_d == 0
                    if not flat:
                        continue
                    ux, uy, vx, vy = bx - ax, by - ay, dx - cx, dy - cy
                    head_to_tail = (bx == cx and by == cy) or (ax == dx and ay == dy)
                    onward = ux * vx + uy * vy > 0
                    if head_to_tail == onward:
                        continue
                if found < len(pairs):
                    pairs[found, 0], pairs[found, 1] = min(i, j), max(i, j)
                found += 1
    return found


@compiled
def _distances(
    starts: Array,
    ends: Array,
    line: Indices,
    low: Array,
    cell: float,
    columns: int,
    bounds: Indices,
    held: Indices,
    points: Array,
    owner: Indices,
    most: float,
) -> Array:
    rows = (len(bounds) - 1) // columns
    result = np.full(len(points), most)
    for k in range(len(points)):
        x, y = points[k, 0], points[k, 1]
        best = most * most
        left, right = int(np.floor((x - most - low[0]) / cell)), int(np.floor((x + most - low[0]) / cell))
        top, bottom = int(np.floor((y - most - low[1]) / cell)), int(np.floor((y + most - low[1]) / cell))
        for row in range(max(0, top), min(rows - 1, bottom) + 1):
            for column in range(max(0, left), min(columns - 1, right) + 1):
                at = row * columns + column
                for p in range(bounds[at], bounds[at + 1]):
                    i = held[p]
                    if line[i] != owner[k]:
                        continue
                    ux, uy = ends[i, 0] - starts[i, 0], ends[i, 1] - starts[i, 1]
                    wx, wy = x - starts[i, 0], y - starts[i, 1]
                    t = min(max((wx * ux + wy * uy) / (ux * ux + uy * uy), 0.0), 1.0)
                    ox, oy = wx - t * ux, wy - t * uy
                    best = min(best, ox * ox + oy * oy)
        result[k] = np.sqrt(best)
    return result
