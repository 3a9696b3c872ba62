"""What a maker should know about holes: those that break an edge or lie beside the piece, and those a base closes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.form.base import Base
from drelo.core.form.relief import Part
from drelo.core.remark import Remark

# How far round a hole its wall is looked for, mm, and which share of it may be missing.
WALL = 0.05
MISSING = 0.01
# A hole in the art is one for a screw or a cord where it is so wide (mm) and so round (4 pi area / perimeter squared).
NARROWEST, WIDEST = 0.8, 10.0
ROUND = 0.98


def remarks_on_holes(parts: Sequence[Part], footprint: BaseGeometry | None, base: Base | None) -> tuple[Remark, ...]:
    """Remarks. footprint: what lies beneath the art, if anything. base: of a relief."""
    solid = [p.shape for p in parts if not p.hole]
    around = [*solid, *([] if footprint is None else [footprint])]
    said = [_of_wall(part, around) for part in parts if part.hole]
    if base is not None and base.shape == "outline" and not base.keep_holes:
        said.append(_closed(solid))
    return tuple(remark for remark in said if remark is not None)


def _of_wall(hole: Part, solid: Sequence[BaseGeometry]) -> Remark | None:
    ring = shapely.difference(shapely.buffer(hole.shape, WALL), hole.shape)
    around = [shape for shape in solid if shapely.intersects(shape, ring)]
    there = shapely.intersection(ring, shapely.union_all(around)).area if around else 0.0
    name = hole.name or "A hole"
    if there <= MISSING * ring.area:
        return Remark(f"{name} lies off the piece. Move it onto the piece.", _middle(hole.shape))
    if there < (1 - MISSING) * ring.area:
        return Remark(f"{name} breaks through the edge. Move it further in, or make it smaller.", _middle(hole.shape))
    return None


def _middle(shape: BaseGeometry) -> tuple[float, float]:
    return shape.centroid.x, shape.centroid.y


def _closed(solid: Sequence[BaseGeometry]) -> Remark | None:
    """On round holes in the art that a base which follows its outline closes."""
    shapes = np.array(solid, object)
    holes = np.array([shapely.Polygon(r) for p in shapely.get_parts(shapes) for r in p.interiors], object)
    if not len(holes):
        return None
    area, around = shapely.area(holes), shapely.length(holes)
    wide = 2 * np.sqrt(area / np.pi)
    like = (wide >= NARROWEST) & (wide <= WIDEST) & (4 * np.pi * area >= ROUND * around**2)
    if not like.any():
        return None
    # A hole in which something else stands is not meant to be looked through.
    tree = shapely.STRtree(shapes)
    filled = np.unique(tree.query(shapely.centroid(holes), predicate="within")[0])
    like[filled] = False
    if not like.any():
        return None
    size = f"{wide[like].min():.1f} mm wide"
    many = f"{like.sum()} round holes, from {size} on, are" if like.sum() > 1 else f"A round hole, {size}, is"
    first = int(np.flatnonzero(like)[0])
    return Remark(f"{many} closed by the base.", _middle(holes[first]), "hole", float(wide[first]))
