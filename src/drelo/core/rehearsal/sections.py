"""Sections of meshes at many heights at once.

Every triangle gives one stretch at each height between its lowest and its highest corner; a corner that lies just at a
height counts as under it, so that each stretch begins on one edge of the mesh and ends on another. In a closed mesh,
where each edge has two triangles, the stretches of a height therefore close to loops, whatever the numbers are.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import cast

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import compiled
from drelo.core.outline.outline import only_areas
from drelo.core.solid.mesh import Mesh

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
MIN_CORNERS = 3
# Points nearer to the line between their neighbours than this say nothing, mm.
PLAIN = 0.001
# … and than this, that upright walls made them, mm.
STRAIGHT = 1e-5
# Areas that differ by less than this share are the same.
MET = 2e-3


@dataclass(frozen=True, eq=False)
class Loops:
    """Closed loops of all heights, the first height first.

    points: shape (p, 2), mm. starts: where each loop begins, and p. heights: number of each loop's height, rising.
    """

    points: Floats
    starts: Ints
    heights: Ints


def loops(mesh: Mesh, heights: Floats) -> Loops:
    """Loops in which a closed mesh meets planes at rising heights, mm; solid lies to the left of them."""
    corners = mesh.vertices.astype(np.float64)
    if not len(mesh.faces) or not len(heights):
        return Loops(np.zeros((0, 2)), np.zeros(1, np.int64), np.zeros(0, np.int64))
    edges = _edges(mesh)
    # From which height on a corner is below: heights before it are at or under the corner.
    above = np.searchsorted(heights, corners[:, 2], side="right")
    count = _count(mesh.faces, above)
    begin, end, height, at = _stretches(mesh.faces, edges, corners, above, heights, count)
    return _chained(begin, end, height, at, len(heights), int(edges.max()) + 1)


def sections(mesh: Mesh, heights: Floats) -> list[BaseGeometry]:
    """What is solid of a closed mesh at each of rising heights, mm: areas, holes left out.

    Heights at which it is the same have the same object.
    """
    found = loops(mesh, heights)
    points, starts = _plain(found.points, found.starts)
    lengths = np.diff(starts)
    is_ring = lengths >= MIN_CORNERS
    first = points[np.minimum(starts[:-1], max(len(points) - 1, 0))] if len(points) else np.zeros((0, 2))
    # The loops of a height in one order, whichever triangle they were found from.
    order = np.lexsort((first[:, 1], first[:, 0], found.heights))
    order = order[is_ring[order]]
    pieces = [points[starts[k] : starts[k + 1]] for k in order.tolist()]
    of_point = np.repeat(np.arange(len(order)), lengths[order])
    points = np.vstack(pieces) if pieces else np.zeros((0, 2))
    rings = np.asarray(shapely.linearrings(points, indices=of_point) if len(points) else [], object)
    bounds = np.searchsorted(found.heights[order], np.arange(len(heights) + 1))
    spans = np.searchsorted(of_point, bounds)
    known: dict[bytes, BaseGeometry] = {}
    result = []
    for number in range(len(heights)):
        key = np.round(points[spans[number] : spans[number + 1]], 4).tobytes()
        if key not in known:
            known[key] = _area(rings[bounds[number] : bounds[number + 1]])
        result.append(known[key])
    return result


@compiled
def _plain(points: Floats, starts: Ints) -> tuple[Floats, Ints]:
    """Loops without the points that say nothing, each from its leftmost point on."""
    kept = np.empty_like(points)
    bounds = np.zeros(len(starts), np.int64)
    written = 0
    for loop in range(len(starts) - 1):
        begin, count = starts[loop], starts[loop + 1] - starts[loop]
        first = written
        for k in range(count):
            x, y = points[begin + k, 0], points[begin + k, 1]
            ax, ay = points[begin + (k - 1) % count, 0], points[begin + (k - 1) % count, 1]
            bx, by = points[begin + (k + 1) % count, 0], points[begin + (k + 1) % count, 1]
            length = math.hypot(bx - ax, by - ay)
            off = abs((bx - ax) * (y - ay) - (by - ay) * (x - ax))
            ahead = (bx - x) * (x - ax) + (by - y) * (y - ay) > 0
            if ahead and off <= STRAIGHT * length:
                continue
            kept[written, 0], kept[written, 1] = x, y
            written += 1
        size = written - first
        lowest = 0
        for k in range(1, size):
            x, y = kept[first + k, 0], kept[first + k, 1]
            # Rounded, so that a hair does not decide where it begins.
            here, best = round(x, 4), round(kept[first + lowest, 0], 4)
            if here < best or (here == best and y < kept[first + lowest, 1]):
                lowest = k
        if lowest:
            turned = kept[first:written].copy()
            for k in range(size):
                kept[first + k] = turned[(k + lowest) % size]
        bounds[loop + 1] = written
    return kept[:written], bounds


def _area(rings: NDArray[np.object_]) -> BaseGeometry:
    """The area that loops enclose, solid to their left; islands may lie in holes, and shells may meet."""
    if not len(rings):
        return shapely.Polygon()
    sizes = shapely.area(shapely.polygons(rings)) * np.where(shapely.is_ccw(rings), 1, -1)
    plain = cast(BaseGeometry, shapely.simplify(shapely.multipolygons(_shells_with_holes(rings, sizes)), PLAIN))
    # Signed areas tell whether that was all: loops that meet or cross are put together one by one.
    if shapely.is_valid(plain) and abs(float(plain.area) - sizes.sum()) <= MET * (abs(sizes).sum() + 1):
        return only_areas(plain)
    solid: BaseGeometry = shapely.Polygon()
    for number in np.argsort(-abs(sizes), kind="stable").tolist():
        ring = shapely.make_valid(shapely.polygons(rings[number]))
        solid = shapely.union(solid, ring) if sizes[number] > 0 else shapely.difference(solid, ring)
    return only_areas(shapely.simplify(solid, PLAIN))


def _shells_with_holes(rings: NDArray[np.object_], sizes: Floats) -> NDArray[np.object_]:
    """Loops that go left round as areas, each with the holes of which it is the smallest round them. sizes: signed."""
    shells, holes = np.flatnonzero(sizes > 0), np.flatnonzero(sizes <= 0)
    areas = np.asarray(shapely.polygons(rings[shells]), object)
    if not len(holes):
        return areas
    first = shapely.get_point(rings[holes], 0)
    hole, shell = shapely.STRtree(areas).query(first, predicate="covered_by")
    is_larger = sizes[shells[shell]] >= -sizes[holes[hole]]
    hole, shell = hole[is_larger], shell[is_larger]
    order = np.lexsort((sizes[shells[shell]], hole))
    _, smallest = np.unique(hole[order], return_index=True)
    hole, shell = hole[order][smallest], shell[order][smallest]
    for number in np.unique(shell).tolist():
        areas[number] = shapely.polygons(rings[shells[number]], rings[holes[hole[shell == number]]])
    return areas


def _edges(mesh: Mesh) -> Ints:
    """The number of the edge from each corner of a face to its next, shape (f, 3); neighbours share it."""
    a, b, c = mesh.faces.astype(np.int64).T
    count = np.int64(len(mesh.vertices))
    pairs = np.stack([a, b, c], 1), np.stack([b, c, a], 1)
    keys = np.minimum(*pairs) * count + np.maximum(*pairs)
    return np.unique(keys.ravel(), return_inverse=True)[1].reshape(-1, 3).astype(np.int64)


@compiled
def _count(faces: NDArray[np.int32], above: Ints) -> int:
    total = 0
    for face in range(faces.shape[0]):
        a, b, c = above[faces[face, 0]], above[faces[face, 1]], above[faces[face, 2]]
        total += max(a, b, c) - min(a, b, c)
    return total


@compiled
def _stretches(
    faces: NDArray[np.int32], edges: Ints, corners: Floats, above: Ints, heights: Floats, count: int
) -> tuple[Ints, Ints, Ints, Floats]:
    """Edges on which each stretch begins and ends, its height's number, and where it begins."""
    begin, end, height = np.empty(count, np.int64), np.empty(count, np.int64), np.empty(count, np.int64)
    at = np.empty((count, 2))
    found = 0
    for face in range(faces.shape[0]):
        v = faces[face]
        low = min(above[v[0]], above[v[1]], above[v[2]])
        high = max(above[v[0]], above[v[1]], above[v[2]])
        for level in range(low, high):
            # A corner is under the plane when fewer heights lie at or below it than this one.
            for k in range(3):
                i, j = v[k], v[(k + 1) % 3]
                under_i, under_j = above[i] <= level, above[j] <= level
                if under_i == under_j:
                    continue
                if under_i:
                    end[found] = edges[face, k]
                else:
                    begin[found] = edges[face, k]
                    # From the lower to the upper corner, so that both neighbours find the same point.
                    share = (heights[level] - corners[j, 2]) / (corners[i, 2] - corners[j, 2])
                    at[found, 0] = corners[j, 0] + share * (corners[i, 0] - corners[j, 0])
                    at[found, 1] = corners[j, 1] + share * (corners[i, 1] - corners[j, 1])
            height[found] = level
            found += 1
    return begin, end, height, at


