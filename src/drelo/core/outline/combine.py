"""Unite, carve, overlap, divide: areas are combined and curves stay curves.

The areas are combined as fine polygons; every edge of the result is then traced back to the curve that it is from.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.contour import Contour, Points, flattened
from drelo.core.outline.drawn import non_zero
from drelo.core.outline.fineness import EXACT_SHARE
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.outline import Outline, even_odd, only_areas

Operation = Literal["unite", "carve", "overlap", "silhouette"]
# What is thinner than so many chord tolerances is a rounding of the polygons and no part of the drawing.
CRUMB = 3.0
NEWTON = 8
# The grid that leaves no slits, against the chord tolerance.
SNAP = 1 / 50


@dataclass(frozen=True, eq=False)
class _Chords:
    """Chords of flattened contours.

    ends: shape (n, 2, 2). contour, segment: shape (n,), of which. span: shape (n, 2), parameters on the segment.
    """

    ends: NDArray[np.float64]
    contour: NDArray[np.int64]
    segment: NDArray[np.int64]
    span: NDArray[np.float64]


def combined(
    operation: Operation, first: Sequence[Outline], others: Sequence[Outline] = (), snapped: bool = False
) -> list[Outline]:
    """Outlines of the combined areas; stretches that nothing touched keep their nodes.

    unite: all as one. carve: the first less the others. overlap: what first and others share.
    silhouette: the outer silhouette of all, holes filled.
    snapped: edges that lie on each other but for rounding leave no slit.
    """
    everything = [*first, *others]
    contours = [c for o in everything for c in o.contours if len(c)]
    if not contours:
        return []
    tolerance = extent_of(contours) * EXACT_SHARE
    grid = tolerance * SNAP if snapped else None
    one, two = (shapely.union_all([o.flattened(tolerance) for o in g], grid_size=grid) for g in (first, others))
    if operation == "carve":
        area = shapely.difference(one, two)
    elif operation == "overlap":
        area = shapely.intersection(one, two)
    else:
        area = shapely.union(one, two)
    if operation == "silhouette":
        area = shapely.union_all([shapely.Polygon(p.exterior) for p in shapely.get_parts(only_areas(area))])
    return recovered(only_areas(area), contours, tolerance)


def united_rings(contours: Sequence[Contour], rule: Literal["nonzero", "evenodd"] = "nonzero") -> list[Outline]:
    """Outlines of what contours enclose by a fill rule, overlaps made one."""
    usable = [c for c in contours if len(c)]
    if not usable:
        return []
    tolerance = extent_of(usable) * EXACT_SHARE
    rings = [c.flattened(tolerance) for c in usable]
    area = non_zero(rings) if rule == "nonzero" else even_odd(rings)
    return recovered(area, usable, tolerance)


def divided(outlines: Sequence[Outline]) -> list[Outline]:
    """Every face that the outlines' borders cut each other into, where any of them covers."""
    contours = [c for o in outlines for c in o.contours if len(c)]
    if not contours:
        return []
    tolerance = extent_of(contours) * EXACT_SHARE
    areas = [o.flattened(tolerance) for o in outlines]
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all([shapely.boundary(a) for a in areas])]))
    whole = shapely.union_all(areas)
    shapely.prepare(whole)
    inside = faces[shapely.intersects(whole, shapely.point_on_surface(faces))]
    return [o for face in inside for o in recovered(face, contours, tolerance)]


def extent_of(contours: Sequence[Contour]) -> float:
    """The longer side of the box round contours, never 0."""
    boxes = np.array([c.bounds for c in contours])
    sides = boxes[:, 2:].max(axis=0) - boxes[:, :2].min(axis=0)
    return max(float(sides.max()), 1e-9)


