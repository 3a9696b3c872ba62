"""The paths of one layer: walls, then skin where the layer is seen from above or below, then infill."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.outline import only_areas
from drelo.core.rehearsal.hatch import concentric, loops_of, rings, straight
from drelo.core.rehearsal.lines import Floats, Kind, Line, Lines, packed
from drelo.core.rehearsal.order import laid_in_order
from drelo.core.rehearsal.settings import Manner
from drelo.core.rehearsal.thin import middles

# Solid lines run along one diagonal, on the next layer along the other.
DIAGONAL = math.pi / 4
# A patch of skin narrower than this many lines is filled like what is round it.
NARROW = 1.0
MITRE = 2.0
SkinOf = Callable[[BaseGeometry], BaseGeometry]


@dataclass(frozen=True, eq=False)
class Laid:
    """Lines in the order in which they are laid, and what of the area no line reaches, mm."""

    lines: Lines
    missing: BaseGeometry


@dataclass(frozen=True, eq=False)
class Walled:
    """The walls of an area: their lines, what no line reaches, and what is left inside of them."""

    lines: tuple[Line, ...]
    missing: tuple[BaseGeometry, ...]
    rest: BaseGeometry


def walled(area: BaseGeometry, line: float, manner: Manner) -> Walled:
    """Walls round an area. line: width of a line, mm."""
    found: list[Line] = []
    missing: list[BaseGeometry] = []
    rest = area
    for number in range(manner.walls):
        centre = shapely.buffer(rest, -line / 2, join_style="mitre", mitre_limit=MITRE)
        covered = shapely.buffer(centre, line / 2, join_style="mitre", mitre_limit=MITRE)
        thin, left = middles(shapely.difference(rest, covered), line, manner.thinnest * line)
        found += [Line("thin wall", middle.points, middle.width) for middle in thin]
        missing += left
        kind: Kind = "inner wall" if number else "outer wall"
        found += [Line(kind, ring, width) for ring, width in loops_of(centre, line)]
        rest = shapely.buffer(centre, -line / 2, join_style="mitre", mitre_limit=MITRE)
        if rest.is_empty:
            break
    return Walled(tuple(found), tuple(missing), rest)


def laid(area: BaseGeometry, skin_of: SkinOf, line: float, manner: Manner, odd: bool, brim: int = 0) -> Laid:
    """The paths that fill an area.

    skin_of: what of a part of it is to be filled wholly. line: width of a line, mm. odd: whether the layer's number is.
    brim: loops outside of it.
    """
    return filled(area, walled(area, line, manner), skin_of, line, manner, odd, brim)


def filled(
    area: BaseGeometry, walls: Walled, skin_of: SkinOf, line: float, manner: Manner, odd: bool, brim: int = 0
) -> Laid:
    """The same for an area whose walls are known."""
    found = list(walls.lines)
    solid, sparse = _parted(walls.rest, skin_of, line, manner)
    angle = -DIAGONAL if odd else DIAGONAL
    found += [Line("skin", points, line) for points in straight(solid, line, angle, line / 4)]
    found += [Line("infill", points, width) for points, width in _infill(sparse, line, manner, angle)]
    if brim:
        outside = only_areas(shapely.union_all([shapely.Polygon(p.exterior) for p in shapely.get_parts(area)]))
        found += [
            Line("brim", ring, line)
            for number in range(brim)
            for ring in rings(shapely.buffer(outside, line * (number + 0.5), quad_segs=4))
        ]
    return Laid(laid_in_order(packed(found), area), shapely.union_all(list(walls.missing)))


def _parted(rest: BaseGeometry, skin_of: SkinOf, line: float, manner: Manner) -> tuple[BaseGeometry, BaseGeometry]:
    """What is filled wholly, and what sparsely."""
    if manner.infill >= 1 or rest.is_empty:
        return shapely.Polygon(), rest
    solid = skin_of(rest)
    if solid.is_empty:
        return solid, rest if manner.infill > 0 else solid
    if rest.area - solid.area < line * line:
        return rest, shapely.Polygon()
    # Narrow rims of skin are grown to what a few lines can fill.
    half = NARROW * line / 2
    opened = shapely.buffer(solid, -half, quad_segs=2)
    solid = shapely.intersection(rest, shapely.buffer(opened, half + line, join_style="mitre"))
    if manner.infill <= 0:
        return solid, shapely.Polygon()
    return solid, shapely.difference(rest, solid)


def _infill(area: BaseGeometry, line: float, manner: Manner, angle: float) -> list[tuple[Floats, float]]:
    """Lines and their widths."""
    if area.is_empty or manner.infill <= 0:
        return []
    spacing = line / manner.infill
    if manner.pattern == "concentric":
        return [(ring, min(width, line)) for ring, width in concentric(area, spacing)]
    if manner.pattern == "grid" and manner.infill < 1:
        both = [*straight(area, 2 * spacing, DIAGONAL, line), *straight(area, 2 * spacing, -DIAGONAL, line)]
        return [(points, line) for points in both]
    return [(points, line) for points in straight(area, spacing, angle, line / 4)]
