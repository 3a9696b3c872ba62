"""The middle lines of ink as a graph of pixels: ends, joints, and runs between them."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.morphology import skeletonize

from drelo.core.compiled import compiled

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Indices = NDArray[np.int64]

# A run that ends freely is a spur of its joint when it is shorter than this many of the joint's radii.
SPUR = 1.3
# … or when the ink at its end is this much narrower than along it, and it is no longer than so many radii.
POINTED, POINTED_LENGTH = 0.55, 4.0
# … or narrower than the joint, as in the point of a mitred corner, and no longer than so many.
MITRED = 2.4
# Joints whose run is shorter than this many of their radii are one crossing.
ONE_JOINT = 1.25
# … or shorter than so many, and the ink along it is this much wider than beside.
OVERLAP, WIDER = 6.0, 1.12
# A loop at a joint that is shorter than this many of its radii is none.
KNOT = 4.0
# Pixels after which a run may come back to the joint that it left.
LEAVING = 3
PASSES = 8
# Ink further than so many radii and px from all middle lines has lost its own.
EATEN, EATEN_PX = 2.0, 2.0


@dataclass(frozen=True, eq=False)
class Run:
    """Pixels of a middle line from one joint or end to another.

    points: shape (n, 2), px, pixel centres. start, end: numbers of joints; -1 at a free end, both -2 when closed.
    """

    points: Array
    start: int
    end: int


@dataclass(frozen=True, eq=False)
class Skeleton:
    """Middle lines of a picture.

    joints: shape (j, 2), px. radius: shape (height, width), px from every ink pixel to the paper.
    """

    runs: tuple[Run, ...]
    joints: Array
    radius: NDArray[np.float32]

    def radius_at(self, points: Array) -> Array:
        """Half the width of the ink at points, shape (n, 2), px."""
        at = np.clip(np.floor(points).astype(np.int64), 0, np.array(self.radius.shape[::-1]) - 1)
        return np.asarray(self.radius[at[:, 1], at[:, 0]], np.float64)


def skeleton(ink: Mask) -> Skeleton:
    """Middle lines of ink, shape (height, width); spurs taken off and double joints made one.

    Source of the thinning: T. Zhang, C. Suen, "A fast parallel algorithm for thinning digital patterns", 1984.
    """
    padded = np.pad(ink, 1)
    radius = np.asarray(cv2.distanceTransform(padded.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE), np.float32)
    thin = _thinned(padded, radius)
    runs, joints = _crossings(*_graph(thin, radius), radius)
    for _ in range(PASSES):
        spurs = _spurs(runs, joints, radius)
        if not spurs:
            break
        runs = _rejoined([r for i, r in enumerate(runs) if i not in spurs], len(joints))
    runs, joints = _crossings(runs, joints, radius)
    runs = _rejoined(runs, len(joints))
    moved = [Run(r.points - 1, r.start, r.end) for r in runs]
    return Skeleton(tuple(moved), joints - 1, radius[1:-1, 1:-1])


def _thinned(ink: Mask, radius: NDArray[np.float32]) -> Mask:
    """Ink thinned to lines of a pixel.

    The quick way takes slanted lines two pixels wide away from their ends; then the slower one does it: T. C. Lee,
    R. L. Kashyap, C. N. Chu, "Building skeleton models via 3-D medial surface/axis thinning algorithms", 1994.
    """
    thin: Mask = skeletonize(ink)  # type: ignore[no-untyped-call]
    away = np.asarray(cv2.distanceTransform((~thin).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE))
    if not ink.any() or away[ink].max() <= EATEN * float(radius.max()) + EATEN_PX:
        return thin
    return np.asarray(skeletonize(ink, method="lee") > 0)  # type: ignore[no-untyped-call]


def _graph(thin: Mask, radius: NDArray[np.float32]) -> tuple[list[Run], Array]:
    around = cv2.filter2D(thin.astype(np.uint8), -1, np.ones((3, 3), np.uint8)) - thin
    crossing = _crossing_number(thin)
    is_joint = thin & ((crossing >= 3) | (around >= 4))
    # What touches a joint belongs to it: there the branches still touch each other.
    is_joint = thin & (cv2.dilate(is_joint.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0)
    _, cluster, _, middle = cv2.connectedComponentsWithStats(is_joint.astype(np.uint8), connectivity=8)
    joints = np.asarray(middle[1:] + 0.5, np.float64)
    points, starts, ends = _runs(thin, np.asarray(cluster, np.int32))
    # Clusters are counted from 1, joints from 0; what is no joint keeps its sign.
    ends = np.where(ends > 0, ends - 1, ends)
    runs = [
        Run(np.asarray(points[starts[i] : starts[i + 1], ::-1] + 0.5), int(ends[i, 0]), int(ends[i, 1]))
        for i in range(len(ends))
    ]
    return [_with_joints(r, joints) for r in runs], joints


def _with_joints(run: Run, joints: Array) -> Run:
    parts = [joints[run.start][None]] if run.start >= 0 else []
    parts.append(run.points)
    if run.end >= 0:
        parts.append(joints[run.end][None])
    return Run(np.concatenate(parts), run.start, run.end)


def _crossing_number(thin: Mask) -> NDArray[np.int64]:
    """How often one goes from paper to line on the way round each pixel."""
    padded = np.pad(thin, 1).astype(np.int64)
    ring = [(0, 1), (0, 2), (1, 2), (2, 2), (2, 1), (2, 0), (1, 0), (0, 0)]
    height, width = thin.shape
    values = [padded[r : r + height, c : c + width] for r, c in ring]
    return np.asarray(np.sum([(values[k] == 0) & (values[(k + 1) % 8] == 1) for k in range(8)], axis=0))


# Neighbours, those beside before those across corners, so that runs do not cut corners they should follow.
ROUND = np.array([[0, 1], [1, 0], [0, -1], [-1, 0], [1, 1], [1, -1], [-1, -1], [-1, 1]])


@compiled
def _runs(thin: Mask, cluster: NDArray[np.int32]) -> tuple[Indices, Indices, Indices]:
    """Pixels of runs end to end (row, column), starts of the runs, and the joint clusters at both ends.

    A free end is -1, a closed run has -2 at both.
    """
    height, width = thin.shape
    total = 0
    for y in range(height):
        for x in range(width):
            total += thin[y, x]
    points = np.empty((total + 1, 2), np.int64)
    starts = np.zeros(total + 2, np.int64)
    ends = np.full((total + 1, 2), -1, np.int64)
    seen = np.zeros(thin.shape, np.bool_)
    done = runs = 0
    for turn in range(3):
        for y in range(1, height - 1):
            for x in range(1, width - 1):
                if not thin[y, x] or seen[y, x] or cluster[y, x] > 0:
                    continue
                near = joint = 0
                for k in range(8):
                    v, u = y + ROUND[k, 0], x + ROUND[k, 1]
                    if cluster[v, u] > 0:
                        joint = cluster[v, u]
                    elif thin[v, u] and not seen[v, u]:
                        near += 1
                # First from joints, then from free ends, then what is left are closed runs.
                if (turn == 0 and joint == 0) or (turn == 1 and near > 1):
                    continue
                begin = joint if turn == 0 else (-1 if turn == 1 else -2)
                finish = -1 if turn < 2 else -2
                v, u = y, x
                steps = 0
                while True:
                    seen[v, u] = True
                    steps += 1
                    points[done, 0], points[done, 1] = v, u
                    done += 1
                    onward = -1
                    reached = 0
                    for k in range(8):
                        q, p = v + ROUND[k, 0], u + ROUND[k, 1]
                        # The first pixels of a run still touch the joint that it leaves.
                        if cluster[q, p] > 0 and not (steps <= LEAVING and cluster[q, p] == begin):
                            reached = cluster[q, p]
                        elif onward < 0 and thin[q, p] and not seen[q, p] and cluster[q, p] == 0:
                            onward = k
                    if reached > 0 and (onward < 0 or not (v == y and u == x)):
                        finish = reached
                        break
                    if onward < 0:
                        break
                    v, u = v + ROUND[onward, 0], u + ROUND[onward, 1]
                ends[runs, 0], ends[runs, 1] = begin, finish
                runs += 1
                starts[runs] = done
    return points[:done], starts[: runs + 1], ends[:runs]


def _length(run: Run) -> float:
    return float(np.linalg.norm(np.diff(run.points, axis=0), axis=1).sum())


def _radii(run: Run, radius: NDArray[np.float32]) -> Array:
    return radius[run.points[:, 1].astype(np.int64), run.points[:, 0].astype(np.int64)].astype(np.float64)


def _is_spur(run: Run, joints: Array, radius: NDArray[np.float32]) -> bool:
    """A short free run, or one along which the ink comes to a point, as it does in the corner of a stroke."""
    if (run.start == -1) + (run.end == -1) != 1:
        return False
    x, y = joints[max(run.start, run.end)]
    wide = float(radius[int(y), int(x)])
    length = _length(run)
    along = _radii(run, radius)
    tip = along[0 if run.start == -1 else -1]
    if length < SPUR * wide + 1 or (tip < POINTED * np.median(along) and length < POINTED_LENGTH * wide):
        return True
    return tip < POINTED * wide and length < MITRED * wide


def _spurs(runs: list[Run], joints: Array, radius: NDArray[np.float32]) -> set[int]:
    """Spurs, one of each joint, the shortest: without it another may be the end of a stroke."""
    shortest: dict[int, int] = {}
    for i, run in enumerate(runs):
        joint = max(run.start, run.end)
        if _is_spur(run, joints, radius) and (joint not in shortest or _length(run) < _length(runs[shortest[joint]])):
            shortest[joint] = i
    return set(shortest.values())


def _is_knot(run: Run, group: NDArray[np.int64], joints: Array, radius: NDArray[np.float32]) -> bool:
    """A run from a joint back to it, so short that it lies within the ink there."""
    if run.start < 0 or run.end < 0 or group[run.start] != group[run.end]:
        return False
    x, y = joints[run.start]
    return _length(run) < KNOT * float(radius[int(y), int(x)])


def _at_joints(runs: list[Run], count: int) -> list[list[tuple[int, int]]]:
    """For every joint the runs that end there, and with which end."""
    at: list[list[tuple[int, int]]] = [[] for _ in range(count)]
    for i, run in enumerate(runs):
        for end, joint in enumerate((run.start, run.end)):
            if joint >= 0:
                at[joint].append((i, end))
    return at


def _rejoined(runs: list[Run], count: int) -> list[Run]:
    """Runs that are alone with one other at a joint become one with it; one that is all alone ends freely."""
    at = _at_joints(runs, count)
    left = dict(enumerate(runs))
    for joint in range(count):
        here = at[joint]
        if len(here) == 1:
            # What is left of a joint whose spurs are gone is an end.
            i, end = here[0]
            run = left[i]
            left[i] = Run(run.points, -1 if end == 0 else run.start, -1 if end == 1 else run.end)
        if len(here) != 2:
            continue
        (i, a), (k, b) = here
        if i == k:
            left[i] = Run(left[i].points[:-1], -2, -2)
            continue
        one = left[i] if a == 1 else Run(left[i].points[::-1], left[i].end, left[i].start)
        other = left[k] if b == 0 else Run(left[k].points[::-1], left[k].end, left[k].start)
        joined = Run(np.concatenate([one.points, other.points[1:]]), one.start, other.end)
        del left[i], left[k]
        number = len(runs) + joint
        left[number] = joined
        for j in {joined.start, joined.end} - {-1, -2}:
            at[j] = [known for known in at[j] if known[0] not in (i, k)]
        for end, j in enumerate((joined.start, joined.end)):
            if j >= 0:
                at[j].append((number, end))
    return list(left.values())


def _crossings(runs: list[Run], joints: Array, radius: NDArray[np.float32]) -> tuple[list[Run], Array]:
    """Joints that a run much shorter than the ink is wide parts become one, in their middle."""
    group = np.arange(len(joints))
    usual = np.array([np.median(_radii(r, radius)) for r in runs])
    length = [_length(run) for run in runs]
    at = _at_joints(runs, len(joints))
    short = set()
    for i, run in enumerate(runs):
        if run.start < 0 or run.end < 0 or run.start == run.end:
            continue
        reach = max(float(radius[int(joints[j][1]), int(joints[j][0])]) for j in (run.start, run.end))
        others = {k for joint in (run.start, run.end) for k, _ in at[joint]} - {i}
        beside = [usual[k] for k in others if length[k] > 2 * reach]
        # Where two strokes cross at a small angle, the ink between their joints is wider than either.
        overlap = bool(beside) and usual[i] > WIDER * float(np.median(beside)) and length[i] < OVERLAP * reach
        if overlap or length[i] < ONE_JOINT * reach + 1:
            short.add(i)
            group[group == group[run.end]] = group[run.start]
    middle = np.array([joints[group == group[j]].mean(axis=0) for j in range(len(joints))]).reshape(-1, 2)
    kept = []
    for i, run in enumerate(runs):
        if i in short or _is_knot(run, group, joints, radius):
            continue
        points = run.points.copy()
        start = int(group[run.start]) if run.start >= 0 else run.start
        end = int(group[run.end]) if run.end >= 0 else run.end
        if start >= 0:
            points[0] = middle[start]
        if end >= 0:
            points[-1] = middle[end]
        kept.append(Run(points, start, end))
    return kept, middle
