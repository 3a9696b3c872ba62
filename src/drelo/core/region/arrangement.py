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

# The grid of ordinary art, mm: a power of two, so that 32-bit floats hold every coordinate exactly.
GRID = 2.0**-10
# Tiny art takes a finer grid: its longer side spans at least so many steps.
MIN_STEPS = 2**13
# A 32-bit float holds whole numbers up to here exactly.
MAX_STEPS = 2**24
MAX_FACES = 60_000
# A face thinner than this many grid steps (area over half its perimeter) goes to its longest neighbour.
SLIVER_STEPS = 1.5
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
    """

    grid: float
    vertices: Indices
    edges: Indices
    left: Indices
    right: Indices
    top: Indices
    areas: NDArray[np.float64]


def grid_for(extent: float) -> float:
    """Grid (mm) for art whose longer side has `extent` mm.

    Raises Refusal when the art is so large that the grid no longer holds it.
    """
    if not (extent > 0 and math.isfinite(extent)):
        raise Refusal("The art has no extent, so there is nothing to raise.", "art")
    if extent / GRID > MAX_STEPS:
        raise Refusal(
            f"The art is {extent:.0f} mm across; at most {MAX_STEPS * GRID / 1000:.0f} m can be built.",
            "art.width",
        )
    grid = GRID
    while extent / grid < MIN_STEPS:
        grid /= 2
    return grid


def arrange(layers: Sequence[BaseGeometry], grid: float) -> Arrangement:
    """Node the borders of all layers on the grid and find the faces between them.

    layers: valid polygonal geometries in mm, the last one on top.

    Raises Refusal when nothing is enclosed or the art has too many faces.
    """
    # Whole grid steps are exact in floats, so the noding works in those.
    scaled = [shapely.transform(g, lambda xy: xy / grid) for g in layers]
    borders = [shapely.boundary(g) for g in scaled if not g.is_empty]
    if not borders:
        raise Refusal("The art is empty: there is no closed outline to raise.", "art")
    noded = shapely.union_all(np.array(borders), grid_size=1.0)
    faces = shapely.get_parts(shapely.polygonize([noded]))
    if not len(faces):
        raise Refusal(
            "The art is so thin that no area is left on the grid. Make it larger or thicken its lines.", "art"
        )
    if len(faces) > MAX_FACES:
        raise Refusal(
            f"The art falls into {len(faces)} faces; at most {MAX_FACES} can be built. "
            "Simplify it or drop small parts.",
            "art",
        )
    return _without_slivers(_edges(faces, _top(scaled, faces), grid))


def _top(scaled: Sequence[BaseGeometry], faces: NDArray[np.object_]) -> Indices:
    shapes = np.array(scaled)
    shapely.prepare(shapes)
    layer, face = shapely.STRtree(shapely.point_on_surface(faces)).query(shapes, predicate="intersects")
    top = np.full(len(faces), OUTSIDE)
    np.maximum.at(top, face, layer)
    return top


def _edges(faces: NDArray[np.object_], top: Indices, grid: float) -> Arrangement:
    faces = shapely.orient_polygons(faces)
    rings, face_of_ring = shapely.get_rings(faces, return_index=True)
    coordinates, ring_of_point = shapely.get_coordinates(rings, return_index=True)
    steps = np.round(coordinates).astype(np.int64)
    # Each ring repeats its first point: every point but a ring's last begins an edge.
    begins = ring_of_point[:-1] == ring_of_point[1:]
    low = steps.min(axis=0)
    key = (steps[:, 0] - low[0]) * (MAX_STEPS * 4) + (steps[:, 1] - low[1])
    _, first, vertex = np.unique(key, return_index=True, return_inverse=True)
    vertices = steps[first]
    start, end = vertex[:-1][begins], vertex[1:][begins]
    face = face_of_ring[ring_of_point[:-1]][begins]
    count = len(vertices)
    forward = start < end
    name = np.where(forward, start * count + end, end * count + start)
    names, edge = np.unique(name, return_inverse=True)
    left, right = np.full(len(names), OUTSIDE), np.full(len(names), OUTSIDE)
    left[edge[forward]] = face[forward]
    right[edge[~forward]] = face[~forward]
    edges = np.stack(np.divmod(names, count), axis=1)
    areas = shapely.area(faces) * grid * grid
    return Arrangement(grid, vertices, edges, left, right, top, areas)


def _without_slivers(a: Arrangement) -> Arrangement:
    """Faces that the grid hardly carries take the layers of the neighbour with whom they share the longest border."""
    length = np.linalg.norm(np.diff(a.vertices[a.edges], axis=1)[:, 0].astype(np.float64), axis=1)
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
