"""Coloured pictures under uneven light, as if the light were even."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.decode import Picture
from drelo.core.picture.light import uneven_light

Field = NDArray[np.float32]

# Share of a picture's side that its border takes up; it is uneven when its brightness varies by so much (of 255, from
# the tenth to the last tenth), and light was the reason when less than this share of that is left.
BORDER, VARIES, LEFT = 0.04, 14.0, 0.5
# Nothing becomes brighter than so many times what it was.
BRIGHTER = 4.0


def evenly_lit(picture: Picture) -> Picture:
    """A picture whose ground is one colour under a lamp, without the lamp; any other as it is."""
    if picture.alpha is not None:
        return picture
    bright = cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY)
    before = _varies(bright)
    if before < VARIES:
        return picture
    light = uneven_light(np.asarray(bright, np.uint8))
    if light is None:
        return picture
    gain = np.minimum(np.float32(light.paper.max()) / np.maximum(light.paper, np.float32(1)), np.float32(BRIGHTER))
    rgb = np.clip(np.round(picture.rgb * gain[..., None]), 0, 255).astype(np.uint8)
    after = _varies(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY))
    return replace(picture, rgb=rgb) if after < LEFT * before else picture


def _varies(bright: cv2.typing.MatLike) -> float:
    """How much the brightness of a picture's border varies, of 255."""
    height, width = bright.shape[:2]
    small = cv2.resize(bright, (min(width, 200), min(height, 200)), interpolation=cv2.INTER_AREA)
    edge = max(2, round(BORDER * min(small.shape)))
    border = np.concatenate(
        [small[:edge].ravel(), small[-edge:].ravel(), small[:, :edge].ravel(), small[:, -edge:].ravel()]
    )
    low, high = np.quantile(border, (0.1, 0.9))
    return float(high - low)
