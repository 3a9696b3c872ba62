"""What a print or a biscuit would not forgive."""

from __future__ import annotations

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.outline.clearance import Narrow, narrowest
from drelo.core.outline.contour import polygon
from drelo.core.outline.outline import Outline


def polygonal(shape: BaseGeometry) -> list[Outline]:
    """Outlines of lines, one a connected part."""
    return [
        Outline(
            polygon(shapely.get_coordinates(part.exterior)[:-1]),
            tuple(polygon(shapely.get_coordinates(hole)[:-1]) for hole in part.interiors),
        )
        for part in shapely.get_parts(shapely.orient_polygons(shape))
        if not part.is_empty
    ]


def narrow_places(shape: BaseGeometry) -> tuple[Narrow | None, Narrow | None]:
    """The narrowest neck and the narrowest gap of a shape, mm."""
    necks, gaps = narrowest(polygonal(shape))
    return (necks[0] if necks else None), (gaps[0] if gaps else None)
