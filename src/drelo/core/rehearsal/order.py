"""The order in which lines are laid: island after island, the nearest first; walls before what they enclose."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import compiled
from drelo.core.rehearsal.lines import KINDS, Floats, Lines

# Walls are laid first, from the inside out; what fills them after.
RANKS = {"brim": 0, "inner wall": 1, "outer wall": 2, "thin wall": 3, "skin": 4, "infill": 5}
_RANK_OF = np.array([RANKS[kind] for kind in KINDS], np.int64)


# More islands than these are gone through in rows, more lines than these in the order in which they were made.
MANY_ISLANDS, MANY_LINES = 300, 3000


def laid_in_order(lines: Lines, area: BaseGeometry) -> Lines:
    """The lines of a layer in their order; the nozzle starts at 0, 0."""
    if not len(lines):
        return lines
    middles = lines.points[(lines.starts[:-1] + lines.starts[1:]) // 2]
    islands = shapely.get_parts(area)
    island = np.zeros(len(lines), np.int64)
    if len(islands) > 1:
        island = _island_of(middles, islands)
    begin, end = lines.points[lines.starts[:-1]], lines.points[lines.starts[1:] - 1]
    rank = _RANK_OF[lines.kinds]
    group = _island_order(begin, island)[island] * len(RANKS) + rank
    order, is_turned = _nearest(begin, end, np.argsort(group, kind="stable"), group, MANY_LINES)
    return lines.ordered(order, is_turned)


def _island_of(points: Floats, islands: NDArray[np.object_]) -> NDArray[np.int64]:
    """The island that each point lies in or next to."""
    tree = shapely.STRtree(islands)
    found = np.asarray(shapely.points(points))
    point, near = tree.query(found)
    island = np.zeros(len(points), np.int64)
    island[point] = near
    # Where boxes of islands lie over each other, or a point just outside of all, distances decide.
    unsure = np.bincount(point, minlength=len(points)) != 1
    if unsure.any():
        island[unsure] = tree.nearest(found[unsure])
    return island


def _island_order(begin: Floats, island: NDArray[np.int64]) -> NDArray[np.int64]:
    """When each island has its turn: the nearest first; of very many, row after row, there and back."""
    found, first = np.unique(island, return_index=True)
    at = begin[first]
    turn = np.zeros(int(island.max()) + 1, np.int64)
    if len(found) <= MANY_ISLANDS:
        turn[found[_chain(at)]] = np.arange(len(found))
        return turn
    size = np.maximum(np.ptp(at, axis=0), 1e-9)
    row = np.floor((at[:, 1] - at[:, 1].min()) / math.sqrt(size[0] * size[1] / len(found))).astype(np.int64)
    along = np.where(row % 2 == 0, at[:, 0], -at[:, 0])
    turn[found[np.lexsort((along, row))]] = np.arange(len(found))
    return turn


@compiled
def _chain(at: Floats) -> NDArray[np.int64]:
    """The nearest point first, then the nearest to that, and so on, from 0, 0."""
    count = len(at)
    is_left = np.ones(count, np.bool_)
    order = np.empty(count, np.int64)
    x, y = 0.0, 0.0
    for step in range(count):
        best, chosen = np.inf, 0
        for number in range(count):
            away = (at[number, 0] - x) ** 2 + (at[number, 1] - y) ** 2
            if is_left[number] and away < best:
                best, chosen = away, number
        is_left[chosen] = False
        order[step] = chosen
        x, y = at[chosen, 0], at[chosen, 1]
    return order


@compiled
def _nearest(
    begin: Floats, end: Floats, given: NDArray[np.int64], group: NDArray[np.int64], most: int
) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """Lines group after group; in each the nearest next, from whichever end, where there are at most so many."""
    count = len(given)
    order, is_turned = np.empty(count, np.int64), np.zeros(count, np.bool_)
    is_left = np.ones(count, np.bool_)
    x, y = 0.0, 0.0
    low, written = 0, 0
    while low < count:
        high = low
        while high < count and group[given[high]] == group[given[low]]:
            high += 1
        for step in range(low, high):
            best, taken, turned = np.inf, given[step], False
            if high - low <= most:
                for k in range(low, high):
                    line = given[k]
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
        low = high
    return order, is_turned
