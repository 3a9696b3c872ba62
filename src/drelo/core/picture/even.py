"""Coloured pictures under uneven light, as if the light were even."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.decode import Picture

Array = NDArray[np.float64]

# The light is read off the border of a picture, so large a share of its shorter side, reduced to so many px.
BORDER, SMALL = 0.05, 160
# It is uneven when the border's brightness varies by more than this (of 255), and light is the reason when a smooth
# surface misses it by no more than so much (root mean square, of 255), after the farthest pixels were left out.
VARIES, MISSES, ROUNDS, OUT = 14.0, 4.0, 3, 2.5
# Nothing becomes brighter than so many times what it was.
BRIGHTER = 4.0


def evenly_lit(picture: Picture) -> Picture:
    """A picture whose ground is one colour under a lamp, without the lamp; any other as it is.

    The logarithm of the brightness of the border is taken for a surface of second order, which is what a lamp leaves.
    """
    if picture.alpha is not None:
        return picture
    height, width = picture.rgb.shape[:2]
    by = min(1.0, SMALL / min(height, width))
    size = (max(8, round(width * by)), max(8, round(height * by)))
    small = cv2.resize(cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY), size, interpolation=cv2.INTER_AREA)
    bright = np.maximum(np.asarray(small, np.float64), 4.0)
    edge = max(2, round(BORDER * min(size)))
    border = np.ones(bright.shape, bool)
    border[edge:-edge, edge:-edge] = False
    low, high = np.quantile(bright[border], (0.1, 0.9))
    if high - low < VARIES:
        return picture
    terms = _terms(*bright.shape)
    seen, on = np.log(bright[border]), terms[border]
    stays = np.ones(len(seen), bool)
    for _ in range(ROUNDS):
        found = np.linalg.lstsq(on[stays], seen[stays], rcond=None)[0]
        miss = np.abs(np.exp(on @ found) - np.exp(seen))
        stays = miss <= OUT * max(float(np.median(miss)), 1.0)
    if float(np.sqrt(np.mean(miss[stays] ** 2))) > MISSES or stays.mean() < 0.75:
        return picture
    light = np.exp(terms @ found)
    gain = np.minimum(light.max() / light, BRIGHTER).astype(np.float32)
    whole = cv2.resize(gain, (width, height), interpolation=cv2.INTER_LINEAR)
    rgb = np.minimum(picture.rgb * np.asarray(whole)[..., None] + np.float32(0.5), np.float32(255)).astype(np.uint8)
    return replace(picture, rgb=rgb)


def _terms(rows: int, columns: int) -> Array:
    """A constant, x, y, and their products, shape (rows, columns, 6)."""
    y, x = np.mgrid[:rows, :columns] / np.array([rows, columns])[:, None, None] - 0.5
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)
