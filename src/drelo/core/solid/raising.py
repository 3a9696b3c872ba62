"""From faces with heights to sealed meshes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.errors import Refusal
from drelo.core.form.columns import Column, Design
from drelo.core.region.arrangement import OUTSIDE, Arrangement, arrange, grid_for, overlaid
from drelo.core.solid import contacts
from drelo.core.solid.contacts import PATCH_STEPS, Span
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.planar import borders, distinct, rings, straight_vertices
from drelo.core.solid.triangulate import triangulate

Indices = NDArray[np.int64]


def arrange_design(design: Design) -> Arrangement:
    """The arrangement of a design's layers."""
    boxes = np.array([g.bounds for g in design.layers if not g.is_empty])
    if not len(boxes):
        raise Refusal("art.no-outline", "art")
    extent = float(max(boxes[:, 2].max() - boxes[:, 0].min(), boxes[:, 3].max() - boxes[:, 1].min()))
    return arrange(design.layers, grid_for(extent))


def span_of(column: Column, filament: int | None) -> Span:
    """Solid intervals of a column, of one filament or of all; touching ones are one, heights in 32-bit floats."""
    joined: list[tuple[float, float]] = []
    for band in column:
        if filament is not None and band.filament != filament:
            continue
        low, high = float(np.float32(band.bottom)), float(np.float32(band.top))
        if high <= low:
            continue
        if joined and joined[-1][1] >= low:
            joined[-1] = (joined[-1][0], high)
        else:
            joined.append((low, high))
    return tuple(joined)


def raise_body(design: Design, arrangement: Arrangement, filament: int | None = None) -> Mesh:
    """One sealed mesh of all bands of a filament, or of everything; its box starts where the whole design's does.

    Raises Refusal when a contact cannot be settled, naming the spot.
    """
    columns = [span_of(c, filament) for c in design.columns]
    names: dict[Span, int] = {}
    numbers = [OUTSIDE if not span else names.setdefault(span, len(names)) for span in columns]
    spans = list(names)
    label_of_layer = np.array([*numbers, OUTSIDE])
    a = arrangement
    for attempt in range(len(PATCH_STEPS) + 1):
        label = label_of_layer[a.top]
        found = contacts.find_contacts(a, label, spans, again=attempt > 0)
        if not found:
            break
        if attempt == len(PATCH_STEPS):
            x, y = a.vertices[found[0][0]] * a.grid
            raise Refusal("solid.not-sealed-at", x=x, y=y)
        small = contacts.patches(a, found, attempt)
        label_of_layer = np.concatenate([label_of_layer[:-1], [choice for _, choice in found], [OUTSIDE]])
        a = overlaid(a, small)
    return _mesh(a, label, spans, _origin(arrangement, has_matter(design, arrangement)))


def has_matter(design: Design, a: Arrangement) -> NDArray[np.bool_]:
    """Which faces hold any matter, shape (faces,)."""
    matter = np.array([*(bool(span_of(c, None)) for c in design.columns), False])
    return matter[a.top]


def _origin(a: Arrangement, matter: NDArray[np.bool_]) -> Indices:
    """Lowest corner of the faces with matter, grid steps, shape (2,)."""
    padded = np.append(matter, False)
    used = a.edges[padded[a.left] | padded[a.right]]
    if not len(used):
        return np.zeros(2, np.int64)
    low: Indices = a.vertices[used.ravel()].min(axis=0)
    return low


def _mesh(a: Arrangement, label: Indices, spans: Sequence[Span], origin: Indices) -> Mesh:
    """Tops, floors and walls straight from the arrangement; every wall carries all levels that occur at its ends."""
    heights = np.array(sorted({z for span in spans for interval in span for z in interval}))
    if not len(heights):
        return Mesh(np.empty((0, 3), np.float32), np.empty((0, 3), np.int32))
    level = {z: i for i, z in enumerate(heights.tolist())}
    ranges = [[(level[z0], level[z1]) for z0, z1 in span] for span in spans]
    skip = straight_vertices(a, borders(a, label))
    corners = _corners(a, label, ranges, skip, len(heights))
    parts = [_walls(a, label, ranges, skip, corners)]
    for which in range(max(len(r) for r in ranges)):
        for side in (0, 1):
            flat = np.array([*(r[which][side] if which < len(r) else OUTSIDE for r in ranges), OUTSIDE])
            triangles, at = triangulate(a.vertices, rings(a, flat[label], skip))
            corner = corners.at(triangles.ravel(), np.repeat(at, 3)).reshape(-1, 3)
            parts.append(corner if side else corner[:, ::-1])
    faces = np.concatenate(parts)
    is_used = np.zeros(len(corners.vertex), bool)
    is_used[faces.ravel()] = True
    flat_points = (a.vertices[corners.vertex[is_used]] - origin) * a.grid
    points = np.column_stack([flat_points, heights[corners.level[is_used]]]).astype(np.float32)
    return Mesh(points, (np.cumsum(is_used) - 1).astype(np.int32)[faces])


