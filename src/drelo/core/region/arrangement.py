"""The arrangement: all outlines noded on one grid, and the faces between them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.region.cover import topmost
from drelo.core.region.noding import Noded, distinct, near, noded
from drelo.core.region.sweep import Sides, bucketed, joined, sides_of

# The grid of ordinary art, mm: a power of two, so that 32-bit floats hold every coordinate exactly.
GRID = 2.0**-10
# Tiny art takes a finer grid: its longer side spans at least so many steps.
MIN_STEPS = 2**13
# A 32-bit float holds whole numbers up to here exactly.
MAX_STEPS = 2**24
MAX_FACES = 60_000
# A face thinner than this many grid steps (area over half its perimeter) goes to its longest neighbour.
SLIVER_STEPS = 1.5
# Rounds of noding until nothing crosses on the grid; the first does for nearly all art.
MAX_ROUNDS = 8
OUTSIDE = -1

Indices = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Arrangement:
    """A planar subdivision on a grid.

    grid: mm between two grid lines.
    vertices: shape (v, 2), int64, in grid steps.
    edges: shape (e, 2), vertex indices. left, right: shape (e,), face on either side, OUTSIDE for none.
    top: shape (f,), for each face the last layer that covers it, OUTSIDE for none.
    areas: shape (f,), mm².
    border_edge, border_layer: shape (m,), which edges are borders of which layers; layers: how many there are.
    """

    grid: float
    vertices: Indices
    edges: Indices
    left: Indices
    right: Indices
    top: Indices
    areas: NDArray[np.float64]
    border_edge: Indices
    border_layer: Indices
    layers: int


def grid_for(extent: float) -> float:
    """Grid (mm) for art whose longer side has `extent` mm.

    Raises Refusal when the art is so large that the grid no longer holds it.
    """
    if not (extent > 0 and math.isfinite(extent)):
        raise Refusal("art.no-extent", "art")
    if extent / GRID > MAX_STEPS:
        raise Refusal("art.too-large", "art.width", extent=extent, metres=MAX_STEPS * GRID / 1000)
    grid = GRID
    while extent / grid < MIN_STEPS:
        grid /= 2
    return grid


def arrange(layers: Sequence[BaseGeometry], grid: float) -> Arrangement:
    """Node the borders of all layers on the grid and find the faces between them.

    layers: valid polygonal geometries in mm, the last one on top.

    Raises Refusal when nothing is enclosed or the art has too many faces.
    """
    segments, layer = _borders(layers, grid)
    if not len(segments):
        raise Refusal("art.no-outline", "art")
    return _arranged(*distinct(segments), layer, len(layers), grid)


def overlaid(a: Arrangement, layers: Sequence[BaseGeometry]) -> Arrangement:
    """An arrangement with more layers on top of its own; only what lies near them is noded again.

    layers: in grid steps. Raises Refusal as `arrange` does.
    """
    more, layer = _borders(layers, 1.0)
    settled = a.vertices[a.edges]
    segments, which = distinct(np.concatenate([settled, more]))
    which = np.concatenate([which[a.border_edge], which[len(settled) :]])
    layer = np.concatenate([a.border_layer, layer + a.layers])
    return _arranged(segments, which, layer, a.layers + len(layers), a.grid, near(segments, more))


def _arranged(
    segments: Indices,
    which: Indices,
    layer: Indices,
    layers: int,
    grid: float,
    among: NDArray[np.bool_] | None = None,
) -> Arrangement:
    """An arrangement of segments that all differ; `which` of them is a border of which `layer`."""
    for _ in range(MAX_ROUNDS):
        found = noded(segments, among)
        if found is None:
            raise Refusal("art.too-many-crossings", "art")
        edge, owner, used = _odd(found, which, layer, layers)
        first, last = found.first[used], found.last[used]
        if not len(first):
            raise Refusal("art.too-thin", "art")
        sides = sides_of(found.points, first, last)
        if sides is not None:
            break
        # A turn aside to one grid point led through another.
        segments, which, layer, among = found.points[np.stack([first, last], axis=1)], edge, owner, None
    else:
        raise Refusal("art.too-close", "art")
    vertices, ends = _used(found.points, np.stack([first, last], axis=1))
    areas = _areas(vertices, ends, sides) * (grid * grid)
    top = topmost(sides, edge, owner, layers)
    merged = _merged(grid, vertices, ends, sides, top, areas, layers)
    if len(merged.areas) > MAX_FACES:
        raise Refusal("art.too-many-faces", "art", count=len(merged.areas), most=MAX_FACES)
    return _without_slivers(merged)


def _merged(
    grid: float, vertices: Indices, ends: Indices, sides: Sides, top: Indices, areas: NDArray[np.float64], layers: int
) -> Arrangement:
    """An arrangement in which faces beside each other are one where the same layer is on top."""
    left, right = top[sides.above], top[sides.below]
    hidden = left == right
    face = joined(sides.count, sides.above[hidden], sides.below[hidden])
    # The lowest of the faces that are one stands for them, the unbounded one is no face.
    first = np.flatnonzero(face == np.arange(sides.count))
    number = np.full(sides.count, OUTSIDE)
    number[first[1:]] = np.arange(len(first) - 1)
    face = number[face]
    kept = ~hidden
    vertices, edges = _used(vertices, ends[kept])
    border = np.concatenate([left[kept], right[kept]])
    edge = np.tile(np.arange(len(edges)), 2)[border >= 0]
    sums = np.zeros(len(first) - 1)
    np.add.at(sums, face[1:][face[1:] >= 0], areas[face[1:] >= 0])
    return Arrangement(
        grid,
        vertices,
        edges,
        face[sides.above[kept]],
        face[sides.below[kept]],
        top[first[1:]],
        sums,
        edge,
        border[border >= 0],
        layers,
    )


def _borders(layers: Sequence[BaseGeometry], grid: float) -> tuple[Indices, Indices]:
    """Segments of the layers' borders, shape (n, 2, 2), grid steps; and the layer of each, shape (n,)."""
    lines, layer_of_line = shapely.get_parts(shapely.boundary(np.array(layers, object)), return_index=True)
    coordinates, line = shapely.get_coordinates(lines, return_index=True)
    steps = np.round(coordinates / grid).astype(np.int64)
    real = (line[:-1] == line[1:]) & (steps[:-1] != steps[1:]).any(axis=1)
    segments = np.stack([steps[:-1][real], steps[1:][real]], axis=1)
    return segments, layer_of_line[line[:-1][real]].astype(np.int64)


