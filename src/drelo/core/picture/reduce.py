"""Large pictures worked on at a part of their resolution."""

from __future__ import annotations

import math
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.decode import Picture


def factor_for(pixels: int, most: int) -> int:
    """By which whole number both sides are divided so that at most `most` pixels are left, 1 for small pictures."""
    return max(1, math.ceil(math.sqrt(pixels / most)))


def reduced(picture: Picture, factor: int) -> Picture:
    """The picture with every block of `factor` × `factor` pixels averaged into one; its last blocks are filled up."""
    if factor == 1:
        return picture
    alpha = None if picture.alpha is None else _averaged(picture.alpha, factor)
    scale = None if picture.mm_per_px is None else picture.mm_per_px * factor
    return replace(picture, rgb=_averaged(picture.rgb, factor), alpha=alpha, mm_per_px=scale)


def _averaged(pixels: NDArray[np.uint8], factor: int) -> NDArray[np.uint8]:
    height, width = pixels.shape[:2]
    down, across = -(-height // factor), -(-width // factor)
    if (down * factor, across * factor) != (height, width):
        pixels = np.asarray(
            cv2.copyMakeBorder(pixels, 0, down * factor - height, 0, across * factor - width, cv2.BORDER_REPLICATE),
            np.uint8,
        )
    return np.asarray(cv2.resize(pixels, (across, down), interpolation=cv2.INTER_AREA), np.uint8)
