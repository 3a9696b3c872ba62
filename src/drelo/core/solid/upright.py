"""The quick proof that a mesh of level and upright faces only is sealed.

Walls stand over segments of the plane. Where these meet in their ends only, they part the plane into faces, and over
each face the level triangles must lie at heights of their own, facing down and up by turns. Then no two triangles
overlap, and none runs through another: what is level over a face ends at the face's border, for a set of triangles that
face up covers each place as often as its border winds round it; and a wall stands only between faces that differ where
it stands. The heights over a face follow from the outside in: from face to face they change by the level sides of
the walls between them. All of it is told exactly, from the bytes alone.

What is not proved here need not be wrong: `seal` then looks at every pair of triangles.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.region.sweep import MAX_COORDINATE, Sides, bucketed, sides_of
from drelo.core.solid.mesh import Mesh

Indices = NDArray[np.int64]

# A 32-bit float has a whole number of so many bits.
MANTISSA_BITS = 24
# Kinds of faces.
NEITHER, WALL, UP, DOWN = 0, 1, 2, 3


def surely_sealed(mesh: Mesh) -> bool:
    """Whether every edge has two faces that are opposed, and the faces are the border of a solid, none of them doubled,
    without area, crossing or overlapping. False also where that is not so plain."""
    flat = _whole(mesh.vertices[:, :2])
    if flat is None:
        return False
    twins = _twins(mesh.faces, len(mesh.vertices))
    if len(twins) == 0:
        return False
    # Vertices by x, then y, then z: those over one point of the plane follow each other.
    low = flat.min(axis=0)
    key = ((flat[:, 0] - low[0]) << 32) | (flat[:, 1] - low[1])
    order = np.argsort(key)
    ordered = key[order]
    new = np.ones(len(order), bool)
    np.not_equal(ordered[1:], ordered[:-1], out=new[1:])
    points = flat[order[new]]
    rank, point = _stacked(order, np.append(np.flatnonzero(new), len(order)), mesh.vertices[:, 2])
    corner = point[mesh.faces]
    kind = _kinds(mesh.faces, corner, points, mesh.vertices[:, 2], rank)
    if kind.min() == NEITHER:
        return False
    walls = np.flatnonzero(kind == WALL)
    first, last, segment = _segments(mesh, walls, corner, len(points))
    if not len(first):
        return False
    sides = sides_of(points, first, last)
    if sides is None or np.bincount(np.concatenate([first, last]), minlength=len(points)).min() == 0:
        return False
    segment_of_face = np.full(len(kind), -1)
    segment_of_face[walls] = segment
    entries = _level_sides(mesh.faces, corner, kind, twins, segment_of_face)
    return len(entries) > 0 and _by_turns(sides, entries, mesh.vertices[:, 2])


def _whole(values: NDArray[np.float32]) -> Indices | None:
    """The numbers as whole multiples of one power of two; None where they would be too large."""
    mantissa, exponent = np.frexp(values)
    whole = np.ldexp(mantissa, MANTISSA_BITS).astype(np.int64)
    some = whole != 0
    if not some.any():
        return whole
    lowest = exponent[some] + np.frexp((whole & -whole)[some].astype(np.float64))[1]
    result = np.ldexp(values.astype(np.float64), MANTISSA_BITS + 1 - int(lowest.min()))
    return result.astype(np.int64) if np.abs(result).max() < MAX_COORDINATE else None


@compiled
def _stacked(order: Indices, begins: Indices, height: NDArray[np.float32]) -> tuple[Indices, Indices]:
    """Place of every vertex when those over one point go upward, and its point."""
    rank, point = np.empty(len(order), np.int64), np.empty(len(order), np.int64)
    for p in range(len(begins) - 1):
        for k in range(begins[p] + 1, begins[p + 1]):
            vertex = order[k]
            at = k
            while at > begins[p] and height[order[at - 1]] > height[vertex]:
                order[at] = order[at - 1]
                at -= 1
            order[at] = vertex
        for k in range(begins[p], begins[p + 1]):
            rank[order[k]], point[order[k]] = k, p
    return rank, point


@compiled
def _twins(faces: NDArray[np.int32], count: int) -> NDArray[np.int32]:
    """For each side of each face, face × 3 + side, the one that runs the other way; empty where it is not just one."""
    begins = np.zeros(count + 1, np.int32)
    for f in range(len(faces)):
        for k in range(3):
            begins[faces[f, k] + 1] += 1
    for v in range(count):
        begins[v + 1] += begins[v]
    fill = begins[:-1].copy()
    # Sides by the vertex they start in, each with the vertex it ends in.
    outgoing, target = np.empty(3 * len(faces), np.int32), np.empty(3 * len(faces), np.int32)
    for f in range(len(faces)):
        for k in range(3):
            at = fill[faces[f, k]]
            outgoing[at], target[at] = 3 * f + k, faces[f, (k + 1) % 3]
            fill[faces[f, k]] += 1
    twin = np.full(3 * len(faces), -1, np.int32)
    for start in range(count):
        for at in range(begins[start], begins[start + 1]):
            end = target[at]
            for earlier in range(begins[start], at):
                if target[earlier] == end:
                    return twin[:0]
            if end == start:
                return twin[:0]
            if end > start:
                continue
            back = begins[end]
            while back < begins[end + 1] and target[back] != start:
                back += 1
            if back == begins[end + 1]:
                return twin[:0]
            twin[outgoing[at]], twin[outgoing[back]] = outgoing[back], outgoing[at]
    for side in range(len(twin)):
        if twin[side] < 0:
            return twin[:0]
    return twin


@compiled
def _kinds(
    faces: NDArray[np.int32], corner: Indices, points: Indices, height: NDArray[np.float32], rank: Indices
) -> NDArray[np.int8]:
    """Level and facing up or down, a wall with one upright side between neighbouring heights, or neither."""
    kind = np.full(len(faces), NEITHER, np.int8)
    for f in range(len(faces)):
        a, b, c = corner[f, 0], corner[f, 1], corner[f, 2]
        if height[faces[f, 0]] == height[faces[f, 1]] and height[faces[f, 0]] == height[faces[f, 2]]:
            twice = (points[b, 0] - points[a, 0]) * (points[c, 1] - points[a, 1]) - (points[b, 1] - points[a, 1]) * (
                points[c, 0] - points[a, 0]
            )
            if twice > 0:
                kind[f] = UP
            elif twice < 0:
                kind[f] = DOWN
            continue
        upright = 0
        for k in range(3):
            if corner[f, k] == corner[f, (k + 1) % 3]:
                if abs(rank[faces[f, k]] - rank[faces[f, (k + 1) % 3]]) != 1:
                    upright = 3
                upright += 1
        if upright == 1:
            kind[f] = WALL
    return kind


def _segments(mesh: Mesh, walls: Indices, corner: Indices, points: int) -> tuple[Indices, Indices, Indices]:
    """Segments of the plane with walls over them, as first and last point, and the segment of each wall;
    nothing where walls over one segment overlap."""
    name, reach = _reaches(mesh.faces, mesh.vertices[:, 2].astype(np.float64), walls, corner, points)
    order = np.argsort(name, kind="stable")
    ordered = name[order]
    new = np.ones(len(order), bool)
    new[1:] = np.diff(ordered) != 0
    if not _lie_apart(order, np.append(np.flatnonzero(new), len(order)), reach):
        return walls[:0], walls[:0], walls[:0]
    segment = np.empty(len(order), np.int64)
    segment[order] = np.cumsum(new) - 1
    first, last = np.divmod(ordered[new], points)
    return first, last, segment


@compiled
def _reaches(
    faces: NDArray[np.int32], height: NDArray[np.float64], walls: Indices, corner: Indices, points: int
) -> tuple[Indices, NDArray[np.float64]]:
    """For each wall first point × points + last, and from where to where it reaches over either, shape (n, 4)."""
    name, reach = np.empty(len(walls), np.int64), np.empty((len(walls), 4))
    for w in range(len(walls)):
        f = walls[w]
        first = min(corner[f, 0], corner[f, 1], corner[f, 2])
        last = max(corner[f, 0], corner[f, 1], corner[f, 2])
        name[w] = first * points + last
        reach[w, 0], reach[w, 1], reach[w, 2], reach[w, 3] = np.inf, -np.inf, np.inf, -np.inf
        for k in range(3):
            z = height[faces[f, k]]
            at = 0 if corner[f, k] == first else 2
            reach[w, at], reach[w, at + 1] = min(reach[w, at], z), max(reach[w, at + 1], z)
    return name, reach


@compiled
def _lie_apart(order: Indices, begins: Indices, reach: NDArray[np.float64]) -> bool:
    """Whether walls over one segment lie one over the other; their order among themselves becomes that."""
    for s in range(len(begins) - 1):
        for k in range(begins[s] + 1, begins[s + 1]):
            wall = order[k]
            middle = reach[wall].sum()
            at = k
            while at > begins[s] and reach[order[at - 1]].sum() > middle:
                order[at] = order[at - 1]
                at -= 1
            order[at] = wall
        for k in range(begins[s] + 1, begins[s + 1]):
            lower, upper = order[k - 1], order[k]
            if reach[lower, 1] > reach[upper, 0] or reach[lower, 3] > reach[upper, 2]:
                return False
    return True


@compiled
def _level_sides(
    faces: NDArray[np.int32], corner: Indices, kind: NDArray[np.int8], twins: NDArray[np.int32], segment: Indices
) -> Indices:
    """Sides of level faces on walls, shape (n, 4): segment, whether the face lies above it, a vertex, whether it faces
    up; nothing where level faces are folded on each other."""
    entries = np.empty((1024, 4), np.int64)
    count = 0
    for f in range(len(faces)):
        if kind[f] == WALL:
            continue
        for k in range(3):
            other = twins[3 * f + k] // 3
            if kind[other] == kind[f]:
                continue
            if kind[other] != WALL:
                return entries[:0]
            if count == len(entries):
                longer = np.empty((2 * count, 4), np.int64)
                longer[:count] = entries
                entries = longer
            onward = corner[f, k] < corner[f, (k + 1) % 3]
            entries[count, 0], entries[count, 1] = segment[other], onward == (kind[f] == UP)
            entries[count, 2], entries[count, 3] = faces[f, k], kind[f] == UP
            count += 1
    return entries[:count]


def _by_turns(sides: Sides, entries: Indices, height: NDArray[np.float32]) -> bool:
    """Whether the level faces over every face of the plane lie apart and face down and up by turns, from the lowest."""
    face = np.concatenate([sides.above, sides.below])
    order, begins = bucketed(face, sides.count)
    which, entries_begin = bucketed(entries[:, 0], len(sides.above))
    chosen = entries[which]
    return _walk(
        sides.above,
        sides.below,
        order % len(sides.above),
        begins,
        entries_begin,
        chosen[:, 1] == 1,
        chosen[:, 3] == 1,
        height[chosen[:, 2]],
    )


@compiled
def _walk(
    above: Indices,
    below: Indices,
    edges: Indices,
    begins: Indices,
    entries_begin: Indices,
    is_above: NDArray[np.bool_],
    is_up: NDArray[np.bool_],
    height: NDArray[np.float32],
) -> bool:
    """From the outside through every segment to a face not yet seen, and back, with the heights over each."""
    faces = len(begins) - 1
    seen = np.zeros(faces, np.bool_)
    seen[0] = True
    at = begins.copy()
    trail, by = np.empty(faces, np.int64), np.empty(faces, np.int64)
    trail[0], by[0] = 0, -1
    depth = 0
    levels, ups = np.empty(64, np.float32), np.empty(64, np.bool_)
    size = 0
    while True:
        face = trail[depth]
        entering = at[face] < begins[face + 1]
        if entering:
            edge = edges[at[face]]
            at[face] += 1
            other = below[edge] if above[edge] == face else above[edge]
            if seen[other]:
                continue
            seen[other] = True
            depth += 1
            trail[depth], by[depth] = other, edge
        else:
            if depth == 0:
                return True
            edge = by[depth]
            depth -= 1
            other = trail[depth]
        to_above = above[edge] == other
        # What lies on the side that is left goes, what lies on the other comes.
        for turn in range(2):
            for k in range(entries_begin[edge], entries_begin[edge + 1]):
                comes = is_above[k] == to_above
                if comes == (turn == 0):
                    continue
                place = 0
                while place < size and (
                    levels[place] < height[k] or (levels[place] == height[k] and ups[place] != is_up[k])
                ):
                    place += 1
                if not comes:
                    if place == size or levels[place] != height[k] or ups[place] != is_up[k]:
                        return False
                    size -= 1
                    for m in range(place, size):
                        levels[m], ups[m] = levels[m + 1], ups[m + 1]
                    continue
                if size == len(levels):
                    return False
                for m in range(size, place, -1):
                    levels[m], ups[m] = levels[m - 1], ups[m - 1]
                levels[place], ups[place] = height[k], is_up[k]
                size += 1
        if not entering:
            continue
        if size % 2 == 1:
            return False
        for m in range(size):
            if ups[m] != (m % 2 == 1) or (m > 0 and levels[m] <= levels[m - 1]):
                return False
