"""The order in which lines are laid: island after island, the nearest first; walls before what they enclose."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import compiled
from drelo.core.rehearsal.lines import KINDS, Floats, Lines

# Walls are laid first, from the inside out; what fills them after.
RANKS = {"brim": 0, "inner wall": 1, "outer wall": 2, "thin wall": 3, "skin": 4, "infill": 5}
_RANK_OF = np.array([RANKS[kind] for kind in KINDS], np.int64)


def laid_in_order(lines: Lines, area: BaseGeometry) -> Lines:
    """The lines of a layer in their order; the nozzle starts at 0, 0."""
    if not len(lines):
        return lines
    middles = lines.points[(lines.starts[:-1] + lines.starts[1:]) // 2]
    islands = shapely.get_parts(area)
    island = np.zeros(len(lines), np.int64)
    if len(islands) > 1:
        island = shapely.STRtree(islands).nearest(shapely.points(middles)).astype(np.int64)
    begin, end = lines.points[lines.starts[:-1]], lines.points[lines.starts[1:] - 1]
    order, is_turned = _nearest(begin, end, island * len(RANKS) + _RANK_OF[lines.kinds], len(RANKS))
    return lines.ordered(order, is_turned)


@compiled
def _nearest(
    begin: Floats, end: Floats, group: NDArray[np.int64], ranks: int
) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Greedily the nearest line of the same island and rank; then of the next rank; then the nearest island."""
    count = len(begin)
    by_group = np.argsort(group, kind="mergesort")
    order, is_turned = np.empty(count, np.int64), np.zeros(count, np.bool_)
    # Where each island's lines begin among those sorted by group.
    bounds = np.empty(count + 1, np.int64)
    islands = 0
    for i in range(count):
        if i == 0 or group[by_group[i]] // ranks != group[by_group[i - 1]] // ranks:
            bounds[islands] = i
            islands += 1
    bounds[islands] = count
    is_open = np.ones(islands, np.bool_)
    is_left = np.ones(count, np.bool_)
    x, y = 0.0, 0.0
    written = 0
    for _ in range(islands):
        best, chosen = np.inf, 0
        for number in range(islands):
            if not is_open[number]:
                continue
            first = by_group[bounds[number]]
            away = (begin[first, 0] - x) ** 2 + (begin[first, 1] - y) ** 2
            if away < best:
                best, chosen = away, number
        is_open[chosen] = False
        low, high = bounds[chosen], bounds[chosen + 1]
        while low < high:
            last = low
            while last < high and group[by_group[last]] == group[by_group[low]]:
                last += 1
            for _ in range(low, last):
                best, taken, turned = np.inf, -1, False
                for k in range(low, last):
                    line = by_group[k]
                    if not is_left[line]:
                        continue
                    away = (begin[line, 0] - x) ** 2 + (begin[line, 1] - y) ** 2
                    if away < best:
                        best, taken, turned = away, line, False
                    away = (end[line, 0] - x) ** 2 + (end[line, 1] - y) ** 2
                    if away < best:
                        best, taken, turned = away, line, True
                is_left[taken] = False
                order[written], is_turned[written] = taken, turned
                written += 1
                if turned:
                    x, y = begin[taken, 0], begin[taken, 1]
                else:
                    x, y = end[taken, 0], end[taken, 1]
            low = last
    return order, is_turned
