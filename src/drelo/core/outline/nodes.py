"""What a hand does to nodes. Node i is where segment i begins; an open contour has one more, its end."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.outline.combine import part_of
from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.cubics import fit

# Ends nearer to each other than this share of the contour's extent become one node when they are joined.
TOUCHING = 1e-6
ROUNDS = 12


def node_count(contour: Contour) -> int:
    return len(contour) if contour.closed else len(contour) + 1


def check(contour: Contour, nodes: Sequence[int]) -> None:
    """Raises Refusal when a node is not there."""
    if any(not 0 <= n < node_count(contour) for n in nodes):
        raise Refusal("node.gone", "nodes")


def moved(contour: Contour, nodes: Sequence[int], dx: float, dy: float) -> Contour:
    """Nodes moved, each with its two handles; lines between stay lines."""
    check(contour, nodes)
    curves = contour.curves.copy()
    shift = np.array([dx, dy])
    for node in set(nodes):
        if node < len(contour):
            curves[node, 0] += shift
            curves[node, 1] += shift
        before = node - 1 if node else (len(contour) - 1 if contour.closed else -1)
        if before >= 0:
            curves[before, 2] += shift
            curves[before, 3] += shift
    return _with(contour, curves)


def handle_moved(contour: Contour, segment: int, handle: int, to: tuple[float, float], linked: bool) -> Contour:
    """One handle (1 leaves the segment's start, 2 arrives at its end) moved; the linked one across the node follows."""
    if not 0 <= segment < len(contour) or handle not in (1, 2):
        raise Refusal("handle.gone", "handle")
    curves, straight = contour.curves.copy(), contour.straight.copy()
    curves[segment, handle] = to
    straight[segment] = False
    other = segment + (-1 if handle == 1 else 1)
    if contour.closed:
        other %= len(contour)
    if linked and 0 <= other < len(contour) and not straight[other]:
        node = curves[segment, 0] if handle == 1 else curves[segment, 3]
        across = 2 if handle == 1 else 1
        way = node - curves[segment, handle]
        size = float(np.hypot(*way))
        if size > 0:
            reach = float(np.hypot(*(curves[other, across] - node)))
            curves[other, across] = node + way / size * reach
    return Contour(curves, straight, contour.closed)


def inserted(contour: Contour, segment: int, t: float) -> Contour:
    """One node more, on the curve."""
    if not 0 <= segment < len(contour) or not 0 < t < 1:
        raise Refusal("outline.no-such-place", "segment")
    one, two = part_of(contour.curves[segment], 0.0, t), part_of(contour.curves[segment], t, 1.0)
    curves = np.concatenate([contour.curves[:segment], [one, two], contour.curves[segment + 1 :]])
    straight = np.insert(contour.straight, segment, contour.straight[segment])
    return _with(Contour(curves, straight, contour.closed), curves)


def deleted(contour: Contour, nodes: Sequence[int]) -> Contour | None:
    """Without nodes; each gap is closed by the curve nearest to what was there. None when too little is left."""
    check(contour, nodes)
    gone = set(nodes)
    count = node_count(contour)
    kept = [n for n in range(count) if n not in gone]
    if len(kept) < 2:
        return None
    pairs = list(zip(kept, [*kept[1:], kept[0]] if contour.closed else kept[1:], strict=False))
    curves, straight = [], []
    for start, end in pairs:
        span = [(start + k) % len(contour) for k in range((end - start) % len(contour) or len(contour))]
        if len(span) == 1:
            curves.append(contour.curves[span[0]])
            straight.append(bool(contour.straight[span[0]]))
        else:
            curve, line = refitted(contour.curves[span], contour.straight[span])
            curves.append(curve)
            straight.append(line)
    result = Contour(np.array(curves), np.array(straight, bool), contour.closed)
    if contour.closed and (len(result) < 2 or abs(result.area) == 0):
        return None
    return _with(result, result.curves)


def refitted(curves: NDArray[np.float64], straight: NDArray[np.bool_]) -> tuple[Points, bool]:
    """One segment in the place of several: it leaves and arrives in their directions."""
    start, end = curves[0, 0], curves[-1, 3]
    if straight.all():
        third = (end - start) / 3
        return np.array([start, start + third, end - third, end]), True
    dense = Contour(curves, straight, False)
    box = dense.bounds
    points = dense.flattened(max(box[2] - box[0], box[3] - box[1], 1e-9) / 3000)
    size = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    leaving, arriving = direction(curves[0], 0), direction(curves[-1], 1)
    u = np.ascontiguousarray(size / max(size[-1], 1e-300))
    one, two, _, _ = fit(start, leaving, end, arriving, points, u, ROUNDS).tolist()
    return np.array([start, start + one * leaving, end - two * arriving, end]), False


def direction(curve: NDArray[np.float64], end: int) -> Points:
    """Unit direction of travel at the start (0) or the end (1) of a cubic, shape (2,)."""
    order = (1, 2, 3) if end == 0 else (2, 1, 0)
    at = curve[0] if end == 0 else curve[3]
    for k in order:
        way = curve[k] - at if end == 0 else at - curve[k]
        size = float(np.hypot(*way))
        if size > 1e-12:
            return np.asarray(way / size)
    return np.array([1.0, 0.0])


def smooth(contour: Contour, nodes: Sequence[int]) -> Contour:
    """Nodes whose two handles lie in one line; lines beside them become curves."""
    check(contour, nodes)
    curves, straight = contour.curves.copy(), contour.straight.copy()
    for node in nodes:
        before = (node - 1) % len(contour) if contour.closed else node - 1
        if before < 0 or node >= len(contour):
            continue
        at = curves[node, 0]
        into, out = curves[before, 3] - curves[before, 0], curves[node, 3] - curves[node, 0]
        way = direction(curves[before], 1) + direction(curves[node], 0)
        if np.hypot(*way) < 1e-6:
            way = into + out
        way = way / max(float(np.hypot(*way)), 1e-300)
        reach = [float(np.hypot(*(curves[before, 2] - at))), float(np.hypot(*(curves[node, 1] - at)))]
        chords = [float(np.hypot(*into)), float(np.hypot(*out))]
        back, forth = (max(r, c / 6) for r, c in zip(reach, chords, strict=True))
        curves[before, 2], curves[node, 1] = at - back * way, at + forth * way
        straight[[before, node]] = False
    return Contour(curves, straight, contour.closed)


def corner(contour: Contour, nodes: Sequence[int]) -> Contour:
    """Nodes whose handles no longer lie in one line: each points along its own side."""
    check(contour, nodes)
    curves = contour.curves.copy()
    for node in nodes:
        before = (node - 1) % len(contour) if contour.closed else node - 1
        if node < len(contour):
            curves[node, 1] = curves[node, 0] + (curves[node, 3] - curves[node, 0]) / 3
        if before >= 0:
            curves[before, 2] = curves[before, 3] - (curves[before, 3] - curves[before, 0]) / 3
    return Contour(curves, contour.straight, contour.closed)


def lines(contour: Contour, segments: Sequence[int]) -> Contour:
    """Segments made straight."""
    straight = contour.straight.copy()
    straight[[s for s in segments if 0 <= s < len(contour)]] = True
    return _with(Contour(contour.curves, straight, contour.closed), contour.curves)


def curved(contour: Contour, segments: Sequence[int]) -> Contour:
    """Straight segments made curves that may be bent."""
    straight = contour.straight.copy()
    straight[[s for s in segments if 0 <= s < len(contour)]] = False
    return Contour(contour.curves, straight, contour.closed)


def opened(contour: Contour, node: int) -> Contour:
    """A closed contour cut open at a node."""
    check(contour, [node])
    if not contour.closed:
        raise Refusal("outline.open-already", "nodes")
    return Contour(np.roll(contour.curves, -node, axis=0), np.roll(contour.straight, -node), False)


def closed(contour: Contour) -> Contour:
    """An open contour closed: ends that touch become one node, others are joined by a line."""
    if contour.closed:
        return contour
    curves, straight = contour.curves.copy(), contour.straight.copy()
    start, end = curves[0, 0], curves[-1, 3]
    box = contour.bounds
    if np.hypot(*(end - start)) <= TOUCHING * max(box[2] - box[0], box[3] - box[1]):
        curves[-1, 3] = start
    else:
        third = (start - end) / 3
        curves = np.concatenate([curves, [[end, end + third, start - third, start]]])
        straight = np.append(straight, True)
    return _with(Contour(curves, straight, True), curves)


def joined(one: Contour, other: Contour) -> Contour:
    """Two open contours made one across their nearest ends."""
    if one.closed or other.closed:
        raise Refusal("outline.joined-only-open", "outlines")
    ends = {(a, b): float(np.hypot(*(_end(one, a) - _end(other, b)))) for a in (False, True) for b in (False, True)}
    a, b = min(ends, key=lambda k: ends[k])
    first = one if a else one.reversed()
    second = other.reversed() if b else other
    curves, straight = [first.curves], [first.straight]
    start, end = first.curves[-1, 3], second.curves[0, 0]
    tail = second.curves.copy()
    box = np.array([one.bounds, other.bounds])
    if np.hypot(*(end - start)) <= TOUCHING * float(np.ptp(box)):
        tail[0, 1] += start - tail[0, 0]
        tail[0, 0] = start
    else:
        third = (end - start) / 3
        curves.append(np.array([[start, start + third, end - third, end]]))
        straight.append(np.ones(1, bool))
    return Contour(np.concatenate([*curves, tail]), np.concatenate([*straight, second.straight]), False)


def _end(contour: Contour, last: bool) -> Points:
    return np.asarray(contour.curves[-1, 3] if last else contour.curves[0, 0])


def _with(contour: Contour, curves: NDArray[np.float64]) -> Contour:
    """With the handles of lines at the thirds again, and ends exactly together."""
    result = curves.copy()
    result[1:, 0] = result[:-1, 3]
    if contour.closed:
        result[0, 0] = result[-1, 3]
    third = (result[:, 3] - result[:, 0]) / 3
    result[contour.straight, 1] = (result[:, 0] + third)[contour.straight]
    result[contour.straight, 2] = (result[:, 3] - third)[contour.straight]
    return Contour(result, contour.straight, contour.closed)
