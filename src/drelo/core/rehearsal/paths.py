"""The paths of one layer: walls, then skin where the layer is seen from above or below, then infill."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.offset import offset_each
from drelo.core.outline.outline import only_areas
from drelo.core.rehearsal.hatch import concentric, rings, rings_of, straight
from drelo.core.rehearsal.layers import ROUNDING
from drelo.core.rehearsal.lines import Floats, Kind, Line, Lines, packed
from drelo.core.rehearsal.order import laid_in_order
from drelo.core.rehearsal.settings import Manner
from drelo.core.rehearsal.thin import middles

# Solid lines run along one diagonal, on the next layer along the other.
DIAGONAL = math.pi / 4
# A patch of skin narrower than this many lines is filled like what is round it.
NARROW = 1.0
MITRE = 2.0
# Where skin has more holes than this it is looked first whether anything is left between them.
MANY = 200
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
    # What goes inwards meets nothing of another part: each part is worked on by itself.
    parts = shapely.get_parts(only_areas(area))
    for number in range(manner.walls):
        centres, owner = shapely.get_parts(
            offset_each(parts, -line / 2, join_style="mitre", mitre_limit=MITRE), return_index=True
        )
        is_there = ~shapely.is_empty(centres)
        centres, owner = centres[is_there], owner[is_there]
        # Borders that lie on each other would take thirty times as long to cut.
        covered = offset_each(centres, line / 2 + ROUNDING, join_style="mitre", mitre_limit=MITRE)
        inside = offset_each(centres, -line / 2, join_style="mitre", mitre_limit=MITRE)
        narrow = shapely.get_parts(shapely.difference(parts, _by_owner(covered, owner, len(parts))))
        thin, left = middles(_together(narrow), line, manner.thinnest * line)
        found += [Line("thin wall", middle.points, middle.width) for middle in thin]
        missing += left
        kind: Kind = "inner wall" if number else "outer wall"
        found += [Line(kind, ring, width) for ring, width in _loops(centres, covered, inside, line)]
        parts = shapely.get_parts(inside)
        parts = parts[~shapely.is_empty(parts)]
        if not len(parts):
            break
    return Walled(tuple(found), tuple(missing), _together(parts))


def _loops(
    centres: NDArray[np.object_], covered: NDArray[np.object_], inside: NDArray[np.object_], line: float
) -> list[tuple[Floats, float]]:
    """The borders of areas as lines, each as wide as it has room: narrower where they would lie on each other."""
    lengths = shapely.length(centres)
    outside = shapely.area(covered) - ROUNDING * lengths
    widths = np.minimum(line, (outside - shapely.area(inside)) / lengths)
    found, part = rings_of(centres)
    return list(zip(found, widths[part].tolist(), strict=True))


def _by_owner(areas: NDArray[np.object_], owner: NDArray[np.int64], count: int) -> NDArray[np.object_]:
    """The areas of each owner as one, nothing where it has none. owner: rising."""
    one = np.full(count, shapely.Polygon(), object)
    one[owner] = areas
    for several in np.flatnonzero(np.bincount(owner, minlength=count) > 1):
        one[several] = shapely.union_all(areas[owner == several])
    return one


def _together(parts: NDArray[np.object_]) -> BaseGeometry:
    """Areas that do not meet, as one."""
    return shapely.MultiPolygon([p for p in parts if p.geom_type == "Polygon" and not p.is_empty])


def laid(area: BaseGeometry, skin_of: SkinOf, line: float, manner: Manner, odd: bool, brim: int = 0) -> Laid:
    """The paths that fill an area.

    skin_of: what of a part of it is to be filled wholly. line: width of a line, mm. odd: whether the layer's number is.
    brim: loops outside of it.
    """
    walls = walled(area, line, manner)
    return filled(area, walls, parted(walls.rest, skin_of, line, manner), line, manner, odd, brim)


def filled(
    area: BaseGeometry,
    walls: Walled,
    inside: tuple[BaseGeometry, BaseGeometry],
    line: float,
    manner: Manner,
    odd: bool,
    brim: int = 0,
) -> Laid:
    """The same for an area whose walls are known, and what inside of them is filled wholly and sparsely."""
    found = list(walls.lines)
    solid, sparse = inside
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


def parted(rest: BaseGeometry, skin_of: SkinOf, line: float, manner: Manner) -> tuple[BaseGeometry, BaseGeometry]:
    """What inside of walls is filled wholly, and what sparsely."""
    if manner.infill >= 1 or rest.is_empty:
        return shapely.Polygon(), rest
    solid = skin_of(rest)
    if solid.is_empty:
        return solid, rest if manner.infill > 0 else solid
    if rest.area - solid.area < line * line or _is_narrow(rest, solid, line):
        return rest, shapely.Polygon()
    parts = shapely.get_parts(rest)
    grown, owner = _patches(parts, only_areas(solid), line)
    has = np.zeros(len(parts), bool)
    has[owner] = True
    whole = shapely.intersection(parts[owner], grown)
    if manner.infill <= 0:
        return _united(whole), shapely.Polygon()
    return _united(whole), _united([*parts[~has], *shapely.difference(parts[owner], grown)])


def _is_narrow(rest: BaseGeometry, solid: BaseGeometry, line: float) -> bool:
    """Whether skin, which grows by a line on both sides, leaves no room for another between its many holes."""
    holes = int(shapely.get_num_interior_rings(shapely.get_parts(solid)).sum())
    if holes < MANY:
        return False
    hidden = shapely.get_parts(shapely.difference(rest, solid))
    return bool(shapely.is_empty(shapely.buffer(hidden, -1.5 * line, quad_segs=2)).all())


def _patches(
    parts: NDArray[np.object_], solid: BaseGeometry, line: float
) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
    """Skin, its narrow rims grown to what a few lines can fill, as one area for each part; and the part's number."""
    patches = shapely.get_parts(solid)
    half = NARROW * line / 2
    opened = shapely.get_parts(offset_each(patches, -half, quad_segs=2))
    opened = opened[~shapely.is_empty(opened)]
    grown = offset_each(opened, half + line, join_style="mitre")
    # Each lies in one part, and fills no other beyond a gap.
    at = shapely.get_coordinates(shapely.point_on_surface(opened))
    shapely.prepare(parts)
    patch, near = shapely.STRtree(parts).query(shapely.points(at))
    is_in = shapely.contains_xy(parts[near], *at[patch].T)
    patch, near = patch[is_in], near[is_in]
    order = np.argsort(near, kind="stable")
    owner, begin = np.unique(near[order], return_index=True)
    of_part = np.split(grown[patch[order]], begin[1:])
    return np.array([one[0] if len(one) == 1 else shapely.union_all(one) for one in of_part], object), owner


def _united(areas: Sequence[BaseGeometry] | NDArray[np.object_]) -> BaseGeometry:
    """Areas that do not meet, as one."""
    return _together(shapely.get_parts([only_areas(area) for area in areas]))


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
