"""Thin strokes that end on thicker ones led onto their middles, and those that a thick one parts made one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.near import points_tree
from drelo.core.trace.strokes.middles import leaving
from drelo.core.trace.strokes.paths import TIED, Path

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Following = dict[tuple[int, int], tuple[int, int]]
"""For an end of a path (its number, and 0 or 1) the end of the path in which it goes on."""

# A thin stroke ends on a thick one when it runs into its ink within so many px, and widths, of where it was read.
NEAR, NEAR_WIDTHS = 3.0, 1.5
# It meets the middle of the thick one within so many of its widths …
REACH = 1.6
# … or ends beside it, when it passes the middle by no more than this share of its width.
ASIDE = 0.65
# Two are one when they meet within so many px, or of their widths, and turn by no more than this, radians.
SAME, SAME_WIDTHS, TURN = 1.0, 0.5, 0.2
# … and one is so many times as wide as the other at most.
OTHER_PEN = 1.35
# What is at least so wide, px, and shorter than so many widths is led nowhere.
BLOB, BLOB_WIDTHS = 5.0, 1.0
# Over a white dot they meet within this share of their width, and both are at least so long, px and widths.
DOT_ASIDE, DOT, DOT_WIDTHS = 0.35, 8.0, 4.0


def tied(paths: Sequence[Path], thick: Sequence[Path], ink: Mask, joints: int) -> tuple[list[Path], list[Path], int]:
    """Paths with their free ends led onto the thick ones that they run into; the thick ones with the joints that this
    makes; and how many joints there are then.

    ink: of the thick ones, shape (height, width). joints: how many there are before.
    """
    if not thick:
        return list(paths), list(thick), joints
    lines = [shapely.LineString(_whole(p)) for p in thick]
    tree = shapely.STRtree(lines)
    result, through = list(paths), [set(p.through) for p in thick]
    met: dict[tuple[int, int], tuple[int, Array, Array]] = {}
    for k, path in enumerate(paths):
        for end in (0, 1):
            if path.closed or path.ends[end] != -1 or len(path.points) < 2 or _is_blob(path):
                continue
            points = result[k].points if end == 1 else result[k].points[::-1]
            direction = leaving(points, max(path.width, 1.0))
            found = _onto(points[-1], direction, path.width, thick, lines, tree, ink)
            if found is None:
                continue
            place, on = found
            ends = list(result[k].ends)
            ends[end] = TIED
            if on is not None:
                ends[end] = joints
                through[on].add(joints)
                met[k, end] = (on, place, direction)
                joints += 1
            points = np.concatenate([points, place[None]])
            result[k] = replace(
                result[k], points=points if end == 1 else points[::-1], ends=(int(ends[0]), int(ends[1]))
            )
    known = [replace(p, through=frozenset(some)) for p, some in zip(thick, through, strict=True)]
    return _made_one(result, _across(result, met)), known, joints


def over_dots(paths: Sequence[Path], pinhole: float) -> list[Path]:
    """Paths of which two end freely, facing each other over a gap smaller than a pinhole, px², become one."""
    ends = [(k, e) for k, p in enumerate(paths) for e in (0, 1) if p.ends[e] == -1 and _is_long(p)]
    if len(ends) < 2:
        return list(paths)
    runs = [paths[k].points if e == 1 else paths[k].points[::-1] for k, e in ends]
    last = np.array([run[-1] for run in runs])
    ways = [leaving(run, max(paths[k].width, 1.0)) for (k, _), run in zip(ends, runs, strict=True)]
    following: Following = {}
    # A run stops half a width before the ink does.
    reach = [pinhole / paths[k].width + paths[k].width + 1 for k, _ in ends]
    for a, b in points_tree(last).pairs(max(reach)).tolist():
        one, other = ends[a], ends[b]
        step = last[b] - last[a]
        apart = float(np.linalg.norm(step))
        if one[0] == other[0] or one in following or other in following or apart > min(reach[a], reach[b]):
            continue
        aside = abs(float(ways[a][0] * step[1] - ways[a][1] * step[0]))
        thin, wide = sorted((paths[one[0]].width, paths[other[0]].width))
        onward = float(ways[a] @ ways[b]) < -np.cos(TURN) and float(ways[a] @ step) > 0
        if onward and aside <= DOT_ASIDE * thin and wide <= OTHER_PEN * thin:
            following[one], following[other] = other, one
    return _made_one(paths, following)


def _is_long(path: Path) -> bool:
    """Whether a path is no dot of a dotted line."""
    return not path.closed and path.length >= max(DOT, DOT_WIDTHS * path.width)


def _is_blob(path: Path) -> bool:
    """Whether a path is a filled shape, such as the head of a note, that says nothing of a direction."""
    return path.width >= BLOB and path.length < BLOB_WIDTHS * path.width


def _whole(path: Path) -> Array:
    """A path's line; of a long one led to the tips of its free ends: a run stops half a width before the ink does."""
    points = path.points
    if path.closed:
        return np.concatenate([points, points[:1]])
    for end in (1, 0):
        run = points if end == 1 else points[::-1]
        if path.ends[end] == -1 and _is_long(path):
            tip = run[-1] + path.width / 2 * leaving(run, max(path.width, 1.0))
            points = np.concatenate([points, tip[None]]) if end == 1 else np.concatenate([tip[None], points])
    return points


