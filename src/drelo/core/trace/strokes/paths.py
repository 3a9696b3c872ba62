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
from drelo.core.trace.seen.coverage import between
from drelo.core.trace.strokes.abreast import parted
from drelo.core.trace.strokes.middles import (
    LED_ON,
    OTHER_PEN,
    Middle,
    corner_between,
    goes_round,
    heading,
    leaving,
    line_through,
    middle_of,
)
from drelo.core.trace.strokes.skeleton import Skeleton

Array = NDArray[np.float64]

# Runs that meet a joint within this angle (radians) of straight on are one stroke.
STRAIGHT_ON, CROSSING_ON, TOUCHING_ON = 0.7, 1.2, 2.2
# An end is led on to the stroke that it meets over ink at least this many widths wide.
OVER = 0.7
# The ink of a narrow corner ends within so many widths of where its sides meet.
POINT = 1.0
# A line that crosses no stroke meets one where it comes this near to its middle, widths.
MET = 0.08
# A stroke at a joint that is shorter than this many widths is part of the joint.
SCRAP = 1.1
# An end on a thicker stroke, but not on its middle.
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

    @property
    def length(self) -> float:
        """px from one end to the other."""
        return float(np.linalg.norm(np.diff(self.points, axis=0), axis=1).sum())

    def placed(self, scale: float, joints: int = 0) -> Path:
        """In px of a picture that was reduced by `scale`, its joints numbered from another on."""
        first, last = (end + joints if end >= 0 else end for end in self.ends)
        through = frozenset(joint + joints for joint in self.through)
        return replace(self, points=self.points * scale, width=self.width * scale, ends=(first, last), through=through)


def stroke_paths(bones: Skeleton, field: InkField, pixel: float) -> list[Path]:
    """Strokes: runs joined where they go straight on through a joint; ends led to where they meet.

    pixel: how long one of the picture is, px of the field.
    """
    middles = parted([middle_of(r, bones, field, pixel) for r in bones.runs], len(bones.joints))
    places = _meeting_places(_headings(middles, alone=False), bones.joints)
    headings = _headings(middles, alone=True)
    tips = _tips(headings, middles, len(bones.joints), field)
    following = _following([way for way in headings if way.run not in tips], middles, len(bones.joints), field)
    following |= {one: other for pair in tips.values() for one, other in (pair, pair[::-1])}
    used: set[int] = set(tips)
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
    return [p for p in met if len(p.points) >= 2 and not (max(p.ends) >= 0 and p.length < SCRAP * p.width)]


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
    corner = None if goes_round(before, after, width) else corner_between(start, out, end, into, width, field)
    if corner is not None:
        return line_through(start, corner, end)
    if min(out @ (end - start), into @ (end - start)) <= 0:
        return line_through(start, end)
    t = np.linspace(0, 1, round(gap) + 1)[1:-1, None]
    return np.asarray(
        (2 * t**3 - 3 * t**2 + 1) * start
        + (t**3 - 2 * t**2 + t) * gap * out
        + (3 * t**2 - 2 * t**3) * end
        + (t**3 - t**2) * gap * into
    )


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


def _headings(middles: Sequence[Middle], alone: bool) -> list[_Leaving]:
    """Those of all ends at joints."""
    return [
        _Leaving(i, end, joint, *heading(m, end, alone))
        for i, m in enumerate(middles)
        for end, joint in ((0, m.run.start), (1, m.run.end))
        if joint >= 0
    ]


def _meeting_places(headings: Sequence[_Leaving], joints: Array) -> Array:
    """Where the runs at each joint meet when drawn on straight, near the joint."""
    normal = np.repeat(np.eye(2)[None] * 0.02, len(joints), axis=0)
    right = 0.02 * joints
    for way in headings:
        across = np.array([-way.direction[1], way.direction[0]])
        normal[way.joint] += np.outer(across, across)
        right[way.joint] += across * (across @ way.point)
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


