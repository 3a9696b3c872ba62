"""An outline: one connected shape, its outer contour and its holes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.contour import Contour, Matrix


@dataclass(frozen=True, eq=False)
class Outline:
    """One connected shape: the outer contour runs one way round, the holes the other."""

    outer: Contour
    holes: tuple[Contour, ...] = ()

    @property
    def contours(self) -> tuple[Contour, ...]:
        return (self.outer, *self.holes)

    @property
    def area(self) -> float:
        """Covered area; holes taken off."""
        return abs(self.outer.area) - sum(abs(h.area) for h in self.holes)

    @property
    def nodes(self) -> int:
        return sum(len(c) for c in self.contours)

    def transformed(self, scale: float, dx: float = 0.0, dy: float = 0.0, flip_y: bool = False) -> Outline:
        return Outline(
            self.outer.transformed(scale, dx, dy, flip_y),
            tuple(h.transformed(scale, dx, dy, flip_y) for h in self.holes),
        )

    def mapped(self, matrix: Matrix) -> Outline:
        return Outline(self.outer.mapped(matrix), tuple(h.mapped(matrix) for h in self.holes))

    def path_data(self, digits: int = 4) -> str:
        return "".join(c.path_data(digits) for c in self.contours)

    def flattened(self, tolerance: float) -> BaseGeometry:
        """A valid polygon or multipolygon within `tolerance`; what folds over is cleaned by the even-odd rule."""
        return even_odd([c.flattened(tolerance) for c in self.contours])


def even_odd(rings: Sequence[object]) -> BaseGeometry:
    """The area that rings (each of shape (n, 2)) enclose by the even-odd rule; always valid, maybe empty."""
    usable = [r for r in rings if len(r) >= 3]  # type: ignore[arg-type]
    if not usable:
        return shapely.Polygon()
    outer, *holes = usable
    simple = shapely.Polygon(outer, holes)  # type: ignore[arg-type]
    if simple.is_valid:
        return simple
    areas = shapely.make_valid([shapely.Polygon(r) for r in usable])  # type: ignore[arg-type]
    # Two by two: one after the other, each would be held against all that came before.
    while len(areas) > 1:
        last = areas[len(areas) // 2 * 2 :]
        areas = np.append(shapely.symmetric_difference(areas[:-1:2], areas[1::2]), last)
    return only_areas(areas[0])


def only_areas(geometry: BaseGeometry) -> BaseGeometry:
    """The polygonal part of a geometry."""
    if geometry.geom_type in ("Polygon", "MultiPolygon"):
        return geometry
    parts = [g for g in shapely.get_parts(shapely.get_parts(geometry)) if g.geom_type == "Polygon" and g.area > 0]
    return shapely.multipolygons(parts) if parts else shapely.Polygon()


def bounds(outlines: Iterable[Outline]) -> tuple[float, float, float, float] | None:
    """Tight box round all outlines: min x, min y, max x, max y; None when there are none."""
    boxes = [o.outer.bounds for o in outlines]
    if not boxes:
        return None
    return (
        min(b[0] for b in boxes),
        min(b[1] for b in boxes),
        max(b[2] for b in boxes),
        max(b[3] for b in boxes),
    )
