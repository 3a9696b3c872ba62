"""Stretches rubbed calm, made straight or round, and whole outlines with fewer nodes."""

from __future__ import annotations

import itertools

import numpy as np
import shapely

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.fineness import EASED_CORNER
from drelo.core.outline.fitting import fitted
from drelo.core.outline.nodes import direction
from drelo.core.outline.place import line, nearest, point_at, spliced, stretch

# A line so many times as long as the tolerance stays a line.
LONG = 20.0
# Points that a rubbed stretch is worked out on.
POINTS = 400
# A spike's foot is at most so many times as wide as the tolerance.
SPIKE = 12.0
# Its tip turns by more than this, radians.
SHARP = np.radians(55)
# What moves by less than this share of the tolerance has not moved.
UNSEEN = 0.1
# Radians that one cubic of an arc spans at most.
QUARTER = np.pi / 2


def simplified(contour: Contour, tolerance: float) -> Contour:
    """The fewest nodes that stay within `tolerance` of the contour; corners stay."""
    if not len(contour):
        return contour
    runs = _between_corners(contour, LONG * tolerance)
    if runs is None:
        points = _dense(contour.flattened(tolerance / 12), True, tolerance)
        return _fewer(contour, fitted(points, tolerance * 0.85, True, np.pi))
    parts = []
    for run in runs:
        new = fitted(_dense(run.flattened(tolerance / 12), False, tolerance), tolerance * 0.85, False, np.pi)
        parts.append(new if 0 < len(new) < len(run) else run)
    return Contour(
        np.concatenate([p.curves for p in parts]), np.concatenate([p.straight for p in parts]), contour.closed
    )


def _fewer(before: Contour, after: Contour) -> Contour:
    return after if 0 < len(after) < len(before) else before


def _dense(points: Points, closed: bool, tolerance: float) -> Points:
    """With more points on long edges, so that a curve cannot bulge between them unseen."""
    ring = np.concatenate([points, points[:1]]) if closed else points
    if len(ring) < 2:
        return points
    even = shapely.get_coordinates(shapely.segmentize(shapely.LineString(ring), 4 * tolerance))
    return np.asarray(even[:-1] if closed else even)


def _between_corners(contour: Contour, line_from: float = np.inf) -> list[Contour] | None:
    """Runs from corner to corner, lines longer than `line_from` by themselves; None for a smooth closed contour."""
    count = len(contour)
    chord = contour.curves[:, 3] - contour.curves[:, 0]
    long = contour.straight & (np.hypot(chord[:, 0], chord[:, 1]) > line_from)
    beside = long | (np.roll(long, 1) if contour.closed else np.append(False, long[:-1]))
    corners = [i for i in range(count) if beside[i] or is_corner(contour, i)]
    if contour.closed:
        if not corners:
            return None
        ends = [*corners[1:], corners[0] + count]
        return [_run(contour, a, b) for a, b in zip(corners, ends, strict=True)]
    marks = sorted({0, *corners, count})
    return [_run(contour, a, b) for a, b in itertools.pairwise(marks)]


def _run(contour: Contour, begin: int, end: int) -> Contour:
    index = np.arange(begin, end) % len(contour)
    return Contour(contour.curves[index], contour.straight[index], False)


def is_corner(contour: Contour, node: int, turn: float = EASED_CORNER) -> bool:
    """Whether the contour turns by more than so much at a node, radians."""
    if not contour.closed and node in (0, len(contour)):
        return False
    into, out = direction(contour.curves[node - 1], 1), direction(contour.curves[node % len(contour)], 0)
    return bool(abs(np.arctan2(into[0] * out[1] - into[1] * out[0], into @ out)) > turn)


def eased(contour: Contour, rubbed: Points, radius: float, tolerance: float) -> Contour | None:
    """Rubbed along a line of points, the stretch within `radius` of it calms down and loses nodes.

    It stays within `tolerance` of what it was, and holds corners. None when nothing lies under the brush.
    """
    path = shapely.LineString(rubbed) if len(rubbed) > 1 else shapely.Point(rubbed[0])
    span = _under(contour, path, radius)
    if span is None:
        return None
    start, end = span
    whole = contour.closed and end - start >= len(contour) - 1e-6
    part = contour if whole else stretch(contour, start, end)
    if whole:
        return _calmed(part, tolerance)
    return spliced(
        contour, start % len(contour), end if not contour.closed else end % len(contour), _calmed(part, tolerance)
    )


def same(before: Contour, after: Contour, tolerance: float) -> bool:
    """Whether easing has changed nothing that can be seen: as many nodes, and everything where it was."""
    if len(after) < len(before):
        return False
    was, now = (shapely.LineString(c.flattened(tolerance / 20)) for c in (before, after))
    return bool(shapely.hausdorff_distance(was, now) < UNSEEN * tolerance)


