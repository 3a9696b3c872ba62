"""The faces between segments that meet in their ends only, by one sweep from left to right.

The sweep keeps the segments that its line meets in their order, tells that each new pair of neighbours does not cross
(M. I. Shamos and D. Hoey, "Geometric intersection problems", 1976), and joins the sides of segments that look at each
other across a gap: sides that are joined bound one face. All in whole numbers, so nothing is left to rounding.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Indices = NDArray[np.int64]

# Coordinates up to here keep every product within 64 bits.
MAX_COORDINATE = 1 << 29


@dataclass(frozen=True, eq=False)
class Sides:
    """The face on either side of every segment, seen along it from its first end in the order of x, then y.

    above, below: shape (n,), numbers of faces; the unbounded one is 0. count: of the faces.
    """

    above: Indices
    below: Indices
    count: int


def sides_of(points: Indices, first: Indices, last: Indices) -> Sides | None:
    """Faces beside segments; None where two of them cross, touch within or lie on each other.

    points: shape (v, 2), in the order of x, then y, all different. first, last: shape (n,), ends, first < last.
    """
    if not len(first):
        return Sides(first, last, 1)
    starting, starts = bucketed(first, len(points))
    _, ends = bucketed(last, len(points))
    good, root = _swept(points, first, last, starting, starts, np.diff(ends))
    if not good:
        return None
    number = np.full(len(root), -1)
    number[root[-1]] = 0
    used = np.flatnonzero(root == np.arange(len(root)))
    others = used[used != root[-1]]
    number[others] = np.arange(1, len(others) + 1)
    face = number[root[:-1]].reshape(-1, 2)
    return Sides(face[:, 1], face[:, 0], len(used))


@compiled
def bucketed(keys: Indices, count: int) -> tuple[Indices, Indices]:
    """Positions in the order of their keys, 0 to count - 1, and where each key's begin; (len,) and (count + 1,)."""
    begins = np.zeros(count + 1, np.int64)
    for key in keys:
        begins[key + 1] += 1
    for key in range(count):
        begins[key + 1] += begins[key]
    place = begins[:-1].copy()
    order = np.empty(len(keys), np.int64)
    for i in range(len(keys)):
        order[place[keys[i]]] = i
        place[keys[i]] += 1
    return order, begins


@compiled
def joined(count: int, one: Indices, other: Indices) -> Indices:
    """For each of `count` things the lowest of those that pairs join with it."""
    parent = np.arange(count)
    for i in range(len(one)):
        a, b = one[i], other[i]
        while parent[a] != a:
            parent[a] = parent[parent[a]]
            a = parent[a]
        while parent[b] != b:
            parent[b] = parent[parent[b]]
            b = parent[b]
        parent[max(a, b)] = min(a, b)
    for i in range(count):
        # The lowest of a set is its root, so that those before are settled.
        parent[i] = parent[parent[i]]
    return parent


@compiled
def side(points: Indices, first: Indices, last: Indices, s: int, p: int) -> int:
    """Twice the area between segment s and point p: above 0 where p lies above the segment."""
    ax, ay = points[first[s], 0], points[first[s], 1]
    dx, dy = points[last[s], 0] - ax, points[last[s], 1] - ay
    twice: int = dx * (points[p, 1] - ay) - dy * (points[p, 0] - ax)
    return twice


@compiled
def _stay_apart(points: Indices, first: Indices, last: Indices, lower: int, upper: int) -> bool:
    """Whether neighbours keep their order until the first of them ends."""
    if last[lower] == last[upper]:
        return True
    if last[upper] < last[lower]:
        return bool(side(points, first, last, lower, last[upper]) > 0)
    return bool(side(points, first, last, upper, last[lower]) < 0)


@compiled
def _root(parent: Indices, i: int) -> int:
    while parent[i] != i:
        parent[i] = parent[parent[i]]
        i = parent[i]
    return i


@compiled
def _swept(
    points: Indices, first: Indices, last: Indices, starting: Indices, starts: Indices, ending: Indices
) -> tuple[bool, Indices]:
    """Whether nothing crosses; and for the lower and upper side of every segment, and the outside, its face's root."""
    count = len(first)
    parent = np.arange(2 * count + 1)
    outside = 2 * count
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
        # All that end here lie next to each other, and no other segment passes the point.
        end = low
        while end < size and last[line[end]] == p:
            end += 1
        if end - low != ending[p] or (end < size and side(points, first, last, line[end], p) >= 0):
            return False, parent
        begin, many = starts[p], starts[p + 1] - starts[p]
        for k in range(1, many):
            s = starting[begin + k]
            at = begin + k
            while at > begin:
                turn = side(points, first, last, starting[at - 1], last[s])
                if turn == 0:
                    return False, parent
                if turn > 0:
                    break
                starting[at] = starting[at - 1]
                at -= 1
            starting[at] = s
        shift = many - (end - low)
        if size + shift > len(line):
            longer = np.empty(2 * (size + shift), np.int64)
            longer[:size] = line[:size]
            line = longer
        if shift > 0:
            for k in range(size - 1, end - 1, -1):
                line[k + shift] = line[k]
        elif shift < 0:
            for k in range(end, size):
                line[k + shift] = line[k]
        size += shift
        for k in range(many):
            line[low + k] = starting[begin + k]
        for k in range(low, low + many + 1):
            outer = k == low or k == low + many
            if outer and k > 0 and k < size and not _stay_apart(points, first, last, line[k - 1], line[k]):
                return False, parent
            one = _root(parent, 2 * line[k - 1] + 1 if k > 0 else outside)
            other = _root(parent, 2 * line[k] if k < size else outside)
            if one < other:
                parent[one] = other
            else:
                parent[other] = one
    for i in range(len(parent)):
        parent[i] = _root(parent, i)
    return True, parent
