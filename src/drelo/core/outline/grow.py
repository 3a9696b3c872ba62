"""Offsets of outlines, and lines that get a width; the results are fitted curves."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.contour import Contour
from drelo.core.outline.drawn import Cap, Join
from drelo.core.outline.fineness import GROWN_CHORD, OFFSET_FIT
from drelo.core.outline.fitting import fitted_outlines
from drelo.core.outline.outline import Outline, only_areas

Corners = Literal["round", "mitre", "bevel"]
MITRE_LIMIT = 6.0
# What is smaller (mm²) is a crumb of rounding.
CRUMB = 1e-4


def area_of(outlines: Sequence[Outline]) -> BaseGeometry:
    """What outlines cover, flattened finely; mm."""
    return shapely.union_all([o.flattened(GROWN_CHORD) for o in outlines])


def offset(
    outlines: Sequence[Outline],
    by: float,
    corners: Corners = "round",
    fill_holes: bool = False,
) -> list[Outline]:
    """Outlines of all grown by `by` mm, or shrunk where it is negative, within 0.01 mm of the true offset."""
    return offset_twice(outlines, by, 0.0, corners, fill_holes)


def offset_twice(
    outlines: Sequence[Outline],
    by: float,
    back: float,
    corners: Corners = "round",
    fill_holes: bool = False,
) -> list[Outline]:
    """Grown by `by` mm, then by `back` mm: a growth and as much shrinking closes gaps.

    Holes that only the growth has made, between things that are apart, are no part of a border and are filled.
    """
    area = area_of(outlines)
    own = shapely.difference(_filled(area), area)
    if fill_holes:
        area = _filled(area)
    for step in (by, back):
        if step:
            area = only_areas(_buffered(area, step, corners))
    if fill_holes:
        area = _filled(area)
    elif by > 0:
        area = _without_strays(area, own)
    return fitted_outlines(area, OFFSET_FIT, CRUMB)


def _without_strays(area: BaseGeometry, own: BaseGeometry) -> BaseGeometry:
    """An area whose holes lie in holes that were there before."""
    shapely.prepare(own)
    parts = []
    for part in shapely.get_parts(area):
        kept = [r for r in part.interiors if own.contains(shapely.Polygon(r).representative_point())]
        parts.append(shapely.Polygon(part.exterior, kept))
    return shapely.union_all(parts)


def widened(contours: Sequence[Contour], width: float, ends: Cap = "round", corners: Join = "round") -> list[Outline]:
    """Closed profiles `width` mm wide along lines or outlines."""
    lines = []
    for contour in contours:
        points = contour.flattened(GROWN_CHORD)
        if len(points) >= 2:
            lines.append(
                shapely.LinearRing(points) if contour.closed and len(points) > 2 else shapely.LineString(points)
            )
    if not lines:
        return []
    radius = width / 2
    wide = shapely.buffer(
        np.array(lines),
        radius,
        quad_segs=_steps(width / 2),
        cap_style=ends,
        join_style=corners,
        mitre_limit=MITRE_LIMIT,
    )
    return fitted_outlines(only_areas(shapely.union_all(wide)), OFFSET_FIT, CRUMB)


def _filled(area: BaseGeometry) -> BaseGeometry:
    return shapely.union_all([shapely.Polygon(p.exterior) for p in shapely.get_parts(area) if not p.is_empty])


def _buffered(area: BaseGeometry, by: float, corners: Corners) -> BaseGeometry:
    return shapely.buffer(area, by, quad_segs=_steps(abs(by)), join_style=corners, mitre_limit=MITRE_LIMIT)


def _steps(radius: float) -> int:
    """Chords in a quarter circle of so many mm."""
    return max(4, int(np.ceil(np.pi / 4 / np.arccos(1 - min(GROWN_CHORD / max(radius, GROWN_CHORD), 0.5)))))
