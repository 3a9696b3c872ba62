"""Shapes as a drawing states them: contours with a fill, a fill rule and a stroke."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.contour import flattened as flat_lines
from drelo.core.outline.outline import even_odd, only_areas

Cap = Literal["flat", "round", "square"]
Join = Literal["mitre", "round", "bevel"]
MITRE_LIMIT = 4.0


@dataclass(frozen=True)
class Stroke:
    """A line of `width` along the contours, in the contours' unit."""

    width: float
    cap: Cap = "flat"
    join: Join = "mitre"


@dataclass(frozen=True, eq=False)
class Drawn:
    """One visible area: either the filled inside of its contours, or the stroke along them."""

    contours: tuple[Contour, ...]
    colour: str
    even_odd: bool = False
    stroke: Stroke | None = None

    def flattened(self, tolerance: float) -> BaseGeometry:
        """The covered area as valid polygons within `tolerance`."""
        return flattened([self], tolerance)[0]


def flattened(shapes: Sequence[Drawn], tolerance: float) -> list[BaseGeometry]:
    """The covered area of each shape as valid polygons within `tolerance`, all worked out at once."""
    lines = iter(flat_lines([c for s in shapes for c in s.contours], tolerance))
    of_shape = [[next(lines) for _ in s.contours] for s in shapes]
    # A filled shape of one ring that does not cross itself needs no more.
    single = [i for i, s in enumerate(shapes) if s.stroke is None and len(of_shape[i]) == 1 and len(of_shape[i][0]) > 2]
    rings = [of_shape[i][0] for i in single]
    simple: dict[int, BaseGeometry] = {}
    if rings:
        owner = np.repeat(np.arange(len(rings)), [len(r) for r in rings])
        polygons = np.array(shapely.polygons(shapely.linearrings(np.concatenate(rings), indices=owner)))
        good = np.flatnonzero(shapely.is_valid(polygons)).tolist()
        simple = {single[k]: polygons[k] for k in good}
    return [simple[i] if i in simple else _area(s, of_shape[i], tolerance) for i, s in enumerate(shapes)]


def _area(shape: Drawn, lines: Sequence[Points], tolerance: float) -> BaseGeometry:
    if shape.stroke is not None:
        return _stroked(lines, [c.closed for c in shape.contours], shape.stroke, tolerance)
    return even_odd(lines) if shape.even_odd else non_zero(lines)


def non_zero(rings: Sequence[Points]) -> BaseGeometry:
    """The area that rings enclose by the non-zero rule."""
    usable = [r for r in rings if len(r) >= 3]
    if not usable:
        return shapely.Polygon()
    if len(usable) == 1:
        simple = shapely.Polygon(usable[0])
        if simple.is_valid:
            return simple
    noded = shapely.union_all(np.array([shapely.LinearRing(r) for r in usable]))
    faces = shapely.get_parts(shapely.polygonize([noded]))
    spots = shapely.get_coordinates(shapely.point_on_surface(faces))
    winding = np.zeros(len(faces), np.int64)
    for ring in usable:
        a, b = ring, np.roll(ring, -1, axis=0)
        for i, (x, y) in enumerate(spots):
            up = (a[:, 1] <= y) & (b[:, 1] > y)
            down = (a[:, 1] > y) & (b[:, 1] <= y)
            left = (b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (x - a[:, 0]) * (b[:, 1] - a[:, 1])
            winding[i] += np.count_nonzero(up & (left > 0)) - np.count_nonzero(down & (left < 0))
    return only_areas(shapely.union_all(faces[winding != 0]))


def _stroked(lines: Sequence[Points], closed: Sequence[bool], stroke: Stroke, tolerance: float) -> BaseGeometry:
    radius = stroke.width / 2
    steps = max(2, int(np.ceil(np.pi / 4 / np.arccos(1 - min(tolerance / radius, 0.5)))))
    shapes = [
        shapely.LinearRing(line) if is_closed and len(line) >= 3 else shapely.LineString(line)
        for line, is_closed in zip(lines, closed, strict=True)
        if len(line) >= 2
    ]
    if not shapes:
        return shapely.Polygon()
    wide = shapely.buffer(
        np.array(shapes),
        radius,
        quad_segs=steps,
        cap_style=stroke.cap,
        join_style=stroke.join,
        mitre_limit=MITRE_LIMIT,
    )
    return only_areas(shapely.union_all(wide))