def _chained(begin: Ints, end: Ints, height: Ints, at: Floats, levels: int, edges: int) -> Loops:
    order = np.argsort(height * np.int64(edges) + begin, kind="stable")
    keys = (height * np.int64(edges) + begin)[order]
    wanted = height * np.int64(edges) + end
    place = np.minimum(np.searchsorted(keys, wanted), len(keys) - 1)
    following = np.where(keys[place] == wanted, order[place], -1)
    first = np.argsort(height, kind="stable")
    points, starts, heights = _walk(following, first, height, at)
    return Loops(points, starts, heights)


@compiled
def _walk(following: Ints, order: Ints, height: Ints, at: Floats) -> tuple[Floats, Ints, Ints]:
    count = len(following)
    is_done = np.zeros(count, np.bool_)
    points = np.empty((count, 2))
    # A loop has at least two stretches, an open rest at least one.
    starts, heights = np.zeros(count + 1, np.int64), np.empty(count, np.int64)
    written, found = 0, 0
    for first in order:
        if is_done[first]:
            continue
        heights[found] = height[first]
        here = first
        while here >= 0 and not is_done[here]:
            is_done[here] = True
            points[written] = at[here]
            written += 1
            here = following[here]
        found += 1
        starts[found] = written
    return points[:written], starts[: found + 1], heights[:found]
