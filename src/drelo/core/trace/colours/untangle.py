"""Fitted arcs that cross each other follow their pixels there: the edges of pixels never cross."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.outline.combine import part_of
from drelo.core.outline.contour import Contour
from drelo.core.trace.colours.arcs import Arcs

Array = NDArray[np.float64]

# Chord tolerance (px) at which crossing curves are looked for.
CHORD = 0.01
# An arc that crosses others follows its pixels within this many px of where it does, one after the other; from the
# second on the junctions there are where the pixels have them, too.
WINDOWS = (4.0, 4.0, 12.0, 40.0)
# Where that does not do, or the arc is closed or crosses itself, all of it does: its lines keep within so many px of
# the pixels, and begin this far (px) from junctions, which were moved.
ROUGHLY = ((0.5, 0.0), (0.0, 0.0), (0.0, 1.5), (0.0, 3.0))
ROUNDS = len(WINDOWS) + 2 * len(ROUGHLY) + 1


def untangled(found: Sequence[Contour], arcs: Arcs, offset: tuple[float, float]) -> list[Contour]:
    """One contour an arc, so that none crosses another or itself and no two areas overlap.

    found: fitted ones, moved by `offset` px against the arcs; those that meet at a junction end in the same point.
    """
    result = list(found)
    homes = arcs.junctions + np.array(offset)
    tried = np.where(arcs.closed, len(WINDOWS), 0)
    lines = np.array([shapely.LineString(_flat(c)) for c in result])
    for _ in range(ROUNDS):
        one, other = shapely.STRtree(lines).query(lines, predicate="crosses")
        knotted = ~np.asarray(shapely.is_simple(lines), bool)
        tried[knotted] = np.maximum(tried[knotted], len(WINDOWS))
        tangled = knotted.copy()
        tangled[one] = tangled[other] = True
        fresh = np.flatnonzero(tangled & (tried < len(WINDOWS) + len(ROUGHLY)) & ~arcs.border)
        if not len(fresh):
            break
        home: dict[int, float] = {}
        for a in fresh.tolist():
            points = arcs.points[arcs.starts[a] : arcs.starts[a + 1]] + np.array(offset)
            if tried[a] >= len(WINDOWS):
                result[a] = _all_along(result[a], points, *ROUGHLY[tried[a] - len(WINDOWS)])
                continue
            window = WINDOWS[tried[a]]
            spots = shapely.get_coordinates(shapely.intersection(lines[a], lines[other[one == a]]))
            result[a] = _near(result[a], points, spots, window)
            for junction in arcs.ends[a].tolist() if tried[a] else ():
                if np.linalg.norm(spots - homes[junction], axis=1).min() < window:
                    home[junction] = window
        for junction, window in home.items():
            for a, end in np.argwhere(arcs.ends == junction).tolist():
                if not arcs.border[a]:
                    points = arcs.points[arcs.starts[a] : arcs.starts[a + 1]] + np.array(offset)
                    result[a] = _near(result[a], points, homes[junction][None], window)
                result[a] = _ended(result[a], end, homes[junction])
        tried[fresh] += 1
        moved = set(fresh.tolist()) | set(np.flatnonzero(np.isin(arcs.ends, list(home)).any(axis=1)).tolist())
        for a in moved:
            lines[a] = shapely.LineString(_flat(result[a]))
    return result


def polyline(points: Array, closed: bool) -> Contour:
    """Straight segments through points, shape (n, 2)."""
    step = np.diff(points, axis=0) / 3
    curves = np.stack([points[:-1], points[:-1] + step, points[1:] - step, points[1:]], axis=1)
    return Contour(curves, np.ones(len(curves), bool), closed)


def _flat(contour: Contour) -> Array:
    points = contour.flattened(CHORD)
    return np.concatenate([points, points[:1]]) if contour.closed else points


def _all_along(contour: Contour, points: Array, rough: float, clear: float) -> Contour:
    # The ends stay what the arcs that meet there have, to the bit.
    first, last = (points[:1],) * 2 if contour.closed else (contour.curves[:1, 0], contour.curves[-1:, 3])
    away = np.minimum(*(np.linalg.norm(points - end, axis=1) for end in (first, last)))
    points = np.concatenate([first, points[1:] if contour.closed else points[away >= clear], last])
    return polyline(shapely.get_coordinates(shapely.LineString(points).simplify(rough)), contour.closed)


def _near(contour: Contour, points: Array, spots: Array, radius: float) -> Contour:
    """An open contour along its pixels' points, shape (n, 2), wherever it is nearer than `radius` px to a spot."""
    steps = np.maximum(2, np.ceil(np.linalg.norm(contour.curves[:, 3] - contour.curves[:, 0], axis=1))).astype(int)
    places = np.concatenate([k + np.arange(n) / n for k, n in enumerate(steps.tolist())] + [np.array([len(steps)])])
    on = np.array([_at(contour, place) for place in places])
    near = (np.linalg.norm(on[:, None] - spots[None], axis=2) < radius).any(axis=1)
    ends = np.flatnonzero(np.diff(np.concatenate([[False], near, [False]]).astype(np.int8))).reshape(-1, 2)
    curves, straight, done = [], [], 0.0
    for begin, end in ends.tolist():
        low, high = float(places[max(begin - 1, 0)]), float(places[min(end, len(places) - 1)])
        before = _stretch(contour, done, low)
        first, last = _at(contour, low), _at(contour, high)
        i, j = (int(np.argmin(np.linalg.norm(points - p, axis=1))) for p in (first, last))
        line = polyline(np.concatenate([first[None], points[i + 1 : j], last[None]]), False)
        curves += [before.curves, line.curves]
        straight += [before.straight, line.straight]
        done = high
    rest = _stretch(contour, done, float(len(contour.curves)))
    return Contour(np.concatenate([*curves, rest.curves]), np.concatenate([*straight, rest.straight]), closed=False)


def _ended(contour: Contour, end: int, point: Array) -> Contour:
    """An open contour whose first (0) or last (1) segment is a line from, or to, another point."""
    curves, k = contour.curves.copy(), -end
    curves[k, 3 * end] = point
    step = (curves[k, 3] - curves[k, 0]) / 3
    curves[k, 1:3] = curves[k, 0] + step, curves[k, 3] - step
    return replace(contour, curves=curves)


def _at(contour: Contour, place: float) -> Array:
    """The point at a place: number of the segment and how far along it. Ends are met to the bit."""
    k = min(int(place), len(contour.curves) - 1)
    t = place - k
    if t in (0.0, 1.0):
        return np.asarray(contour.curves[k, 3 if t else 0])
    return np.asarray(part_of(contour.curves[k], 0.0, t)[3])


def _stretch(contour: Contour, low: float, high: float) -> Contour:
    """The segments between two places; nothing when they are the same."""
    curves, straight = [], []
    for k in range(int(low), min(int(np.ceil(high)), len(contour.curves))):
        t0, t1 = max(low - k, 0.0), min(high - k, 1.0)
        if t1 > t0:
            curve = part_of(contour.curves[k], t0, t1).copy()
            curve[0], curve[3] = _at(contour, k + t0), _at(contour, k + t1)
            curves.append(curve)
            straight.append(bool(contour.straight[k]))
    return Contour(np.array(curves).reshape(-1, 4, 2), np.array(straight, bool), closed=False)