def recovered(area: BaseGeometry, contours: Sequence[Contour], tolerance: float) -> list[Outline]:
    """Outlines of an area whose borders run along contours that were flattened with `tolerance`."""
    closed = [c for c in contours if c.closed and len(c)]
    whole = {_same(points): (c, points) for c, points in zip(closed, flattened(closed, tolerance), strict=True)}
    sources: tuple[_Chords, shapely.STRtree] | None = None
    rings = []
    for part in shapely.get_parts(area):
        for ring in (part.exterior, *part.interiors):
            if shapely.Polygon(ring).area <= CRUMB * tolerance * ring.length / 2:
                continue
            points = shapely.get_coordinates(ring)
            untouched = whole.get(_same(points[:-1]))
            if untouched is not None:
                rings.append(_from_start(*untouched, points, tolerance))
                continue
            if sources is None:
                chords = _chords(contours, tolerance)
                sources = chords, shapely.STRtree(np.array(shapely.linestrings(chords.ends)))
            rings.append(_recovered(points, *sources, contours))
    return outlines_of(rings)


def _same(ring: Points) -> bytes:
    """The same for a ring (shape (n, 2)) wherever it begins and whichever way it runs; no other ring has it."""
    first = np.lexsort(ring.T)[0]
    ring = np.roll(ring, -first, axis=0)
    back = np.roll(ring[::-1], 1, axis=0)
    return min((ring + 0.0).tobytes(), (back + 0.0).tobytes())


def _from_start(contour: Contour, points: Points, ring: Points, tolerance: float) -> Contour:
    """A contour (flattened to `points`) begun with the segment that its ring begins in, and run the ring's way."""
    segment = steps_of(contour, tolerance)[0]
    at = int(np.flatnonzero((points == ring[0]).all(axis=1))[0])
    if (points[(at + 1) % len(points)] == ring[1]).all():
        first = int(segment[at])
        return Contour(np.roll(contour.curves, -first, axis=0), np.roll(contour.straight, -first))
    back = contour.reversed()
    first = len(contour) - 1 - int(segment[at - 1])
    return Contour(np.roll(back.curves, -first, axis=0), np.roll(back.straight, -first))


def _chords(contours: Sequence[Contour], tolerance: float) -> _Chords:
    ends, owner, segments, spans = [], [], [], []
    for i, contour in enumerate(contours):
        points = contour.flattened(tolerance)
        points = np.concatenate([points, points[:1]]) if contour.closed else points
        segment, start, end = steps_of(contour, tolerance)
        # A contour that is open counts as closed by a line.
        if not contour.closed and (points[0] != points[-1]).any():
            points = np.concatenate([points, points[:1]])
            segment, start, end = np.append(segment, -1), np.append(start, 0.0), np.append(end, 1.0)
        ends.append(np.stack([points[:-1], points[1:]], axis=1))
        owner.append(np.full(len(segment), i))
        segments.append(segment)
        spans.append(np.stack([start, end], axis=1))
    return _Chords(np.concatenate(ends), np.concatenate(owner), np.concatenate(segments), np.concatenate(spans))


def steps_of(contour: Contour, tolerance: float) -> tuple[NDArray[np.int64], Points, Points]:
    """Segment, and parameters at start and end, of every chord that `Contour.flattened` gives."""
    p = contour.curves
    second = np.maximum(
        np.linalg.norm(p[:, 0] - 2 * p[:, 1] + p[:, 2], axis=1), np.linalg.norm(p[:, 1] - 2 * p[:, 2] + p[:, 3], axis=1)
    )
    steps = np.ceil(np.sqrt(0.75 * second / tolerance)).astype(np.int64).clip(1)
    steps[contour.straight] = 1
    segment = np.repeat(np.arange(len(p)), steps)
    index = np.arange(len(segment)) - (np.cumsum(steps) - steps)[segment]
    return segment, index / steps[segment], (index + 1) / steps[segment]


@dataclass
class _Run:
    """A stretch along one contour, from (segment, parameter) to (segment, parameter), the whole counted in order."""

    contour: int
    forward: bool
    spans: list[tuple[int, float, float]]