def _under(contour: Contour, path: shapely.Geometry, radius: float) -> tuple[float, float] | None:
    """The longest stretch under a brush, as places; its end may pass the contour's start."""
    count = len(contour)
    many = max(24 * count, 200)
    places = np.arange(many) * count / many if contour.closed else np.linspace(0, count, many)
    points = np.array([point_at(contour, p) for p in places])
    under = shapely.distance(shapely.points(points), path) <= radius
    if not under.any():
        return None
    if under.all():
        return 0.0, float(count)
    if contour.closed:
        shift = int(np.argmin(under))
        under, order = np.roll(under, -shift), np.roll(np.arange(many), -shift)
    else:
        shift, order = 0, np.arange(many)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], under.astype(np.int8), [0]])))
    begins, ends = edges[::2], edges[1::2] - 1
    best = int(np.argmax(ends - begins))
    if ends[best] == begins[best]:
        return None
    start, end = float(places[order[begins[best]]]), float(places[order[ends[best]]])
    return start, end if end > start else end + count


def _calmed(part: Contour, tolerance: float) -> Contour:
    """Smoothed between corners as far as the tolerance lets it, then fitted with few nodes.

    A spike that lies within the tolerance goes first.
    """
    smoother = _without_spikes(part, tolerance)
    if smoother is not part:
        calm = _between_calmed(smoother, tolerance)
        was, now = (shapely.LineString(c.flattened(_fine(part))) for c in (part, calm))
        if shapely.hausdorff_distance(was, now) <= tolerance:
            return calm
    return _between_calmed(part, tolerance)


def _between_calmed(part: Contour, tolerance: float) -> Contour:
    runs = _between_corners(part)
    if runs is None:
        points = _smoothed(part.flattened(_fine(part)), tolerance / 2, True)
        return _fewer_or_same(part, fitted(points, tolerance / 2, True, np.pi))
    done = []
    for run in runs:
        points = _smoothed(run.flattened(_fine(run)), tolerance / 2, False)
        new = fitted(points, tolerance / 2, False, np.pi)
        done.append(new if len(new) else run)
    return Contour(np.concatenate([p.curves for p in done]), np.concatenate([p.straight for p in done]), part.closed)


def _without_spikes(part: Contour, tolerance: float) -> Contour:
    """With a line in the place of each stretch over a corner, from node to node, that stays within `tolerance` of it.

    Such a line is no longer than a few tolerances: what is longer is a shape of its own.
    """
    count = len(part)
    for corner in range(1, count):
        if not is_corner(part, corner, SHARP):
            continue
        spans = [(a, b) for a in range(corner) for b in range(count, corner, -1) if b - a < count or not part.closed]
        for a, b in sorted(spans, key=lambda span: span[0] - span[1]):
            if not _spike(part, a, b, tolerance):
                continue
            bridge = line(part.curves[a, 0], part.curves[b - 1, 3])
            curves = np.concatenate([part.curves[:a], bridge.curves, part.curves[b:]])
            straight = np.concatenate([part.straight[:a], bridge.straight, part.straight[b:]])
            return _without_spikes(Contour(curves, straight, part.closed), tolerance)
    return part


def _spike(part: Contour, a: int, b: int, tolerance: float) -> bool:
    """Whether the segments from node a to node b keep near to the line between the two, which is short."""
    points = part.curves[a:b].reshape(-1, 2)
    foot = shapely.LineString(points[[0, -1]])
    if not 0 < foot.length <= SPIKE * tolerance:
        return False
    return bool(shapely.distance(shapely.points(points), foot).max() <= tolerance)


def _fewer_or_same(before: Contour, after: Contour) -> Contour:
    return after if len(after) else before


def _fine(part: Contour) -> float:
    box = part.bounds
    return max(box[2] - box[0], box[3] - box[1], 1e-9) / 4000


def _smoothed(points: Points, most: float, closed: bool) -> Points:
    """Points evenly along the line, pulled calm as far as `most` lets each move; the ends stay."""
    from scipy.ndimage import gaussian_filter1d

    ring = np.concatenate([points, points[:1]]) if closed else points
    size = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(ring, axis=0).T))])
    if size[-1] <= 0:
        return points
    at = np.linspace(0, size[-1], POINTS, endpoint=not closed)
    even = np.column_stack([np.interp(at, size, ring[:, k]) for k in range(2)])
    best = even
    for sigma in (1.5, 3.0, 6.0, 12.0, 24.0):
        if closed:
            calm = gaussian_filter1d(even, sigma, axis=0, mode="wrap")
        else:
            # Mirrored through its ends, which therefore stay.
            odd = np.concatenate([2 * even[0] - even[:0:-1], even, 2 * even[-1] - even[-2::-1]])
            calm = gaussian_filter1d(odd, sigma, axis=0)[POINTS - 1 : 2 * POINTS - 1]
            calm[0], calm[-1] = even[0], even[-1]
        if np.hypot(*(calm - even).T).max() > most:
            break
        best = calm
    return best


