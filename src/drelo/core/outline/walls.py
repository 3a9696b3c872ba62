"""Walls and gaps that are too narrow: found, and walls thickened just there."""

from __future__ import annotations

from collections.abc import Sequence

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.combine import combined
from drelo.core.outline.fineness import OFFSET_FIT
from drelo.core.outline.fitting import fitted_outlines
from drelo.core.outline.grow import area_of
from drelo.core.outline.offset import offset
from drelo.core.outline.outline import Outline, only_areas

# A corner leaves a scrap of its own when it is opened; only larger ones (in squares of half the nozzle) are walls.
SCRAP = 3.0
# Opened shapes are grown back by a hair more, so that straight walls leave nothing.
SLACK = 1.02
QUARTER = 6
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
    closed = offset(offset(section, half, QUARTER), -half * SLACK, QUARTER)
    return _larger(shapely.difference(closed, section), half)


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