def _recovered(ring: Points, chords: _Chords, tree: shapely.STRtree, contours: Sequence[Contour]) -> Contour:
    middles = (ring[:-1] + ring[1:]) / 2
    which = _sources(ring, middles, chords, tree)
    begin, step = chords.ends[which, 0], chords.ends[which, 1] - chords.ends[which, 0]
    square = np.maximum((step**2).sum(axis=1), 1e-300)
    low, width = chords.span[which, 0], np.diff(chords.span[which], axis=1)[:, 0]
    t0, t1 = (low + width * np.clip(((p - begin) * step).sum(axis=1) / square, 0, 1) for p in (ring[:-1], ring[1:]))
    ahead = (np.diff(ring, axis=0) * step).sum(axis=1) > 0
    edges = (chords.contour[which], chords.segment[which], t0, t1, ahead)
    runs: list[_Run] = []
    for contour, segment, start, end, forward in zip(*(e.tolist() for e in edges), strict=True):
        last = runs[-1] if runs else None
        if (
            last
            and last.contour == contour
            and last.forward == forward
            and _follows(last, segment, start, contours[contour])
        ):
            if last.spans[-1][0] == segment:
                last.spans[-1] = (segment, last.spans[-1][1], end)
            else:
                last.spans.append((segment, start, end))
        else:
            runs.append(_Run(contour, forward, [(segment, start, end)]))
    if len(runs) > 1 and _joins(runs[-1], runs[0], contours):
        tail = runs.pop()
        head = runs[0]
        if tail.spans[-1][0] == head.spans[0][0] and abs(tail.spans[-1][2] - head.spans[0][1]) < 1e-6:
            joined = (head.spans[0][0], tail.spans[-1][1], head.spans[0][2])
            head.spans = [*tail.spans[:-1], joined, *head.spans[1:]]
        else:
            head.spans = [*tail.spans, *head.spans]
    if len(runs) == 1:
        # All of one contour: rotate so that no segment is cut at the ring's seam.
        runs[0].spans = _unseamed(runs[0].spans)
    parts = [_curves(run, contours[run.contour]) for run in runs]
    return _joined(parts)


def _sources(ring: Points, middles: Points, chords: _Chords, tree: shapely.STRtree) -> NDArray[np.int64]:
    """For every edge the chord that it lies on; of several the one that goes on from the edge before."""
    edge, found = tree.query_nearest(shapely.points(middles), all_matches=True)
    way = np.diff(ring, axis=0)
    size = np.hypot(way[:, 0], way[:, 1])
    along = chords.ends[:, 1] - chords.ends[:, 0]
    lengths = np.hypot(along[:, 0], along[:, 1])
    across = np.abs(way[edge, 0] * along[found, 1] - way[edge, 1] * along[found, 0])
    # An edge or a chord without length lies along any other.
    cross = across / np.maximum(size[edge] * lengths[found], 1e-300)
    begin = np.searchsorted(edge, np.arange(len(middles) + 1))
    result = np.empty(len(middles), np.int64)
    before = -1
    for i in range(len(middles)):
        options = found[begin[i] : begin[i + 1]]
        slant = cross[begin[i] : begin[i + 1]]
        good = options[slant <= slant.min() + 1e-6]
        same = good[chords.contour[good] == before] if before >= 0 else good
        result[i] = same[0] if len(same) else good[0]
        before = int(chords.contour[result[i]])
    return result


def _follows(run: _Run, segment: int, t: float, contour: Contour) -> bool:
    last, _, end = run.spans[-1]
    if last == segment:
        return abs(end - t) < 1e-6
    if segment < 0 or last < 0:
        return False
    step = 1 if run.forward else -1
    there, here = (1.0, 0.0) if run.forward else (0.0, 1.0)
    return (last + step) % len(contour) == segment and abs(end - there) < 1e-6 and abs(t - here) < 1e-6


def _joins(tail: _Run, head: _Run, contours: Sequence[Contour]) -> bool:
    segment, start, _ = head.spans[0]
    return (
        tail.contour == head.contour
        and tail.forward == head.forward
        and _follows(tail, segment, start, contours[head.contour])
    )


