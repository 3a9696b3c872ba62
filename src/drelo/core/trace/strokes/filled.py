"""Shapes among strokes that are filled, and not drawn: a leaf, a hull, a door. They keep outlines of their own.

Known by what strokes make of them: such strokes miss ink, or cover paper, or lie in the midst of ink.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.picture.field import InkField
from drelo.core.trace.fit.curves import edges, probes
from drelo.core.trace.strokes.fitting import Strokes, made_by
from drelo.core.trace.strokes.paths import TIED, Path
from drelo.core.trace.strokes.pens import far_parts, radius

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

# Strokes of at least so many px, and so many times as wide as is usual, but shorter than so many of their widths, may
# be filled shapes where they miss so many px² and this share of what they cover; others where they miss so much more,
# or all of a piece of ink so much of it.
WIDE, WIDER, SHORT, PATCH, PATCH_SHARE, MOST_SHARE, PIECE_SHARE = 5.0, 1.5, 10.0, 6.0, 0.004, 0.12, 0.04
# A filled shape is thicker than the pens about it by so much, and than so many px.
THICKER, LEAST = 1.35, 5.0
# What is left round a filled shape is a corner of it where it ends within so many of its own radii.
CORNER = 2.5
# A stroke that has ink beside it for more than so many widths, or on both sides, is hidden there; of a wrong one stays
# what is right for so many widths. Looked at every so many px.
ALONG, RIGHT, EVERY = 10.0, 4.0, 2.0
# Ink that ends so near (px) to it belongs to it anyway.
CRUMB = 2.5
# So many pixels that are off are looked at, at most.
MOST_PLACES = 20_000
# Outlines are read so many px round filled shapes, where they run on into strokes.
ROUND = 2
# A stroke runs into a filled shape that is so near, px and widths.
NEAR, NEAR_WIDTHS = 3.0, 1.5


def filled(strokes: Strokes, ink: Mask, known: Mask, uneven: float) -> Mask:
    """Ink that is filled, shape (height, width), by what the strokes read off it make of it.

    known: what was found to be filled before. uneven: px by which strokes may be wider or thinner here and there.
    """
    made = made_by(strokes, ink.shape) > 0.5
    far = _far(ink, made | known, 1 + uneven) | _far(made, ink, 1 + uneven)
    bad = _wrong(strokes, ink, far) if far.any() else np.zeros(len(strokes.width), bool)
    if not bad.any():
        return np.zeros_like(ink)
    pens = _pens(strokes, bad, ink, 1 + uneven)
    shapes = _fat(ink & ~known & (pens == 0), pens)
    if not shapes.any():
        return shapes
    # Crumbs round it are no strokes.
    crumbs, furthest = far_parts(ink & ~known & ~shapes, shapes | known)
    small = furthest <= CRUMB
    small[0] = False
    return np.asarray(shapes | small[crumbs])


def missed(strokes: Strokes, ink: Mask, known: Mask, uneven: float) -> Mask:
    """Ink, shape (height, width), that neither strokes nor what is known to be filled cover, where it is no fringe."""
    made = made_by(strokes, ink.shape) > 0.5
    far = _far(ink, made | known, 1 + uneven)
    if not far.any():
        return far
    rest = ink & ~made & ~known
    count, parts = cv2.connectedComponents(rest.astype(np.uint8), connectivity=8)
    lost = np.zeros(count, bool)
    lost[parts[far & (radius(rest) > LEAST / 2)]] = True
    lost[0] = False
    return np.asarray(lost[parts])


def _far(some: Mask, other: Mask, reach: float) -> Mask:
    """What of some lies further than `reach` px from the other."""
    if not other.any():
        return some
    away = cv2.distanceTransform((~other).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(some & (away > reach))


def _wider(some: Mask, by: int) -> Mask:
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * by + 1, 2 * by + 1))
    return np.asarray(cv2.dilate(some.astype(np.uint8), disc), bool)


def _wrong(strokes: Strokes, ink: Mask, far: Mask) -> Mask:
    """Which strokes miss ink, or cover paper, in patches: each pixel that is off is its fault whose edge is nearest.

    Where strokes of one piece of ink miss much of it, all that miss some are wrong.
    """
    width = strokes.width
    outline = edges(strokes.curves, 0.1)
    pieces = np.asarray(shapely.linestrings(np.stack([outline.starts, outline.ends], axis=1)), object)
    lines = np.asarray(shapely.multilinestrings(pieces, indices=outline.line), object)
    down, right = np.nonzero(far)
    every = len(down) // MOST_PLACES + 1
    places = np.asarray(shapely.points(right[::every] + 0.5, down[::every] + 0.5), object)
    line, place = shapely.STRtree(places).query(lines, predicate="dwithin", distance=width)
    beyond = np.abs(shapely.distance(places[place], lines[line]) - width[line] / 2)
    order = np.lexsort((beyond, place))
    nearest = order[np.unique(place[order], return_index=True)[1]]
    missed = every * np.bincount(line[nearest], minlength=len(width))
    length = shapely.length(lines)
    covers = width * (length + width)
    short = (width >= np.maximum(WIDE, WIDER * strokes.usual_width)) & (length < SHORT * width)
    some = missed > PATCH + PATCH_SHARE * covers
    count, parts = cv2.connectedComponents(ink.astype(np.uint8), connectivity=8)
    # On which piece of ink most of a stroke lies.
    found = probes(strokes.curves, EVERY, 8)
    part = parts[_pixels(found.at, ink)]
    pairs, many = np.unique(np.stack([strokes.curves.line[found.segment], part]), axis=1, return_counts=True)
    order = np.argsort(many, kind="stable")
    piece = np.zeros(len(width), np.int64)
    piece[pairs[0, order]] = pairs[1, order]
    share = np.bincount(piece, missed, count) / np.maximum(np.bincount(parts.ravel(), minlength=count), 1)
    much = (share > PIECE_SHARE) & (np.arange(count) > 0)
    return np.asarray((missed > MOST_SHARE * covers) | (some & (short | much[piece])))


def _fat(rest: Mask, pens: NDArray[np.float32]) -> Mask:
    """What of the ink that no good stroke explains is thicker than the pens that draw what lies about it."""
    count, parts = cv2.connectedComponents(rest.astype(np.uint8), connectivity=8)
    thick = np.full(count, LEAST)
    about = np.asarray(cv2.dilate(pens, np.ones((3, 3), np.uint8)))
    np.maximum.at(thick, np.asarray(parts, np.int64)[rest], THICKER * about[rest])
    reach = np.where(rest, (thick / 2)[parts], np.inf)
    cores = radius(rest) > reach
    if not cores.any():
        return cores
    # One distance for all pieces: what lies on the other side of a pen is hardly ever nearer.
    away = cv2.distanceTransform((~cores).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    shapes = rest & (away <= reach)
    scraps, furthest = far_parts(rest & ~shapes, shapes)
    limit = np.zeros(len(furthest))
    np.maximum.at(limit, scraps[rest], CORNER * reach[rest])
    corner = furthest <= limit
    corner[0] = False
    return np.asarray(shapes | corner[scraps])


def _pens(strokes: Strokes, bad: Mask, ink: Mask, reach: float) -> NDArray[np.float32]:
    """How wide the pen is, px, of strokes and a pixel beside them; 0 elsewhere, and where they are hidden in ink, or
    wrong.
    """
    pens = np.zeros(ink.shape, np.float32)
    found = probes(strokes.curves, EVERY, 8)
    line = strokes.curves.line[found.segment]
    half = (strokes.width[line] / 2)[:, None] * found.normal
    beside, within = reach * found.normal, np.minimum(reach, strokes.width[line] / 2)[:, None] * found.normal
    # How many of its sides show paper, and whether it is all on ink.
    shown = 2 - _on(ink, found.at + half + beside).astype(np.int64) - _on(ink, found.at - half - beside)
    inked = _on(ink, found.at + half - within) & _on(ink, found.at - half + within)
    at = np.round(16 * (found.at - 0.5)).astype(np.int32)
    bounds = np.searchsorted(line, np.arange(len(strokes.width) + 1))
    # The widest last: it counts where several lie on each other.
    for i in np.argsort(strokes.width, kind="stable").tolist():
        own, width = np.arange(bounds[i], bounds[i + 1]), float(strokes.width[i])
        seen = _seen(shown[own], ALONG * width / EVERY) & (inked[own] | ~bad[i])
        for run in _runs(seen):
            if not bad[i] or np.count_nonzero(shown[own[run]] == 2) >= RIGHT * width / EVERY:
                cv2.polylines(pens, [at[own[run]]], False, width, round(width) + 2, shift=4)
    return pens


def _seen(shown: NDArray[np.int64], most: float) -> Mask:
    """Where one of a stroke's sides shows paper at least, and no more than `most` places on end where only one does; at
    the stroke's ends a quarter of that.
    """
    seen = shown > 0
    for run in _runs(shown < 2):
        ends = run[0] == 0 or run[-1] == len(shown) - 1
        if len(run) > (most / 4 if ends else most):
            seen[run] = False
    return seen


def _runs(flags: Mask) -> list[NDArray[np.int64]]:
    """The places of each run of flags."""
    breaks = np.flatnonzero(np.diff(flags.astype(np.int8))) + 1
    return [run for run in np.split(np.arange(len(flags)), breaks) if len(run) and flags[run[0]]]


def _on(some: Mask, at: Array) -> Mask:
    """Which places, shape (n, 2), px, lie on flagged pixels."""
    height, wide = some.shape
    inside = (at >= 0).all(axis=1) & (at < (wide, height)).all(axis=1)
    return np.asarray(inside & some[_pixels(at, some)])


def _pixels(at: Array, some: Mask) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Rows and columns of the pixels, the nearest where it is outside, of places, shape (n, 2), px."""
    height, wide = some.shape
    x, y = np.floor(at).astype(np.int64).T
    return np.clip(y, 0, height - 1), np.clip(x, 0, wide - 1)


