"""Walls and gaps that are too narrow: found, and walls thickened just there."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.combine import combined
from drelo.core.outline.fineness import OFFSET_FIT
from drelo.core.outline.fitting import fitted_outlines
from drelo.core.outline.grow import area_of
from drelo.core.outline.offset import linked, offset, offset_each
from drelo.core.outline.outline import Outline, only_areas

# A corner leaves a scrap of its own when it is opened; only larger ones (in squares of half the nozzle) are walls.
SCRAP = 3.0
# Opened shapes are grown back by a hair more, so that straight walls leave nothing.
SLACK = 1.02
QUARTER = 6
# Of more parts than this it is looked first which lie so near each other that there may be a gap between them.
MANY = 300
# A thickened wall is so much wider than asked, so that it is not found again.
SPARE = 1.06
# In so many steps the width of a thin stretch is told.
LEVELS = 5


def thin_walls(section: BaseGeometry, nozzle: float) -> list[BaseGeometry]:
    """Stretches of an area that are narrower than the nozzle, mm: the area without its opening by half of it."""
    half = nozzle / 2
    opened = offset(offset(section, -half, QUARTER), half * SLACK, QUARTER)
    return _larger(shapely.difference(section, opened), half)


def tight_gaps(section: BaseGeometry, nozzle: float) -> list[BaseGeometry]:
    """Gaps of an area that are narrower than the nozzle, mm: its closing by half of it without the area."""
    half = nozzle / 2
    parts = shapely.get_parts(only_areas(section))
    if len(parts) <= MANY:
        closed = offset(offset(section, half, QUARTER), -half * SLACK, QUARTER)
        return _larger(shapely.difference(closed, section), half)
    grown = offset_each(parts, half, QUARTER)
    group = _near(grown, SCRAP * half / 2)
    is_alone = np.bincount(group)[group] == 1
    each = offset_each(grown[is_alone], -half * SLACK, QUARTER)
    found = list(shapely.get_parts(shapely.difference(each, parts[is_alone])))
    for number in np.unique(group[~is_alone]):
        mine = group == number
        closed = offset(only_areas(shapely.union_all(grown[mine])), -half * SLACK, QUARTER)
        found += list(shapely.get_parts(shapely.difference(closed, shapely.multipolygons(parts[mine]))))
    return _larger(shapely.geometrycollections(found), half)


def _near(grown: NDArray[np.object_], least: float) -> NDArray[np.int32]:
    """Which of many parts lie so near each other, grown, that a gap between them may count: a number of a group each.

    least: where those that meet do so over less than this, mm, what closes between them is a scrap.
    """
    one, other = shapely.STRtree(grown).query(grown, predicate="intersects")
    one, other = one[one < other], other[one < other]
    low_x, low_y, high_x, high_y = shapely.bounds(shapely.intersection(grown[one], grown[other])).T
    # What only touches has no bounds.
    counts = np.nan_to_num(np.hypot(high_x - low_x, high_y - low_y)) >= least
    return linked(len(grown), one[counts], other[counts])


def _larger(rest: BaseGeometry, half: float) -> list[BaseGeometry]:
    return [part for part in shapely.get_parts(only_areas(rest)) if part.area > SCRAP * half * half]


def thickened(outlines: Sequence[Outline], least: float) -> list[Outline]:
    """Outlines whose stretches narrower than `least` mm are grown to it; all else keeps its nodes."""
    area = area_of(outlines)
    thin = thin_walls(area, least)
    if not thin:
        return list(outlines)
    half = least / 2
    wide = shapely.buffer(_spine(area, shapely.union_all(thin), half), half * SPARE, quad_segs=4 * QUARTER)
    return combined("unite", outlines, fitted_outlines(wide, OFFSET_FIT))


def _spine(area: BaseGeometry, thin: BaseGeometry, half: float) -> BaseGeometry:
    """Near the middle of thin stretches: where they are so and so narrow, what is left when so much is taken off."""
    steps = [half * k / LEVELS for k in range(LEVELS + 1)]
    left = [shapely.buffer(area, -step, quad_segs=QUARTER) for step in steps]
    rungs = []
    for core, step, narrower, more in zip(left, steps, left[1:], steps[1:], strict=False):
        here = shapely.difference(area, shapely.buffer(narrower, more * SLACK**2, quad_segs=QUARTER))
        scraps = (half / LEVELS) ** 2
        places = [part for part in shapely.get_parts(only_areas(here)) if part.area > scraps]
        rungs += [shapely.intersection(core, shapely.buffer(place, step / LEVELS)) for place in places]
    return shapely.intersection(shapely.union_all(rungs), shapely.buffer(thin, half / LEVELS))