def _unseamed(spans: list[tuple[int, float, float]]) -> list[tuple[int, float, float]]:
    first, last = spans[0], spans[-1]
    if len(spans) > 1 and first[0] == last[0] and abs(last[2] - first[1]) < 1e-6:
        return [(first[0], last[1], first[2]), *spans[1:-1]]
    return spans


def _curves(run: _Run, contour: Contour) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    pieces, straight = [], []
    for segment, t0, t1 in run.spans:
        if abs(t1 - t0) < 1e-9:
            continue
        if segment < 0:
            a, b = contour.curves[-1, 3], contour.curves[0, 0]
            curve, line = np.array([a, a + (b - a) / 3, b - (b - a) / 3, b]), True
        else:
            curve, line = contour.curves[segment], bool(contour.straight[segment])
        pieces.append(part_of(curve, t0, t1))
        straight.append(line)
    return np.array(pieces).reshape(-1, 4, 2), np.array(straight, bool)


def part_of(curve: NDArray[np.float64], t0: float, t1: float) -> NDArray[np.float64]:
    """The stretch of a cubic (shape (4, 2)) between two parameters, by blossoming; t1 < t0 runs it backwards."""
    if (t0, t1) == (0.0, 1.0):
        return curve
    if (t0, t1) == (1.0, 0.0):
        return curve[::-1]

    def blossom(a: float, b: float, c: float) -> NDArray[np.float64]:
        p = curve
        for t in (a, b, c):
            p = p[:-1] * (1 - t) + p[1:] * t
        return np.asarray(p[0])

    return np.array([blossom(t0, t0, t0), blossom(t0, t0, t1), blossom(t0, t1, t1), blossom(t1, t1, t1)])


def _joined(parts: list[tuple[NDArray[np.float64], NDArray[np.bool_]]]) -> Contour:
    """One closed contour; where two stretches cross, both end in their exact crossing."""
    parts = [p for p in parts if len(p[0])]
    curves = [p[0].copy() for p in parts]
    for i in range(len(curves)):
        one, other = curves[i - 1], curves[i]
        if (one[-1, 3] == other[0, 0]).all():
            continue
        s, t = crossing(one[-1], other[0])
        one[-1], other[0] = part_of(one[-1], 0.0, s), part_of(other[0], t, 1.0)
        meeting = (one[-1, 3] + other[0, 0]) / 2
        for curve, at, near in ((one, (-1, 3), (-1, 2)), (other, (0, 0), (0, 1))):
            curve[near] += meeting - curve[at]
            curve[at] = meeting
    return Contour(np.concatenate(curves), np.concatenate([p[1] for p in parts]), True)


def crossing(one: NDArray[np.float64], other: NDArray[np.float64]) -> tuple[float, float]:
    """Parameters at which the end of one cubic crosses the start of another, by Newton's steps; 1 and 0 if it fails."""
    s, t = 1.0, 0.0
    for _ in range(NEWTON):
        a, da = point_and_way(one, s)
        b, db = point_and_way(other, t)
        determinant = float(-da[0] * db[1] + da[1] * db[0])
        # Of a curve that is a point, or stands still where it ends, too.
        if abs(determinant) <= 1e-9 * float(np.hypot(*da) * np.hypot(*db)):
            return 1.0, 0.0
        off = b - a
        s += float(-off[0] * db[1] + off[1] * db[0]) / determinant
        t += float(da[0] * off[1] - da[1] * off[0]) / determinant
        if abs(s - 1) > 0.2 or abs(t) > 0.2:
            return 1.0, 0.0
    return s, t


def point_and_way(p: NDArray[np.float64], t: float) -> tuple[Points, Points]:
    """A point of a cubic, shape (4, 2), and its derivative there."""
    v = 1 - t
    at = v**3 * p[0] + 3 * v * v * t * p[1] + 3 * v * t * t * p[2] + t**3 * p[3]
    along = 3 * (v * v * (p[1] - p[0]) + 2 * v * t * (p[2] - p[1]) + t * t * (p[3] - p[2]))
    return at, along
