"""Manual changes to traced outlines, done again when the picture is traced otherwise."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from drelo.core.outline.contour import Contour, Points
from drelo.core.outline.fitting import outlines_of
from drelo.core.outline.outline import Outline
from drelo.core.outline.path_data import read_path
from drelo.core.outline.place import nearest, point_at, spliced
from drelo.core.piece.pictures import Mend

# A changed stretch still fits where both its ends lie this close to the new outline, px, or a share of its length.
CLOSE, SHARE = 2.5, 0.06
# Nodes nearer to each other than this (px) are the same.
SAME = 1e-3


def mended(outline: Outline, mend: Mend, pixel: float) -> Outline | None:
    """The outline with the change, as it was made or done again; None where it no longer fits.

    pixel: mm of one of the picture's.
    """
    was, now = read_path(mend.was), read_path(mend.now)
    same, close = SAME * pixel, CLOSE * pixel
    if _same(outline.contours, was, same):
        return _as_outline(now, outline)
    if len(was) != len(now):
        return None
    contours = list(outline.contours)
    for before, after in zip(was, now, strict=True):
        if _same((before,), (after,), same):
            continue
        at = _like(contours, before, close)
        if at is None:
            return None
        again = _again(contours[at], before, after, same, close)
        if again is None:
            return None
        contours[at] = again
    return _as_outline(contours, outline)


def _as_outline(contours: Sequence[Contour], before: Outline) -> Outline | None:
    """The outline of contours; it runs the way it ran before, so that nodes keep their numbers."""
    found = outlines_of([c for c in contours if c.closed])
    if not found:
        return None
    largest = max(found, key=lambda o: o.area)
    if (largest.outer.area > 0) == (before.outer.area > 0):
        return largest
    return Outline(largest.outer.reversed(), tuple(h.reversed() for h in largest.holes))


def _same(one: Sequence[Contour], other: Sequence[Contour], same: float) -> bool:
    return len(one) == len(other) and all(
        len(a) == len(b) and bool(np.abs(a.curves - b.curves).max() < same) for a, b in zip(one, other, strict=True)
    )


def _like(contours: Sequence[Contour], before: Contour, close: float) -> int | None:
    """Which contour lies where one lay before."""
    box = np.array(before.bounds)
    reach = close + SHARE * max(box[2] - box[0], box[3] - box[1])
    off = [float(np.abs(np.array(c.bounds) - box).max()) for c in contours]
    best = int(np.argmin(off))
    return best if off[best] < 4 * reach else None


def _again(contour: Contour, before: Contour, after: Contour, same: float, close: float) -> Contour | None:
    """What changed from `before` to `after`, put into a contour that lies where `before` lay."""
    result = contour
    for old, new in changes(before, after, same):
        ends = np.array([old.curves[0, 0], old.curves[-1, 3]])
        middle = point_at(old, len(old) / 2)
        box = old.bounds
        reach = close + SHARE * max(box[2] - box[0], box[3] - box[1])
        places, off = nearest(result, np.array([*ends, middle]))
        if off[:2].max() > reach:
            return None
        start, end, way = (float(p) for p in places)
        count = len(result)
        inside = (way - start) % count <= (end - start) % count
        if start == end:
            return None
        if not inside:
            start, end = end, start
        piece = new if inside else new.reversed()
        result = spliced(result, start, end, _between(piece, point_at(result, start), point_at(result, end)))
    return result


def changes(before: Contour, after: Contour, same: float = SAME) -> list[tuple[Contour, Contour]]:
    """Stretches of one contour that another has otherwise: the old and the new, between nodes that both have."""
    old, new = _nodes(before), _nodes(after)
    pairs = _pairs(old, new, same)
    if len(pairs) < 2:
        return [(_whole(before), _whole(after))]
    found = []
    for (i, k), (j, m) in zip(pairs, [*pairs[1:], (pairs[0][0] + len(old), pairs[0][1] + len(new))], strict=True):
        one, other = _run(before, i, j), _run(after, k, m)
        if len(one) != len(other) or np.abs(one.curves - other.curves).max() >= same:
            found.append((one, other))
    return found


def _nodes(contour: Contour) -> Points:
    return contour.curves[:, 0]


def _pairs(old: Points, new: Points, same: float) -> list[tuple[int, int]]:
    """Nodes that both have, in the order of both."""
    apart = np.hypot(*np.moveaxis(old[:, None] - new[None], 2, 0))
    pairs: list[tuple[int, int]] = []
    for i in range(len(old)):
        k = int(np.argmin(apart[i]))
        if apart[i, k] < same and (not pairs or k > pairs[-1][1]):
            pairs.append((i, k))
    return pairs


def _run(contour: Contour, begin: int, end: int) -> Contour:
    index = np.arange(begin, end) % len(contour)
    return Contour(contour.curves[index], contour.straight[index], False)


def _whole(contour: Contour) -> Contour:
    return Contour(contour.curves, contour.straight, False)


def _between(piece: Contour, start: Points, end: Points) -> Contour:
    """A stretch moved so that it begins and ends at given points."""
    curves = piece.curves.copy()
    one, other = start - curves[0, 0], end - curves[-1, 3]
    count = len(curves)
    share = (np.arange(count)[:, None] + np.array([0, 1 / 3, 2 / 3, 1])) / count
    curves += one + (other - one) * share[..., None]
    return Contour(curves, piece.straight, False)