def _onto(
    last: Array,
    direction: Array,
    width: float,
    thick: Sequence[Path],
    lines: Sequence[shapely.LineString],
    tree: shapely.STRtree,
    ink: Mask,
) -> tuple[Array, int | None] | None:
    """Where a stroke that runs out at `last` ends on a thick one, and on which one's middle; None where it is free."""
    steps = np.arange(0.0, NEAR + NEAR_WIDTHS * width, 0.5)
    x, y = np.floor(last + steps[:, None] * direction).astype(np.int64).T
    height, wide = ink.shape
    inside = (x >= 0) & (y >= 0) & (x < wide) & (y < height)
    inked = inside & ink[np.clip(y, 0, height - 1), np.clip(x, 0, wide - 1)]
    if not inked.any():
        return None
    first = float(steps[int(np.argmax(inked))])
    thickest = max(p.width for p in thick)
    ray = shapely.LineString([last, last + (first + REACH * thickest) * direction])
    best: tuple[float, int] | None = None
    aside: tuple[float, float] | None = None
    for i in sorted(tree.query(ray, predicate="dwithin", distance=ASIDE * thickest).tolist()):
        hits = shapely.get_coordinates(shapely.intersection(ray, lines[i]))
        along = (hits - last) @ direction
        along = along[along <= first + REACH * thick[i].width]
        if len(along):
            best = min(best or (np.inf, i), (float(along.min()), i))
            continue
        near, there = shapely.get_coordinates(shapely.shortest_line(ray, lines[i]))
        off = float(np.linalg.norm(near - there))
        if off <= ASIDE * thick[i].width and (aside is None or off < aside[0]):
            aside = (off, float((near - last) @ direction))
    if best is not None:
        return last + best[0] * direction, best[1]
    return None if aside is None else (last + aside[1] * direction, None)


def _across(paths: Sequence[Path], met: dict[tuple[int, int], tuple[int, Array, Array]]) -> Following:
    """Ends at the same place of a thick stroke that go on in each other, from either side."""
    following: Following = {}
    keys = list(met)
    for a, one in enumerate(keys):
        for other in keys[a + 1 :]:
            if one in following or other in following or one[0] == other[0] or met[one][0] != met[other][0]:
                continue
            thin, wide = sorted((paths[one[0]].width, paths[other[0]].width))
            apart = float(np.linalg.norm(met[one][1] - met[other][1]))
            straight = float(met[one][2] @ met[other][2]) < -np.cos(TURN)
            if straight and apart <= max(SAME, SAME_WIDTHS * thin) and wide <= OTHER_PEN * thin:
                following[one], following[other] = other, one
    return following


def _made_one(paths: Sequence[Path], following: Following) -> list[Path]:
    """Paths joined where one goes on in another."""
    if not following:
        return list(paths)
    used: set[int] = set()
    result = []
    # Begin where a path does not go on; what is left goes round.
    starts = [(k, e) for k in range(len(paths)) for e in (0, 1) if (k, e) not in following]
    starts += [(k, 0) for k in range(len(paths))]
    for start in starts:
        if start[0] in used:
            continue
        parts, at, first, last = [], start, paths[start[0]].ends[start[1]], -1
        lengths, widths = [], []
        through: set[int] = set()
        while at is not None and at[0] not in used:
            path = paths[at[0]]
            used.add(at[0])
            parts.append(path.points if at[1] == 0 else path.points[::-1])
            lengths.append(len(path.points))
            widths.append(path.width)
            through |= path.through
            last = path.ends[1 - at[1]]
            at = following.get((at[0], 1 - at[1]))  # type: ignore[assignment]
        if len(parts) == 1:
            result.append(paths[start[0]])
            continue
        # Where both end at one place, one of them will do.
        points = np.concatenate([parts[0], *(part[1:] for part in parts[1:])])
        width = float(np.average(widths, weights=lengths))
        closed = at is not None
        result.append(Path(points, width, closed, (-2, -2) if closed else (first, last), frozenset(through)))
    return result
