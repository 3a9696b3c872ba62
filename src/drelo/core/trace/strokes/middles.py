"""From the skeleton of a line drawing to the middle lines of its strokes.

Where strokes lie on or beside each other the ink says little about either; there each is led on from where it is alone.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, zip_longest

import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.picture.field import InkField
from drelo.core.trace.fit.curves import Flags
from drelo.core.trace.seen.coverage import between
from drelo.core.trace.strokes.skeleton import Run, Skeleton

Array = NDArray[np.float64]

# Runs that meet a joint within this angle (radians) of straight on are one stroke.
STRAIGHT_ON, CROSSING_ON = 0.7, 1.2
# … unless one is so many times as wide as the other.
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
# Beside another stroke a run is drawn aside by no more than this, radians.
DRAWN_ASIDE = 0.3
# Beside another stroke or in a sharp bend the ink is wider or narrower than the stroke by this share of its width, and
# px; so many widths more on each side are left out.
BESIDE, BESIDE_PX, BESIDE_MORE = 0.05, 0.25, 0.5
# A stroke that is odd for at most so many widths, and turns there by more than an angle (radians), has a corner when
# the ink outside of it reaches this many widths.
BEND, SHARP, OUTER = 4.0, 0.7, 0.4
# An end is led on straight to a corner or to the stroke that it meets: by at most so many widths, and to a stroke over
# ink at least this many widths wide.
LED_ON, OVER = 9.0, 0.7
# A corner may lie so many widths behind an end, since what is left out reaches beyond it.
BACK = 0.3
# A line that crosses no stroke meets one where it comes this near to its middle, widths.
MET = 0.08
# Widths further than this share from a run's median are not believed.
ODD_WIDTH = 0.35
# An edge of the stroke is looked for to this many radii, and px, from its middle.
SEARCH, SEARCH_PX = 1.6, 2.0
# A stroke at a joint that is shorter than this many widths is part of the joint.
SCRAP = 1.1


TIED = -3


@dataclass(frozen=True, eq=False)
class Path:
    """Middle points of one stroke, shape (n, 2), px, and its width, px.

    ends: joints at both ends, -1 where free, TIED where it ends on a thicker stroke, but not on its middle.
    through: joints that it goes straight through.
    """

    points: Array
    width: float
    closed: bool
    ends: tuple[int, int]
    through: frozenset[int]

    def placed(self, scale: float, joints: int = 0) -> Path:
        """In px of a picture that was reduced by `scale`, its joints numbered from another on."""
        first, last = (end + joints if end >= 0 else end for end in self.ends)
        through = frozenset(joint + joints for joint in self.through)
        return replace(self, points=self.points * scale, width=self.width * scale, ends=(first, last), through=through)


def stroke_paths(bones: Skeleton, field: InkField) -> list[Path]:
    """Strokes: runs joined where they go straight on through a joint; ends led to where they meet."""
    middles = [_middle(r, bones, field) for r in bones.runs]
    places = _meeting_places(_headings(middles, alone=False), bones.joints)
    following = _straight_on(_headings(middles, alone=True), [m.width for m in middles], len(bones.joints))
    used: set[int] = set()
    paths = []
    # A stroke begins at an end that does not go on, else anywhere.
    starts = [(i, e) for i in range(len(middles)) for e in (0, 1) if (i, e) not in following]
    starts += [(i, 0) for i in range(len(middles))]
    for begin, end in starts:
        if begin in used:
            continue
        parts, widths, sizes = [], [], []
        at: tuple[int, int] | None = (begin, end)
        first = last = -1
        through: set[int] = set()
        while at is not None and at[0] not in used:
            i, e = at
            used.add(i)
            m = middles[i]
            points = m.line
            parts.append(points if e == 0 else points[::-1])
            widths.append(m.width)
            sizes.append(len(points))
            joint_in, joint_out = (m.run.start, m.run.end) if e == 0 else (m.run.end, m.run.start)
            if len(parts) == 1:
                first = joint_in
            last = joint_out
            at = following.get((i, 1 - e))
            if at is not None:
                through.add(joint_out)
        closed = first == -2 or (at is not None and at[0] == begin and len(parts) > 0 and first >= 0)
        width = float(np.mean(widths))
        gaps = [_bridge(a, b, width, field) for a, b in pairwise(parts)]
        if closed and first >= 0:
            gaps.append(_bridge(parts[-1], parts[0], width, field))
        points = np.concatenate([p for pair in zip_longest(parts, gaps) for p in pair if p is not None])
        usual = float(np.average(widths, weights=sizes))
        paths.append(Path(points, usual, closed, (first, last), frozenset(through)))
    passing: list[list[int]] = [[] for _ in bones.joints]
    for k, path in enumerate(paths):
        for joint in path.through:
            passing[joint].append(k)
    met = [_ends_led(k, paths, passing, places, field) for k in range(len(paths))]
    return [p for p in met if len(p.points) >= 2 and not (max(p.ends) >= 0 and _length(p.points) < SCRAP * p.width)]


def _length(points: Array) -> float:
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


def _ends_led(k: int, paths: Sequence[Path], passing: Sequence[Sequence[int]], places: Array, field: InkField) -> Path:
    """A path with its ends at joints led to what they meet there: straight to a stroke that goes through, where the ink
    allows it, else to the place of the joint.

    passing: for every joint the paths that go through it.
    """
    path = paths[k]
    if path.closed:
        return path
    points = path.points
    for joint in reversed(path.ends):
        if joint >= 0:
            others = [paths[i].points for i in passing[joint] if i != k and len(paths[i].points) >= 2]
            end = _led_on(points, path.width, others, field) if others and len(points) >= 2 else None
            points = np.concatenate([points, (places[joint] if end is None else end)[None]])
        # The last end first, then the first one turned to be the last.
        points = points[::-1]
    return replace(path, points=points)


def _led_on(points: Array, width: float, passing: Sequence[Array], field: InkField) -> Array | None:
    """Where a line led on straight from its end first meets another; None where it does not, or runs over paper."""
    start, direction = points[-1], leaving(points, width)
    many = max(2, round(LED_ON * width))
    ray = start + np.linspace(0, LED_ON * width, many)[:, None] * direction
    strokes = shapely.MultiLineString(list(passing))
    hits = shapely.get_coordinates(shapely.intersection(shapely.LineString(ray[[0, -1]]), strokes))
    # At a narrow angle two lines that all but lie on each other may never cross.
    met = shapely.distance(shapely.points(ray), strokes) < MET * width
    if len(hits):
        end = hits[np.argmin(np.linalg.norm(hits - start, axis=1))]
    elif met.any():
        end = ray[int(np.argmax(met))]
    else:
        return None
    way = np.linspace(start, end, max(2, round(float(np.linalg.norm(end - start)))))
    side = OVER / 2 * width * np.array([-direction[1], direction[0]])
    covered = between(field.values, np.concatenate([way + side, way - side])) > field.level
    return np.asarray(end) if bool(covered.all()) else None


def _bridge(before: Array, after: Array, width: float, field: InkField) -> Array:
    """What leads from the end of one run to the start of the next: a corner, or a cubic in points about a px apart."""
    start, end = before[-1], after[0]
    gap = float(np.linalg.norm(end - start))
    if gap < 2:
        return np.empty((0, 2))
    out, into = leaving(before, width), -leaving(after[::-1], width)
    corner = _corner(start, out, end, into, width, field)
    if corner is not None:
        return _line(start, corner, end)
    if min(out @ (end - start), into @ (end - start)) <= 0:
        return _line(start, end)
    t = np.linspace(0, 1, round(gap) + 1)[1:-1, None]
    return np.asarray(
        (2 * t**3 - 3 * t**2 + 1) * start
        + (t**3 - 2 * t**2 + t) * gap * out
        + (3 * t**2 - 2 * t**3) * end
        + (t**3 - t**2) * gap * into
    )


def _line(*corners: Array) -> Array:
    """Points about a px apart from the first corner to the last, without those two."""
    parts = [np.linspace(a, b, max(2, round(float(np.linalg.norm(b - a))) + 1))[1:] for a, b in pairwise(corners)]
    return np.concatenate(parts)[:-1]


def _corner(start: Array, out: Array, end: Array, into: Array, width: float, field: InkField) -> Array | None:
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
    shown = np.concatenate([(at + OUTER * width * outside)[None], _line(start, at, end)])
    return at if bool((between(field.values, shown) > field.level).all()) else None


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


def _heading(middle: _Middle, end: int, alone: bool) -> tuple[Array, Array]:
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


@dataclass(frozen=True, eq=False)
class _Leaving:
    """An end of a run at a joint: which run and end, the joint, the run's last believed point, and the unit direction
    in which it runs out there.
    """

    run: int
    end: int
    joint: int
    point: Array
    direction: Array


def _headings(middles: Sequence[_Middle], alone: bool) -> list[_Leaving]:
    """Those of all ends at joints."""
    return [
        _Leaving(i, end, joint, *_heading(m, end, alone))
        for i, m in enumerate(middles)
        for end, joint in ((0, m.run.start), (1, m.run.end))
        if joint >= 0
    ]


def _meeting_places(headings: Sequence[_Leaving], joints: Array) -> Array:
    """Where the runs at each joint meet when drawn on straight, near the joint."""
    normal = np.repeat(np.eye(2)[None] * 0.02, len(joints), axis=0)
    right = 0.02 * joints
    for leaving in headings:
        across = np.array([-leaving.direction[1], leaving.direction[0]])
        normal[leaving.joint] += np.outer(across, across)
        right[leaving.joint] += across * (across @ leaving.point)
    found = np.linalg.solve(normal, right[..., None])[..., 0] if len(joints) else joints
    return np.where(np.linalg.norm(found - joints, axis=1, keepdims=True) < 6, found, joints)


def _turning(one: _Leaving, other: _Leaving) -> float:
    """How far a stroke turns, radians, that leads from one end on to the other: into the chord and out of it."""
    chord = other.point - one.point
    length = float(np.linalg.norm(chord))
    if length < 1e-9:
        return float(np.arccos(np.clip(-one.direction @ other.direction, -1, 1)))
    turns = np.arccos(np.clip(np.array([one.direction @ chord, -other.direction @ chord]) / length, -1, 1))
    return float(turns.sum())


def _straight_on(
    headings: Sequence[_Leaving], widths: Sequence[float], joints: int
) -> dict[tuple[int, int], tuple[int, int]]:
    """For an end of a run, the end of the run in which it goes straight on."""
    following: dict[tuple[int, int], tuple[int, int]] = {}
    here: list[list[_Leaving]] = [[] for _ in range(joints)]
    for leaving in headings:
        here[leaving.joint].append(leaving)
    for ends in here:
        pairs = sorted((_turning(ends[a], ends[b]), a, b) for a in range(len(ends)) for b in range(a + 1, len(ends)))
        taken: set[int] = set()
        for bend, a, b in pairs:
            # Of four, what is left over when two went straight on is the other stroke of a crossing.
            most = CROSSING_ON if len(ends) == 4 and len(taken) == 2 else STRAIGHT_ON
            one, other = (ends[a].run, ends[a].end), (ends[b].run, ends[b].end)
            thin, thick = sorted((widths[one[0]], widths[other[0]]))
            if thick > OTHER_PEN * thin:
                continue
            if bend < most and a not in taken and b not in taken and one != other:
                taken |= {a, b}
                following[one], following[other] = other, one
    return following


@dataclass(frozen=True, eq=False)
class _Middle:
    """A run's points moved to the middle of the ink; its width, px.

    believed: where both edges were found. line: points, shape (m, 2), where no other stroke lies along this one, and
    corners where the ink shows them.
    """

    run: Run
    points: Array
    width: float
    believed: Flags
    line: Array


def _middle(run: Run, bones: Skeleton, field: InkField) -> _Middle:
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
    beside = _beside_another(run, widths, width)
    if not (believed & ~beside).any():
        beside[:] = False
    return _Middle(run, middle, width, believed, _with_corners(middle, widths, believed, beside, width, field, closed))


def _beside_another(run: Run, widths: Array, width: float) -> Flags:
    """Points from a joint on where the ink of another stroke lies along this one, so that it looks wider."""
    wide = ~(widths < (1 + BESIDE) * width + BESIDE_PX)
    more = round(BESIDE_MORE * width)
    result = np.zeros(len(widths), bool)
    for joint, there, along in ((run.start, result, wide), (run.end, result[::-1], wide[::-1])):
        if joint >= 0:
            many = len(along) if along.all() else int(np.argmin(along))
            there[: many + more] = True
    return result


def _with_corners(
    points: Array, widths: Array, believed: Flags, beside: Flags, width: float, field: InkField, closed: bool
) -> Array:
    """The believed points that lie beside no other stroke, with corners in place of bends where the ink shows them."""
    odd = ~beside & ~(np.abs(widths - width) < BESIDE * width + BESIDE_PX)
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
        if min(len(before), len(after)) < max(2, more) or end - begin > BEND * width:
            continue
        corner = _corner(before[-1], leaving(before, width), after[0], -leaving(after[::-1], width), width, field)
        if corner is not None:
            keep[low:high] = False
            corners[low] = _line(before[-1], corner, after[0])
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
