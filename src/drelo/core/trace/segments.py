"""The fewest lines and cubics that stay on sampled lines."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.trace import cubics
from drelo.core.trace.corners import Corners
from drelo.core.trace.cubics import Array, Ends
from drelo.core.trace.samples import SPACING, Samples

Indices = NDArray[np.int64]

# A node may stand wherever the line has turned by this much (radians) …
TURN_STEP = 0.3
# … or run on straight for this long (px), or for this share of the line's length.
LENGTH_STEP = 40.0
LENGTH_SHARE = 1 / 50
# A segment may reach over this many places, and turn by this much (radians) at most.
REACH = 16
MAX_TURN = 2.9
# The turn is judged over this many samples to either side, at scale 1.
NET = 6
# Between two corners there are at least so many places, where there is room (samples a place).
MIN_PLACES, ROOM = 4, 5
# Points of the line that a segment is measured against.
DATA = 14
# Pairs fitted in one go: their data stay in the processor's cache.
BATCH = 1500
# Cost of a segment; a line is easier to edit than a curve. Use of the whole tolerance costs as much again.
LINE_COST, CUBIC_COST, MISS_COST = 0.85, 1.0, 1.0
# A line goes on smoothly when it leaves within this angle (cosine).
STRAIGHT_ON = 0.985
# A join that cannot be fitted is still made, at this cost.
FORCED_COST = 4.0


@dataclass(frozen=True, eq=False)
class Segments:
    """Fitted segments of all lines, in order round each line.

    ends, handles: as in `cubics`; `straight` (n,) marks lines.
    line: shape (n,), which line each belongs to.
    corner: shape (n,), whether the node at the start is a corner.
    data: shape (n, DATA, 2), the points that each was fitted to, px.
    """

    ends: Ends
    handles: Array
    straight: NDArray[np.bool_]
    line: Indices
    corner: NDArray[np.bool_]
    data: Array


@dataclass(frozen=True, eq=False)
class _Places:
    """Where nodes may stand.

    place: positions on the unrolled lines, in samples; stretch: which stretch between corners each belongs to.
    """

    place: Array
    stretch: Indices
    point: Array
    arriving: Array
    leaving: Array
    corner: NDArray[np.bool_]
    line: Indices
    turned: Array


def segment(samples: Samples, corners: Corners, scale: float, tolerance: float) -> Segments:
    """Split every line at its corners and cover each stretch with the fewest segments within `tolerance` px.

    Dynamic programming over places chosen by turning, with every candidate segment fitted at once.
    """
    unrolled, firsts = _unroll(samples, corners)
    places = _places(samples, corners, unrolled, firsts, scale)
    start, end = _pairs(places)
    gap = round(1.0 * scale / SPACING)
    cost, handles, straight, data = _costs(samples, unrolled, places, start, end, gap, tolerance)
    chosen = _cheapest(len(places.place), start, end, cost)
    s, e = start[chosen], end[chosen]
    ends = Ends(places.point[s], places.leaving[s], places.point[e], places.arriving[e])
    return Segments(ends, handles[chosen], straight[chosen], places.line[s], places.corner[s], data[chosen])


def _unroll(samples: Samples, corners: Corners) -> tuple[Indices, Indices]:
    """Samples turned so that each line starts at a corner (else at its leftmost point), and each one's first."""
    lines = len(samples.starts) - 1
    first = np.empty(lines, np.int64)
    order = np.lexsort((samples.points[:, 0], samples.owner))
    first[:] = order[samples.starts[:-1]]
    owner = samples.owner[corners.at]
    # Written backwards, so that the first corner of each line stays.
    first[owner[::-1]] = corners.at[::-1]
    start = samples.starts[samples.owner]
    size = np.diff(samples.starts)[samples.owner]
    return start + (np.arange(len(samples.points)) + first[samples.owner] - 2 * start) % size, first


