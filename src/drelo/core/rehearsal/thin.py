"""What is too narrow for a whole line: one line of its own width along the middle, or nothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import Voronoi
from shapely import Polygon
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.outline import only_areas
from drelo.core.rehearsal.lines import Floats

# Scraps smaller than this share of a line's square are rounding of corners.
SCRAP = 0.2
# Points along a border lie so far apart, in widths of a line.
STEP = 0.4
# A border shorter than so many widths is that of a blot.
SHORT = 6.0
# A border of fewer points has no middle that could be told.
FEWEST = 5
# Points round a wall that closes on itself.
ROUND = 400


@dataclass(frozen=True, eq=False)
class Middle:
    """A line along the middle of a narrow stretch. points: shape (n, 2), mm. width: its own, mm."""

    points: Floats
    width: float


def middles(area: BaseGeometry, line: float, least: float) -> tuple[list[Middle], list[BaseGeometry]]:
    """Lines for stretches narrower than a line's width, and the stretches that are narrower than `least`, mm."""
    found: list[Middle] = []
    left: list[BaseGeometry] = []
    parts = shapely.get_parts(only_areas(area))
    for part in parts[shapely.area(parts) >= SCRAP * line * line]:
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


def _middle(part: Polygon, line: float) -> Floats | None:
    """A way along the middle of a stretch; of one that branches, the longest."""
    width = width_of(part)
    holes = shapely.get_num_interior_rings(part)
    if part.length < SHORT * width:
        return _along(part)
    found = _round(part) if holes == 1 else _between_ends(part, width) if holes == 0 else None
    if found is not None and shapely.contains(shapely.buffer(part, width / 4), shapely.linestrings(found)):
        return found
    found = _inwards(part, width) if holes == 1 else None
    return _longest(part, line) if found is None else found


def _round(part: Polygon) -> Floats:
    """The way round a wall that closes on itself: between each point outside and the nearest one inside."""
    outer, inner = part.exterior, part.interiors[0]
    points = shapely.get_coordinates(shapely.segmentize(outer, outer.length / ROUND))
    near = shapely.line_interpolate_point(inner, shapely.line_locate_point(inner, shapely.points(points)))
    return (points + shapely.get_coordinates(near)) / 2


def _inwards(part: Polygon, width: float) -> Floats | None:
    """The same for one as wide everywhere: half its width inside of its border. None where that leads out of it."""
    inner = shapely.buffer(Polygon(part.exterior), -width / 2, join_style="mitre", mitre_limit=2.0)
    if inner.geom_type != "Polygon" or inner.is_empty or not shapely.contains(part, inner.exterior):
        return None
    return np.asarray(shapely.get_coordinates(inner.exterior), np.float64)


def _between_ends(part: Polygon, width: float) -> Floats | None:
    """The way from one end of a stretch to the other, half way between its sides; None where it has not two ends."""
    ring = part.exterior
    count = int(np.clip(ring.length / (0.6 * width), 24, 4000))
    step = ring.length / count
    points = _at(shapely.get_coordinates(ring), np.arange(count) / count)
    # At an end, what comes before and what comes after lie across from each other.
    away = max(2, round(3 * width / step))
    across = np.hypot(*(np.roll(points, away, axis=0) - np.roll(points, -away, axis=0)).T)
    is_end = across < away * step
    if is_end.all() or not is_end.any():
        return None
    turned = int(np.argmin(is_end))
    runs = np.flatnonzero(np.diff(np.concatenate([[False], np.roll(is_end, -turned), [False]]).astype(np.int8)))
    if len(runs) < 4:
        return None
    from_there = np.roll(across, -turned)
    tips = [int(begin + np.argmin(from_there[begin:end])) for begin, end in runs.reshape(-1, 2)]
    # A sharp bend looks like an end too; the sides of the true ones are nearest to each other.
    ends = sorted(sorted(tips, key=lambda tip: from_there[tip])[:2])
    points = np.roll(points, -turned, axis=0)
    one, other = points[ends[0] : ends[1] + 1], np.vstack([points[ends[1] :], points[: ends[0] + 1]])[::-1]
    share = np.linspace(0, 1, max(2, min(len(one), len(other))))
    return (_at(one, share) + _at(other, share)) / 2


def _at(points: Floats, share: Floats) -> Floats:
    """Points at shares of the way along others."""
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    return np.stack([np.interp(share * way[-1], way, points[:, k]) for k in (0, 1)], axis=1)


def _longest(part: BaseGeometry, line: float) -> Floats | None:
    """The longest way along the points that are as far from one side as from another."""
    border = np.unique(shapely.get_coordinates(shapely.segmentize(part, STEP * line)), axis=0)
    if len(border) < FEWEST:
        return _along(part)
    cells = Voronoi(border)
    ends = np.array(cells.ridge_vertices)
    shapely.prepare(part)
    is_inside = np.append(shapely.contains_xy(part, cells.vertices), False)
    # The last one stands for what runs on for ever, whose number is -1.
    inside = shapely.linestrings(cells.vertices[ends[is_inside[ends].all(axis=1)]])
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
