"""What is too narrow for a whole line: one line of its own width along the middle, or nothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.outline import only_areas
from drelo.core.rehearsal.lines import Floats

# Scraps smaller than this share of a line's square are rounding of corners.
SCRAP = 0.2
# Points along a border lie so far apart, in widths of a line.
STEP = 0.25


@dataclass(frozen=True, eq=False)
class Middle:
    """A line along the middle of a narrow stretch. points: shape (n, 2), mm. width: its own, mm."""

    points: Floats
    width: float


def middles(area: BaseGeometry, line: float, least: float) -> tuple[list[Middle], list[BaseGeometry]]:
    """Lines for stretches narrower than a line's width, and the stretches that are narrower than `least`, mm."""
    found: list[Middle] = []
    left: list[BaseGeometry] = []
    for part in shapely.get_parts(only_areas(area)):
        if part.area < SCRAP * line * line:
            continue
        width = width_of(part)
        if width < least:
            left.append(part)
            continue
        points = _middle(part, line)
        if points is not None:
            length = float(np.hypot(*np.diff(points, axis=0).T).sum())
            # As wide as the stretch is on the average, so that as much is laid as it holds.
            found.append(Middle(points, min(part.area / length, 2 * line)))
    return found, left


def width_of(part: BaseGeometry) -> float:
    """About how wide a long stretch is, mm: of a strip l × w, area and border give w."""
    half = part.length / 2
    root = max(half * half - 4 * part.area, 0.0) ** 0.5
    return float(2 * part.area / (half + root))


def _middle(part: BaseGeometry, line: float) -> Floats | None:
    """The longest way along the middle of a stretch."""
    border = shapely.get_coordinates(shapely.segmentize(part, STEP * line))
    edges = shapely.get_parts(shapely.voronoi_polygons(shapely.multipoints(border), only_edges=True))
    if len(edges) == 1 and edges[0].geom_type == "MultiLineString":
        edges = shapely.get_parts(edges)
    shapely.prepare(part)
    inside = edges[shapely.contains_properly(part, edges)]
    if not len(inside):
        return _along(part)
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(inside)))
    longest = merged[int(np.argmax(shapely.length(merged)))]
    points = shapely.get_coordinates(shapely.simplify(longest, line / 10))
    return points if len(points) > 1 and longest.length > line / 2 else _along(part)


def _along(part: BaseGeometry) -> Floats | None:
    """The middle of the box that a short stretch fits in."""
    box = shapely.minimum_rotated_rectangle(part)
    corners = shapely.get_coordinates(box)
    if len(corners) < 5:
        return None
    sides = np.hypot(*np.diff(corners, axis=0).T)
    at = 0 if sides[0] < sides[1] else 1
    begin = (corners[at] + corners[at + 1]) / 2
    end = (corners[at + 2] + corners[(at + 3) % 4]) / 2
    return np.stack([begin, end])
