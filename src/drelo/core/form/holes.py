"""What a maker should know about holes: those that break an edge or lie beside the piece, and those a base closes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.form.base import Base
from drelo.core.form.relief import Part

# How far round a hole its wall is looked for, mm, and which share of it may be missing.
WALL = 0.05
MISSING = 0.01
# A hole in the art is one for a screw or a cord where it is so wide (mm) and so round (4 pi area / perimeter squared).
NARROWEST, WIDEST = 0.8, 10.0
ROUND = 0.98


def remarks_on_holes(parts: Sequence[Part], footprint: BaseGeometry | None, base: Base | None) -> tuple[str, ...]:
    """Remarks. footprint: what lies beneath the art, if anything. base: of a relief."""
    solid = [p.shape for p in parts if not p.hole]
    said = [_of_wall(part, [*solid, *([] if footprint is None else [footprint])]) for part in parts if part.hole]
    if base is not None and base.shape == "outline" and not base.keep_holes:
        said.append(_closed(solid))
    return tuple(s for s in said if s)


def _of_wall(hole: Part, solid: Sequence[BaseGeometry]) -> str:
    ring = shapely.difference(shapely.buffer(hole.shape, WALL), hole.shape)
    around = [shape for shape in solid if shapely.intersects(shape, ring)]
    there = shapely.intersection(ring, shapely.union_all(around)).area if around else 0.0
    name = hole.name or "A hole"
    if there <= MISSING * ring.area:
        return f"{name} lies beside the piece and makes no hole in it. Move it onto the piece."
    if there < (1 - MISSING) * ring.area:
        return f"{name} breaks through the edge. Move it further in, or make it smaller."
    return ""


def _closed(solid: Sequence[BaseGeometry]) -> str:
    """On round holes in the art that a base which follows its outline closes."""
    shapes = np.array(solid, object)
    holes = np.array([shapely.Polygon(r) for p in shapely.get_parts(shapes) for r in p.interiors], object)
    if not len(holes):
        return ""
    area, around = shapely.area(holes), shapely.length(holes)
    wide = 2 * np.sqrt(area / np.pi)
    like = (wide >= NARROWEST) & (wide <= WIDEST) & (4 * np.pi * area >= ROUND * around**2)
    if not like.any():
        return ""
    # A hole in which something else stands is not meant to be looked through.
    tree = shapely.STRtree(shapes)
    filled = np.unique(tree.query(shapely.centroid(holes), predicate="within")[0])
    like[filled] = False
    if not like.any():
        return ""
    size = f"{wide[like].min():.1f} mm wide"
    many = f"{like.sum()} round holes, from {size}, are" if like.sum() > 1 else f"A round hole, {size}, is"
    return f"{many} closed by the base. To go through, set a hole there: in Shape, under Change, To hang it by."
