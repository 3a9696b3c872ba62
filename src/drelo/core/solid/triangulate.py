"""Triangles inside rings on a grid, every vertex used, judged exactly."""

from __future__ import annotations

from collections.abc import Sequence

import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.solid.planar import Rings

Indices = NDArray[np.int64]


def triangulate(vertices: Indices, r: Rings) -> tuple[Indices, Indices]:
    """Triangles of vertex indices, shape (t, 3), counter-clockwise; and the label of each, shape (t,).

    vertices: shape (v, 2), int64 grid steps.
    """
    if not len(r.label):
        return np.empty((0, 3), np.int64), np.empty(0, np.int64)
    simple, label, patch = _simple_rings(r)
    order = np.argsort(patch, kind="stable")
    groups = np.split(order, np.flatnonzero(np.diff(patch[order])) + 1)
    triangles: list[Indices] = []
    labels: list[Indices] = []
    for group in groups:
        for polygon in _polygons(vertices, [simple[i] for i in group]):
            part = _one(vertices, polygon)
            triangles.append(part)
            labels.append(np.full(len(part), label[group[0]]))
    return np.concatenate(triangles), np.concatenate(labels)


def _simple_rings(r: Rings) -> tuple[list[Indices], Indices, Indices]:
    """Rings cut apart where they pass a vertex twice."""
    result: list[Indices] = []
    source: list[int] = []
    owner = np.repeat(np.arange(len(r.label)), np.diff(r.starts))
    order = np.lexsort((r.vertices, owner))
    twice = (np.diff(r.vertices[order]) == 0) & (np.diff(owner[order]) == 0)
    touched = set(owner[order[1:][twice]].tolist())
    for i in range(len(r.label)):
        ring = r.vertices[r.starts[i] : r.starts[i + 1]]
        parts = _cut(ring) if i in touched else [ring]
        result += parts
        source += [i] * len(parts)
    index = np.array(source)
    return result, r.label[index], r.patch[index]


def _cut(ring: Indices) -> list[Indices]:
    parts: list[Indices] = []
    stack: list[int] = []
    where: dict[int, int] = {}
    for vertex in ring.tolist():
        if vertex in where:
            at = where[vertex]
            loop = stack[at:]
            for gone in loop[1:]:
                del where[gone]
            del stack[at + 1 :]
            parts.append(np.array(loop))
        else:
            where[vertex] = len(stack)
            stack.append(vertex)
    parts.append(np.array(stack))
    return [p for p in parts if len(p) >= 3]


def twice_area(points: Indices) -> int:
    """Twice the signed area of a ring, exact, in grid steps²; points of shape (n, 2)."""
    x, y = (points - points[0]).T
    return int((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())


def _polygons(vertices: Indices, group: Sequence[Indices]) -> list[list[Indices]]:
    """Outer rings with their holes."""
    if len(group) == 1:
        return [[group[0]]]
    areas = [twice_area(vertices[ring]) for ring in group]
    outer = [i for i, area in enumerate(areas) if area > 0]
    holes = [i for i, area in enumerate(areas) if area < 0]
    if len(outer) == 1:
        return [[group[outer[0]], *(group[h] for h in holes)]]
    shapes = {o: shapely.Polygon(vertices[group[o]]) for o in outer}
    polygons = {o: [group[o]] for o in outer}
    for h in holes:
        hole = shapely.Polygon(vertices[group[h]])
        holders = [o for o in outer if areas[o] > -areas[h] and shapes[o].covers(hole)]
        polygons[min(holders, key=lambda o: areas[o])].append(group[h])
    return list(polygons.values())


def _one(vertices: Indices, polygon: Sequence[Indices]) -> Indices:
    index = np.concatenate(polygon)
    if len(index) == 3:
        return index[None]
    points = vertices[index]
    # Rings that touch in a vertex count as one.
    separate = len(polygon) - (len(index) - len(np.unique(index)))
    wanted = len(index) + 2 * (separate - 1) - 2
    ends = np.cumsum([len(ring) for ring in polygon]).astype(np.uint32)
    cut = mapbox_earcut.triangulate_float64(points.astype(np.float64), ends)
    local = np.asarray(cut).reshape(-1, 3).astype(np.int64)
    # The usual cutter leaves out vertices on straight sides and may fold where a hole touches.
    found = _upright(points, local)
    if found is None or len(local) != wanted:
        found = _upright(points, _robust(points, polygon))
        if found is None or len(found) != wanted:
            raise ArithmeticError("A face of the arrangement could not be cut into triangles.")
    return index[found]


def _upright(points: Indices, triangles: Indices) -> Indices | None:
    """Triangles turned counter-clockwise; None when one has no area."""
    a, b, c = (points[triangles[:, i]] for i in range(3))
    u, v = b - a, c - a
    cross = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    if not len(triangles) or (cross == 0).any():
        return None
    return np.where((cross > 0)[:, None], triangles, triangles[:, ::-1])


def _robust(points: Indices, polygon: Sequence[Indices]) -> Indices:
    """Constrained Delaunay triangles by GEOS, as indices into `points`."""
    rings, at = [], 0
    for ring in polygon:
        rings.append(points[at : at + len(ring)])
        at += len(ring)
    parts = shapely.get_parts(shapely.constrained_delaunay_triangles(shapely.Polygon(rings[0], rings[1:])))
    corners = np.round(shapely.get_coordinates(parts)).astype(np.int64).reshape(-1, 4, 2)[:, :3].reshape(-1, 2)
    where = {(int(x), int(y)): i for i, (x, y) in enumerate(points)}
    return np.array([where[(int(x), int(y))] for x, y in corners], np.int64).reshape(-1, 3)