def _odd(found: Noded, which: Indices, layer: Indices, layers: int) -> tuple[Indices, Indices, Indices]:
    """Edge and layer, shape (m,), of each edge that is a border of the layer an odd number of times; and the pieces
    that these edges are. A border there and back is none.

    which, layer: shape (n,), segments that were noded, and the layer that each time has one as its border.
    """
    which, layer = np.divmod(_odd_ones(which * layers + layer), layers)
    # Every segment has a bucket, those that are no border any more as well.
    last = max(int(which.max(initial=0)), int(found.source.max(initial=0)))
    order, begins = bucketed(found.source, last + 1)
    many = np.diff(begins)[which]
    at = np.repeat(begins[which] - np.cumsum(many) + many, many) + np.arange(many.sum())
    piece, owner = np.divmod(_odd_ones(found.piece[order[at]] * layers + np.repeat(layer, many)), layers)
    new = np.diff(piece, prepend=-1) > 0
    return np.cumsum(new) - 1, owner, piece[new]


def _odd_ones(names: Indices) -> Indices:
    """The different names that occur an odd number of times, in their order."""
    ordered = np.sort(names)
    begins = np.flatnonzero(np.diff(ordered, prepend=-1))
    odd: Indices = ordered[begins[np.diff(begins, append=len(ordered)) % 2 == 1]]
    return odd


def _used(points: Indices, ends: Indices) -> tuple[Indices, Indices]:
    """The points that edges end in, and the edges by their numbers."""
    used = np.zeros(len(points), bool)
    used[ends] = True
    return points[used], (np.cumsum(used) - 1)[ends]


def _areas(vertices: Indices, edges: Indices, sides: Sides) -> NDArray[np.float64]:
    """Areas of all faces but the unbounded one, grid steps²; exact until it is halved."""
    (ax, ay), (bx, by) = vertices[edges[:, 0]].T, vertices[edges[:, 1]].T
    twice = np.zeros(sides.count, np.int64)
    np.add.at(twice, sides.above, ax * by - ay * bx)
    np.subtract.at(twice, sides.below, ax * by - ay * bx)
    return twice[1:] / 2


def _without_slivers(a: Arrangement) -> Arrangement:
    """Faces that the grid hardly carries take the layers of the neighbour with whom they share the longest border."""
    way = (a.vertices[a.edges[:, 1]] - a.vertices[a.edges[:, 0]]).astype(np.float64)
    length = np.hypot(way[:, 0], way[:, 1])
    faces = len(a.areas)
    around = np.bincount(a.left[a.left >= 0], length[a.left >= 0], minlength=faces)
    around += np.bincount(a.right[a.right >= 0], length[a.right >= 0], minlength=faces)
    thin = a.areas / a.grid**2 < SLIVER_STEPS * around / 2
    if not thin.any():
        return a
    top = a.top.copy()
    # Borders of thin faces only, as face, neighbour, length.
    face = np.concatenate([a.left, a.right])
    neighbour = np.concatenate([a.right, a.left])
    shared = np.concatenate([length, length])
    mine = (face >= 0) & thin[face]
    order = np.argsort(face[mine], kind="stable")
    face, neighbour, shared = face[mine][order], neighbour[mine][order], shared[mine][order]
    which = np.flatnonzero(thin)
    begin = np.searchsorted(face, which)
    end = np.searchsorted(face, which, side="right")
    for at in np.argsort(a.areas[which]):
        span = slice(begin[at], end[at])
        others, where = np.unique(neighbour[span], return_inverse=True)
        best = int(others[np.argmax(np.bincount(where, shared[span]))])
        top[which[at]] = OUTSIDE if best == OUTSIDE else top[best]
    return replace(a, top=top)