def _tips(
    headings: Sequence[_Leaving], middles: Sequence[Middle], joints: int, field: InkField
) -> dict[int, tuple[tuple[int, int], tuple[int, int]]]:
    """Runs that are no strokes, but the ink of narrow corners, where both sides have run into each other; and for each
    the two ends that meet in the corner.
    """
    here: list[list[_Leaving]] = [[] for _ in range(joints)]
    for way in headings:
        here[way.joint].append(way)
    found = {}
    for ends in here:
        if len(ends) != 3:
            continue
        for tip in (way for way in ends if -1 in (middles[way.run].run.start, middles[way.run].run.end)):
            one, other = (way for way in ends if way is not tip)
            if one.run == other.run or not _is_one_pen(one, other, middles):
                continue
            width = (middles[one.run].width + middles[other.run].width) / 2
            corner = corner_between(one.point, one.direction, other.point, -other.direction, width, field)
            last = middles[tip.run].points[-1 if tip.end == 0 else 0]
            if corner is not None and float(np.linalg.norm(corner - last)) < POINT * width:
                found[tip.run] = ((one.run, one.end), (other.run, other.end))
                break
    return found


def _following(
    headings: Sequence[_Leaving], middles: Sequence[Middle], joints: int, field: InkField
) -> dict[tuple[int, int], tuple[int, int]]:
    """For an end of a run, the end of the run in which it goes on: straight, or round a corner beside a stroke."""
    following: dict[tuple[int, int], tuple[int, int]] = {}
    here: list[list[_Leaving]] = [[] for _ in range(joints)]
    for way in headings:
        here[way.joint].append(way)
    for ends in here:
        pairs = sorted((_turning(ends[a], ends[b]), a, b) for a in range(len(ends)) for b in range(a + 1, len(ends)))
        taken: set[int] = set()
        for bend, a, b in pairs:
            if a in taken or b in taken or not _is_one_pen(ends[a], ends[b], middles):
                continue
            # Of four, what is left over when two went straight on is the other stroke of a crossing.
            most = CROSSING_ON if len(ends) == 4 and len(taken) == 2 else STRAIGHT_ON
            touches = bool(taken) and most <= bend < TOUCHING_ON and _goes_round(ends[a], ends[b], middles)
            if bend < most or touches:
                taken |= {a, b}
                one, other = (ends[a].run, ends[a].end), (ends[b].run, ends[b].end)
                following[one], following[other] = other, one
        left = [way for k, way in enumerate(ends) if k not in taken]
        if len(left) == 2 and _is_corner(left[0], left[1], middles, field):
            one, other = ((way.run, way.end) for way in left)
            following[one], following[other] = other, one
    return following


def _goes_round(one: _Leaving, other: _Leaving, middles: Sequence[Middle]) -> bool:
    """Whether a stroke that bends goes on so from one end to the other, touching what goes straight through."""
    before, after = middles[one.run].line, middles[other.run].line
    before, after = before if one.end == 1 else before[::-1], after if other.end == 0 else after[::-1]
    return goes_round(before, after, (middles[one.run].width + middles[other.run].width) / 2)


def _is_one_pen(one: _Leaving, other: _Leaving, middles: Sequence[Middle]) -> bool:
    thin, thick = sorted((middles[one.run].width, middles[other.run].width))
    return thick <= OTHER_PEN * thin


def _is_corner(one: _Leaving, other: _Leaving, middles: Sequence[Middle], field: InkField) -> bool:
    """Whether two ends that are left over, one of them in ink that another stroke shares, meet in a corner."""
    if one.run == other.run or not _is_one_pen(one, other, middles):
        return False
    if not (middles[one.run].shares or middles[other.run].shares):
        return False
    width = (middles[one.run].width + middles[other.run].width) / 2
    return corner_between(one.point, one.direction, other.point, -other.direction, width, field) is not None
