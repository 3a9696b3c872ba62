"""By which of the three ways a picture is best traced, told by what it is."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.field import ink_field, noise_of
from drelo.core.picture.light import uneven_light
from drelo.core.picture.palette import Palette, find_palette, in_eye, mixing, nearest
from drelo.core.trace.colours.bands import bands
from drelo.core.trace.settings import Mode
from drelo.core.trace.strokes.pens import radius

Mask = NDArray[np.bool_]
Pixels = NDArray[np.float32]
Array = NDArray[np.float64]

# Colours are counted on so many pixels, strokes looked for on so many.
COLOURS_ON, STROKES_ON = 200_000, 1_000_000
# A colour counts with this share of the picture, and this far (CIELAB units) from the straight way between two others:
# the tones of an edge, or of ink under a lamp, lie on it.
LEAST_SHARE, BESIDE = 0.006, 13.0
# A colour on that way counts when it is an area of its own: this share of it lies away from edges.
INNER = 0.45
# What is hardly anywhere away from edges is the ink under less light when its colour has the same direction (radians).
SHADE_INNER, SHADE = 0.3, 0.3
# Nothing is see-through; what was averaged is not quite 255.
OPAQUE = 254.5
# Only along edges: so little of it lies away from them.
FRINGE = 0.05
# Flat art has so much of its pixels near one of its colours (CIELAB units); else it is a photograph of something.
FLAT, NEAR = 0.8, 12.0
# A piece of ink is drawn with a pen when it is so many times as long as wide and no wider than this share of what it
# reaches across; letters are wider.
LONG, THIN = 14.0, 0.065
# A drawing is one of strokes when these are so large a share of its ink: the bolder they are, as a share of what all
# ink reaches across, the more, for logos have bold outlines round filled shapes.
BOLD, MOSTLY = (0.012, 0.035), (0.6, 0.85)
# What is so many times as wide as the pen of its piece is filled, if it is not many times as long as wide: this many
# squares of its own width.
FILLED, FILLED_LONG = 1.5, 8.0
# Its width is steady when most of its widths lie within this ratio; what is so long, several pens may have drawn.
STEADY, NETWORK = 1.9, 150.0


def proposed(picture: Picture) -> Mode:
    """The mode that a picture is taken in before anybody says otherwise."""
    if _is_coloured(picture):
        return "colours"
    return "strokes" if _is_drawn(picture) else "ink"


def _is_coloured(picture: Picture) -> bool:
    """Whether a picture has at least two flat colours besides its ground."""
    pixels = _evenly_lit(_smaller(mixing(picture), COLOURS_ON))
    try:
        palette = find_palette(pixels, None, noise_of(picture))
    except Refusal:
        return False
    groups = bands(pixels, palette)
    flat = np.ascontiguousarray(pixels.reshape(-1, 4))
    labels = groups[nearest(flat, palette.mixing)].reshape(pixels.shape[:2])
    if not _is_flat(flat, palette):
        return False
    share = np.bincount(labels.ravel(), minlength=len(palette)) / labels.size
    some = np.flatnonzero(share >= LEAST_SHARE)
    if len(some) < 3:
        return False
    inner = np.array([_inner(labels == k) for k in some.tolist()])
    ground = some[int(np.argmax(share[some]))]
    eye = in_eye(palette.rgba[:, :3])
    own = [k for k in some.tolist() if k != ground and not _is_fringe(k, some.tolist(), inner.tolist(), palette)]
    if len(own) < 2:
        return False
    # The colour that stands out most is the ink; another counts when it is more than a tone between ground and ink.
    clear = palette.rgba[:, 3] == 0
    far = np.linalg.norm(eye - eye[ground], axis=1) + np.where(clear, 100.0, 0.0)
    ink = max(own, key=lambda k: far[k])
    for k in own:
        if k == ink or clear[k]:
            continue
        solid = float(inner[some.tolist().index(k)])
        shade = solid < SHADE_INNER and _is_shade(palette.rgba[k, :3], palette.rgba[ink, :3])
        if solid >= INNER or (not shade and _beside(eye[k], eye[ground], eye[ink], bool(clear[ground])) >= BESIDE):
            return True
    return False


def _evenly_lit(pixels: Pixels) -> Pixels:
    """Pixels, shape (height, width, 4), as bright as where the most light falls on the paper; others as they are."""
    if pixels[..., 3].min() < OPAQUE:
        return pixels
    grey = np.asarray(cv2.cvtColor(pixels[..., :3], cv2.COLOR_RGB2GRAY).round(), np.uint8)
    light = uneven_light(grey)
    if light is None:
        return pixels
    result = pixels.copy()
    paper = np.maximum(light.paper, 1.0)
    result[..., :3] = np.clip(pixels[..., :3] * (paper.max() / paper)[..., None], 0, 255)
    return result


def _is_fringe(k: int, some: list[int], inner: list[float], palette: Palette) -> bool:
    """Whether a colour is only seen along the edges of another that is the same under more or less light: what coding
    leaves there.
    """
    within = dict(zip(some, inner, strict=True))
    return within[k] < FRINGE and any(
        within[j] > FRINGE and j < k and _is_shade(palette.rgba[k, :3], palette.rgba[j, :3]) for j in some
    )


def _smaller(pixels: Pixels, most: int) -> Pixels:
    height, width = pixels.shape[:2]
    if height * width <= most:
        return pixels
    by = float(np.sqrt(most / (height * width)))
    size = (max(1, round(width * by)), max(1, round(height * by)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.float32)


def _is_flat(pixels: Pixels, palette: Palette) -> bool:
    """Whether nearly all pixels, shape (n, 4), have one of the colours."""
    some = pixels[:: max(1, len(pixels) // 40_000)]
    near = nearest(np.ascontiguousarray(some), palette.mixing)
    seen, meant = in_eye(some[:, :3].astype(np.float64)), in_eye(palette.mixing[near, :3])
    return float((np.linalg.norm(seen - meant, axis=1) < NEAR).mean()) >= FLAT


def _inner(area: Mask) -> float:
    """Share of an area that lies away from its edge."""
    within = cv2.erode(area.astype(np.uint8), np.ones((3, 3), np.uint8))
    return float(np.count_nonzero(within)) / max(int(np.count_nonzero(area)), 1)


def _is_shade(one: Array, other: Array) -> bool:
    """Whether two colours, red, green, blue, are one under more light and under less."""
    long = float(np.linalg.norm(one) * np.linalg.norm(other))
    return bool(one @ other >= np.cos(SHADE) * max(long, 1e-9))


def _beside(colour: Array, one: Array, other: Array, clear: bool) -> float:
    """How far a colour is from the straight way between two others, CIELAB units."""
    if clear:
        return float(np.linalg.norm(colour - other))
    way = other - one
    share = float(np.clip((colour - one) @ way / max(float(way @ way), 1e-9), 0, 1))
    return float(np.linalg.norm(colour - one - share * way))


def _is_drawn(picture: Picture) -> bool:
    """Whether the ink of a picture is drawn with pens."""
    try:
        field = ink_field(picture, None, False, None)
    except Refusal:
        return False
    values = field.values
    height, width = values.shape
    by = min(1.0, float(np.sqrt(STROKES_ON / (height * width))))
    if by < 1:
        values = np.asarray(cv2.resize(values, None, fx=by, fy=by, interpolation=cv2.INTER_AREA), np.float32)
    ink = np.asarray(values > field.level, bool)
    if not ink.any() or ink.mean() > 0.5:
        return False
    half = radius(ink)
    crest = (half >= np.asarray(cv2.dilate(half, np.ones((3, 3), np.uint8)))) & (half > 0)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(ink.astype(np.uint8), connectivity=8)
    on, wide = parts[crest], 2 * half[crest].astype(np.float64) - 0.5
    order = np.lexsort((wide, on))
    on, wide = on[order], wide[order]
    bounds = np.searchsorted(on, np.arange(count + 1))
    drawn = total = pens = 0.0
    pen = np.full(count, np.inf, np.float32)
    for k in range(1, count):
        own = wide[bounds[k] : bounds[k + 1]]
        area = float(stats[k, cv2.CC_STAT_AREA])
        total += area
        if not len(own):
            continue
        low, usual, high = np.quantile(own, (0.25, 0.5, 0.85))
        across = float(np.hypot(stats[k, cv2.CC_STAT_WIDTH], stats[k, cv2.CC_STAT_HEIGHT]))
        long = area / max(usual, 1.0) ** 2
        steady = high <= STEADY * max(low, 1.5)
        if high <= THIN * across and (long >= NETWORK or (long >= LONG and steady)):
            drawn += area
            pens += area * usual
            pen[k] = high
    if not drawn:
        return False
    down, right = np.nonzero(ink)
    bold = pens / drawn / float(np.hypot(np.ptp(down), np.ptp(right)))
    return drawn - _filled(ink, half, pen[parts]) >= float(np.interp(bold, BOLD, MOSTLY)) * total


def _filled(ink: Mask, half: Pixels, pen: Pixels) -> float:
    """How much ink (px²) is filled, and not drawn with a pen. half: px to the nearest paper. pen: width there, px."""
    reach = np.maximum(FILLED / 2 * pen, 2.0)
    cores = half > reach
    if not cores.any():
        return 0.0
    away = cv2.distanceTransform((~cores).astype(np.uint8), cv2.DIST_L2, 5)
    count, parts, stats, _ = cv2.connectedComponentsWithStats((ink & (away <= reach)).astype(np.uint8), connectivity=8)
    widest = np.zeros(count)
    np.maximum.at(widest, parts[cores], 2 * half[cores])
    area = stats[:, cv2.CC_STAT_AREA].astype(np.float64)
    return float(area[1:][area[1:] < FILLED_LONG * widest[1:] ** 2].sum())


__all__ = ["Mode", "proposed"]
