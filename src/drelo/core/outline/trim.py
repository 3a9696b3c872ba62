"""Where lines cross: split there, or let the clicked stretch go."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.outline.chords import chords_of, grid_of, meetings
from drelo.core.outline.combine import extent_of, point_and_way, steps_of
from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.fineness import EXACT_SHARE
from drelo.core.outline.place import nearest, point_at, stretch

NEWTON = 10
# Places on a segment closer than this are one.
SAME = 1e-6
# The two passes through a crossing lie within this share of the extent.
NEAR = 1e-5


def crossings(contours: Sequence[Contour], number: int) -> list[float]:
    """Places on one contour where it crosses or touches others, or itself, in order."""
    target = contours[number]
    tolerance = extent_of(contours) * EXACT_SHARE
    mine, my_segment, my_span = _chords(target, tolerance)
    tree = shapely.STRtree(np.array(shapely.linestrings(mine)))
    found: list[float] = []
    for i, other in enumerate(contours):
        theirs, their_segment, their_span = _chords(other, tolerance)
        there, here = tree.query(np.array(shapely.linestrings(theirs)), predicate="intersects")
        for a, b in zip(here.tolist(), there.tolist(), strict=True):
            if i == number and _neighbours(a, b, len(mine), target.closed):
                continue
            place = _met(target, my_segment[a], my_span[a], other, their_segment[b], their_span[b])
            if place is not None:
                found.append(place)
    found.sort()
    result: list[float] = []
    for place in found:
        if not result or place - result[-1] > 1e-4:
            result.append(place)
    if target.closed and len(result) > 1 and result[0] + len(target) - result[-1] <= 1e-4:
        result.pop()
    return result


def self_crossings(contour: Contour) -> list[tuple[float, float]]:
    """Points at which a contour crosses or touches itself: as the check of a trace finds them."""
    extent = extent_of([contour])
    flat = contour.flattened(max(extent, 1e-9) * EXACT_SHARE)
    if len(flat) < 3:
        return []
    points: list[tuple[float, float]] = []
    for x, y in meetings(grid_of(chords_of([flat], [contour.closed]))).at.tolist():
        # Every crossing is passed twice, and two chords may end in it.
        if all(math.dist((x, y), p) > extent * NEAR for p in points):
            points.append((float(x), float(y)))
    return points


def _chords(contour: Contour, tolerance: float) -> tuple[Points, NDArray[np.int64], Points]:
    flat = contour.flattened(tolerance)
    flat = np.concatenate([flat, flat[:1]]) if contour.closed else flat
    segment, low, high = steps_of(contour, tolerance)
    return np.stack([flat[:-1], flat[1:]], axis=1), segment, np.column_stack([low, high])


def _neighbours(a: int, b: int, count: int, closed: bool) -> bool:
    apart = abs(a - b)
    return apart <= 1 or (closed and apart == count - 1)


def _met(
    one: Contour, segment: int, span: Points, other: Contour, their_segment: int, their_span: Points
) -> float | None:
    s, t = float(span.mean()), float(their_span.mean())
    for _ in range(NEWTON):
        a, da = point_and_way(one.curves[segment], s)
        b, db = point_and_way(other.curves[their_segment], t)
        determinant = -da[0] * db[1] + da[1] * db[0]
        if abs(determinant) < 1e-12 * float(np.hypot(*da) * np.hypot(*db)):
            return None
        off = b - a
        s += float((-off[0] * db[1] + off[1] * db[0]) / determinant)
        t += float((da[0] * off[1] - da[1] * off[0]) / determinant)
    room = 0.02 + float(span[1] - span[0])
    if not (-SAME <= s <= 1 + SAME and span[0] - room <= s <= span[1] + room):
        return None
    return segment + float(np.clip(s, 0.0, 1.0))


def split(contours: Sequence[Contour], number: int) -> list[Contour]:
    """One contour as open stretches from crossing to crossing; itself when it crosses nothing."""
    contour, places = contours[number], crossings(contours, number)
    return _pieces(contour, places)


def trimmed(contours: Sequence[Contour], number: int, at: tuple[float, float]) -> list[Contour]:
    """One contour without the stretch between crossings that lies nearest to a point; nothing when it crosses none."""
    contour, places = contours[number], crossings(contours, number)
    ends = [p for p in places if contour.closed or SAME < p < len(contour) - SAME]
    if not ends:
        return []
    place = float(nearest(contour, np.array([at]))[0][0])
    after = next((p for p in ends if p > place), None)
    before = next((p for p in reversed(ends) if p <= place), None)
    if contour.closed:
        after = ends[0] if after is None else after
        before = ends[-1] if before is None else before
        if abs(after - before) < SAME:
            return []
        return [stretch(contour, after, before)]
    rest = []
    if before is not None:
        rest.append(stretch(contour, 0.0, before))
    if after is not None:
        rest.append(stretch(contour, after, float(len(contour))))
    return rest


def _pieces(contour: Contour, places: list[float]) -> list[Contour]:
    if contour.closed:
        if not places:
            return [contour]
        if len(places) == 1:
            return [_opened_at(contour, places[0])]
        ends = [*places[1:], places[0]]
        return [stretch(contour, a, b) for a, b in zip(places, ends, strict=True)]
    marks = [0.0, *(p for p in places if SAME < p < len(contour) - SAME), float(len(contour))]
    return [stretch(contour, a, b) for a, b in itertools.pairwise(marks)]


def _opened_at(contour: Contour, place: float) -> Contour:
    whole = stretch(contour, place, place + len(contour) - 1e-12)
    curves = whole.curves.copy()
    curves[-1, 3] = point_at(contour, place)
    return Contour(curves, whole.straight, False)
