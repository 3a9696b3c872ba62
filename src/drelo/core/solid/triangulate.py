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
    polygons: list[list[Indices]] = []
    labels: list[int] = []
    for group in groups:
        found = _polygons(vertices, [simple[i] for i in group])
        polygons += found
        labels += [int(label[group[0]])] * len(found)
    cut = [_cut_by_ears(vertices, polygon) for polygon in polygons]
    sizes = np.array([len(part) for part in cut])
    triangles, flat = _upright(vertices, np.concatenate(cut))
    # The usual cutter leaves out vertices on straight sides and may fold where a hole touches.
    poor = np.array([_triangles_of(polygon) for polygon in polygons]) != sizes
    poor[np.repeat(np.arange(len(polygons)), sizes)[flat]] = True
    if poor.any():
        ends = np.cumsum(sizes)
        parts = np.split(triangles, ends[:-1])
        for i in np.flatnonzero(poor).tolist():
            parts[i] = _robust(vertices, polygons[i])
        sizes = np.array([len(part) for part in parts])
        triangles = np.concatenate(parts)
    return triangles, np.repeat(np.array(labels), sizes)


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


def _triangles_of(polygon: Sequence[Indices]) -> int:
    """How many triangles a polygon falls into; rings that touch in a vertex count as one."""
    if len(polygon) == 1:
        return len(polygon[0]) - 2
    index = np.concatenate(polygon)
    separate = len(polygon) - (len(index) - len(np.unique(index)))
    return len(index) + 2 * (separate - 1) - 2


def _cut_by_ears(vertices: Indices, polygon: Sequence[Indices]) -> Indices:
    if len(polygon) == 1:
        index, ends = polygon[0], np.array([len(polygon[0])], np.uint32)
        if len(index) == 3:
            return index[None]
    else:
        index = np.concatenate(polygon)
        ends = np.cumsum([len(ring) for ring in polygon]).astype(np.uint32)
    cut = mapbox_earcut.triangulate_float64(vertices[index].astype(np.float64), ends)
    result: Indices = index[cut].reshape(-1, 3)
    return result


def _upright(vertices: Indices, triangles: Indices) -> tuple[Indices, NDArray[np.bool_]]:
    """Triangles turned counter-clockwise, and which have no area."""
    x, y = vertices[:, 0], vertices[:, 1]
    a, b, c = triangles.T
    cross = (x[b] - x[a]) * (y[c] - y[a]) - (y[b] - y[a]) * (x[c] - x[a])
    return np.where((cross > 0)[:, None], triangles, triangles[:, ::-1]), cross == 0


def _robust(vertices: Indices, polygon: Sequence[Indices]) -> Indices:
    """Constrained Delaunay triangles by GEOS.

    Raises ArithmeticError when they are not what the polygon falls into.
    """
    index = np.concatenate(polygon)
    points = vertices[index]
    rings = np.split(points, np.cumsum([len(ring) for ring in polygon])[:-1])
    parts = shapely.get_parts(shapely.constrained_delaunay_triangles(shapely.Polygon(rings[0], rings[1:])))
    corners = np.round(shapely.get_coordinates(parts)).astype(np.int64).reshape(-1, 4, 2)[:, :3].reshape(-1, 2)
    where = {(int(x), int(y)): i for (x, y), i in zip(points, index, strict=True)}
    triangles, flat = _upright(vertices, np.array([where[(int(x), int(y))] for x, y in corners]).reshape(-1, 3))
    if flat.any() or len(triangles) != _triangles_of(polygon):
        raise ArithmeticError("A face of the arrangement could not be cut into triangles.")
    return triangles
