"""Copies of a piece on beds, packed by its outline and moved to the middle of each bed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.rehearsal.nesting import Place, nested
from drelo.core.rehearsal.settings import Printer


def on_beds(outline: BaseGeometry, copies: int, printer: Printer, spacing: float) -> list[list[Place]]:
    """Places of copies on each bed; the outline's corner is at 0, 0. One that fits on no bed lies in its middle."""
    bed = shape_of(printer)
    found = nested([outline] * copies, bed, spacing)
    # One alone is not turned without need.
    if copies == 1 and found is not None:
        found = nested([outline], bed, spacing, turns=1) or found
    if found is None:
        return [centred([Place(number, 0.0, 0.0, 0.0)], [outline], printer) for number in range(copies)]
    beds = max(place.bed for place in found) + 1
    by_bed = [[p for p in found if p.bed == number] for number in range(beds)]
    return [centred(mine, [outline] * len(mine), printer) for mine in by_bed]


def shape_of(printer: Printer) -> BaseGeometry:
    """The bed, mm; a rectangle's corner or a round one's box is at 0, 0."""
    if printer.bed == "round":
        return shapely.Point(printer.width / 2, printer.width / 2).buffer(printer.width / 2, quad_segs=64)
    return shapely.box(0, 0, printer.width, printer.depth)


def placed(outline: BaseGeometry, place: Place) -> BaseGeometry:
    """An outline where it lies, mm on the bed."""
    turned = affinity.rotate(outline, place.turn, origin=(0, 0), use_radians=True)
    return affinity.translate(turned, place.x, place.y)


def centred(places: list[Place], outlines: Sequence[BaseGeometry], printer: Printer) -> list[Place]:
    """All copies on a bed moved to its middle, where that keeps them on it. outlines: one a place."""
    bed = shape_of(printer)
    laid = [placed(outline, place) for outline, place in zip(outlines, places, strict=True)]
    low_x, low_y, high_x, high_y = shapely.total_bounds(np.array(laid))
    left, low, right, high = bed.bounds
    dx, dy = (left + right - low_x - high_x) / 2, (low + high - low_y - high_y) / 2
    if len(laid) > 1 and printer.bed == "round":
        # Round the middle of what is laid, not of its box.
        moved = shapely.union_all([affinity.translate(shape, dx, dy) for shape in laid])
        if not shapely.buffer(bed, 1e-6).contains(moved):
            return places
    return [replace(place, x=place.x + dx, y=place.y + dy, turn=place.turn % math.tau) for place in places]
