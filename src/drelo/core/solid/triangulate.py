"""Triangles inside rings on a grid, every vertex used, in whole numbers.

One sweep from left to right cuts all areas into pieces that no upright line meets more than twice, each of which falls
into triangles along its two borders (M. R. Garey, D. S. Johnson, F. P. Preparata and R. E. Tarjan, "Triangulating a
simple polygon", 1978). Vertices of equal x count as ordered by y. No triangle is without area: a vertex in line with
two others is joined to neither across the one between.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.region.arrangement import OUTSIDE
from drelo.core.region.sweep import bucketed, side
from drelo.core.solid.planar import Rings, cycles

Indices = NDArray[np.int64]


def triangulate(vertices: Indices, r: Rings) -> tuple[Indices, Indices]:
    """Triangles of vertex indices, shape (t, 3), counter-clockwise; and the label of each, shape (t,).

    vertices: shape (v, 2), int64 grid steps, in the order of x, then y.
    """
    if not len(r.label):
        return np.empty((0, 3), np.int64), np.empty(0, np.int64)
    used = np.zeros(len(vertices), bool)
    used[r.vertices] = True
    points = vertices[used]
    first, last, above, below = _segments(r, (np.cumsum(used) - 1)[r.vertices], len(points))
    starting, starts = bucketed(first, len(points))
    _, ends = bucketed(last, len(points))
    cuts = _diagonals(points, first, last, starting, starts, np.diff(ends), above)
    start = np.concatenate([first, cuts[:, 0], last, cuts[:, 1]])
    owner = np.concatenate([above, cuts[:, 2], below, cuts[:, 2]])
    outgoing, begins = bucketed(start, len(points))
    walk, ring, origin = cycles(points, start, outgoing, begins, owner != OUTSIDE, np.zeros(len(points), bool))
    triangles = _along_borders(points, start[walk], ring)
    return np.flatnonzero(used)[triangles], np.repeat(owner[origin], np.diff(ring) - 2)


def _segments(r: Rings, points: Indices, count: int) -> tuple[Indices, Indices, Indices, Indices]:
    """The rings' segments, each once, as first and last point, with the label above and below, OUTSIDE for none."""
    following = np.arange(1, len(points) + 1)
    following[r.starts[1:] - 1] = r.starts[:-1]
    start, end = points, points[following]
    label = np.repeat(r.label, np.diff(r.starts))
    name = np.minimum(start, end) * count + np.maximum(start, end)
    order = np.argsort(name)
    new = np.ones(len(order), bool)
    np.not_equal(name[order[1:]], name[order[:-1]], out=new[1:])
    segment = np.empty(len(order), np.int64)
    segment[order] = np.cumsum(new) - 1
    first, last = np.divmod(name[order[new]], count)
    above, below = np.full(len(first), OUTSIDE), np.full(len(first), OUTSIDE)
    onward = start < end
    above[segment[onward]], below[segment[~onward]] = label[onward], label[~onward]
    return first, last, above, below


@compiled
def _diagonals(
    points: Indices,
    first: Indices,
    last: Indices,
    starting: Indices,
    starts: Indices,
    ending: Indices,
    above: Indices,
) -> Indices:
    """Cuts between points that leave no piece with a point where it opens or closes in its middle; shape (n, 3), the
    third is the label of what is cut.

    Between two neighbours on the sweep's line, the last point seen is kept with the lower one, and whether two borders
    ended there. Such a point is joined to the next one in its gap, a point where two borders begin to the last.
    """
    cuts = np.empty((len(points), 3), np.int64)
    count = 0
    seen, is_merge = np.full(len(first), -1), np.zeros(len(first), np.bool_)
    line = np.empty(256, np.int64)
    size = 0
    for p in range(len(points)):
        low, high = 0, size
        while low < high:
            middle = (low + high) // 2
            if side(points, first, last, line[middle], p) > 0:
                low = middle + 1
            else:
                high = middle
        end = low + ending[p]
        begin, many = starts[p], starts[p + 1] - starts[p]
        for k in range(1, many):
            s = starting[begin + k]
            at = begin + k
            while at > begin and side(points, first, last, starting[at - 1], last[s]) < 0:
                starting[at] = starting[at - 1]
                at -= 1
            starting[at] = s
        # Gaps that p touches are those over the one below it and over each that ends in it.
        for k in range(max(low - 1, 0), end):
            s = line[k]
            if above[s] >= 0 and (is_merge[s] or (end == low and k == low - 1)):
                if count == len(cuts):
                    longer = np.empty((2 * count, 3), np.int64)
                    longer[:count] = cuts
                    cuts = longer
                cuts[count, 0], cuts[count, 1], cuts[count, 2] = seen[s], p, above[s]
                count += 1
        if low > 0:
            seen[line[low - 1]], is_merge[line[low - 1]] = p, many == 0
        for k in range(begin, begin + many):
            seen[starting[k]], is_merge[starting[k]] = p, False
        shift = many - (end - low)
        if size + shift > len(line):
            more = np.empty(2 * (size + shift), np.int64)
            more[:size] = line[:size]
            line = more
        if shift > 0:
            for k in range(size - 1, end - 1, -1):
                line[k + shift] = line[k]
        elif shift < 0:
            for k in range(end, size):
                line[k + shift] = line[k]
        size += shift
        for k in range(many):
            line[low + k] = starting[begin + k]
    return cuts[:count]


@compiled
def _along_borders(points: Indices, ring: Indices, begins: Indices) -> Indices:
    """Triangles of pieces whose lower and upper border both lead onward, from each one's first point to its last."""
    triangles = np.empty((len(ring) - 2 * (len(begins) - 1), 3), np.int64)
    count = 0
    merged, lower, stack = np.empty(len(ring), np.int64), np.empty(len(ring), np.bool_), np.empty(len(ring), np.int64)
    for piece in range(len(begins) - 1):
        begin, size = begins[piece], begins[piece + 1] - begins[piece]
        left = 0
        for k in range(1, size):
            if ring[begin + k] < ring[begin + left]:
                left = k
        # Both borders, brought together in the order of their points: the lower one runs with the ring.
        merged[0], lower[0] = ring[begin + left], True
        down, up = left + 1, left - 1 + size
        for k in range(1, size):
            a, b = ring[begin + down % size], ring[begin + up % size]
            if a <= b:
                merged[k], lower[k] = a, True
                down += 1
            else:
                merged[k], lower[k] = b, False
                up -= 1
        stack[0], stack[1] = 0, 1
        depth = 2
        for k in range(2, size):
            other = lower[k] != lower[stack[depth - 1]] or k == size - 1
            top = stack[depth - 1]
            depth -= 1
            while depth > 0:
                under = stack[depth - 1]
                a, b, c = merged[under], merged[top], merged[k]
                turn = (points[b, 0] - points[a, 0]) * (points[c, 1] - points[a, 1]) - (points[b, 1] - points[a, 1]) * (
                    points[c, 0] - points[a, 0]
                )
                if not other and (turn <= 0 if lower[k] else turn >= 0):
                    break
                if turn > 0:
                    triangles[count, 0], triangles[count, 1], triangles[count, 2] = a, b, c
                else:
                    triangles[count, 0], triangles[count, 1], triangles[count, 2] = a, c, b
                count += 1
                top = under
                depth -= 1
            if other:
                # All is cut off but what the last of the other border still leaves open.
                stack[0], depth = k - 1, 1
            else:
                stack[depth] = top
                depth += 1
            stack[depth] = k
            depth += 1
    return triangles[:count]