def _places(samples: Samples, corners: Corners, unrolled: Indices, firsts: Indices, scale: float) -> _Places:
    reach = max(2, round(2.2 * scale / SPACING))
    directions = samples.directions(reach)
    # The net turn over a stretch: jitter goes both ways and cancels.
    calm = samples.directions(reach + 1)
    net = round(NET * scale)
    ahead = calm[samples.shifted(net)]
    behind = calm[samples.shifted(-net)]
    turning = np.abs(
        np.arctan2(behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0], np.einsum("ni,ni->n", behind, ahead))
    ) / (2 * net)
    # The turn of a corner itself, smeared over the reach, gives no place for nodes beside it.
    for k in range(-reach - net, reach + net + 1):
        turning[samples.shifted(k)[corners.at]] = 0
    turn = turning[unrolled]
    size = np.diff(samples.starts)
    length = samples.step * size
    step = samples.step / np.maximum(LENGTH_STEP, LENGTH_SHARE * length)
    progress = np.concatenate([[0.0], np.cumsum(turn / TURN_STEP + step[samples.owner])])
    turned = np.concatenate([[0.0], np.cumsum(turn)])
    # Stretches begin at every corner, and at the first sample of a line without one.
    is_break = np.zeros(len(samples.points), bool)
    is_break[corners.at] = True
    is_break[firsts] = True
    begin = np.flatnonzero(is_break[unrolled])
    line = samples.owner[begin]
    end = np.append(begin[1:], len(unrolled))
    many = np.maximum(1, np.ceil(progress[end] - progress[begin]).astype(np.int64))
    many = np.maximum(many, np.minimum(MIN_PLACES, (end - begin) // ROOM))
    many = np.minimum(many, np.maximum(1, (end - begin) // 3))
    stretch = np.repeat(np.arange(len(begin)), many + 1)
    first = np.concatenate([[0], np.cumsum(many + 1)])[:-1]
    share = (np.arange(len(stretch)) - first[stretch]) / many[stretch]
    at_progress = progress[begin][stretch] + share * (progress[end] - progress[begin])[stretch]
    place = np.round(np.interp(at_progress, progress, np.arange(len(progress)))).astype(np.int64)
    last = first + many
    place[first], place[last] = begin, end
    # The end of a line's last stretch is the line's first sample.
    line_of = line[stretch]
    wrapped = np.where(place == samples.starts[line_of + 1], samples.starts[line_of], place)
    sample_at = unrolled[wrapped]
    smooth = samples.points * 17
    for k, weight in ((1, 12), (2, -3)):
        smooth = smooth + weight * (samples.points[samples.shifted(k)] + samples.points[samples.shifted(-k)])
    point = smooth[sample_at] / 35
    arriving, leaving = directions[sample_at], directions[sample_at]
    corner_of = np.full(len(samples.points), -1, np.int64)
    corner_of[corners.at] = np.arange(len(corners.at))
    which = corner_of[sample_at]
    corner = which >= 0
    point[corner] = corners.position[which[corner]]
    arriving, leaving = arriving.copy(), leaving.copy()
    arriving[corner], leaving[corner] = corners.before[which[corner]], corners.after[which[corner]]
    return _Places(place.astype(np.float64), stretch, point, arriving, leaving, corner, line_of, turned[place])


def _pairs(places: _Places) -> tuple[Indices, Indices]:
    """Every start and end that one segment may join, ordered by end."""
    count = len(places.place)
    index = np.arange(count)
    starts, ends = [], []
    for d in range(1, REACH + 1):
        a, b = index[: count - d], index[d:]
        near = places.stretch[a] == places.stretch[b]
        if d > 1:
            near &= places.turned[b] - places.turned[a] < MAX_TURN
        starts.append(a[near])
        ends.append(b[near])
    start, end = np.concatenate(starts), np.concatenate(ends)
    order = np.lexsort((start, end))
    return start[order], end[order]


def _costs(
    samples: Samples, unrolled: Indices, places: _Places, start: Indices, end: Indices, gap: int, tolerance: float
) -> tuple[Array, Array, NDArray[np.bool_], Array]:
    """Cost (infinite where it cannot be), handles, whether it is a line, and data of every candidate segment."""
    cost = np.empty(len(start))
    handles = np.zeros((len(start), 2))
    straight = np.empty(len(start), bool)
    data = np.empty((len(start), DATA, 2))
    for low in range(0, len(start), BATCH):
        part = slice(low, low + BATCH)
        a, b = start[part], end[part]
        data[part], u = _data(samples, unrolled, places, a, b, gap)
        ends = Ends(places.point[a], places.leaving[a], places.point[b], places.arriving[b])
        line = _line_costs(ends, data[part], places.corner[a], places.corner[b], tolerance)
        cost[part], straight[part] = line, True
        # Where a line does at less than any curve can cost, none is fitted.
        at = np.flatnonzero(line > CUBIC_COST)
        some = Ends(ends.start[at], ends.start_direction[at], ends.end[at], ends.end_direction[at])
        fitted = cubics.fit(some, data[part][at], u[at])
        curve = CUBIC_COST + MISS_COST * (2 * fitted.mean / tolerance) ** 2
        curve = np.where(fitted.worst <= tolerance, curve, np.inf)
        forced = np.where(b[at] == a[at] + 1, FORCED_COST + np.minimum(fitted.worst / tolerance, 50), np.inf)
        curve = np.minimum(curve, forced)
        handles[low + at] = fitted.handles
        straight[low + at] = line[at] <= curve
        cost[low + at] = np.minimum(line[at], curve)
    return cost, handles, straight, data


def _data(
    samples: Samples, unrolled: Indices, places: _Places, start: Indices, end: Indices, gap: int
) -> tuple[Array, Array]:
    """Points of the line that each segment is measured against, shape (n, DATA, 2), and their parameters."""
    a, b = places.place[start], places.place[end]
    long = np.maximum(b - a, 1)
    # Next to a corner the picture rounds the line off: it says nothing there.
    clear = np.minimum(gap, long / 4)
    low = a + np.where(places.corner[start], clear, 0)
    high = b - np.where(places.corner[end], clear, 0)
    share = (np.arange(DATA) + 0.5) / DATA
    at = low[:, None] + (high - low)[:, None] * share
    whole = at.astype(np.int64)
    part = at - whole
    line = places.line[start][:, None]
    finish, begin = samples.starts[line + 1], samples.starts[line]
    z = np.ascontiguousarray(samples.points).view(np.complex128)[:, 0]
    here = z[unrolled[np.where(whole >= finish, whole - finish + begin, whole)]]
    there = z[unrolled[np.where(whole + 1 >= finish, whole + 1 - finish + begin, whole + 1)]]
    data = here + (there - here) * part
    return data.view(np.float64).reshape(*data.shape, 2), (at - a[:, None]) / long[:, None]


def _line_costs(
    ends: Ends, data: Array, start_corner: NDArray[np.bool_], end_corner: NDArray[np.bool_], tolerance: float
) -> Array:
    """Costs of straight segments: of the lines through the data, not through the nodes, which are moved to them later."""
    z = np.ascontiguousarray(data).view(np.complex128)[..., 0]
    middle = z.mean(axis=1, keepdims=True)
    square = ((z - middle) ** 2).mean(axis=1)
    turn_back = np.exp(-0.5j * np.angle(square))
    aside = ((z - middle) * turn_back[:, None]).imag
    off_line, off_mean = np.abs(aside).max(axis=1), np.sqrt((aside**2).mean(axis=1))
    fits = off_line <= 0.75 * tolerance
    for node in (ends.start, ends.end):
        off_node = np.abs((((node[:, 0] + 1j * node[:, 1]) - middle[:, 0]) * turn_back).imag)
        fits &= off_node <= 1.5 * tolerance
    # A line must arrive in the direction in which a smooth outline goes on.
    chord = ends.end - ends.start
    length = np.maximum(np.linalg.norm(chord, axis=1), 1e-9)
    for direction, corner in ((ends.start_direction, start_corner), (ends.end_direction, end_corner)):
        fits &= corner | (np.einsum("ni,ni->n", direction, chord) > STRAIGHT_ON * length)
    return np.where(fits, LINE_COST + MISS_COST * (2 * off_mean / tolerance) ** 2, np.inf)


def _cheapest(count: int, start: Indices, end: Indices, cost: Array) -> Indices:
    """Pairs of the cheapest way through every stretch, in order."""
    usable = np.flatnonzero(np.isfinite(cost))
    best = [0.0] * count
    came = [-1] * count
    for at, (a, b, c) in zip(
        usable.tolist(),
        zip(start[usable].tolist(), end[usable].tolist(), cost[usable].tolist(), strict=True),
        strict=True,
    ):
        total = best[a] + c
        if came[b] < 0 or total < best[b]:
            best[b], came[b] = total, at
    starts = start.tolist()
    chosen: list[int] = []
    at = count - 1
    while at >= 0:
        if came[at] < 0:
            at -= 1
            continue
        chosen.append(came[at])
        at = starts[came[at]]
        # The start of a stretch has no way into it: the place before it ends the stretch before.
    chosen.reverse()
    return np.array(chosen, np.int64)
