"""What lines enclose becomes an outline; where it leaks, the gap is found."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.combine import extent_of, recovered
from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.fineness import EXACT_SHARE
from drelo.core.outline.outline import Outline
from drelo.core.outline.place import line

# How exactly a gap is searched for, against itself, and up to which share of the extent.
EXACT, WIDEST = 2e-3, 0.25
STEPS, HALVINGS = 24, 16
# A line within a face stops short of another up to this share of the face's extent, and parts it if that leaves less.
SHORT, PARTED = 0.15, 0.98
# Lines nearer to each other than this (mm) touch.
TOUCH = 1e-6


@dataclass(frozen=True)
class Leak:
    """A gap through which a pour runs out: between two points, and how wide."""

    start: tuple[float, float]
    end: tuple[float, float]
    width: float


@dataclass(frozen=True, eq=False)
class Poured:
    """outline: what was enclosed, None where it leaked. closed: gaps that were closed. leak: the next one.

    With an outline, the leak is a gap within it: where a line stops short of another, and what it would part runs
    together.
    """

    outline: Outline | None
    closed: tuple[Leak, ...] = ()
    leak: Leak | None = None


def pour(contours: Sequence[Contour], at: tuple[float, float], gap: float = 0.0, most: int = 40) -> Poured:
    """The outline of the area round a point that lines enclose; gaps up to `gap` are closed by straight lines.

    contours: open and closed lines. at: a point inside.
    """
    lines = [c for c in contours if len(c)]
    if not lines:
        return Poured(None)
    tolerance = extent_of(lines) * EXACT_SHARE
    closing: list[Leak] = []
    for _ in range(most):
        patches = [line(np.array(leak.start), np.array(leak.end)) for leak in closing]
        every = [*lines, *patches]
        shapes = np.array([_shape(c, tolerance) for c in every])
        face = _face(shapes, at)
        inner = None if face is None else _short(shapes, face, at)
        if face is not None and (inner is None or inner.width > gap or inner in closing):
            found = recovered(face, every, tolerance)
            return Poured(max(found, key=lambda o: o.area) if found else None, tuple(closing), inner)
        leak = inner or find_leak(shapes, at)
        if leak is None or leak.width > gap or leak in closing:
            return Poured(None, tuple(closing), leak)
        closing.append(leak)
    return Poured(None, tuple(closing))


def _short(shapes: NDArray[np.object_], face: BaseGeometry, at: tuple[float, float]) -> Leak | None:
    """The narrowest gap in a face where a line stops short of another, and would part the face if it did not."""
    reach = SHORT * np.sqrt(face.area)
    found = []
    for shape in shapes:
        points = shapely.get_coordinates(shape)
        if shape.is_closed or len(points) < 2:
            continue
        for end in (points[0], points[-1]):
            if not face.covers(shapely.Point(end)):
                continue
            leak = _nearest_other(shapes, end, reach)
            if leak is not None:
                found.append(leak)
    for leak in sorted(found, key=lambda one: one.width):
        parted = _face(np.array([*shapes, shapely.LineString([leak.start, leak.end])]), at)
        if parted is not None and parted.area < PARTED * face.area:
            return leak
    return None


def _nearest_other(shapes: NDArray[np.object_], end: Points, reach: float) -> Leak | None:
    """The gap between the tip of a line and the nearest other line, or a far stretch of its own."""
    spot = shapely.Point(end)
    best: Leak | None = None
    for shape in shapes:
        other = _without_tip(shape, end, reach / 3)
        if other.is_empty:
            continue
        near = shapely.get_coordinates(shapely.shortest_line(spot, other))[1]
        width = float(np.hypot(*(near - end)))
        # Lines that touch here leave no gap: the tip is no end.
        if width <= TOUCH:
            return None
        if width <= reach and (best is None or width < best.width):
            best = Leak(_pair(end), _pair(near), width)
    return best


def find_leak(shapes: NDArray[np.object_], at: tuple[float, float]) -> Leak | None:
    """The widest gap on the narrowest way out from a point; None when it lies free of all lines."""
    box = shapely.total_bounds(shapes)
    extent = float(max(box[2] - box[0], box[3] - box[1]))
    # Walls that are far too thick leave no room at all, so the search comes down from above.
    thick = (extent * WIDEST / 2**k for k in range(HALVINGS))
    high = next((gap for gap in thick if _enclosed(shapes, at, gap) is not None), None)
    if high is None:
        return None
    low = 0.0
    for _ in range(STEPS):
        middle = (low + high) / 2
        if _enclosed(shapes, at, middle) is None:
            low = middle
        else:
            high = middle
        if high - low < high * EXACT:
            break
    room = _enclosed(shapes, at, high)
    return None if room is None else _gap(shapes, room, high)


def _free(shapes: NDArray[np.object_], gap: float) -> BaseGeometry:
    """What lines leave free that are as thick as a gap."""
    walls = shapely.union_all(shapely.buffer(shapes, max(gap / 2, 1e-9), quad_segs=16))
    x0, y0, x1, y1 = walls.bounds
    margin = 0.05 * max(x1 - x0, y1 - y0)
    return shapely.difference(shapely.box(x0 - margin, y0 - margin, x1 + margin, y1 + margin), walls)


def _enclosed(shapes: NDArray[np.object_], at: tuple[float, float], gap: float) -> BaseGeometry | None:
    """The room round a point when walls are as thick as a gap; None when it reaches the outside.

    A point under a thickened wall belongs to the nearest room.
    """
    free = _free(shapes, gap)
    parts = shapely.get_parts(free)
    if not len(parts):
        return None
    spot = shapely.Point(at)
    nearest = parts[int(np.argmin(shapely.distance(parts, spot)))]
    edge = shapely.box(*free.bounds).exterior
    return None if nearest.intersects(edge) else nearest


def _gap(shapes: NDArray[np.object_], room: BaseGeometry, gap: float) -> Leak | None:
    """The two places whose walls just meet at the edge of a room."""
    reach = shapely.buffer(room, gap * 0.75)
    ends: list[Points] = []
    for shape in shapes:
        if shape.geom_type == "LineString" and not shape.is_closed:
            points = shapely.get_coordinates(shape)
            ends += [points[0], points[-1]]
    best: Leak | None = None
    for end in ends:
        spot = shapely.Point(end)
        if not reach.intersects(spot):
            continue
        for shape in shapes:
            other = _without_tip(shape, end, gap)
            if other.is_empty:
                continue
            near = shapely.get_coordinates(shapely.shortest_line(spot, other))[1]
            width = float(np.hypot(*(near - end)))
            if width > 0 and abs(width - gap) < max(gap * 0.05, 1e-9) and (best is None or width < best.width):
                best = Leak(_pair(end), _pair(near), width)
    return best or _between_shapes(shapes, room, gap)


def _between_shapes(shapes: NDArray[np.object_], room: BaseGeometry, gap: float) -> Leak | None:
    """A gap that no open end borders: between two lines."""
    near = shapes[shapely.distance(shapes, room) < gap]
    best: Leak | None = None
    for i in range(len(near)):
        for k in range(i + 1, len(near)):
            a, b = shapely.get_coordinates(shapely.shortest_line(near[i], near[k]))
            width = float(np.hypot(*(b - a)))
            if width > 0 and abs(width - gap) < gap * 0.1 and (best is None or width < best.width):
                best = Leak(_pair(a), _pair(b), width)
    return best


def _without_tip(shape: BaseGeometry, end: Points, gap: float) -> BaseGeometry:
    """A line less the stretch of its own that ends at a tip."""
    points = shapely.get_coordinates(shape)
    if shape.is_closed or not ((points[0] == end).all() or (points[-1] == end).all()):
        return shape
    run = points if (points[0] == end).all() else points[::-1]
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(run, axis=0).T))])
    keep = run[along > 3 * gap]
    return shapely.LineString(keep) if len(keep) > 1 else shapely.LineString()


def _face(shapes: NDArray[np.object_], at: tuple[float, float]) -> BaseGeometry | None:
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all(shapes)]))
    inside = [f for f in faces if f.covers(shapely.Point(at))]
    return min(inside, key=lambda f: f.area) if inside else None


def _shape(contour: Contour, tolerance: float) -> BaseGeometry:
    points = contour.flattened(tolerance)
    return shapely.LineString(np.concatenate([points, points[:1]]) if contour.closed else points)


def _pair(point: Points) -> tuple[float, float]:
    return float(point[0]), float(point[1])