def straightened(contour: Contour, first: tuple[float, float], last: tuple[float, float]) -> Contour:
    """The stretch between the places nearest to two points made one line; on a closed contour the shorter way."""
    start, end, a, b = _apart(contour, first, last)
    return spliced(contour, start, end, line(a, b))


def rounded(contour: Contour, first: tuple[float, float], last: tuple[float, float]) -> Contour:
    """The stretch between the places nearest to two points made an arc of the circle that fits it best."""
    start, end, a, b = _apart(contour, first, last)
    part = stretch(contour, start, end)
    return spliced(contour, start, end, arc_through(a, _bulge(part, a, b), b))


def _apart(
    contour: Contour, first: tuple[float, float], last: tuple[float, float]
) -> tuple[float, float, Points, Points]:
    """The places nearest to two points and where they are. Raises Refusal where they are one."""
    start, end = _between(contour, first, last)
    a, b = point_at(contour, start), point_at(contour, end)
    if np.hypot(*(b - a)) == 0:
        raise Refusal("stretch.same-place-pick", "stretch")
    return start, end, a, b


def _bulge(part: Contour, a: Points, b: Points) -> Points:
    """The middle of the arc from a to b nearest to a stretch: its height over the chord in the least squares."""
    points = part.flattened(_fine(part))
    chord = b - a
    size = float(np.hypot(*chord))
    along = chord / size
    normal = np.array([-along[1], along[0]])
    x, y = (points - (a + b) / 2) @ along, (points - (a + b) / 2) @ normal
    # On the arc of height h: x² + y² - half² = y (h - half² / h), so the fitted factor k gives h.
    half = size / 2
    weight = float((y * y).sum())
    k = float(((x * x + y * y - half * half) * y).sum()) / weight if weight > 0 else 0.0
    side = 1.0 if y.sum() >= 0 else -1.0
    height = (k + side * np.hypot(k, 2 * half)) / 2
    return np.asarray((a + b) / 2 + normal * height)


def arc_through(a: Points, middle: Points, b: Points) -> Contour:
    """The circular arc from a over a point to b; a line when the three lie in one."""
    ax, ay, bx, by, cx, cy = *a, *middle, *b
    d = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    size = float(np.hypot(*(b - a)))
    if abs(d) < 1e-9 * max(size, 1e-9) ** 2:
        return line(a, b)
    ux = ((ax**2 + ay**2) * (by - cy) + (bx**2 + by**2) * (cy - ay) + (cx**2 + cy**2) * (ay - by)) / d
    uy = ((ax**2 + ay**2) * (cx - bx) + (bx**2 + by**2) * (ax - cx) + (cx**2 + cy**2) * (bx - ax)) / d
    centre = np.array([ux, uy])
    radius = float(np.hypot(*(a - centre)))
    start, via, end = (float(np.arctan2(*(p - centre)[::-1])) for p in (a, middle, b))
    forward = (end - start) % (2 * np.pi)
    sweep = forward if (via - start) % (2 * np.pi) <= forward else forward - 2 * np.pi
    result = arc(centre, radius, start, sweep)
    curves = result.curves.copy()
    curves[0, 0], curves[-1, 3] = a, b
    return Contour(curves, result.straight, False)


def arc(centre: Points, radius: float, start: float, sweep: float) -> Contour:
    """Cubics along a circular arc; angles in radians."""
    count = max(1, int(np.ceil(abs(sweep) / QUARTER - 1e-9)))
    angle = start + sweep * np.arange(count + 1) / count
    points = centre + radius * np.column_stack([np.cos(angle), np.sin(angle)])
    reach = 4 / 3 * np.tan(sweep / count / 4) * radius
    way = np.column_stack([-np.sin(angle), np.cos(angle)]) * reach
    curves = np.stack([points[:-1], points[:-1] + way[:-1], points[1:] - way[1:], points[1:]], axis=1)
    return Contour(curves, np.zeros(count, bool), False)


def _between(contour: Contour, first: tuple[float, float], last: tuple[float, float]) -> tuple[float, float]:
    places, _ = nearest(contour, np.array([first, last]))
    start, end = float(places[0]), float(places[1])
    if not contour.closed:
        return min(start, end), max(start, end)
    if abs(start - end) < 1e-9:
        raise Refusal("stretch.same-place", "stretch")
    one, other = stretch(contour, start, end), stretch(contour, end, start)
    lengths = [float(np.hypot(*np.diff(s.flattened(_fine(contour)), axis=0).T).sum()) for s in (one, other)]
    return (start, end) if lengths[0] <= lengths[1] else (end, start)
