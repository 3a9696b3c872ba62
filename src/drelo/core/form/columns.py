"""What stands on a region: bands of filament from bottom to top."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry


@dataclass(frozen=True, order=True)
class Band:
    """Filament number `filament` from `bottom` to `top`, mm."""

    bottom: float
    top: float
    filament: int


Column = tuple[Band, ...]
"""Bands from bottom to top, none overlapping; empty where there is nothing."""


@dataclass(frozen=True)
class Filament:
    """One material: #rrggbb and what its body is called."""

    colour: str
    name: str


@dataclass(frozen=True, eq=False)
class Design:
    """A form worked out, ready to be raised.

    layers: valid polygonal geometries, mm, y up; the last one on top decides what stands on a face.
    columns: one a layer. filaments: what the bands' numbers mean.
    remarks: what the maker should know.
    product: what a stamp prints or a cutter cuts, mm, as drawn.
    owners: for each layer the number of the region that it is of, -1 for none; empty: none is of any.
    footprint: what the flat view shows beneath the art, mm, as drawn. overhang: what of the art stands out over it.
    """

    layers: tuple[BaseGeometry, ...]
    columns: tuple[Column, ...]
    filaments: tuple[Filament, ...]
    remarks: tuple[str, ...] = ()
    product: BaseGeometry | None = None
    owners: tuple[int, ...] = ()
    footprint: BaseGeometry | None = None
    overhang: BaseGeometry | None = None


Level = tuple[BaseGeometry, float]
"""A shape, and the height (mm) of its top or of its floor."""
# Shapes are crossed on this grid, mm: the one on which they will be arranged.
GRID = 2.0**-10


def crossed(
    tops: Sequence[Level], floors: Sequence[Level], floor: float, filament: int = 0
) -> tuple[tuple[BaseGeometry, ...], tuple[Column, ...]]:
    """Layers and columns of what stands below `tops` and above `floors`; of either the last one counts.

    floor: where no floor covers. What lies beneath no top is nothing.
    """
    above = [(shape, top) for shape, top in tops if not shape.is_empty]
    below = [(shape, low) for shape, low in floors if not shape.is_empty]
    if not below:
        return tuple(s for s, _ in above), tuple((Band(floor, top, filament),) for _, top in above)
    borders = np.array([shapely.boundary(shape) for shape, _ in (*above, *below)])
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all(borders, grid_size=GRID)]))
    tree = shapely.STRtree(shapely.point_on_surface(faces))
    under, over = (_last(tree, [shape for shape, _ in levels], len(faces)) for levels in (below, above))
    layers, columns = [], []
    for high, low in np.unique(np.column_stack([over, under]), axis=0).tolist():
        if high < 0:
            continue
        bottom, top = (below[low][1] if low >= 0 else floor), above[high][1]
        layers.append(shapely.coverage_union_all(faces[(over == high) & (under == low)]))
        columns.append((Band(bottom, top, filament),) if top > bottom else ())
    return tuple(layers), tuple(columns)


def _last(
    tree: shapely.STRtree, shapes: Sequence[BaseGeometry], count: int
) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    array = np.array(shapes)
    shapely.prepare(array)
    layer, face = tree.query(array, predicate="intersects")
    result = np.full(count, -1)
    np.maximum.at(result, face, layer)
    return result
