"""Places of a design that a print would not forgive, found in its cross-sections."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.form.columns import Band, Column, Design
from drelo.core.outline.outline import only_areas
from drelo.core.outline.walls import thin_walls, tight_gaps

Kind = Literal["thin wall", "tight gap", "loose part", "in the air"]
# Cross-sections that are looked at; a drafted edge has many that hardly differ.
MOST_SECTIONS = 16
MOST_SPOTS = 200


@dataclass(frozen=True, eq=False)
class WeakSpot:
    """shape: the place, mm, as the design has it. width: what was measured, mm. height: of the section, mm.

    owner: the region that it is of, as the design numbers them, -1 for none.
    """

    kind: Kind
    shape: BaseGeometry
    at: tuple[float, float]
    width: float
    height: float
    owner: int


def weak_spots(design: Design, nozzle: float) -> tuple[WeakSpot, ...]:
    """Walls and gaps narrower than the nozzle (mm), parts that nothing holds, and parts that begin in the air."""
    found: list[WeakSpot] = []
    sections = _sections(design)
    for low, high, section in reversed(sections):
        middle = (low + high) / 2
        found += [_spot(design, "thin wall", shape, middle) for shape in thin_walls(section, nozzle)]
        found += [_spot(design, "tight gap", shape, middle) for shape in tight_gaps(section, nozzle)]
    found += _loose(design)
    found += _in_the_air(design, sections)
    return tuple(_distinct(found, nozzle)[:MOST_SPOTS])


def _sections(design: Design) -> list[tuple[float, float, BaseGeometry]]:
    """What is solid between each two heights at which something begins or ends, from below."""
    heights = sorted({h for column in design.columns for band in column for h in (band.bottom, band.top)})
    slabs = list(pairwise(heights))
    if len(slabs) > MOST_SECTIONS:
        slabs = [slabs[i] for i in np.unique(np.linspace(0, len(slabs) - 1, MOST_SECTIONS).round().astype(int))]
    return [(low, high, _section(design, (low + high) / 2)) for low, high in slabs]


def _section(design: Design, height: float) -> BaseGeometry:
    """What is solid at a height: later layers count over earlier ones."""
    solid: BaseGeometry = shapely.Polygon()
    run: list[BaseGeometry] = []
    stands: bool | None = None
    for layer, column in [*zip(design.layers, design.columns, strict=True), (None, ())]:
        now = _stands(column, height) if layer is not None else None
        if now != stands and run:
            area = shapely.union_all(run)
            solid = shapely.union(solid, area) if stands else shapely.difference(solid, area)
            run = []
        stands = now
        if layer is not None:
            run.append(layer)
    return only_areas(solid)


def _stands(column: Column, height: float) -> bool:
    return any(band.bottom < height < band.top for band in column)


def _loose(design: Design) -> list[WeakSpot]:
    """Every part but the largest, where the piece falls into several."""
    footing = only_areas(_any_height(design))
    parts = sorted(shapely.get_parts(footing), key=lambda p: -p.area)
    return [_spot(design, "loose part", part, 0.0) for part in parts[1:]]


def _any_height(design: Design) -> BaseGeometry:
    marked = tuple((Band(0.0, 1.0, 0),) if column else () for column in design.columns)
    return _section(Design(design.layers, marked, design.filaments), 0.5)


def _in_the_air(design: Design, sections: Sequence[tuple[float, float, BaseGeometry]]) -> list[WeakSpot]:
    found = []
    for (_, _, below), (low, _, section) in pairwise(sections):
        shapely.prepare(below)
        parts = shapely.get_parts(section)
        hanging = parts[~shapely.intersects(below, parts)] if len(parts) else parts
        found += [_spot(design, "in the air", part, low) for part in hanging]
    return found


def _spot(design: Design, kind: Kind, shape: BaseGeometry, height: float) -> WeakSpot:
    # A line from the middle of the largest circle that fits to its border.
    (x, y), (rim_x, rim_y) = shapely.get_coordinates(shapely.maximum_inscribed_circle(np.array([shape]), 0.01)).tolist()
    width = 2 * math.dist((x, y), (rim_x, rim_y))
    if kind in ("loose part", "in the air"):
        box = shape.bounds
        width = max(box[2] - box[0], box[3] - box[1])
    return WeakSpot(kind, shape, (x, y), width, height, _owner(design, shapely.Point(x, y)))


def _owner(design: Design, point: BaseGeometry) -> int:
    """The region at a point, or the nearest one."""
    if not design.owners:
        return -1
    owned = [i for i, owner in enumerate(design.owners) if owner >= 0]
    if not owned:
        return -1
    far = shapely.distance(np.array([design.layers[i] for i in owned]), point)
    nearest = np.flatnonzero(far <= far.min() + 1e-6)[-1]
    return int(design.owners[owned[int(nearest)]])


def _distinct(spots: Sequence[WeakSpot], nozzle: float) -> list[WeakSpot]:
    """Without those that another section shows at the same place; the narrowest first."""
    kept: list[WeakSpot] = []
    for spot in sorted(spots, key=lambda s: s.width):
        near = (k for k in kept if k.kind == spot.kind and shapely.dwithin(k.shape, spot.shape, nozzle / 4))
        if next(near, None) is None:
            kept.append(spot)
    return kept
