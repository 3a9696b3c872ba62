"""Ink parted by the pens that drew it: thick strokes apart from thin ones, where there is nothing between.

At the end of a thick stroke a thin one looks like a fray of it, and at the size at which a thick one is read best a
thin one is lost. Each pen is read by itself.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

# Thick pens are at least this wide, px, this many times as wide as thin ones, and so many px wider.
THICK, TIMES, APART = 4.5, 1.4, 1.5
# Of pictures of at most so many pixels widths are measured so many times finer.
FINE_UP_TO, FINE = 4_000_000, 2
# Widths are counted in so many steps an octave; a step is empty with so small a share of what lies on either side.
STEPS, EMPTY = 12, 0.03
# Thick ink is cut off at so many times the width of the thin pen at most.
CUT = 1.6
# A thick pen draws something longer than so many widths, or wider than so many times the thin pen: thin strokes that
# cross at a small angle are no thick one.
LONG, BLOB = 4.0, 2.3
# Corners that an opening rounds off lie within this share of its radius, and px, of it.
CORNER, CORNER_PX = 0.45, 1.5
# What stands out of a thick stroke by less than so many widths of the thin pen, or squares of them, is part of it.
STUB, STUB_AREA = 1.2, 3.0


def by_pen(ink: Mask, values: NDArray[np.float32], level: float) -> list[Mask]:
    """Ink of each pen, the thickest first; all of them together are the ink, shape (height, width).

    values: the field of ink, which is above the level where there is some.
    """
    layers, rest = [], ink
    for thin, cut in reversed(_cuts(widths(np.where(ink, values, np.minimum(values, np.float32(0.9 * level))), level))):
        thick = _thicker(rest, thin, cut)
        if thick.any():
            layers.append(thick)
            rest = rest & ~thick
    return [*layers, rest] if rest.any() else layers


def widths(values: NDArray[np.float32], level: float) -> Array:
    """The width of the ink at places along its crests, px, in order."""
    fine = FINE if values.size <= FINE_UP_TO else 1
    large = cv2.resize(values, None, fx=fine, fy=fine, interpolation=cv2.INTER_LINEAR) if fine > 1 else values
    half = radius(np.asarray(large) > level)
    crest = (half >= np.asarray(cv2.dilate(half, np.ones((3, 3), np.uint8)))) & (half > 0)
    return np.sort(2 * half[crest].astype(np.float64) - 1) / fine


def radius(ink: Mask) -> NDArray[np.float32]:
    """px from every pixel of ink to the paper; beyond the picture there is paper."""
    around = cv2.distanceTransform(np.pad(ink, 1).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(around, np.float32)[1:-1, 1:-1]


def _cuts(found: Array) -> list[tuple[float, float]]:
    """Between any two pens how wide the thinner one is at most, and where to cut, px, from thin to thick."""
    if not len(found):
        return []
    steps = np.floor(STEPS * np.log2(np.maximum(found, 1.0))).astype(np.int64)
    count = np.bincount(steps)
    below, above = np.cumsum(count), np.cumsum(count[::-1])[::-1]
    empty = count <= EMPTY * np.minimum(below - count, above - count)
    cuts = []
    begin = 0
    for step in range(len(count) + 1):
        if step < len(count) and empty[step]:
            continue
        low, high = float(2 ** (begin / STEPS)), float(2 ** (step / STEPS))
        if begin > 0 and step < len(count) and high >= THICK and high >= max(TIMES * low, low + APART):
            cuts.append((low, max(min(float(np.sqrt(low * high)), CUT * low), low + APART / 2)))
        begin = step + 1
    return cuts


def _thicker(ink: Mask, thin: float, cut: float) -> Mask:
    """What of the ink is drawn by pens thicker than `cut` px; thin: how wide others are at most, px."""
    half = radius(ink)
    reach = (cut + 1) / 2
    core = half > reach
    if not core.any():
        return np.zeros_like(ink)
    away = cv2.distanceTransform((~core).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    opened = (away <= reach) & ink
    # A blob where thin strokes cross is no stroke.
    count, parts, stats, _ = cv2.connectedComponentsWithStats(opened.astype(np.uint8), connectivity=8)
    for k in range(1, count):
        x, y, width, height, area = stats[k].tolist()
        box = np.s_[y : y + height, x : x + width]
        inside = parts[box] == k
        wide = 2 * float(half[box][inside].max()) - 1
        if area < LONG * wide * wide and wide < BLOB * thin:
            opened[box][inside] = False
    if not opened.any():
        return np.zeros_like(ink)
    rest = ink & ~opened
    scraps, furthest = far_parts(rest, opened)
    small = np.bincount(scraps.ravel(), minlength=len(furthest)) < STUB_AREA * thin * thin
    corner = small | (furthest <= max(CORNER * reach + CORNER_PX, STUB * thin))
    corner[0] = False
    return np.asarray(opened | corner[scraps])


def far_parts(ink: Mask, known: Mask) -> tuple[NDArray[np.int32], Array]:
    """The parts of some ink by number, from 1 on, and how far each reaches away from what is known, px."""
    away = np.asarray(cv2.distanceTransform((~known).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE))
    count, parts = cv2.connectedComponents(ink.astype(np.uint8), connectivity=8)
    numbers = np.asarray(parts, np.int32)
    furthest = np.zeros(count)
    np.maximum.at(furthest, numbers[ink], away[ink])
    return numbers, furthest
