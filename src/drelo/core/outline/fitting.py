"""Few lines and cubics through many points."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.cubics import fit
from drelo.core.outline.fineness import FITTED_CORNER
from drelo.core.outline.outline import Outline

# An edge so many times as long as those beside it is a line of its own.
LONG = 5.0
# So many edges on either side.
BESIDE = 3
ROUNDS = 5


def fitted(points: Points, tolerance: float, closed: bool, corner: float = FITTED_CORNER) -> Contour:
    """A contour that stays within `tolerance` of a dense line of points, its corners kept.

    points: shape (n, 2); a closed line does not repeat its start.
    """
    ring = _distinct(np.asarray(points, np.float64), closed)
    if len(ring) < 2:
        return Contour(np.empty((0, 4, 2)), np.empty(0, bool), closed)
    if closed and len(ring) < 3:
        closed = False
    breaks = _breaks(ring, closed, corner)
    if closed:
        first = int(breaks[0]) if len(breaks) else 0
        smooth_start = not len(breaks)
        ring = np.concatenate([np.roll(ring, -first, axis=0), ring[first : first + 1]])
        marks = sorted({0, *((breaks - first) % (len(ring) - 1)).tolist(), len(ring) - 1})
    else:
        smooth_start = False
        marks = sorted({0, *breaks.tolist(), len(ring) - 1})
    curves: list[Points] = []
    straight: list[bool] = []
    for begin, end in itertools.pairwise(marks):
        run = ring[begin : end + 1]
        around = (ring[-2], ring[1]) if smooth_start else None
        for piece, line in _run(run, tolerance, around):
            curves.append(piece)
            straight.append(line)
    return Contour(np.array(curves), np.array(straight, bool), closed)


def fitted_outlines(shape: BaseGeometry, tolerance: float, least: float = 0.0) -> list[Outline]:
    """Outlines round every part of a shape; parts and holes smaller than `least` (area) are left out."""
    result = []
    for part in shapely.get_parts(shapely.orient_polygons(shape)):
        if part.is_empty or part.area <= least:
            continue
        # Of points that lie closer than a fit can tell, edges would seem long that are not.
        part = shapely.simplify(part, tolerance / 10)
        rings = [part.exterior, *(h for h in part.interiors if shapely.Polygon(h).area > least)]
        contours = [fitted(shapely.get_coordinates(r)[:-1], tolerance, True) for r in rings]
        result.append(Outline(contours[0], tuple(c for c in contours[1:] if len(c))))
    return [o for o in result if len(o.outer)]


def _distinct(points: Points, closed: bool) -> Points:
    if not len(points):
        return points
    keep = np.append(True, (np.diff(points, axis=0) != 0).any(axis=1))
    ring = points[keep]
    return np.asarray(ring[:-1] if closed and len(ring) > 1 and (ring[0] == ring[-1]).all() else ring)


def _breaks(ring: Points, closed: bool, corner: float) -> NDArray[np.int64]:
    """Vertices where a fit must end: corners, and the ends of long edges."""
    into, out = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    turn = np.abs(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1)))
    length = np.hypot(out[:, 0], out[:, 1])
    sharp = turn > corner
    # The longest of a few edges on either side; what lies beyond a corner says nothing of how a curve goes on.
    sides = []
    for way in (1, -1):
        longest, open_ = np.zeros(len(ring)), np.ones(len(ring), bool)
        for step in range(1, BESIDE + 1):
            # The vertex that is passed to reach that edge.
            open_ &= ~np.roll(sharp, -step if way > 0 else step - 1)
            longest = np.where(open_, np.maximum(longest, np.roll(length, -way * step)), longest)
        sides.append(longest)
    known = np.maximum(*sides) > 0
    long = known & (length > LONG * np.maximum(*sides))
    marked = sharp | long | np.roll(long, 1)
    if not closed:
        marked[[0, -1]] = True
    return np.asarray(np.flatnonzero(marked))


def _run(run: Points, tolerance: float, around: tuple[Points, Points] | None) -> list[tuple[Points, bool]]:
    """Lines and cubics from the first point to the last; around: the points before and after, on a smooth loop."""
    count = len(run)
    step = np.diff(run, axis=0)
    length = np.hypot(step[:, 0], step[:, 1])
    way = step / np.maximum(length, 1e-300)[:, None]
    along = np.concatenate([[0.0], np.cumsum(length)])
    tangent = np.empty((count, 2))
    if count > 2:
        # The direction of the parabola through each point and its two neighbours.
        share = (length[:-1] / (length[:-1] + length[1:]))[:, None]
        tangent[1:-1] = way[:-1] * (1 - share) + way[1:] * share
        tangent[0] = 2 * way[0] - tangent[1] if around is None else run[1] - around[0]
        tangent[-1] = 2 * way[-1] - tangent[-2] if around is None else around[1] - run[-2]
    else:
        tangent[:] = way[0]
    tangent /= np.maximum(np.hypot(tangent[:, 0], tangent[:, 1]), 1e-300)[:, None]
    pieces: list[tuple[Points, bool]] = []
    at = 0
    while at < count - 1:
        end, piece = _longest(run, along, tangent, at, tolerance)
        pieces.append(piece)
        at = end
    return pieces


def _longest(run: Points, along: Points, tangent: Points, at: int, tolerance: float) -> tuple[int, tuple[Points, bool]]:
    """The segment from a point that reaches farthest within the tolerance, and where it ends."""
    last = len(run) - 1
    best, found = at + 1, _line(run[at], run[at + 1])
    low, high, step = at + 1, last, 8
    guess = last if last - at <= 24 else at + step
    while low < high or guess == last:
        piece = _one(run, along, tangent, at, guess, tolerance)
        if piece is not None:
            best, found = guess, piece
            low = guess
            step *= 2
            if guess >= high:
                break
            guess = min(guess + step, high) if high == last else (low + high + 1) // 2
        else:
            high = guess - 1
            if high <= low:
                break
            guess = (low + high + 1) // 2
    return best, found


def _one(
    run: Points, along: Points, tangent: Points, at: int, end: int, tolerance: float
) -> tuple[Points, bool] | None:
    data = run[at : end + 1]
    start, finish = data[0], data[-1]
    chord = finish - start
    size = float(np.hypot(*chord))
    if size > 0:
        off = np.abs((data[:, 0] - start[0]) * chord[1] - (data[:, 1] - start[1]) * chord[0]) / size
        if off.max() <= tolerance / 4:
            return _line(start, finish)
    if end == at + 1:
        return _line(start, finish)
    u = (along[at : end + 1] - along[at]) / (along[end] - along[at])
    one, two, worst, _ = fit(start, tangent[at], finish, tangent[end], data, np.ascontiguousarray(u), ROUNDS).tolist()
    if worst > tolerance:
        return None
    return np.array([start, start + one * tangent[at], finish - two * tangent[end], finish]), False


def _line(start: Points, end: Points) -> tuple[Points, bool]:
    third = (end - start) / 3
    return np.array([start, start + third, end - third, end]), True


def outlines_of(rings: Sequence[Contour]) -> list[Outline]:
    """Outlines of contours by the even-odd rule: each outer contour with the holes that lie directly in it."""
    closed = [c for c in rings if c.closed and len(c) and c.area != 0]
    if len(closed) < 2:
        return [Outline(c if c.area > 0 else c.reversed()) for c in closed]
    extent = max(max(c.bounds[2] - c.bounds[0], c.bounds[3] - c.bounds[1]) for c in closed)
    shapes = [shapely.make_valid(shapely.Polygon(_ring(c, extent / 4000))) for c in closed]
    spots = [s.representative_point() for s in shapes]
    areas = np.array([abs(c.area) for c in closed])
    depth, parent = [], []
    tree = shapely.STRtree(shapes)
    inside, holder = tree.query(spots, predicate="intersects")
    for i in range(len(closed)):
        holders = [int(h) for h in holder[inside == i] if h != i and areas[h] > areas[i]]
        depth.append(len(holders))
        parent.append(min(holders, key=lambda h: areas[h]) if holders else -1)
    result = []
    for i, contour in enumerate(closed):
        if depth[i] % 2 == 0:
            outer = contour if contour.area > 0 else contour.reversed()
            holes = [closed[k] for k in range(len(closed)) if parent[k] == i and depth[k] % 2 == 1]
            result.append(Outline(outer, tuple(h if h.area < 0 else h.reversed() for h in holes)))
    return result


def _ring(contour: Contour, tolerance: float) -> Points:
    points = contour.flattened(tolerance)
    return points if len(points) >= 3 else np.concatenate([points, points[:1], points[:1]])[:4]