def around(shapes: Mask) -> Mask:
    """Where the edges of filled shapes are seen, and a little of what runs into them."""
    return _wider(shapes, ROUND)


def outline_field(field: InkField, shapes: Mask) -> InkField:
    """The field with the ink of filled shapes alone."""
    near = around(shapes)
    paper = np.minimum(field.values, np.float32(0))
    bits = None if field.bits is None else field.bits & near
    return replace(field, values=np.where(near, field.values, paper), bits=bits)


def run_into(paths: Sequence[Path], shapes: Mask) -> list[Path]:
    """Paths with their free ends led into the filled shapes that they run into."""
    if not shapes.any():
        return list(paths)
    return [_run_into(path, shapes) for path in paths]


def _run_into(path: Path, shapes: Mask) -> Path:
    for end in (0, 1):
        if path.closed or path.ends[end] != -1 or len(path.points) < 2:
            continue
        points = path.points if end == 1 else path.points[::-1]
        many = min(len(points) - 1, max(3, round(path.width)))
        way = points[-1] - points[-1 - many]
        way = way / max(float(np.linalg.norm(way)), 1e-9)
        steps = np.arange(0.0, NEAR + NEAR_WIDTHS * path.width, 0.5)
        met = _on(shapes, points[-1] + steps[:, None] * way)
        if not met.any():
            continue
        reach = float(steps[int(np.argmax(met))]) + path.width / 2 + ROUND
        points = np.concatenate([points, (points[-1] + reach * way)[None]])
        ends = (TIED, path.ends[1]) if end == 0 else (path.ends[0], TIED)
        path = replace(path, points=points if end == 1 else points[::-1], ends=ends)
    return path
