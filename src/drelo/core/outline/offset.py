"""Areas offset outwards or inwards, border by border where there are many.

Borders that do not meet once they are moved have nothing to do with each other. One by one they take a time that grows
with their number; all at once, each is looked for among all others.
"""

from __future__ import annotations

from itertools import pairwise
from typing import Literal, cast

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.outline import only_areas

# Fewer borders than these are offset at once.
FEW = 24
# So are those of which a larger share meets others.
MOST_MEET = 0.3
_POLYGON = 3
Join = Literal["round", "mitre", "bevel"]
Geometries = NDArray[np.object_]


def offset(
    area: BaseGeometry, by: float, quad_segs: int = 8, join_style: Join = "round", mitre_limit: float = 5.0
) -> BaseGeometry:
    """A valid area offset by so much, mm: outwards, or inwards where it is negative. Same as shapely's buffer."""

    def moved(of: Geometries, way: float) -> Geometries:
        return np.asarray(shapely.buffer(of, way, quad_segs=quad_segs, join_style=join_style, mitre_limit=mitre_limit))

    def at_once() -> BaseGeometry:
        return cast(BaseGeometry, moved(np.array([area]), by)[0])

    parts = shapely.get_parts(only_areas(area))
    if len(parts) + int(shapely.get_num_interior_rings(parts).sum()) < FEW or not by:
        return at_once()
    holes, owner = _holes(parts)
    bounds = np.searchsorted(owner, np.arange(len(parts) + 1))
    shells = moved(np.asarray(shapely.polygons(shapely.get_exterior_ring(parts))), by)
    back = moved(holes, -by) if len(holes) else holes
    of_part = [back[low:high] for low, high in pairwise(bounds.tolist())]
    # A border that crosses itself may fall apart, or have parts that lie over each other: all at once that is told.
    if by > 0 and (shapely.get_type_id(shells) != _POLYGON).any():
        return at_once()
    if by > 0:
        grown = np.array([_punched(shell, _solid(mine)) for shell, mine in zip(shells, of_part, strict=True)])
        group = _clusters(grown)
        if _share(group) <= MOST_MEET:
            return _one(_united(grown, group))
        return at_once()
    group = _clusters(back)
    # A hole that closes round something has an island in it.
    if _share(group) > MOST_MEET or shapely.get_num_interior_rings(shapely.get_parts(back)).any():
        return _one(_solid(moved(parts, by)))
    of_group = [group[low:high] for low, high in pairwise(bounds.tolist())]
    return _one(np.concatenate([_less(*each) for each in zip(shells, of_part, of_group, strict=True)]))


def offset_each(
    areas: Geometries, by: float, quad_segs: int = 8, join_style: Join = "round", mitre_limit: float = 5.0
) -> Geometries:
    """Valid areas offset each by itself, as `offset` does it."""
    moved = np.atleast_1d(
        shapely.buffer(
            np.where(_is_plain(areas), areas, np.array(None)),
            by,
            quad_segs=quad_segs,
            join_style=join_style,
            mitre_limit=mitre_limit,
        )
    )
    for k in np.flatnonzero(~_is_plain(areas)):
        moved[k] = offset(areas[k], by, quad_segs, join_style, mitre_limit)
    return moved


def _is_plain(areas: Geometries) -> NDArray[np.bool_]:
    """Whether areas of one part have few borders."""
    return np.asarray(shapely.get_num_interior_rings(areas) < FEW)


def _holes(parts: Geometries) -> tuple[Geometries, NDArray[np.int64]]:
    """The holes of areas as areas, and the number of the one that each is in, rising."""
    rings, owner = shapely.get_rings(parts, return_index=True)
    is_hole = np.concatenate([[False], owner[1:] == owner[:-1]])
    return np.atleast_1d(shapely.polygons(rings[is_hole])), owner[is_hole]


def _one(parts: Geometries) -> BaseGeometry:
    """Areas that do not meet, as one."""
    return cast(BaseGeometry, shapely.multipolygons(parts))


def _solid(areas: BaseGeometry | Geometries) -> Geometries:
    found = shapely.get_parts(areas)
    return np.asarray(found[~shapely.is_empty(found)])


def _punched(shell: BaseGeometry, holes: Geometries) -> BaseGeometry:
    """An area less holes that lie wholly within it and do not meet."""
    if not len(holes):
        return shell
    outer, *inner = shapely.get_rings(shell)
    return cast(BaseGeometry, shapely.polygons(outer, [*inner, *shapely.get_exterior_ring(holes)]))


def _clusters(areas: Geometries) -> NDArray[np.int32]:
    """The number of the group of areas that meet which each belongs to."""
    count = len(areas)
    if not count:
        return np.zeros(0, np.int32)
    pairs = shapely.STRtree(areas).query(areas)
    one, other = pairs[:, pairs[0] < pairs[1]]
    meets = shapely.intersects(areas[one], areas[other])
    return linked(count, one[meets], other[meets])


def linked(count: int, one: NDArray[np.int64], other: NDArray[np.int64]) -> NDArray[np.int32]:
    """The number of the group that each of so many things is in. one, other: pairs that are of the same group."""
    # Loaded where it is used: most small drawings never ask.
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    links = coo_matrix((np.ones(len(one), bool), (one, other)), (count, count))
    return np.asarray(connected_components(links, directed=False)[1], np.int32)


def _share(group: NDArray[np.int32]) -> float:
    """What share of areas meets another."""
    return float((np.bincount(group)[group] > 1).mean()) if len(group) else 0.0


def _united(areas: Geometries, group: NDArray[np.int32]) -> Geometries:
    """What any of many areas covers, by the groups that meet."""
    is_alone = np.bincount(group)[group] == 1
    met = [_solid(only_areas(shapely.union_all(areas[group == cluster]))) for cluster in np.unique(group[~is_alone])]
    return np.concatenate([_solid(areas[is_alone]), *met])


def _less(shell: BaseGeometry, holes: Geometries, group: NDArray[np.int32]) -> Geometries:
    """The parts of an area less others without holes, some of which may meet each other or its border."""
    if not len(holes) or shell.is_empty:
        return _solid(shell)
    # Apart from its border a hole needs no cut.
    shapely.prepare(shell)
    alone = shapely.contains_properly(shell, holes) & (np.bincount(group)[group] == 1)
    rest = holes[~alone]
    left = _solid(only_areas(shapely.difference(shell, shapely.union_all(rest))) if len(rest) else shell)
    into, of = shapely.STRtree(left).query(holes[alone], predicate="within")
    return np.array([_punched(part, holes[alone][into[of == k]]) for k, part in enumerate(left)], object)
