"""The largest size at which shapes fit into another one."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

# How sizes are tried, from the largest down; then halvings of what is between, and of the steps to other places.
SMALLER, SIZES, PLACES = 0.9, 16, 12
# Smaller than so much of what the boxes would allow nothing is sought.
LEAST = 1e-3


def fitted_inside(art: BaseGeometry, room: BaseGeometry) -> tuple[float, tuple[float, float]] | None:
    """Factor and place of the middle of the art's box at which all of it lies in the room; None when nothing fits.

    The middle is sought from the room's own, uphill in the size, so that an odd room is used where it is wide.
    """
    if room.is_empty or art.is_empty:
        return None
    x0, y0, x1, y1 = art.bounds
    left, top, right, bottom = room.bounds
    most = min((right - left) / max(x1 - x0, 1e-9), (bottom - top) / max(y1 - y0, 1e-9))
    # Where the room has no notch, corners alone tell.
    corners = shapely.MultiPoint(shapely.get_coordinates(shapely.convex_hull(art)))
    middle = np.array([x0 + x1, y0 + y1]) / 2
    centred = shapely.transform(corners if _convex(room) else art, lambda xy: xy - middle)
    shapely.prepare(room)

    def size(at: NDArray[np.float64], least: float) -> float:
        """The largest factor at a place; 0 when it is not larger than one known."""

        def fits(factor: float) -> bool:
            return bool(shapely.covers(room, shapely.transform(centred, lambda xy: xy * factor + at)))

        # From large to small: round a notch a large shape may fit where a small one does not.
        low = most
        while not fits(low):
            low *= SMALLER
            if low <= least:
                return 0.0
        high = min(low / SMALLER, most)
        for _ in range(SIZES):
            half = (low + high) / 2
            low, high = (half, high) if fits(half) else (low, half)
        return low

    pole = shapely.get_coordinates(shapely.maximum_inscribed_circle(np.array([room]))[0])[0]
    starts = [np.array([(left + right) / 2, (top + bottom) / 2]), shapely.get_coordinates(room.centroid)[0], pole]
    sizes = [size(at, LEAST * most) for at in starts]
    best, place = max(sizes), starts[int(np.argmax(sizes))]
    if best <= 0:
        return None
    step = max(right - left, bottom - top) / 4
    for _ in range(PLACES):
        for way in ((1, 0), (-1, 0), (0, 1), (0, -1)):
            near = place + step * np.array(way)
            larger = size(near, best)
            if larger > best:
                best, place = larger, near
        step /= 2
    return best, (float(place[0]), float(place[1]))


def _convex(room: BaseGeometry) -> bool:
    return bool(room.area > (1 - 1e-6) * shapely.convex_hull(room).area)
