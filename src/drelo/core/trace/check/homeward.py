"""Contours led along the lines that they were fitted to, here and there or all the way."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.near import points_tree
from drelo.core.outline.contour import Contour
from drelo.core.outline.fitting import fitted
from drelo.core.outline.place import point_at, stretch

Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# Of two places on a line that are as near, the one is meant that is as far along: so many px along it count as one off.
ALONG = 50.0
# A place where the line runs the other way counts as so many px off.
AGAINST = 2.0
# Fewer points than this are joined by lines.
SHORT = 4


def polyline(points: Array, closed: bool) -> Contour:
    """Straight segments through points, shape (n, 2)."""
    step = np.diff(points, axis=0) / 3
    curves = np.stack([points[:-1], points[:-1] + step, points[1:] - step, points[1:]], axis=1)
    return Contour(curves, np.ones(len(curves), bool), closed)


def ring(points: Array) -> Contour:
    """Straight segments round points, shape (n, 2), and back to the first."""
    return polyline(np.concatenate([points, points[:1]]), True)


def all_along(contour: Contour, home: Array, rough: float, clear: float = 0.0) -> Contour:
    """Lines along all of its home, shape (n, 2), within `rough` px of it.

    clear: px from the ends of an open contour within which its home is left out. The ends stay, to the bit.
    """
    if contour.closed:
        return ring(shapely.get_coordinates(shapely.LinearRing(home).simplify(rough))[:-1])
    first, last = contour.curves[:1, 0], contour.curves[-1:, 3]
    away = np.minimum(*(np.linalg.norm(home - end, axis=1) for end in (first, last)))
    points = np.concatenate([first, home[away >= clear], last])
    return polyline(shapely.get_coordinates(shapely.LineString(points).simplify(rough)), False)


def near_home(contour: Contour, home: Array, spots: Array, radius: float, tolerance: float = 0.0) -> Contour:
    """The contour along its home, points of shape (n, 2), wherever it is nearer than `radius` px to a spot.

    home: in the order in which the contour runs; of a closed one it begins anywhere. tolerance: px within which curves
    keep to the home; 0 for its own points.
    """
    if contour.closed:
        turned = _turned(contour, spots, radius)
        if turned is None:
            return ring(home) if tolerance == 0 else fitted(home, tolerance, True)
        first = int(np.argmin(np.linalg.norm(home - turned.curves[0, 0], axis=1)))
        home = np.roll(home, -first, axis=0)
        around = near_home(replace(turned, closed=False), home, spots, radius, tolerance)
        return replace(around, closed=True)
    places, on = _walked(contour)
    near = _least(on, spots) < radius
    ends = np.flatnonzero(np.diff(np.concatenate([[False], near, [False]]).astype(np.int8))).reshape(-1, 2)
    cuts = np.stack([np.maximum(ends[:, 0] - 1, 0), np.minimum(ends[:, 1], len(places) - 1)], axis=1)
    match = _matched(on, home, cuts.ravel()).reshape(-1, 2)
    parts, at, done = [], contour.curves[0, 0], 0.0
    for (a, b), (i, j) in zip(cuts.tolist(), match.tolist(), strict=True):
        kept = _kept(contour, done, max(float(places[a]), done), at)
        first = kept.curves[-1, 3] if len(kept) else at
        done = float(places[b])
        at = contour.curves[-1, 3] if done == len(contour) else point_at(contour, done)
        points = np.concatenate([first[None], home[i + 1 : j], at[None]])
        plain = tolerance == 0 or len(points) < SHORT
        parts += [kept, polyline(points, False) if plain else fitted(points, tolerance, False)]
    parts.append(_kept(contour, done, float(len(contour)), at))
    curves, straight = (np.concatenate([getattr(p, name) for p in parts]) for name in ("curves", "straight"))
    return Contour(curves, straight, closed=False)


def _kept(contour: Contour, low: float, high: float, start: Array) -> Contour:
    """The stretch between two places, from `start`, which is the first of them to the bit; and so is the last end."""
    part = stretch(contour, low, high)
    curves = part.curves.copy()
    if len(curves):
        curves[0, 0] = start
        if high == len(contour):
            curves[-1, 3] = contour.curves[-1, 3]
    return replace(part, curves=curves)


def ended(contour: Contour, end: int, point: Array) -> Contour:
    """An open contour whose first (0) or last (1) segment is a line from, or to, another point."""
    curves, k = contour.curves.copy(), -end
    curves[k, 3 * end] = point
    step = (curves[k, 3] - curves[k, 0]) / 3
    curves[k, 1:3] = curves[k, 0] + step, curves[k, 3] - step
    return replace(contour, curves=curves)


def _turned(contour: Contour, spots: Array, radius: float) -> Contour | None:
    """A closed contour that begins as far from all spots as a node of it is; None when all are near one."""
    away = _least(contour.curves[:, 0], spots)
    first = int(np.argmax(away))
    if away[first] < radius:
        return None
    return Contour(np.roll(contour.curves, -first, axis=0), np.roll(contour.straight, -first), True)


def _least(points: Array, spots: Array) -> Array:
    """Distance of each point to the nearest spot."""
    return points_tree(spots).query(points)[0]


def _walked(contour: Contour) -> tuple[Array, Array]:
    """Places along a contour, about a px apart, and the points there."""
    steps = np.maximum(2, np.ceil(np.linalg.norm(np.diff(contour.curves, axis=1), axis=2).sum(axis=1))).astype(int)
    places = np.concatenate([k + np.arange(n) / n for k, n in enumerate(steps.tolist())] + [np.array([len(steps)])])
    t = np.concatenate([np.arange(n) / n for n in steps.tolist()] + [np.ones(1)])[:, None]
    p = contour.curves[np.append(np.repeat(np.arange(len(steps)), steps), len(steps) - 1)]
    s = 1 - t
    return places, s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3]


def _matched(on: Array, home: Array, some: Indices) -> Indices:
    """For some of the points along a contour the number of the one of its home that each belongs to; none goes back."""
    size = [np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))]) for line in (on, home)]
    share, at = size[0] / max(float(size[0][-1]), 1e-9) * size[1][-1], size[1]
    way, home_way = (np.gradient(line, axis=0) if len(line) > 1 else np.zeros((len(line), 2)) for line in (on, home))
    result = np.empty(len(some), np.int64)
    for n, k in enumerate(some.tolist()):
        cost = np.linalg.norm(home - on[k], axis=1) + np.abs(at - share[k]) / ALONG + AGAINST * (home_way @ way[k] < 0)
        result[n] = 0 if k == 0 else len(home) - 1 if k == len(on) - 1 else int(np.argmin(cost))
    return np.maximum.accumulate(result) if len(result) else result
