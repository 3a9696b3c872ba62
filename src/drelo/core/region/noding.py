"""Segments noded on a grid of whole numbers: what crosses or comes within half a step is joined in a grid point.

Snap rounding (J. D. Hobby, "Practical segment intersection with finite precision output", 1999): every end and every
crossing makes its grid point hot, and a segment turns aside to each hot point whose unit square it passes. The squares
hold their left and lower border, not the others, so that each place belongs to one.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.boxes import LEAF, along_curve, meet, tree_of
from drelo.core.compiled import THREADS, compiled

Indices = NDArray[np.int64]

# Crossings beyond this are no drawing that could be built.
MAX_CLOSE = 4_000_000


@dataclass(frozen=True, eq=False)
class Noded:
    """Pieces of segments that meet in their ends only, unless the grid was too coarse to tell.

    points: shape (v, 2), in the order of x, then y. first, last: shape (e,), ends of each piece, first < last.
    piece, source: shape (m,), which pieces lie on which segment, by segment.
    """

    points: Indices
    first: Indices
    last: Indices
    piece: Indices
    source: Indices


def distinct(segments: Indices) -> tuple[Indices, Indices]:
    """The different segments among segments, shape (n, 2, 2), whichever way they run; and which each of all is."""
    low = segments.reshape(-1, 2).min(axis=0)
    keys = ((segments[..., 0] - low[0]) << 32) | (segments[..., 1] - low[1])
    first, last = np.minimum(keys[:, 0], keys[:, 1]), np.maximum(keys[:, 0], keys[:, 1])
    return _distinct(first, last, segments)


@compiled
def _distinct(first: Indices, last: Indices, segments: Indices) -> tuple[Indices, Indices]:
    size = 16
    while size < 2 * len(first):
        size *= 2
    table = np.full(size, -1, np.int64)
    kept, which = np.empty(len(first), np.int64), np.empty(len(first), np.int64)
    count = 0
    for i in range(len(first)):
        code = np.uint64(first[i]) * np.uint64(0x9E3779B97F4A7C15)
        code = (code ^ (code >> np.uint64(32)) ^ np.uint64(last[i])) * np.uint64(0xBF58476D1CE4E5B9)
        at = np.int64((code >> np.uint64(24)) & np.uint64(size - 1))
        while table[at] >= 0 and (first[kept[table[at]]] != first[i] or last[kept[table[at]]] != last[i]):
            at = (at + 1) & (size - 1)
        if table[at] < 0:
            table[at] = count
            kept[count] = i
            count += 1
        which[i] = table[at]
    return segments[kept[:count]], which


def noded(segments: Indices, among: NDArray[np.bool_] | None = None) -> Noded | None:
    """Node segments, shape (n, 2, 2), grid points, that all differ; None where too many cross or come close.

    among: shape (n,), which ones may need it; the others stay as they are. All, when it is not given.
    """
    active = np.arange(len(segments)) if among is None else np.flatnonzero(among)
    order = active[along_curve(segments[active].sum(axis=1))]
    ordered = segments[order]
    close = _close_pairs(ordered)
    if close is None:
        return None
    spots, owner = _hot_spots(ordered, close)
    owner = order[owner]
    if among is not None:
        rest = np.flatnonzero(~among)
        spots = np.concatenate([spots, segments[rest].reshape(-1, 2)])
        owner = np.concatenate([owner, np.repeat(rest, 2)])
    return _pieces(spots, owner)


def near(segments: Indices, others: Indices) -> NDArray[np.bool_]:
    """Which segments have a box that comes within a step of one of the others', shape (n,)."""
    tree_low, tree_high = tree_of(*_boxes(others[along_curve(others.sum(axis=1))]))
    return _touched(*_boxes(segments), tree_low, tree_high)


def _boxes(segments: Indices) -> tuple[Indices, Indices]:
    return np.minimum(segments[:, 0], segments[:, 1]), np.maximum(segments[:, 0], segments[:, 1])


