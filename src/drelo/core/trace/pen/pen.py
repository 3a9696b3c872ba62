"""What the pen draws over a picture: stretches that cling to edges, straight ones, and curves through points."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.contour import Contour
from drelo.core.outline.spline import through_points
from drelo.core.picture.decode import Picture
from drelo.core.trace.contours.fit import contours, opened, through
from drelo.core.trace.corners.corners import find_corners
from drelo.core.trace.corners.tips import there_and_back, with_tips
from drelo.core.trace.fit.merge import merged
from drelo.core.trace.fit.refine import joined, settle
from drelo.core.trace.fit.segments import segment
from drelo.core.trace.fit.trust import MERGE_SHARE
from drelo.core.trace.pen.cling import cling
from drelo.core.trace.seen.level_lines import ClosedLines
from drelo.core.trace.seen.samples import sample

Array = NDArray[np.float64]
Point = tuple[float, float]
Kind = Literal["edge", "straight", "through"]

# Distance (px) that a curve may keep from the edge that it clings to, and the scale at which corners are looked for.
TOLERANCE, SCALE = 0.3, 1.2
# Lines shorter than this (px) are no stretch.
LEAST = 0.5
# Two lines nearer to each other than this (px) run the same way.
SAME_WAY = 1.6


@dataclass(frozen=True)
class Stretch:
    """From where the one before ended to a point, px."""

    kind: Kind
    to: Point


def pen_contour(picture: Picture, start: Point, stretches: Sequence[Stretch], closed: bool) -> Contour:
    """The fitted contour of a pen's line, px. A closed line ends where it starts, with one stretch more if it must."""
    steps = list(stretches)
    if closed and steps and np.hypot(*np.subtract(steps[-1].to, start)) > LEAST:
        steps.append(Stretch(steps[-1].kind, start))
    elif closed and steps:
        steps[-1] = Stretch(steps[-1].kind, start)
    if closed and len(steps) > 1 and all(s.kind == "edge" for s in steps):
        return _closed_along_edges(picture, start, steps)
    parts, at = [], start
    for kind, group in itertools.groupby(steps, key=lambda s: s.kind):
        points = [at, *(s.to for s in group)]
        at = points[-1]
        parts.append(_run(picture, kind, points, closed and len(steps) == len(points) - 1))
    curves = np.concatenate([np.empty((0, 4, 2)), *(p.curves for p in parts)])
    straight = np.concatenate([np.empty(0, bool), *(p.straight for p in parts)])
    return Contour(curves, straight, closed)


def along_edge(picture: Picture, points: Sequence[Point], closed: bool = False) -> Array:
    """Points along the edges from each point to the next, shape (n, 2), px; a closed line ends before its start.

    Where the pen was set beside the edge, the way there and back is left out.
    """
    lines = [cling(picture, a, b) for a, b in itertools.pairwise(points)]
    joints = range(len(lines)) if closed else range(1, len(lines))
    for joint in joints:
        back = _there_and_back(lines[joint - 1], lines[joint])
        lines[joint - 1] = lines[joint - 1][: len(lines[joint - 1]) - back]
        lines[joint] = lines[joint][back:]
    # Each line begins where the one before ends.
    first = lines[0][1:] if closed else lines[0]
    return np.concatenate([first, *(line[1:] for line in lines[1:])])


def _there_and_back(into: Array, out: Array) -> int:
    """How many points at the end of one line the next one runs back along; points lie about a px apart."""
    most = min(len(into), len(out)) // 2
    apart = np.linalg.norm(into[::-1][:most] - out[:most], axis=1)
    together = int(np.argmax(np.append(apart > SAME_WAY, True)))
    return together if together > 2 * SAME_WAY else 0


def _run(picture: Picture, kind: Kind, points: list[Point], closed: bool) -> Contour:
    if kind == "edge":
        return _open_through(along_edge(picture, points))
    p = np.array(points, np.float64)
    if kind == "through" and len(p) > 2:
        return through_points(p, closed)
    third = np.diff(p, axis=0) / 3
    return Contour(np.stack([p[:-1], p[:-1] + third, p[1:] - third, p[1:]], axis=1), np.ones(len(p) - 1, bool), False)


def _closed_along_edges(picture: Picture, start: Point, steps: Sequence[Stretch]) -> Contour:
    line = along_edge(picture, [start, *(s.to for s in steps)], closed=True)
    return through(ClosedLines(line, np.array([0, len(line)])), TOLERANCE)[0]


def _open_through(points: Array) -> Contour:
    """Few curves through an open line of points."""
    closed = np.zeros(1, bool)
    samples = sample(there_and_back([points], closed))
    corners = with_tips(find_corners(samples, SCALE), samples, closed)
    curves, cloud, begin = segment(samples, corners, SCALE, TOLERANCE)
    forward = (begin - samples.starts[curves.line]) * 2 < np.diff(samples.starts)[curves.line]
    tip = samples.points[samples.starts[:-1] + np.diff(samples.starts) // 2]
    curves, cloud = opened(curves, cloud, forward, ~closed, tip)
    curves = joined(settle(curves, cloud, 2))
    curves = joined(merged(curves, cloud, MERGE_SHARE * TOLERANCE))
    return _between(contours(curves, 1, (0.0, 0.0))[0], points[0], points[-1])


def _between(contour: Contour, start: Array, end: Array) -> Contour:
    """With its ends exactly where the pen was set."""
    curves = contour.curves.copy()
    for segment_, near, far, place in ((0, 1, 0, start), (-1, 2, 3, end)):
        shift = place - curves[segment_, far]
        curves[segment_, far] = place
        curves[segment_, near] += shift
    return Contour(curves, contour.straight, contour.closed)
