"""The fewest lines and cubics that stay on sampled lines."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array, fit
from drelo.core.trace.corners.corners import Corners
from drelo.core.trace.fit.curves import Cloud, Curves, angles, place
from drelo.core.trace.seen.samples import SPACING, Samples

Indices = NDArray[np.int64]

# A node may stand wherever the line has turned by this much (radians) …
TURN_STEP = 0.18
# … or run on straight for this long (px), or for this share of the line's length.
LENGTH_STEP = 24.0
LENGTH_SHARE = 1 / 80
# A segment may reach over this many places, and turn by this much (radians) at most.
REACH = 28
MAX_TURN = 2.9
# The turn is judged over this many samples to either side, at scale 1.
NET = 6
# Between two corners there are at least so many places, where there is room (samples a place).
MIN_PLACES, ROOM = 4, 5
# Points of the line that a segment is measured against.
DATA = 14
# A segment that misses by more than this many tolerances is not tried longer.
HOPELESS = 3.0
# Cost of a segment; a line is easier to edit than a curve. Use of the whole tolerance costs as much again.
LINE_COST, CUBIC_COST, MISS_COST = 0.85, 1.0, 1.0
# Rounds in which a curve is fitted; more on large pictures.
ROUNDS, PATIENT_ROUNDS = 2, 4
# A line strays from its data by at most so many tolerances.
STRAY = 0.75
# A line that is not between two corners costs more when it is shorter than this, px.
SHORT_LINE, SHORT_COST = 16.0, 0.6
# A line goes on smoothly when it leaves within this angle (cosine).
STRAIGHT_ON = 0.985
# The direction of a smooth line is read over so many samples to either side, and over twice as many again so often, as
# long as the line keeps within this share of the tolerance of a parabola meanwhile.
STEADY_REACH, STEADY_DOUBLINGS, STEADY = 8, 7, 0.1
# A join that cannot be fitted is still made, at this cost.
FORCED_COST = 4.0


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


def segment(
    samples: Samples, corners: Corners, scale: float, tolerance: float, patient: bool = False
) -> tuple[Curves, Cloud, Indices]:
    """Split every line at its corners and cover each stretch with the fewest segments within `tolerance` px.

    patient: on large pictures, where curves are long, directions are read over longer pieces and curves fitted in more
    rounds. Also gives the points of the lines that each segment stands for, and the sample at which each begins.

    Dynamic programming over places chosen by turning, with every candidate segment fitted at once.
    """
    unrolled, firsts = _unroll(samples, corners)
    places = _places(samples, corners, unrolled, firsts, scale, tolerance if patient else None)
    gap = round(1.0 * scale / SPACING)
    s, e, handles, straight = _cheapest(
        samples.points,
        unrolled,
        samples.starts,
        places.place,
        places.stretch,
        places.point,
        places.arriving,
        places.leaving,
        places.corner,
        places.line,
        places.turned,
        gap,
        tolerance,
        PATIENT_ROUNDS if patient else ROUNDS,
    )
    curves = Curves(
        places.point[s],
        angles(places.leaving[s]),
        angles(places.arriving[e]),
        handles,
        straight,
        places.corner[s],
        places.line[s],
        np.zeros(len(s), bool),
    )
    data, u = _data(samples, unrolled, places, s, e, gap)
    segment_of = np.repeat(np.arange(len(curves)), DATA)
    found = place(curves, segment_of, u.ravel(), DATA * np.arange(len(curves)))
    return (
        curves,
        Cloud(found, data.reshape(-1, 2), np.ones(len(segment_of))),
        unrolled[places.place[s].astype(np.int64)],
    )


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


def _places(
    samples: Samples, corners: Corners, unrolled: Indices, firsts: Indices, scale: float, steady: float | None
) -> _Places:
    reach = max(2, round(2.2 * scale / SPACING))
    directions = samples.directions(reach)
    # The net turn over a stretch: jitter goes both ways and cancels.
    calm = samples.directions(reach + 1)
    net = round(NET * scale)
    turning = np.abs(samples.turning(calm, net, net)) / (2 * net)
    # The turn of a corner itself, smeared over the reach, gives no place for nodes beside it.
    turning[samples.around(corners.at, reach + net)] = 0
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
    point = samples.points[sample_at] * 17
    for k, weight in ((1, 12), (2, -3)):
        for by in (k, -k):
            point += weight * samples.points[samples.stepped(sample_at, by)]
    point /= 35
    corner_of = np.full(len(samples.points), -1, np.int64)
    corner_of[corners.at] = np.arange(len(corners.at))
    which = corner_of[sample_at]
    corner = which >= 0
    point[corner] = corners.position[which[corner]]
    arriving = directions[sample_at]
    if steady is not None:
        clear = np.minimum(
            np.where(corner[first[stretch]], place - place[first[stretch]], len(unrolled)),
            np.where(corner[last[stretch]], place[last[stretch]] - place, len(unrolled)),
        )
        arriving = _steady(samples.points, samples.starts, line_of, sample_at, clear, arriving, STEADY * steady)
    leaving = arriving.copy()
    arriving[corner], leaving[corner] = corners.before[which[corner]], corners.after[which[corner]]
    return _Places(place.astype(np.float64), stretch, point, arriving, leaving, corner, line_of, turned[place])


@compiled
def _steady(
    points: Array, starts: Indices, line: Indices, at: Indices, clear: Indices, directions: Array, within: float
) -> Array:
    """Directions at samples `at`, shape (n, 2), each over as long a piece of its line as bends evenly.

    clear: how many samples there are to either side before a corner. directions: those over the shortest piece.

    A long curve needs the directions at its ends better than a few pixels tell: a thousandth of a radian off is a pixel
    at the end of its handle. A parabola is laid through the piece, by least squares; its slope stands while the mean
    of either half of either side keeps to it `within` px.
    """
    result = directions.copy()
    for i in range(len(at)):
        low, high = starts[line[i]], starts[line[i] + 1]
        size = high - low
        here = points[at[i]]
        reach = STEADY_REACH
        for _ in range(STEADY_DOUBLINGS):
            if reach > clear[i] or 6 * reach > size:
                break
            # Sums over both sides: odd and even parts, of the nearer and the further half of them.
            slope, mean, bend = np.zeros(2), np.zeros(2), np.zeros(2)
            ahead, back = np.zeros((2, 2)), np.zeros((2, 2))
            second = fourth = 0.0
            for k in range(1, reach + 1):
                after, before = at[i] + k, at[i] - k
                after = after if after < high else after - size
                before = before if before >= low else before + size
                t = k / reach
                half = 0 if 2 * k <= reach else 1
                second += t * t
                fourth += t**4
                for d in range(2):
                    one, two = points[after, d] - here[d], points[before, d] - here[d]
                    slope[d] += t * (one - two)
                    mean[d] += one + two
                    bend[d] += t * t * (one + two)
                    ahead[half, d] += one
                    back[half, d] += two
            slope /= 2 * second
            # Normal equations of the even part, c + b t²; the middle itself counts too.
            count = 2.0 * reach + 1
            inverse = 1 / (count * 2 * fourth - 4 * second * second)
            level = (2 * fourth * mean - 2 * second * bend) * inverse
            bending = (count * bend - 2 * second * mean) * inverse
            length = max(np.hypot(slope[0], slope[1]), 1e-9)
            ux, uy = slope[0] / length, slope[1] / length
            off = 0.0
            near = reach // 2
            for half in range(2):
                # Means of t and t² over this half.
                first, last = (1, near) if half == 0 else (near + 1, reach)
                many = last - first + 1
                t1 = (first + last) / 2 / reach
                t2 = (last * (last + 1) * (2 * last + 1) - (first - 1) * first * (2 * first - 1)) / 6 / many / reach**2
                for side in (1, -1):
                    sums = ahead if side == 1 else back
                    x = sums[half, 0] / many - level[0] - side * t1 * slope[0] - t2 * bending[0]
                    y = sums[half, 1] / many - level[1] - side * t1 * slope[1] - t2 * bending[1]
                    off = max(off, abs(x * uy - y * ux))
            if off > within:
                break
            result[i, 0], result[i, 1] = ux, uy
            reach *= 2
    return result


@compiled
def _cheapest(
    points: Array,
    unrolled: Indices,
    starts: Indices,
    place: Array,
    stretch: Indices,
    point: Array,
    arriving: Array,
    leaving: Array,
    corner: NDArray[np.bool_],
    line: Indices,
    turned: Array,
    gap: int,
    tolerance: float,
    rounds: int,
) -> tuple[Indices, Indices, Array, NDArray[np.bool_]]:
    """The cheapest way through every stretch: from and to which place, handles, and which are lines.

    Longer and longer segments are tried from every place; where even a short one misses by far, no longer one is.
    """
    count = len(place)
    best = np.full(count, np.inf)
    came = np.full(count, -1, np.int64)
    handles = np.zeros((count, 2))
    straight = np.zeros(count, np.bool_)
    data, u = np.empty((DATA, 2)), np.empty(DATA)
    for a in range(count):
        if a == 0 or stretch[a] != stretch[a - 1]:
            best[a] = 0.0
        for b in range(a + 1, min(a + REACH + 1, count)):
            if stretch[b] != stretch[a] or (b > a + 1 and turned[b] - turned[a] >= MAX_TURN):
                break
            # No segment costs less than a line, so that this one leads nowhere cheaper.
            if best[a] + LINE_COST >= best[b]:
                continue
            begin, finish = starts[line[a]], starts[line[a] + 1]
            long = max(place[b] - place[a], 1.0)
            # Next to a corner the picture rounds the line off: it says nothing there.
            clear = min(float(gap), long / 4)
            low = place[a] + (clear if corner[a] else 0.0)
            high = place[b] - (clear if corner[b] else 0.0)
            for i in range(DATA):
                at = low + (high - low) * (i + 0.5) / DATA
                whole = int(at)
                part = at - whole
                here = unrolled[whole if whole < finish else whole - finish + begin]
                there = unrolled[whole + 1 if whole + 1 < finish else whole + 1 - finish + begin]
                for k in range(2):
                    data[i, k] = points[here, k] + (points[there, k] - points[here, k]) * part
                u[i] = (at - place[a]) / long
            cost = _line_cost(point[a], leaving[a], point[b], arriving[b], data, corner[a], corner[b], tolerance)
            is_line, one, two, miss = True, 0.0, 0.0, 0.0
            # Where a line does at less than any curve can cost, or no curve can lead anywhere cheaper, none is fitted.
            if cost > CUBIC_COST and best[a] + CUBIC_COST < best[b]:
                fitted = fit(point[a], leaving[a], point[b], arriving[b], data, u, rounds)
                miss = fitted[2]
                curve = np.inf
                if miss <= tolerance:
                    curve = CUBIC_COST + MISS_COST * (2 * fitted[3] / tolerance) ** 2
                if b == a + 1:
                    curve = min(curve, FORCED_COST + min(miss / tolerance, 50.0))
                if curve < cost:
                    cost, is_line, one, two = curve, False, fitted[0], fitted[1]
            if best[a] + cost < best[b]:
                best[b], came[b] = best[a] + cost, a
                handles[b, 0], handles[b, 1], straight[b] = one, two, is_line
            if b > a + 1 and miss > HOPELESS * tolerance:
                break
    ends = np.empty(count, np.int64)
    found, at = 0, count - 1
    while at >= 0:
        # The start of a stretch has no way into it: the place before it ends the stretch before.
        if came[at] < 0:
            at -= 1
            continue
        ends[found] = at
        found += 1
        at = came[at]
    ends = ends[:found][::-1].copy()
    return came[ends], ends, handles[ends], straight[ends]


@compiled
def _line_cost(
    start: Array,
    leaving: Array,
    end: Array,
    arriving: Array,
    data: Array,
    start_corner: bool,
    end_corner: bool,
    tolerance: float,
) -> float:
    """Cost of a straight segment through the data, infinite where it does not do; the nodes are moved onto it later."""
    count = len(data)
    mx, my = data[:, 0].mean(), data[:, 1].mean()
    xx = yy = xy = 0.0
    for i in range(count):
        x, y = data[i, 0] - mx, data[i, 1] - my
        xx, yy, xy = xx + x * x, yy + y * y, xy + x * y
    # The worst miss is no less than the root mean square one, which needs no direction.
    least = (xx + yy) / 2 - np.sqrt(((xx - yy) / 2) ** 2 + xy * xy)
    if least > count * (STRAY * tolerance) ** 2:
        return np.inf
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)
    nx, ny = -np.sin(angle), np.cos(angle)
    worst = total = 0.0
    for i in range(count):
        off = (data[i, 0] - mx) * nx + (data[i, 1] - my) * ny
        worst = max(worst, abs(off))
        total += off * off
    if worst > STRAY * tolerance:
        return np.inf
    if abs((start[0] - mx) * nx + (start[1] - my) * ny) > 1.5 * tolerance:
        return np.inf
    if abs((end[0] - mx) * nx + (end[1] - my) * ny) > 1.5 * tolerance:
        return np.inf
    # A line must arrive in the direction in which a smooth outline goes on.
    cx, cy = end[0] - start[0], end[1] - start[1]
    length = max(np.hypot(cx, cy), 1e-9)
    if not start_corner and leaving[0] * cx + leaving[1] * cy <= STRAIGHT_ON * length:
        return np.inf
    if not end_corner and arriving[0] * cx + arriving[1] * cy <= STRAIGHT_ON * length:
        return np.inf
    # A short line between curves is only a flat stretch of them.
    short = 0.0 if start_corner and end_corner else SHORT_COST * max(1 - length / SHORT_LINE, 0.0)
    return float(LINE_COST + short + MISS_COST * 4 * total / count / tolerance**2)


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
