"""Places on a contour, as the number of a segment plus the parameter on it; stretches cut out and put in."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.combine import part_of, steps_of
from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.fineness import ABOUT_SHARE

SAME = 1e-9


def nearest(contour: Contour, points: Points) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The nearest place on a contour to each point, and how far off it is; both of shape (n,)."""
    box = contour.bounds
    tolerance = max(box[2] - box[0], box[3] - box[1], 1e-9) * ABOUT_SHARE
    segment, low, high = steps_of(contour, tolerance)
    flat = contour.flattened(tolerance)
    starts = flat if contour.closed else flat[:-1]
    ends = np.roll(flat, -1, axis=0) if contour.closed else flat[1:]
    way = ends - starts
    square = np.maximum((way**2).sum(axis=1), 1e-300)
    p = np.asarray(points, np.float64).reshape(-1, 2)
    share = np.clip(((p[:, None] - starts) * way).sum(axis=2) / square, 0, 1)
    off = np.hypot(*np.moveaxis(starts + share[..., None] * way - p[:, None], 2, 0))
    best = np.argmin(off, axis=1)
    row = np.arange(len(p))
    t = low[best] + (high[best] - low[best]) * share[row, best]
    return segment[best] + np.minimum(t, 1 - SAME), off[row, best]


def point_at(contour: Contour, place: float) -> Points:
    """The point at a place, shape (2,)."""
    segment, t = split_place(contour, place)
    return np.asarray(part_of(contour.curves[segment], 0.0, t)[3])


def split_place(contour: Contour, place: float) -> tuple[int, float]:
    """Segment and parameter."""
    segment = int(np.clip(np.floor(place), 0, len(contour) - 1))
    return segment, float(np.clip(place - segment, 0.0, 1.0))


def stretch(contour: Contour, start: float, end: float) -> Contour:
    """The open stretch from one place to another along the contour; on a closed one it may pass its start."""
    count = len(contour)
    if contour.closed and end <= start:
        end += count
    curves, straight = [], []
    segment = int(np.floor(start))
    while segment < end - SAME:
        low = max(start - segment, 0.0)
        high = min(end - segment, 1.0)
        if high - low > SAME:
            index = segment % count
            curves.append(part_of(contour.curves[index], low, high))
            straight.append(bool(contour.straight[index]))
        segment += 1
    return Contour(np.array(curves).reshape(-1, 4, 2), np.array(straight, bool), False)


def spliced(contour: Contour, start: float, end: float, new: Contour) -> Contour:
    """The contour with the stretch between two places replaced by another that joins them."""
    if contour.closed:
        rest = stretch(contour, end, start)
        parts = [new, rest] if len(rest) else [new]
    else:
        head = stretch(contour, 0.0, start) if start > SAME else None
        tail = stretch(contour, end, float(len(contour))) if end < len(contour) - SAME else None
        parts = [p for p in (head, new, tail) if p is not None and len(p)]
    curves = np.concatenate([p.curves for p in parts])
    straight = np.concatenate([p.straight for p in parts])
    return Contour(curves, straight, contour.closed)


def line(start: Points, end: Points) -> Contour:
    """One straight segment."""
    third = (end - start) / 3
    return Contour(np.array([[start, start + third, end - third, end]]), np.ones(1, bool), False)
