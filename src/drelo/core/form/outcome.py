"""What a form makes: the print of a stamp, whose ink spreads, and the biscuit of a cutter, whose dough rises."""

from __future__ import annotations

from dataclasses import dataclass

import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.outline import only_areas

NOTHING: BaseGeometry = shapely.Polygon()
# Gaps of less than this are none to begin with, mm²; the join of two circles of ink fills as little.
LEAST_CLOSED = 0.02
# Steps of a quarter turn.
STEPS = 8


@dataclass(frozen=True, eq=False)
class Outcome:
    """shape: what is printed or baked, as drawn, mm, y up. marks: pressed into it. closed: what was open and is not."""

    shape: BaseGeometry
    marks: BaseGeometry
    closed: BaseGeometry

    @property
    def places(self) -> int:
        """How many gaps close."""
        return int(shapely.get_num_geometries(self.closed)) if not self.closed.is_empty else 0


def printed(face: BaseGeometry, spread: float) -> Outcome:
    """What a stamp prints. spread: how far ink runs beyond the face all round, mm."""
    if spread <= 0:
        return Outcome(face, NOTHING, NOTHING)
    wide = shapely.buffer(face, spread, quad_segs=STEPS)
    # What is filled stays filled when the ink is thought back.
    back = shapely.buffer(wide, -spread, quad_segs=STEPS)
    return Outcome(wide, NOTHING, _gone(shapely.difference(back, shapely.buffer(face, spread / 20))))


def baked(dough: BaseGeometry, marks: BaseGeometry, rise: float) -> Outcome:
    """What a cutter's biscuit looks like when it comes out. rise: by which share it gets larger.

    Each biscuit grows about its middle; a mark does as well, while the dough beside it closes in on it by as much.
    """
    if rise <= 0:
        return Outcome(dough, marks, NOTHING)
    parts = shapely.get_parts(dough)
    grown = [affinity.scale(part, 1 + rise, 1 + rise, origin=part.centroid) for part in parts]
    pressed, closed = [], []
    for part, large in zip(parts, grown, strict=True):
        mine = only_areas(shapely.intersection(marks, part))
        if mine.is_empty:
            continue
        moved = affinity.scale(mine, 1 + rise, 1 + rise, origin=part.centroid)
        width = _width(moved)
        narrow = shapely.buffer(moved, -rise * width / 2, quad_segs=STEPS)
        pressed.append(shapely.intersection(narrow, large))
        # Of marks, what the dough closes over wholly.
        open_again = shapely.buffer(narrow, rise * width / 2 * 1.1, quad_segs=STEPS)
        closed.append(_gone(shapely.difference(moved, open_again)))
    # Biscuits that grow into each other are one.
    shape = shapely.union_all(grown)
    joined = [
        shapely.intersection(one, other)
        for number, one in enumerate(grown)
        for other in grown[number + 1 :]
        if one.intersects(other)
    ]
    return Outcome(shape, only_areas(shapely.union_all(pressed)), _gone(shapely.union_all([*closed, *joined])))


def _width(areas: BaseGeometry) -> float:
    """How wide areas are on the average, mm: twice their area by their length."""
    return 2 * areas.area / areas.length if areas.length else 0.0


def _gone(areas: BaseGeometry) -> BaseGeometry:
    parts = shapely.get_parts(only_areas(areas))
    return shapely.MultiPolygon(list(parts[shapely.area(parts) > LEAST_CLOSED])) if len(parts) else NOTHING