@compiled
def _touched(low: Indices, high: Indices, tree_low: Indices, tree_high: Indices) -> NDArray[np.bool_]:
    """Whether a box comes within a step of a leaf of the tree."""
    width = len(tree_low) // 2
    result = np.zeros(len(low), np.bool_)
    stack = np.empty(128, np.int64)
    for i in range(len(low)):
        depth = 1
        stack[0] = 1
        while depth:
            depth -= 1
            node = stack[depth]
            if not meet(low, high, i, tree_low, tree_high, node, 1):
                continue
            if node >= width:
                result[i] = True
                break
            stack[depth], stack[depth + 1] = 2 * node, 2 * node + 1
            depth += 2
    return result


def _close_pairs(segments: Indices) -> Indices | None:
    """Pairs of segments that may touch a hot point of each other, shape (n, 2)."""
    low, high = _boxes(segments)
    tree_low, tree_high = tree_of(low, high)
    leaves = -(-len(segments) // LEAF)
    ends = np.linspace(0, leaves, THREADS * 4 + 1).astype(int).tolist()

    def of_some(begin: int, end: int) -> Indices:
        return _close(begin, end, segments, low, high, tree_low, tree_high, MAX_CLOSE)

    with ThreadPoolExecutor(THREADS) as threads:
        found = list(threads.map(of_some, ends[:-1], ends[1:]))
    pairs = np.concatenate(found)
    return None if any(len(f) >= MAX_CLOSE for f in found) or len(pairs) >= MAX_CLOSE else pairs


@compiled
def _close(
    begin: int,
    end: int,
    segments: Indices,
    low: Indices,
    high: Indices,
    tree_low: Indices,
    tree_high: Indices,
    most: int,
) -> Indices:
    width = len(tree_low) // 2
    levels = 0
    while 1 << levels < width:
        levels += 1
    count = 0
    found = np.empty((1024, 2), np.int64)
    stack = np.empty((128, 2), np.int64)
    for leaf in range(begin, end):
        own = width + leaf
        depth = 1
        stack[0, 0], stack[0, 1] = 1, levels
        while depth:
            depth -= 1
            node, level = stack[depth, 0], stack[depth, 1]
            # The last leaf under the node is an earlier one: each pair is found from its first segment.
            if (((node + 1) << level) - width) <= leaf or not meet(
                tree_low, tree_high, own, tree_low, tree_high, node, 1
            ):
                continue
            if level:
                stack[depth, 0], stack[depth, 1] = 2 * node, level - 1
                stack[depth + 1, 0], stack[depth + 1, 1] = 2 * node + 1, level - 1
                depth += 2
                continue
            other = (node - width) * LEAF
            for i in range(leaf * LEAF, min(leaf * LEAF + LEAF, len(low))):
                for j in range(max(other, i + 1), min(other + LEAF, len(low))):
                    if (
                        not meet(low, high, i, low, high, j, 1)
                        or _clear(segments, i, j)
                        or _clear(segments, j, i)
                        or _part(segments, i, j)
                    ):
                        continue
                    if count == len(found):
                        if count >= most:
                            return found
                        more = np.empty((2 * count, 2), np.int64)
                        more[:count] = found
                        found = more
                    found[count, 0], found[count, 1] = i, j
                    count += 1
    return found[:count]


@compiled
def _side(segments: Indices, i: int, x: int, y: int) -> int:
    """Twice the area between segment i and a point, above 0 on its left."""
    ax, ay = segments[i, 0, 0], segments[i, 0, 1]
    twice: int = (segments[i, 1, 0] - ax) * (y - ay) - (segments[i, 1, 1] - ay) * (x - ax)
    return twice


@compiled
def _clear(segments: Indices, i: int, j: int) -> bool:
    """Whether all of segment j lies on one side of segment i's line, more than a step off."""
    one = _side(segments, i, segments[j, 0, 0], segments[j, 0, 1])
    other = _side(segments, i, segments[j, 1, 0], segments[j, 1, 1])
    step = abs(segments[i, 1, 0] - segments[i, 0, 0]) + abs(segments[i, 1, 1] - segments[i, 0, 1])
    return bool((one > step and other > step) or (one < -step and other < -step))


@compiled
def _part(segments: Indices, i: int, j: int) -> bool:
    """Whether segments begin in one point and lead away from each other, so that no step of one is near the other."""
    for a in range(2):
        for b in range(2):
            if segments[i, a, 0] == segments[j, b, 0] and segments[i, a, 1] == segments[j, b, 1]:
                ix, iy = segments[i, 1 - a, 0] - segments[i, a, 0], segments[i, 1 - a, 1] - segments[i, a, 1]
                jx, jy = segments[j, 1 - b, 0] - segments[j, b, 0], segments[j, 1 - b, 1] - segments[j, b, 1]
                return bool(ix * jx + iy * jy <= 0)
    return False


def _hot_spots(segments: Indices, close: Indices) -> tuple[Indices, Indices]:
    """Grid points that segments pass, from each one's start to its end, shape (n, 2), and whose each is, shape (n,)."""
    crossed, crossing_of = _crossings(segments, close)
    along = _along(segments, crossed, crossing_of)
    order = np.lexsort((along, crossing_of))
    crossed, along = crossed[order], along[order]
    begins = np.zeros(len(segments) + 1, np.int64)
    np.cumsum(np.bincount(crossing_of, minlength=len(segments)), out=begins[1:])
    passed, passing = _passed(segments, close, crossed, begins)
    between, owner = np.concatenate([crossed, passed]), np.concatenate([crossing_of[order], passing])
    order = np.lexsort((_along(segments, between, owner), owner))
    many = np.bincount(owner, minlength=len(segments))
    ends = np.cumsum(many + 2)
    spots = np.empty((int(ends[-1]), 2), np.int64)
    inner = np.ones(len(spots), bool)
    inner[ends - 1] = inner[ends - many - 2] = False
    spots[ends - many - 2], spots[ends - 1], spots[inner] = segments[:, 0], segments[:, 1], between[order]
    return spots, np.repeat(np.arange(len(segments)), many + 2)


def _along(segments: Indices, spots: Indices, owner: Indices) -> Indices:
    """How far spots lie along their segments, in steps times its length."""
    way = segments[owner, 1] - segments[owner, 0]
    result: Indices = ((spots - segments[owner, 0]) * way).sum(axis=1)
    return result


@compiled
def _crossings(segments: Indices, close: Indices) -> tuple[Indices, Indices]:
    """Grid points of proper crossings, each for both of its segments."""
    spots, owner = np.empty((2 * len(close), 2), np.int64), np.empty(2 * len(close), np.int64)
    count = 0
    for pair in range(len(close)):
        i, j = close[pair, 0], close[pair, 1]
        one = _side(segments, j, segments[i, 0, 0], segments[i, 0, 1])
        other = _side(segments, j, segments[i, 1, 0], segments[i, 1, 1])
        if one == 0 or other == 0 or (one > 0) == (other > 0):
            continue
        first = _side(segments, i, segments[j, 0, 0], segments[j, 0, 1])
        second = _side(segments, i, segments[j, 1, 0], segments[j, 1, 1])
        if first == 0 or second == 0 or (first > 0) == (second > 0):
            continue
        t = one / (one - other)
        for k in range(2):
            spots[count, k] = segments[i, 0, k] + int(np.floor(t * (segments[i, 1, k] - segments[i, 0, k]) + 0.5))
        spots[count + 1] = spots[count]
        owner[count], owner[count + 1] = i, j
        count += 2
    return spots[:count], owner[:count]


@compiled
def _passes(segments: Indices, i: int, x: int, y: int) -> bool:
    """Whether segment i meets the unit square round a grid point, its left and lower border counted, no other."""
    a, b = 0, 1
    if segments[i, 0, 0] > segments[i, 1, 0]:
        a, b = 1, 0
    # All doubled, so that the square's corners are whole numbers too.
    ax, ay = 2 * segments[i, a, 0], 2 * segments[i, a, 1]
    bx, by = 2 * segments[i, b, 0], 2 * segments[i, b, 1]
    left, right, lower, upper = 2 * x - 1, 2 * x + 1, 2 * y - 1, 2 * y + 1
    if ax >= right or bx < left or min(ay, by) >= upper or max(ay, by) < lower:
        return False
    dx, dy = bx - ax, by - ay
    if dx == 0 or dy == 0:
        return True
    # Where the corners lie: above 0 to the left of the way from a to b, which is over it.
    upper_left = dx * (upper - ay) - dy * (left - ax)
    lower_right = dx * (lower - ay) - dy * (right - ax)
    lower_left = dx * (lower - ay) - dy * (left - ax)
    upper_right = dx * (upper - ay) - dy * (right - ax)
    if lower_left == 0:
        return True
    if dy > 0:
        # A rising line meets the square between its upper left and lower right corner, which are not its own.
        return bool(upper_left > 0 and lower_right < 0)
    # A falling line meets it from the lower left corner, its own, to the upper right one, which is not.
    return bool(lower_left < 0 and upper_right > 0)


@compiled
def _passed(segments: Indices, close: Indices, crossed: Indices, begins: Indices) -> tuple[Indices, Indices]:
    """Hot points of one segment of a close pair that the other passes."""
    spots, owner = np.empty((256, 2), np.int64), np.empty(256, np.int64)
    count = 0
    for pair in range(len(close)):
        for turn in range(2):
            i, j = close[pair, turn], close[pair, 1 - turn]
            axis = 0
            if abs(segments[j, 1, 0] - segments[j, 0, 0]) < abs(segments[j, 1, 1] - segments[j, 0, 1]):
                axis = 1
            low = min(segments[i, 0, axis], segments[i, 1, axis]) - 1
            high = max(segments[i, 0, axis], segments[i, 1, axis]) + 1
            forward = segments[j, 1, axis] > segments[j, 0, axis]
            # The crossings of j lie in order along it: only those beside i are looked at.
            at, stop = begins[j], begins[j + 1]
            while at < stop:
                middle = (at + stop) // 2
                value = crossed[middle, axis]
                if (forward and value < low) or (not forward and value > high):
                    at = middle + 1
                else:
                    stop = middle
            for k in range(-2, begins[j + 1] - at):
                if k < 0:
                    x, y = segments[j, k + 2, 0], segments[j, k + 2, 1]
                else:
                    x, y = crossed[at + k, 0], crossed[at + k, 1]
                    value = crossed[at + k, axis]
                    if (forward and value > high) or (not forward and value < low):
                        break
                if (x == segments[i, 0, 0] and y == segments[i, 0, 1]) or (
                    x == segments[i, 1, 0] and y == segments[i, 1, 1]
                ):
                    continue
                if not _passes(segments, i, x, y):
                    continue
                if count == len(owner):
                    longer, more = np.empty((2 * count, 2), np.int64), np.empty(2 * count, np.int64)
                    longer[:count], more[:count] = spots, owner
                    spots, owner = longer, more
                spots[count, 0], spots[count, 1], owner[count] = x, y, i
                count += 1
    return spots[:count], owner[:count]


def _pieces(spots: Indices, owner: Indices) -> Noded:
    low = spots.min(axis=0)
    key = ((spots[:, 0] - low[0]) << 32) | (spots[:, 1] - low[1])
    order = np.argsort(key)
    new = np.empty(len(key), bool)
    new[:1] = True
    new[1:] = key[order[1:]] != key[order[:-1]]
    vertex = np.empty(len(key), np.int64)
    vertex[order] = np.cumsum(new) - 1
    points = spots[order[new]]
    start, end = vertex[:-1], vertex[1:]
    real = (owner[:-1] == owner[1:]) & (start != end)
    source, start, end = owner[:-1][real], start[real], end[real]
    name = (np.minimum(start, end) << 32) | np.maximum(start, end)
    order = np.argsort(name, kind="stable")
    new = np.empty(len(name), bool)
    new[:1] = True
    new[1:] = name[order[1:]] != name[order[:-1]]
    piece = np.empty(len(name), np.int64)
    piece[order] = np.cumsum(new) - 1
    names = name[order[new]]
    return Noded(points, names >> 32, names & 0xFFFFFFFF, piece, source)
