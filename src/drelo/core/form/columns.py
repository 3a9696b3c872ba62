"""What stands on a region: bands of filament from bottom to top."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.outline import only_areas
from drelo.core.remark import Remark


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
    """One material: #rrggbb and what its body is called. apart: it is printed beside the rest, not joined to it."""

    colour: str
    name: str
    apart: bool = False


@dataclass(frozen=True, eq=False)
class Design:
    """A form worked out, ready to be raised.

    layers: valid polygonal geometries, mm, y up; the last one on top decides what stands on a face.
    columns: one a layer. filaments: what the bands' numbers mean.
    remarks: what the maker should know.
    product: what a stamp prints or a cutter cuts, mm, as drawn. marks: what a cutter presses into it.
    owners: for each layer the number of the region that it is of, -1 for none; empty: none is of any.
    footprint: what the flat view shows beneath the art, mm, as drawn. overhang: what of the art stands out over it.
    datum: z from which the heights of raised regions are counted, mm; None where a region's height alone moves nothing.
    """

    layers: tuple[BaseGeometry, ...]
    columns: tuple[Column, ...]
    filaments: tuple[Filament, ...]
    remarks: tuple[Remark, ...] = ()
    product: BaseGeometry | None = None
    marks: BaseGeometry | None = None
    owners: tuple[int, ...] = ()
    footprint: BaseGeometry | None = None
    overhang: BaseGeometry | None = None
    datum: float | None = None


Level = tuple[BaseGeometry, float]
"""A shape, and the height (mm) of its top or of its floor."""


def crossed(
    tops: Sequence[Level], floors: Sequence[Level], floor: float, filament: int = 0, owners: Sequence[int] = ()
) -> tuple[tuple[BaseGeometry, ...], tuple[Column, ...], tuple[int, ...]]:
    """Layers and columns of what stands below `tops` and above `floors`; of either the last one counts.

    floor: where no floor covers. What lies beneath no top is nothing. owners: for each top the number of its region,
    none by default; the third of the result says the same of the layers.
    """
    above = [(shape, top, who) for (shape, top), who in zip(tops, owners or [-1] * len(tops), strict=True)]
    above = [(shape, top, who) for shape, top, who in above if not shape.is_empty]
    layers = [shape for shape, _, _ in above]
    columns: list[Column] = [(Band(floor, top, filament),) for _, top, _ in above]
    owned = [who for _, _, who in above]
    shapes = np.array(layers, object)
    for deep, low in floors:
        for shape, (_, top, who) in zip(shapely.intersection(shapes, deep), above, strict=True):
            part = only_areas(shape)
            if not part.is_empty:
                layers.append(part)
                columns.append((Band(low, top, filament),) if top > low else ())
                owned.append(who)
    return tuple(layers), tuple(columns), tuple(owned)
