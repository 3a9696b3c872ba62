"""The middle of the ink along one run of a skeleton, its width, and how it runs out at its ends."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.field import InkField
from drelo.core.trace.fit.curves import Flags
from drelo.core.trace.seen.coverage import between
from drelo.core.trace.strokes.skeleton import Run, Skeleton

Array = NDArray[np.float64]

# Of two runs of one pen none is more times as wide as the other.
OTHER_PEN = 1.45
# A run says where its middle is from this many radii of the joint on.
CLEAR = 1.35
# Length (in widths) of a run over which its direction at a joint is read.
HEADING = 2.0
# … and over which a run says how it bends on where it cannot be seen.
BENT = 2.5
# A run whose last stretch of so many widths strays from a line by no more than this (px, and share of the width; root
# mean square) goes on straight.
LONG, STRAY, STRAY_WIDTH = 6.0, 0.06, 0.004
# … or a shorter one, of so many px and widths at least.
SEEN, SHORT = 8, 1.5
# A stroke goes round where it would turn at least by this share of its turn if it bent on as on both sides.
ROUND = 0.5
# Beside another stroke a run is drawn aside by no more than this, radians.
DRAWN_ASIDE = 0.3
# Beside another stroke or in a sharp bend the ink is wider or narrower than the stroke by this share of its width, and
# px; so many widths more on each side are left out.
BESIDE, BESIDE_PX, BESIDE_MORE = 0.05, 0.25, 0.5
# A stroke is even where its width differs by less than this share of a stair.
EVEN = 0.3
# A stroke that is odd for at most so many widths, and those that a narrow corner takes, and turns there by more than an
# angle (radians), has a corner when the ink outside of it reaches this many widths.
BEND, SHARP, OUTER = 4.0, 0.7, 0.4
# An end is led on straight by at most so many widths.
LED_ON = 9.0
# A corner may lie so many widths behind an end, since what is left out reaches beyond it.
BACK = 0.3
# Widths further than this share from a run's median are not believed.
ODD_WIDTH = 0.35
# An edge of the stroke is looked for to this many radii, and px, from its middle.
SEARCH, SEARCH_PX = 1.6, 2.0


@dataclass(frozen=True, eq=False)
class Middle:
    """A run's points moved to the middle of the ink; its width, px.

    believed: where both edges were found. line: points, shape (m, 2), where no other stroke lies along this one, and
    corners where the ink shows them.
    normal: unit, shape (n, 2), to the side of the first of the edges, shape (2, n, 2), NaN where there is none.
    alone: where no other stroke lies along this one. shares: whether its ink is another stroke's too.
    """

    run: Run
    points: Array
    width: float
    believed: Flags
    line: Array
    normal: Array
    edges: Array
    alone: Flags
    shares: bool = False


def middle_of(run: Run, bones: Skeleton, field: InkField, pixel: float) -> Middle:
    """The middle of the ink along a run. pixel: how long one of the picture is, px of the field."""
    points = run.points
    closed = run.start == -2
    radius = bones.radius_at(points)
    usual = float(np.median(radius)) + 0.3
    calm = _smoothed(points, max(1.0, 0.6 * usual), closed)
    along = np.gradient(calm, axis=0) if len(calm) > 2 else np.repeat(calm[-1:] - calm[:1], len(calm), axis=0)
    if closed and len(calm) > 2:
        along = np.roll(calm, -1, 0) - np.roll(calm, 1, 0)
    normal = np.stack([along[:, 1], -along[:, 0]], axis=1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-9)
    reach = SEARCH * usual + SEARCH_PX
    one, other = (ink_ahead(field, calm, side * normal, reach) for side in (1, -1))
    widths = one + other
    middle = calm + normal * ((one - other) / 2)[:, None]
    found = np.isfinite(widths)
    width = float(np.median(widths[found])) if found.any() else 2 * usual
    believed = found & (np.abs(widths - width) < ODD_WIDTH * width + 0.5)
    for joint, at in ((run.start, 0), (run.end, -1)):
        if joint >= 0:
            wide = float(bones.radius_at(bones.joints[joint][None])[0])
            believed &= np.linalg.norm(points - bones.joints[joint], axis=1) > CLEAR * max(wide, usual)
        elif joint == -1:
            believed &= np.linalg.norm(points - points[at], axis=1) > 0.5 * usual
    # Where nothing is believed the skeleton is.
    middle = np.where(believed[:, None], middle, calm)
    if believed.sum() < 2:
        believed = np.ones(len(points), bool)
    wider = BESIDE * width + BESIDE_PX
    beside = _beside_another(run, widths, width + wider, width, pixel if field.hard else 0.0)
    if not (believed & ~beside).any():
        beside[:] = False
    odd = ~(np.abs(widths - width) < wider)
    line = _with_corners(middle, odd, believed, beside, width, field, closed)
    edges = np.stack([calm + normal * one[:, None], calm - normal * other[:, None]])
    return Middle(run, middle, width, believed, line, normal, edges, ~beside)


def heading(middle: Middle, end: int, alone: bool) -> tuple[Array, Array]:
    """The last believed point of a run towards one of its ends, and the unit direction in which it runs out there.

    alone: that of where no other stroke lies along the run, unless there is a corner between.
    """
    believed, clear = middle.points[middle.believed], middle.line
    if end == 0:
        believed, clear = believed[::-1], clear[::-1]
    direction = leaving(believed, middle.width)
    if alone:
        own = leaving(clear, middle.width)
        if own @ direction > np.cos(DRAWN_ASIDE):
            return clear[-1], own
    return believed[-1], direction


def leaving(points: Array, width: float) -> Array:
    """Unit direction in which points about a px apart run out at their end: that of the line they lie on, else of a
    parabola through the last ones.
    """
    straight = _straight(points, width)
    if straight is not None:
        return straight
    last = points[-max(4, round(BENT * width)) :]
    if len(last) < 2:
        return np.zeros(2)
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(last, axis=0), axis=1))])
    # Counted from the end, the slope there is the second term.
    along -= along[-1]
    powers = along[:, None] ** np.arange(3 if len(last) > 6 else 2)
    slope = np.linalg.solve(powers.T @ powers + 1e-9 * np.eye(powers.shape[1]), powers.T @ last)[1]
    return np.asarray(slope / max(float(np.linalg.norm(slope)), 1e-9))


def goes_round(before: Array, after: Array, width: float) -> bool:
    """Whether a stroke goes on bending over a gap, from points about a px apart to others after it, as it bends on both
    sides: what turns there is no corner.
    """
    ends = [before[-max(4, round(LONG * width)) :], after[: max(4, round(LONG * width))]]
    if min(len(end) for end in ends) < max(SEEN, SHORT * width):
        return False
    ways, bends = [], []
    for points, at in zip(ends, (-1, 0), strict=True):
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
        along -= along[at]
        powers = along[:, None] ** np.arange(3)
        _, way, half = np.linalg.solve(powers.T @ powers + 1e-9 * np.eye(3), powers.T @ points)
        ways.append(way / max(float(np.linalg.norm(way)), 1e-9))
        bends.append(2 * float(way[0] * half[1] - way[1] * half[0]))
    out, into = ways
    turn = float(np.arctan2(out[0] * into[1] - out[1] * into[0], out @ into))
    round_ = float(np.mean(bends)) * float(np.linalg.norm(after[0] - before[-1]))
    return min(bends[0] * turn, bends[1] * turn) > 0 and abs(round_) > ROUND * abs(turn)


def _straight(points: Array, width: float) -> Array | None:
    """Unit direction of the last points, about a px apart, where they lie on a line; None where they do not."""
    last = points[-max(4, round(LONG * width)) :]
    share = len(last) / (LONG * width)
    if len(last) < max(SEEN, SHORT * width):
        return None
    mean = last.mean(axis=0)
    along = np.linalg.svd(last - mean, full_matrices=False)[2][0]
    along = along if along @ (last[-1] - last[0]) > 0 else -along
    off = (last - mean) @ np.array([-along[1], along[0]])
    # What bends as much strays less over a shorter stretch.
    most = (STRAY + STRAY_WIDTH * width) * min(share, 1.0) ** 2
    return along if float(np.sqrt(np.mean(off**2))) < most else None


def line_through(*corners: Array) -> Array:
    """Points about a px apart from the first corner to the last, without those two."""
    parts = [np.linspace(a, b, max(2, round(float(np.linalg.norm(b - a))) + 1))[1:] for a, b in pairwise(corners)]
    return np.concatenate(parts)[:-1]


def corner_between(start: Array, out: Array, end: Array, into: Array, width: float, field: InkField) -> Array | None:
    """Where two straight ends of a stroke meet in a corner, unless they turn little or the ink shows none."""
    turn = float(np.arccos(np.clip(out @ into, -1, 1)))
    across = float(out[0] * into[1] - out[1] * into[0])
    if turn < SHARP or abs(across) < 1e-3:
        return None
    step = end - start
    ahead = float(step[0] * into[1] - step[1] * into[0]) / across
    back = float(step[0] * out[1] - step[1] * out[0]) / across
    most = LED_ON * width
    if not (-BACK * width < ahead < most and -BACK * width < -back < most):
        return None
    at = start + ahead * out
    outside = (out - into) / np.linalg.norm(out - into)
    shown = np.concatenate([(at + OUTER * width * outside)[None], line_through(start, at, end)])
    return at if bool((between(field.values, shown) > field.level).all()) else None


def ink_ahead(field: InkField, points: Array, direction: Array, reach: float) -> Array:
    """px from each point along a direction to where the ink ends; NaN where it does not within reach."""
    steps = np.arange(0, reach + 0.5, 0.5)
    values = np.stack([between(field.values, points + direction * s) for s in steps], axis=1) - field.level
    out = (values[:, :-1] > 0) & (values[:, 1:] <= 0)
    first = out.argmax(axis=1)
    row = np.arange(len(points))
    a, b = values[row, first], values[row, first + 1]
    at = steps[first] + 0.5 * a / np.where(a != b, a - b, 1.0)
    return np.where(out.any(axis=1), at, np.nan)


def _beside_another(run: Run, widths: Array, most: float, width: float, stair: float) -> Flags:
    """Points from a joint on where the ink of another stroke lies along this one, so that it looks wider than `most`.

    What is evenly wider by a stair for long is one stroke: without antialiasing a level one is as wide as its pixels.
    """
    wide = ~(widths < most)
    if stair:
        row = np.nan_to_num(widths, nan=1e6).astype(np.float32)[None]
        long = np.ones((1, max(1, round(LONG * width))), np.uint8)
        widest, least = cv2.dilate(row, long), cv2.erode(row, long)
        even = ((widest - least < EVEN * stair) & (widest < most + stair)).astype(np.uint8)
        wide &= cv2.dilate(even, long)[0] == 0
    more = round(BESIDE_MORE * width)
    result = np.zeros(len(widths), bool)
    for joint, there, along in ((run.start, result, wide), (run.end, result[::-1], wide[::-1])):
        if joint >= 0:
            many = len(along) if along.all() else int(np.argmin(along))
            there[: many + more] = True
    return result


def _with_corners(
    points: Array, odd: Flags, believed: Flags, beside: Flags, width: float, field: InkField, closed: bool
) -> Array:
    """The believed points that lie beside no other stroke, with corners in place of bends where the ink shows them."""
    odd = odd & ~beside
    if closed and odd.any():
        # A closed run begins where it runs on evenly.
        turn = -_farthest(odd)
        points = np.roll(points, turn, axis=0)
        odd, believed, beside = (np.roll(flags, turn) for flags in (odd, believed, beside))
    ends = np.flatnonzero(np.diff(np.concatenate([[False], odd, [False]]).astype(np.int8))).reshape(-1, 2)
    more, reach = round(BESIDE_MORE * width), round(BENT * width)
    keep = believed & ~beside
    corners: dict[int, Array] = {}
    for begin, end in ends.tolist():
        low, high = begin - more, end + more
        before, after = (points[a:b][keep[a:b]] for a, b in ((max(0, low - reach), max(0, low)), (high, high + reach)))
        if min(len(before), len(after)) < max(2, more):
            continue
        out, into = leaving(before, width), -leaving(after[::-1], width)
        # The two sides of a narrow corner run into each other long before it.
        half = (np.pi - float(np.arccos(np.clip(out @ into, -1, 1)))) / 2
        if end - begin > (BEND + 1 / max(float(np.tan(half)), 1 / LED_ON)) * width:
            continue
        corner = corner_between(before[-1], out, after[0], into, width, field)
        if corner is not None:
            keep[low:high] = False
            corners[low] = line_through(before[-1], corner, after[0])
    parts = []
    for begin, end in pairwise([0, *sorted(corners), len(points)]):
        parts += [corners[begin]] if begin in corners else []
        parts.append(points[begin:end][keep[begin:end]])
    return np.concatenate(parts)


def _farthest(odd: Flags) -> int:
    """The place on a closed run that lies farthest from all odd ones."""
    at = np.flatnonzero(odd)
    gaps = np.diff(at, append=at[0] + len(odd))
    k = int(np.argmax(gaps))
    return int(at[k] + gaps[k] // 2) % len(odd)


def _smoothed(points: Array, sigma: float, closed: bool) -> Array:
    """Points averaged along the run; its ends stay."""
    reach = min(max(1, round(2.5 * sigma)), len(points) - 1)
    weights = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    weights /= weights.sum()
    if closed:
        wide = np.concatenate([points] * 3)
        calm = np.stack([np.convolve(wide[:, k], weights, "same") for k in range(2)], axis=1)
        return calm[len(points) : 2 * len(points)]
    # Beyond an end the run is turned about it, so that it keeps its place and direction.
    before, after = 2 * points[0] - points[reach:0:-1], 2 * points[-1] - points[-2 : -reach - 2 : -1]
    wide = np.concatenate([before, points, after])
    calm = np.stack([np.convolve(wide[:, k], weights, "same") for k in range(2)], axis=1)
    return calm[len(before) : len(before) + len(points)]
