"""Straight edges of pictures without antialiasing.

A pixel that a straight edge cuts is ink exactly when its middle lies on the side of the ink. So in every column of
pixels that a flat edge runs through it passes between two middles, and in every row that a steep one does. Lines that
do so in all columns make the same picture; the mean of all of them is the best that can be known.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array
from drelo.core.trace.fit.curves import Curves, Flags, Indices, Probes, picked, probes
from drelo.core.trace.fit.refine import turns
from drelo.core.trace.hard.flats import Flats, Labels

# px between the points by which curves are followed.
SPACING, LEAST = 0.5, 6
# A run of segments from corner to corner may be one line when it passes through at least so many columns and strays
# from it by at most this share of its length; each segment strays from its chord by at most this share of its own.
COLUMNS, BOW, BENT = 5, 0.06, 0.2
# A shorter run, through so many columns at least, is level where its pixels are: when it has no more than this slope
# and strays by so many px at most. A segment of less than so many px may stray by this share of its own.
SHORT, SHORT_SLOPE, SHORT_BOW = 2, 0.25, 0.4
SHORT_UP_TO, SHORT_BENT = 8.0, 0.5
# An outline that turns by more than this (radians) has a corner there.
TURN = 0.3
# Columns nearer to a run's ends than this (px) are cut by other edges too.
CLEAR = 1.0
# The pixels' border lies at most so many px from where the curves are.
NEAR = 2
# Lines that are looked at pass the middle of a run within so many px, no steeper than so.
FAR, STEEP = 3.0, 1.2
# So many corners has the area of lines that pass one column after another, at most.
CORNERS = 64
# An area this small is none.
EMPTY = 1e-9


@dataclass(frozen=True, eq=False)
class Lines:
    """Where straight segments lie by their pixels.

    known: shape (n,), of which segments that is known. on, along: shape (n, 2), a point (px) and the unit direction of
    the line of each.
    """

    known: Flags
    on: Array
    along: Array

    def shifts(self, found: Probes) -> tuple[Flags, Array]:
        """Which points on curves belong to such a segment, and how far (px) along their normals its line lies."""
        known = self.known[found.segment]
        along, away = self.along[found.segment], self.on[found.segment] - found.at
        return known, along[:, 1] * away[:, 0] - along[:, 0] * away[:, 1]


def straightened(curves: Curves, flats: Flats) -> tuple[Curves, Lines]:
    """Curves with lines for all stretches between two corners that a straight edge explains, and where these lie."""
    found = probes(curves, SPACING, LEAST)
    first = np.append(found.first, len(found.at))
    # An open line begins and ends as at corners.
    turn = np.where(curves.void | curves.void[curves.before], np.pi, turns(curves))
    last_of_ring = np.flatnonzero(curves.following <= np.arange(len(curves)))
    ends = np.concatenate([[0], last_of_ring + 1])
    run, known, on, along = _runs(
        found.at,
        first,
        curves.control,
        curves.straight,
        curves.void,
        turn,
        ends,
        flats.labels,
        flats.left[curves.line],
        flats.right[curves.line],
    )
    keep = run == np.arange(len(curves))
    made = replace(curves, straight=curves.straight | known)
    return picked(made, keep), Lines(known[keep], on[keep], along[keep])


@compiled
def _runs(
    at: Array,
    first: Indices,
    control: Array,
    straight: Flags,
    void: Flags,
    turn: Array,
    ends: Indices,
    labels: Labels,
    left: Indices,
    right: Indices,
) -> tuple[Indices, Flags, Array, Array]:
    """The first segment of the run that each segment is of, and of these whether and where they are lines.

    first: the first of the points `at` of each segment, and the end of all. ends: where each ring of segments ends,
    after 0.
    """
    count = len(straight)
    run = np.arange(count)
    known, on, along = np.zeros(count, np.bool_), np.zeros((count, 2)), np.zeros((count, 2))
    flat = np.empty(count, np.bool_)
    for i in range(count):
        most = SHORT_BENT if _chord(control[i]) < SHORT_UP_TO else BENT
        flat[i] = not void[i] and (straight[i] or _bow(control[i]) < most)
    for ring in range(len(ends) - 1):
        begin, end = ends[ring], ends[ring + 1]
        size = end - begin
        # The sharpest bend parts no straight edge.
        start = begin + np.argmax(turn[begin:end])
        done = 0
        while done < size:
            one = begin + (start - begin + done) % size
            taken = 1
            if flat[one]:
                best = _line(at, first, control, begin, end, one, 1, labels, left[one], right[one])
                # Of the lines through more and more segments the longest counts.
                longest = min(size - done, size - 1)
                while best[0] and taken < longest:
                    other = begin + (one - begin + taken) % size
                    if not flat[other] or turn[other] > TURN:
                        break
                    longer = _line(at, first, control, begin, end, one, taken + 1, labels, left[one], right[one])
                    if not longer[0]:
                        break
                    best = longer
                    taken += 1
                if best[0] and turn[one] > TURN and turn[begin + (one - begin + taken) % size] > TURN:
                    known[one] = True
                    on[one, 0], on[one, 1], along[one, 0], along[one, 1] = best[1], best[2], best[3], best[4]
                    for k in range(taken):
                        run[begin + (one - begin + k) % size] = one
                else:
                    taken = 1
            done += taken
    return run, known, on, along


@compiled
def _chord(p: Array) -> float:
    return float(np.hypot(p[3, 0] - p[0, 0], p[3, 1] - p[0, 1]))


@compiled
def _bow(p: Array) -> float:
    """How far a segment strays from its chord at most, as a share of it."""
    x, y = p[3, 0] - p[0, 0], p[3, 1] - p[0, 1]
    length = max(_chord(p), 1e-9)
    off = 0.0
    for k in range(1, 3):
        off = max(off, abs((p[k, 0] - p[0, 0]) * y - (p[k, 1] - p[0, 1]) * x))
    return float(0.75 * off / length**2)


@compiled
def _line(
    at: Array,
    first: Indices,
    control: Array,
    begin: int,
    end: int,
    one: int,
    count: int,
    labels: Labels,
    left: int,
    right: int,
) -> tuple[bool, float, float, float, float]:
    """Whether a straight edge explains all pixels beside so many segments, and its middle and direction."""
    size = end - begin
    last = begin + (one - begin + count - 1) % size
    x0, y0, x1, y1 = control[one, 0, 0], control[one, 0, 1], control[last, 3, 0], control[last, 3, 1]
    level = abs(x1 - x0) >= abs(y1 - y0)
    # Along the columns (or rows) that the edge runs through, and across.
    u0, v0, u1, v1 = (x0, y0, x1, y1) if level else (y0, x0, y1, x1)
    ahead = u1 > u0
    # What the pixels have before the edge and after it, as rows (or columns) count.
    before, after = (left, right) if ahead == level else (right, left)
    low, high = min(u0, u1) + CLEAR, max(u0, u1) - CLEAR
    columns = int(np.floor(high - 0.5)) - int(np.ceil(low - 0.5)) + 1
    short = columns < COLUMNS
    if short:
        low, high = min(u0, u1), max(u0, u1)
        columns = int(np.floor(high - 0.5)) - int(np.ceil(low - 0.5)) + 1
        if columns < SHORT or abs(v1 - v0) > SHORT_SLOPE * abs(u1 - u0):
            return False, 0.0, 0.0, 0.0, 0.0
    middle, across = (u0 + u1) / 2, (v0 + v1) / 2
    # The lines that do, by their place in the middle and their slope: a convex area.
    area, clipped = np.empty((CORNERS, 2)), np.empty((CORNERS, 2))
    area[0] = across - FAR, -STEEP
    area[1] = across + FAR, -STEEP
    area[2] = across + FAR, STEEP
    area[3] = across - FAR, STEEP
    corners = 4
    from_u, from_v = u0, v0
    only = -2
    for k in range(count + 1):
        segment = begin + (one - begin + k) % size
        points = first[segment + 1] - first[segment] if k < count else 1
        for i in range(points):
            if k < count:
                x, y = at[first[segment] + i, 0], at[first[segment] + i, 1]
            else:
                x, y = x1, y1
            u, v = (x, y) if level else (y, x)
            if (u > from_u) != ahead or u == from_u:
                continue
            # Columns whose middles this step of the outline passes.
            for column in range(int(np.ceil(min(u, from_u) - 0.5)), int(np.ceil(max(u, from_u) - 0.5))):
                centre = column + 0.5
                if centre < low or centre > high:
                    continue
                here = from_v + (v - from_v) * (centre - from_u) / (u - from_u)
                row = _border(labels, column, int(np.floor(here - 0.5)), level, before, after)
                if row < -1 or (short and only > -2 and row != only):
                    return False, 0.0, 0.0, 0.0, 0.0
                only = row
                corners = _clip(area, clipped, corners, centre - middle, row + 0.5, 1.0)
                corners = _clip(clipped, area, corners, centre - middle, row + 1.5, -1.0)
                if corners < 3:
                    return False, 0.0, 0.0, 0.0, 0.0
            from_u, from_v = u, v
    place, slope, whole = _centroid(area, corners)
    if whole < EMPTY:
        return False, 0.0, 0.0, 0.0, 0.0
    for k in range(count):
        segment = begin + (one - begin + k) % size
        for i in range(first[segment], first[segment + 1]):
            u, v = (at[i, 0], at[i, 1]) if level else (at[i, 1], at[i, 0])
            if abs(v - place - slope * (u - middle)) > (SHORT_BOW if short else BOW * abs(u1 - u0)):
                return False, 0.0, 0.0, 0.0, 0.0
    length = np.hypot(1.0, slope) * (1.0 if ahead else -1.0)
    if level:
        return True, middle, place, 1 / length, slope / length
    return True, place, middle, slope / length, 1 / length


@compiled
def _border(labels: Labels, column: int, row: int, level: bool, before: int, after: int) -> int:
    """After which pixel of a column (or row) near one its border runs; below -1 where none does."""
    height, width = labels.shape
    long, across = (width, height) if level else (height, width)
    if column < 0 or column >= long:
        return -2
    for away in range(NEAR + 1):
        for side in range(1 if away == 0 else 2):
            r = row + (away if side == 0 else -away)
            if r < 0 or r + 1 >= across:
                continue
            one = labels[r, column] if level else labels[column, r]
            two = labels[r + 1, column] if level else labels[column, r + 1]
            if one == before and two == after:
                return r
    return -2


@compiled
def _clip(area: Array, clipped: Array, corners: int, along: float, border: float, sign: float) -> int:
    """The part of a convex area of lines that pass on one side of a border, `along` px from the middle."""
    count = 0
    for i in range(corners):
        j = i + 1 if i + 1 < corners else 0
        one = sign * (area[i, 0] + area[i, 1] * along - border)
        two = sign * (area[j, 0] + area[j, 1] * along - border)
        if one > 0 and count < CORNERS:
            clipped[count] = area[i]
            count += 1
        if (one > 0) != (two > 0) and count < CORNERS:
            share = one / (one - two)
            clipped[count] = area[i] + share * (area[j] - area[i])
            count += 1
    return count


@compiled
def _centroid(area: Array, corners: int) -> tuple[float, float, float]:
    """Centroid of a convex area, and how large it is."""
    x = y = whole = 0.0
    for i in range(corners):
        j = i + 1 if i + 1 < corners else 0
        one, two = area[i] - area[0], area[j] - area[0]
        cross = one[0] * two[1] - two[0] * one[1]
        x += cross * (one[0] + two[0])
        y += cross * (one[1] + two[1])
        whole += 3 * cross
    if whole <= 0:
        return 0.0, 0.0, 0.0
    return area[0, 0] + x / whole, area[0, 1] + y / whole, whole / 6