@dataclass(frozen=True, eq=False)
class _Corners:
    """Every level that occurs at a vertex on a border, by vertex, then level.

    vertex, level: shape (n,). begins: shape (vertices + 1,), where those of each vertex begin.
    """

    vertex: Indices
    level: Indices
    begins: Indices

    def at(self, vertex: Indices, level: Indices) -> Indices:
        """Numbers of corners that are there, shape (n,)."""
        return _located(self.level, self.begins, vertex, level)


@compiled
def _located(levels: Indices, begins: Indices, vertex: Indices, level: Indices) -> Indices:
    result = np.empty(len(vertex), np.int64)
    for i in range(len(vertex)):
        at = begins[vertex[i]]
        while levels[at] != level[i]:
            at += 1
        result[i] = at
    return result


def _corners(
    a: Arrangement,
    label: Indices,
    ranges: Sequence[list[tuple[int, int]]],
    skip: NDArray[np.bool_],
    count: int,
) -> _Corners:
    b = borders(a, label)
    most = 2 * max(len(r) for r in ranges)
    table = np.full((len(ranges) + 1, most), OUTSIDE)
    for i, r in enumerate(ranges):
        flat = [z for pair in r for z in pair]
        table[i, : len(flat)] = flat
    vertex = np.concatenate([b.start, b.start, b.end, b.end])
    levels = table[np.concatenate([b.left, b.right, b.left, b.right])]
    keys = vertex[:, None] * count + levels
    at, level = np.divmod(distinct(keys[(levels != OUTSIDE) & ~skip[vertex][:, None]]), count)
    begins = np.zeros(len(a.vertices) + 1, np.int64)
    np.cumsum(np.bincount(at, minlength=len(a.vertices)), out=begins[1:])
    return _Corners(at, level, begins)


def _walls(
    a: Arrangement,
    label: Indices,
    ranges: Sequence[list[tuple[int, int]]],
    skip: NDArray[np.bool_],
    corners: _Corners,
) -> Indices:
    start, end, left, right = _straightened(a, label, skip)
    pair = (left + 1) * (len(ranges) + 1) + right + 1
    kinds, kind = np.unique(pair, return_inverse=True)
    exposed = []
    for code in kinds.tolist():
        one, other = divmod(code, len(ranges) + 1)
        exposed.append(_difference(ranges[one - 1] if one else [], ranges[other - 1] if other else []))
    many = np.array([len(e) for e in exposed], np.int64)[kind]
    edge = np.repeat(np.arange(len(start)), many)
    offset = np.arange(len(edge)) - (np.cumsum(many) - many)[edge]
    first = np.concatenate([[0], np.cumsum([len(e) for e in exposed])])[:-1].astype(np.int64)
    table = np.array([row for e in exposed for row in e], np.int64).reshape(-1, 2)
    chosen = table[first[kind[edge]] + offset]
    u, v = start[edge], end[edge]
    low_u, high_u = (corners.at(u, chosen[:, i]) for i in range(2))
    low_v, high_v = (corners.at(v, chosen[:, i]) for i in range(2))
    steps_u, steps_v = high_u - low_u, high_v - low_v
    # From the foot of the far side a fan to the near side, from the head of the near side one to the far side.
    wall = np.repeat(np.arange(len(u)), steps_u)
    at = low_u[wall] + np.arange(len(wall)) - (np.cumsum(steps_u) - steps_u)[wall]
    near = np.stack([low_v[wall], at + 1, at], axis=1)
    wall = np.repeat(np.arange(len(u)), steps_v)
    at = low_v[wall] + np.arange(len(wall)) - (np.cumsum(steps_v) - steps_v)[wall]
    far = np.stack([high_u[wall], at, at + 1], axis=1)
    return np.concatenate([near, far])


def _straightened(a: Arrangement, label: Indices, skip: NDArray[np.bool_]) -> tuple[Indices, Indices, Indices, Indices]:
    """Both directions of every border, as start, end, left and right label, with the skipped vertices taken out."""
    r = rings(a, label, skip)
    size = np.diff(r.starts)
    following = np.arange(1, len(r.vertices) + 1)
    following[r.starts[1:] - 1] = r.starts[:-1]
    start, end = r.vertices, r.vertices[following]
    left = np.repeat(r.label, size)
    # The other way round the same border belongs to the neighbour, or to nothing.
    many = len(a.vertices)
    name, back = start * many + end, end * many + start
    order = np.argsort(name)
    at = np.minimum(np.searchsorted(name[order], back), len(name) - 1)
    right = np.where(name[order][at] == back, left[order[at]], OUTSIDE)
    return start, end, left, right


def _difference(one: list[tuple[int, int]], other: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Intervals of `one` less those of `other`."""
    rest = one
    for low, high in other:
        cut = []
        for z0, z1 in rest:
            if z0 < min(z1, low):
                cut.append((z0, min(z1, low)))
            if max(z0, high) < z1:
                cut.append((max(z0, high), z1))
        rest = cut
    return rest
