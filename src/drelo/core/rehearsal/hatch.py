"""Areas filled with straight lines, or with loops."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import compiled
from drelo.core.outline.offset import offset, offset_each
from drelo.core.outline.outline import only_areas
from drelo.core.rehearsal.lines import Floats

# A stretch shorter than this share of the line's width is not laid.
SCRAP = 0.25


def straight(area: BaseGeometry, spacing: float, angle: float, least: float) -> list[Floats]:
    """Lines across an area, at an angle (radians), a spacing apart (mm); shorter ones than `least` are left out.

    The lines lie on one grid for all areas, so that neighbouring layers meet.
    """
    begin, end = _borders(area)
    if not len(begin):
        return []
    cos, sin = math.cos(angle), math.sin(angle)
    turn = np.array([[cos, -sin], [sin, cos]])
    rows, low, high = _crossed(begin @ turn, end @ turn, spacing)
    is_long = high - low > least
    rows, low, high = rows[is_long], low[is_long], high[is_long]
    y = (rows + 0.5) * spacing
    # Every other row runs the other way.
    odd = rows % 2 == 1
    first, last = np.where(odd, high, low), np.where(odd, low, high)
    ends = np.stack([np.stack([first, y], 1), np.stack([last, y], 1)], 1) @ turn.T
    return list(ends)


def concentric(area: BaseGeometry, spacing: float) -> list[tuple[Floats, float]]:
    """Loops inside an area, the outermost half a spacing from its border, and how far each reaches across, mm."""
    found: list[tuple[Floats, float]] = []
    centre = offset(area, -spacing / 2, join_style="mitre", mitre_limit=2)
    while not centre.is_empty:
        found += _loops(centre, spacing)
        centre = offset(centre, -spacing, join_style="mitre", mitre_limit=2)
    return found


def _loops(centre: BaseGeometry, width: float) -> list[tuple[Floats, float]]:
    """The borders of an area as lines of a width, mm; narrower ones where they would lie on each other."""
    parts = shapely.get_parts(centre)
    parts = parts[~shapely.is_empty(parts)]
    outside = shapely.area(offset_each(parts, width / 2, join_style="mitre", mitre_limit=2))
    inside = shapely.area(offset_each(parts, -width / 2, join_style="mitre", mitre_limit=2))
    own = np.minimum(width, (outside - inside) / shapely.length(parts))
    found, part = rings_of(parts)
    return list(zip(found, own[part].tolist(), strict=True))


def rings(area: BaseGeometry) -> list[Floats]:
    """The borders of an area, closed; of each part those outside first."""
    return rings_of(shapely.get_parts(only_areas(area)))[0]


def rings_of(parts: NDArray[np.object_]) -> tuple[list[Floats], NDArray[np.int64]]:
    """The borders of areas of one part, and the number of the one that each is of."""
    borders, part = shapely.get_rings(parts, return_index=True)
    points, border = shapely.get_coordinates(borders, return_index=True)
    return np.split(points, np.searchsorted(border, np.arange(1, len(borders)))) if len(borders) else [], part


def _borders(area: BaseGeometry) -> tuple[Floats, Floats]:
    """Where each stretch of an area's borders begins and ends."""
    points, ring = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(only_areas(area))), return_index=True)
    follows = ring[1:] == ring[:-1]
    return points[:-1][follows], points[1:][follows]


def _crossed(begin: Floats, end: Floats, spacing: float) -> tuple[NDArray[np.int64], Floats, Floats]:
    """Rows of a grid, and where the area along them begins and ends."""
    low, high = np.minimum(begin[:, 1], end[:, 1]), np.maximum(begin[:, 1], end[:, 1])
    first = np.ceil(low / spacing - 0.5).astype(np.int64)
    count = np.maximum(np.ceil(high / spacing - 0.5).astype(np.int64) - first, 0)
    rows, x = _crossings(begin, end, first, count, spacing, int(count.sum()))
    order = np.lexsort((x, rows))
    rows, x = rows[order], x[order]
    # A closed border crosses every row an even number of times.
    return rows[::2], x[::2], x[1::2]


@compiled
def _crossings(
    begin: Floats, end: Floats, first: NDArray[np.int64], count: NDArray[np.int64], spacing: float, total: int
) -> tuple[NDArray[np.int64], Floats]:
    rows, x = np.empty(total, np.int64), np.empty(total)
    found = 0
    for i in range(len(begin)):
        for row in range(first[i], first[i] + count[i]):
            y = (row + 0.5) * spacing
            share = (y - begin[i, 1]) / (end[i, 1] - begin[i, 1])
            rows[found] = row
            x[found] = begin[i, 0] + share * (end[i, 0] - begin[i, 0])
            found += 1
    return rows, x
