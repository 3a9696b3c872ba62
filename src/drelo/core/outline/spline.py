"""Lines drawn click by click: straight, through points, by control points, and arcs through three points."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Literal

import numpy as np

from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.ease import arc_through

Kind = Literal["straight", "through", "control", "arc"]
# Length of the handles of a curve through points, against the distance of the points.
ROUND = 1 / 3


def drawn_line(start: Points, stretches: Sequence[tuple[Kind, Points]], closed: bool) -> Contour:
    """The contour through clicks; runs of one kind belong together. A closed one ends where it starts.

    An arc takes two clicks, one that it passes and its end; a single one is a line.
    """
    points = list(stretches)
    if closed and points and np.hypot(*(points[-1][1] - start)) > 0:
        points.append((points[-1][0], start))
    runs: list[Contour] = []
    at = start
    for kind, group in itertools.groupby(points, key=lambda s: s[0]):
        run = [at, *(p for _, p in group)]
        at = run[-1]
        whole = closed and len(run) == len(points) + 1
        runs.append(_run(kind, np.array(run), whole))
    parts = [r for r in runs if len(r)]
    if not parts:
        return Contour(np.empty((0, 4, 2)), np.empty(0, bool), False)
    curves = np.concatenate([p.curves for p in parts])
    straight = np.concatenate([p.straight for p in parts])
    if closed:
        curves[-1, 3] = curves[0, 0]
    return Contour(curves, straight, closed and len(curves) > 1)


def _run(kind: Kind, points: Points, closed: bool) -> Contour:
    if kind == "through" and len(points) > 2:
        return through_points(points, closed)
    if kind == "control" and len(points) > 2:
        return by_control_points(points, closed)
    if kind == "arc":
        arcs = [arc_through(points[i], points[i + 1], points[i + 2]) for i in range(0, len(points) - 2, 2)]
        rest = points[len(arcs) * 2 :]
        parts = [*arcs, *([_lines(rest)] if len(rest) > 1 else [])]
        return Contour(np.concatenate([p.curves for p in parts]), np.concatenate([p.straight for p in parts]), False)
    return _lines(points)


def _lines(points: Points) -> Contour:
    keep = np.append(True, np.hypot(*np.diff(points, axis=0).T) > 0)
    p = points[keep]
    third = np.diff(p, axis=0) / 3
    return Contour(np.stack([p[:-1], p[:-1] + third, p[1:] - third, p[1:]], axis=1), np.ones(len(p) - 1, bool), False)


def through_points(p: Points, closed: bool) -> Contour:
    """Cubics through points that leave every point in the direction from the one before to the one after it.

    Source: E. Catmull and R. Rom, "A class of local interpolating splines", 1974, with handles by distance.
    """
    if closed:
        p = p[:-1]
        after, before = np.roll(p, -1, axis=0), np.roll(p, 1, axis=0)
    else:
        after = np.concatenate([p[1:], [2 * p[-1] - p[-2]]])
        before = np.concatenate([[2 * p[0] - p[1]], p[:-1]])
    way = after - before
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    start = p if closed else p[:-1]
    end = np.roll(p, -1, axis=0) if closed else p[1:]
    out, into = (way, np.roll(way, -1, axis=0)) if closed else (way[:-1], way[1:])
    reach = ROUND * np.linalg.norm(end - start, axis=1, keepdims=True)
    curves = np.stack([start, start + reach * out, end - reach * into, end], axis=1)
    return Contour(curves, np.zeros(len(curves), bool), False)


def by_control_points(p: Points, closed: bool) -> Contour:
    """The uniform cubic B-spline of control points; an open one begins and ends at its first and last."""
    if closed:
        p = p[:-1]
        if len(p) < 3:
            return _lines(np.concatenate([p, p[:1]]))
        ring = np.concatenate([p[-1:], p, p[:2]])
    else:
        # Threefold ends draw the curve to them.
        ring = np.concatenate([p[:1], p[:1], p, p[-1:], p[-1:]])
    a, b, c, d = ring[:-3], ring[1:-2], ring[2:-1], ring[3:]
    curves = np.stack([(a + 4 * b + c) / 6, (2 * b + c) / 3, (b + 2 * c) / 3, (b + 4 * c + d) / 6], axis=1)
    return Contour(curves, np.zeros(len(curves), bool), False)
