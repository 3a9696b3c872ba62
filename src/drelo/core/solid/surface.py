"""The outer surface for the screen: one triangle soup, in runs by region and filament.

The cutting of tops and floors does not depend on heights, so that a new height only moves points.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.form.columns import Column
from drelo.core.region.arrangement import OUTSIDE, Arrangement
from drelo.core.solid.planar import borders, rings, straight_vertices
from drelo.core.solid.triangulate import triangulate

Indices = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Plan:
    """What of the surface does not depend on heights.

    triangles: shape (t, 3, 2), mm; layer: shape (t,), sorted. walls: shape (w, 2, 2), mm, from start to end with layer
    `left` on the left and `right` on the right; OUTSIDE for none.
    """

    triangles: NDArray[np.float64]
    layer: Indices
    walls: NDArray[np.float64]
    left: Indices
    right: Indices


@dataclass(frozen=True)
class Run:
    """Triangles `start` to `start + count` belong to one layer and one filament."""

    layer: int
    filament: int
    start: int
    count: int


@dataclass(frozen=True, eq=False)
class Surface:
    """triangles: shape (t, 3, 3), float32, mm. runs: in order, they cover all triangles."""

    triangles: NDArray[np.float32]
    runs: tuple[Run, ...]


def plan(a: Arrangement) -> Plan:
    """Tops and walls of an arrangement, by layer."""
    b = borders(a, a.top)
    r = rings(a, a.top, straight_vertices(a, b))
    triangles, layer = triangulate(a.vertices, r)
    order = np.argsort(layer, kind="stable")
    origin = a.vertices[np.unique(a.edges)].min(axis=0)
    points = (a.vertices - origin) * a.grid
    walls = np.stack([points[b.start], points[b.end]], axis=1)
    return Plan(points[triangles[order]], layer[order], walls, b.left, b.right)


def surface(p: Plan, columns: tuple[Column, ...]) -> Surface:
    """The surface with heights: tops and floors that are open to the air, and walls where a neighbour is lower."""
    pieces: dict[tuple[int, int], list[NDArray[np.float64]]] = {}
    bounds = np.searchsorted(p.layer, np.arange(len(columns) + 1))
    for layer, column in enumerate(columns):
        flat = p.triangles[bounds[layer] : bounds[layer + 1]]
        if not len(flat):
            continue
        for i, band in enumerate(column):
            run = pieces.setdefault((layer, band.filament), [])
            if i + 1 == len(column) or column[i + 1].bottom > band.top:
                run.append(_level(flat, band.top))
            if i == 0 or column[i - 1].top < band.bottom:
                run.append(_level(flat[:, ::-1], band.bottom))
    for own, other, segments in ((p.left, p.right, p.walls), (p.right, p.left, p.walls[:, ::-1])):
        _add_walls(pieces, own, other, segments, columns)
    triangles, runs, at = [], [], 0
    for (layer, filament), parts in sorted(pieces.items()):
        count = sum(len(part) for part in parts)
        if count:
            triangles += parts
            runs.append(Run(layer, filament, at, count))
            at += count
    soup = np.concatenate(triangles) if triangles else np.empty((0, 3, 3))
    return Surface(soup.astype(np.float32), tuple(runs))


def _level(flat: NDArray[np.float64], z: float) -> NDArray[np.float64]:
    return np.concatenate([flat, np.full((*flat.shape[:2], 1), z)], axis=2)


def _add_walls(
    pieces: dict[tuple[int, int], list[NDArray[np.float64]]],
    own: Indices,
    other: Indices,
    segments: NDArray[np.float64],
    columns: tuple[Column, ...],
) -> None:
    pair = (own + 1) * (len(columns) + 1) + other + 1
    order = np.argsort(pair, kind="stable")
    kinds, begin = np.unique(pair[order], return_index=True)
    for code, part in zip(kinds.tolist(), np.split(order, begin[1:]), strict=True):
        layer, neighbour = code // (len(columns) + 1) - 1, code % (len(columns) + 1) - 1
        if layer == OUTSIDE:
            continue
        hidden = columns[neighbour] if neighbour != OUTSIDE else ()
        for band in columns[layer]:
            for low, high in _open(band.bottom, band.top, hidden):
                pieces.setdefault((layer, band.filament), []).append(_quads(segments[part], low, high))


def _open(low: float, high: float, hidden: Column) -> list[tuple[float, float]]:
    rest = [(low, high)]
    for band in hidden:
        rest = [
            piece
            for z0, z1 in rest
            for piece in ((z0, min(z1, band.bottom)), (max(z0, band.top), z1))
            if piece[1] > piece[0]
        ]
    return rest


def _quads(segments: NDArray[np.float64], low: float, high: float) -> NDArray[np.float64]:
    u0, v0 = (np.column_stack([segments[:, i], np.full(len(segments), low)]) for i in range(2))
    u1, v1 = (np.column_stack([segments[:, i], np.full(len(segments), high)]) for i in range(2))
    return np.concatenate([np.stack([u0, v0, v1], axis=1), np.stack([u0, v1, u1], axis=1)])
