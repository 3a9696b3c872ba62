"""Pieces packed on beds by their true outlines, turned in steps.

The bed is a grid of cells. A piece is laid as far down and to the left as it goes, in whichever turn ends lowest; it
covers every cell that it touches, grown by half the spacing, so that what shares no cell keeps its distance. Several
orders are tried, and the one with the fewest and then the emptiest last beds is kept.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import compiled

Cells = NDArray[np.bool_]
# Side of a cell: so many of them across a bed, and no finer than this, mm.
ACROSS = 220
FINEST = 0.5
TURNS = 8
MOST_BEDS = 1000
# Of more pieces than this one order is tried, at right angles, and each is laid on one of the last beds.
FEW, LAST_BEDS = 150, 6
HAIR = 1e-9


@dataclass(frozen=True)
class Place:
    """Where a piece lies: it is turned about its outline's origin (radians), then moved (mm). bed: its number."""

    bed: int
    x: float
    y: float
    turn: float


@dataclass(frozen=True, eq=False)
class _Turned:
    """A piece in one of its turns. cells: what it covers; low: the corner of the first of them, mm; rows, columns."""

    cells: Cells
    low: tuple[float, float]
    turn: float
    rows: NDArray[np.int64]
    columns: NDArray[np.int64]


def nested(
    outlines: Sequence[BaseGeometry],
    bed: BaseGeometry,
    spacing: float,
    turns: int = TURNS,
    fixed: Mapping[int, Place] | None = None,
) -> list[Place] | None:
    """A place for each outline on beds of a shape, mm; None where one fits on no bed.

    fixed: of outlines by their number that lie already, wherever that is; the others are laid round them.
    """
    fixed = fixed or {}
    box = bed.bounds
    cell = max(FINEST, (box[2] - box[0]) / ACROSS)
    free = _free(bed, cell, spacing)
    corner = (box[0] - spacing / 2, box[1] - spacing / 2)
    begun = _begun(outlines, fixed, free, cell, corner, spacing)
    known: dict[bytes, list[_Turned]] = {}
    pieces = []
    loose = [number for number in range(len(outlines)) if number not in fixed]
    if not loose:
        return [fixed[number] for number in range(len(outlines))]
    for outline in (outlines[number] for number in loose):
        key = shapely.to_wkb(outline)
        if key not in known:
            known[key] = [_turned(outline, math.tau * k / turns, cell, spacing) for k in range(turns)]
        pieces.append(known[key])
    mine = [outlines[number] for number in loose]
    sizes = np.array([outline.area for outline in mine])
    tall = np.array([max(o.bounds[2] - o.bounds[0], o.bounds[3] - o.bounds[1]) for o in mine])
    best: list[Place] | None = None
    score = (math.inf, math.inf)
    orders = (np.lexsort((-tall, -sizes)), np.lexsort((-sizes, -tall)))
    tries = [
        (order, allowed)
        for order in (orders if len({*map(id, pieces)}) > 1 else orders[:1])
        # What lies lowest by itself need not lie best beside others: right angles alone are tried as well.
        for allowed in ((1, turns // 4) if turns > 4 and turns % 4 == 0 else (1,))
    ]
    for order, step in tries if len(mine) <= FEW else tries[-1:]:
        chosen = [turned[::step] for turned in pieces]
        found = _laid(chosen, order.tolist(), free, [bed.copy() for bed in begun], cell, corner)
        if found is None:
            continue
        last = max(place.bed for place in found)
        ending = sum(sizes[i] for i, place in enumerate(found) if place.bed == last)
        if (last, ending) < score:
            best, score = found, (last, ending)
    if best is None:
        return None
    places = dict(fixed) | dict(zip(loose, best, strict=True))
    return [places[number] for number in range(len(outlines))]


def _begun(
    outlines: Sequence[BaseGeometry],
    fixed: Mapping[int, Place],
    free: Cells,
    cell: float,
    corner: tuple[float, float],
    spacing: float,
) -> list[Cells]:
    """What of each bed is taken before anything is laid."""
    beds = [~free for _ in range(1 + max((place.bed for place in fixed.values()), default=-1))]
    for number, place in fixed.items():
        turned = affinity.rotate(outlines[number], place.turn, origin=(0, 0), use_radians=True)
        grown = shapely.buffer(
            affinity.translate(turned, place.x, place.y), spacing / 2 + cell * math.sqrt(0.5), quad_segs=4
        )
        beds[place.bed] |= _inside(grown, corner, free.shape[0], free.shape[1], cell)
    return beds


def _laid(
    pieces: Sequence[Sequence[_Turned]],
    order: Sequence[int],
    free: Cells,
    beds: list[Cells],
    cell: float,
    corner: tuple[float, float],
) -> list[Place] | None:
    """beds: what is taken of those that are begun; more are added as they are needed."""
    # From which row on a piece like this one may still find room on a bed.
    tried: dict[tuple[int, int], int] = {}
    places: dict[int, Place] = {}
    for number in order:
        for bed in range(0 if len(order) <= FEW else max(0, len(beds) - LAST_BEDS), MOST_BEDS):
            if bed == len(beds):
                beds.append(~free)
            found = _lowest(pieces[number], beds[bed], tried, bed)
            if found is None:
                # What finds no room on an empty bed finds none on any.
                if not beds[bed][free].any():
                    return None
                continue
            turned, row, column = found
            beds[bed][turned.rows + row, turned.columns + column] = True
            places[number] = Place(
                bed,
                corner[0] + column * cell - turned.low[0],
                corner[1] + row * cell - turned.low[1],
                turned.turn,
            )
            break
        else:
            return None
    return [places[i] for i in range(len(pieces))]


def _lowest(
    turns: Sequence[_Turned], taken: Cells, tried: dict[tuple[int, int], int], bed: int
) -> tuple[_Turned, int, int] | None:
    """The turn and place that ends lowest on a bed, then furthest left."""
    best: tuple[int, int, _Turned, int] | None = None
    for turned in turns:
        high, wide = turned.cells.shape
        if high > taken.shape[0] or wide > taken.shape[1]:
            continue
        key = (bed, id(turned))
        row, column = _first(taken, turned.rows, turned.columns, high, wide, tried.get(key, 0))
        # What is taken stays taken: next time nothing before this row is free either.
        tried[key] = row if row >= 0 else taken.shape[0]
        if row >= 0 and (best is None or (row + high, column) < best[:2]):
            best = (row + high, column, turned, row)
    return None if best is None else (best[2], best[3], best[1])


@compiled
def _first(
    taken: Cells, rows: NDArray[np.int64], columns: NDArray[np.int64], high: int, wide: int, begin: int
) -> tuple[int, int]:
    """The first row and column, from a row on, where none of the cells is taken; -1 where there is none."""
    count = len(rows)
    hit = 0
    for row in range(begin, taken.shape[0] - high + 1):
        for column in range(taken.shape[1] - wide + 1):
            # What stood in the way last time most likely does again.
            if taken[row + rows[hit], column + columns[hit]]:
                continue
            is_free = True
            for k in range(count):
                if taken[row + rows[k], column + columns[k]]:
                    is_free, hit = False, k
                    break
            if is_free:
                return row, column
    return -1, -1


def _turned(outline: BaseGeometry, turn: float, cell: float, spacing: float) -> _Turned:
    shape = affinity.rotate(outline, turn, origin=(0, 0), use_radians=True)
    # A cell is touched where its middle is nearer than half its diagonal.
    grown = shapely.buffer(shape, spacing / 2 + cell * math.sqrt(0.5), quad_segs=4)
    low = grown.bounds[:2]
    high, wide = (math.ceil((grown.bounds[k + 2] - grown.bounds[k]) / cell) for k in (1, 0))
    cells = _inside(grown, low, high, wide, cell)
    is_row, is_column = cells.any(axis=1), cells.any(axis=0)
    first_row, first_column = int(np.argmax(is_row)), int(np.argmax(is_column))
    cells = cells[is_row][:, is_column]
    rows, columns = np.nonzero(cells)
    # Cells along the border meet others first.
    order = np.argsort(-np.hypot(rows - cells.shape[0] / 2, columns - cells.shape[1] / 2), kind="stable")
    corner = (low[0] + first_column * cell, low[1] + first_row * cell)
    return _Turned(cells, corner, turn, rows[order].astype(np.int64), columns[order].astype(np.int64))


def _free(bed: BaseGeometry, cell: float, spacing: float) -> Cells:
    """Cells that lie wholly on a bed; half the spacing may stand out over its edge."""
    room = shapely.buffer(bed, spacing / 2, join_style="mitre") if spacing > HAIR else bed
    low = room.bounds[:2]
    high, wide = (math.floor((room.bounds[k + 2] - room.bounds[k]) / cell + 1e-9) for k in (1, 0))
    if room.area >= 0.999 * (room.bounds[2] - room.bounds[0]) * (room.bounds[3] - room.bounds[1]):
        return np.ones((high, wide), bool)
    return _inside(shapely.buffer(room, -cell * math.sqrt(0.5)), low, high, wide, cell)


def _inside(area: BaseGeometry, low: tuple[float, float], high: int, wide: int, cell: float) -> Cells:
    """Cells whose middle lies in an area, from a corner on."""
    x = low[0] + (np.arange(wide) + 0.5) * cell
    y = low[1] + (np.arange(high) + 0.5) * cell
    shapely.prepare(area)
    return np.asarray(shapely.contains_xy(area, *np.meshgrid(x, y)), bool)
