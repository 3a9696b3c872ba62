"""Who is who: regions recognised again after the outlines changed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

# Boxes that overlap less than this (area shared over area of both) are not the same region.
MIN_OVERLAP = 0.4
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Footprint:
    """How a region was last seen: a point inside it and its box."""

    anchor: tuple[float, float]
    box: Box


def footprint(shape: BaseGeometry) -> Footprint:
    """Footprint of a region, in its own units."""
    spot = shape.point_on_surface()
    return Footprint((round(spot.x, 3), round(spot.y, 3)), tuple(round(v, 3) for v in shape.bounds))  # type: ignore[arg-type]


def recognise(known: Sequence[Footprint], shapes: Sequence[BaseGeometry]) -> list[int | None]:
    """For each known footprint the index of its shape now, or None; no shape is given twice.

    A shape that covers the point counts most, then the overlap of the boxes.
    """
    if not known or not shapes:
        return [None] * len(known)
    array = np.array(list(shapes))
    boxes = shapely.bounds(array)
    places = np.array([one.box for one in known])
    anchors = np.array([one.anchor for one in known])
    # Only where the boxes meet can one be the other.
    which, where = shapely.STRtree(array).query(
        shapely.box(*np.minimum(places[:, :2], anchors).T, *np.maximum(places[:, 2:], anchors).T)
    )
    covers = shapely.intersects_xy(array[where], anchors[which, 0], anchors[which, 1])
    overlap = _overlap(places[which], boxes[where])
    likely = covers | (overlap >= MIN_OVERLAP)
    scores = covers * 0.5 + overlap
    claims = list(zip(scores[likely].tolist(), which[likely].tolist(), where[likely].tolist(), strict=True))
    result: list[int | None] = [None] * len(known)
    taken: set[int] = set()
    for _, i, j in sorted(claims, key=lambda c: (-c[0], c[1], c[2])):
        if result[i] is None and j not in taken:
            result[i] = j
            taken.add(j)
    return result


def _overlap(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    """Of boxes (n, 4), pair by pair: the area that both cover over the area that either covers."""
    low, high = np.maximum(one[:, :2], other[:, :2]), np.minimum(one[:, 2:], other[:, 2:])
    shared = np.prod(np.maximum(high - low, 0), axis=1)
    both = np.prod(one[:, 2:] - one[:, :2], axis=1) + np.prod(other[:, 2:] - other[:, :2], axis=1) - shared
    return np.asarray(np.divide(shared, both, out=np.zeros_like(shared), where=both > 0))
