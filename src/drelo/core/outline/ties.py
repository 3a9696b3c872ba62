"""Bridges that join loose parts, with rounded roots."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.fineness import OFFSET_FIT
from drelo.core.outline.fitting import fitted_outlines
from drelo.core.outline.grow import CRUMB, area_of
from drelo.core.outline.joining import Link, bridge, links
from drelo.core.outline.outline import Outline, only_areas

# A tie runs so far into the parts, against its width, and its root is rounded by so much of it.
REACH, ROOT = 0.75, 0.5
# How far the rounding of a root reaches under the edge of a part, mm.
UNDER = 0.1


def proposed(outlines: Sequence[Outline]) -> tuple[Link, ...]:
    """The fewest and shortest ties that make one part of all; mm."""
    return links(list(shapely.get_parts(area_of(outlines))))


def tie(outlines: Sequence[Outline], link: Link, width: float) -> list[Outline]:
    """The outline of one tie `width` mm wide, its roots rounded; it overlaps the parts that it joins."""
    plain = bridge(link, width, width * REACH)
    return fitted_outlines(_rooted(area_of(outlines), plain, link, width), OFFSET_FIT, CRUMB)


def _rooted(area: BaseGeometry, plain: BaseGeometry, link: Link, width: float) -> BaseGeometry:
    """A bridge whose inner corners with the parts are filled by a radius."""
    radius = width * ROOT
    way = np.array(link.end) - np.array(link.start)
    around = shapely.LineString([link.start, link.end]).buffer(width * 2 + radius) if way.any() else None
    if around is None:
        return plain
    here = shapely.union(shapely.intersection(area, around), plain)
    closed = shapely.buffer(shapely.buffer(here, radius, quad_segs=24), -radius, quad_segs=24)
    near = shapely.LineString([link.start, link.end]).buffer(width / 2 + radius * 1.5)
    # A little under the parts' edges, so that what is fitted to them leaves no slit.
    outside = shapely.buffer(shapely.difference(closed, area), UNDER, join_style="mitre")
    roots = shapely.intersection(shapely.intersection(outside, closed), near)
    whole = only_areas(shapely.union(plain, roots))
    parts: list[BaseGeometry] = list(shapely.get_parts(whole))
    return max(parts, key=lambda g: g.area)
