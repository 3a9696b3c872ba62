"""Pictures that were enlarged by repeating pixels, such as small logos on large screens."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.decode import MIN_SIDE, Picture

# Rows and columns that are looked at first: hardly any picture passes them by chance.
PROBES = 48
# At fewer places than this a picture changes by chance in step.
LEAST_CHANGES = 12
# Of the places between the outermost changes at which pixels could change so many do: else it is art on a grid.
USED = 0.25
# In few flat colours more of them must, and blocks larger than this are meant to be squares.
FLAT_COLOURS, FLAT_USED, PIXEL_ART = 16, 0.7, 4


@dataclass(frozen=True)
class Grain:
    """Every pixel of the picture as it was is `size` px wide; left, top: what is missing of the first ones, px."""

    size: int
    left: int = 0
    top: int = 0

    def completed(self, picture: Picture) -> Picture:
        """The picture with its first pixels made whole."""
        if not (self.left or self.top):
            return picture

        def grown(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
            return np.asarray(cv2.copyMakeBorder(pixels, self.top, 0, self.left, 0, cv2.BORDER_REPLICATE), np.uint8)

        alpha = None if picture.alpha is None else grown(picture.alpha)
        return replace(picture, rgb=grown(picture.rgb), alpha=alpha)


PLAIN = Grain(1)


def grain_of(picture: Picture) -> Grain:
    """How large the pixels are of which a picture was made; PLAIN where it was not enlarged."""
    pixels = picture.rgb if picture.alpha is None else np.dstack([picture.rgb, picture.alpha])
    across, down = _steps(pixels), _steps(pixels.transpose(1, 0, 2))
    if across is None or down is None or across.size != down.size:
        return PLAIN
    size, used = across.size, min(across.used, down.used)
    small = pixels[down.first % size :: size, across.first % size :: size]
    if used < USED or min(small.shape[:2]) < MIN_SIDE:
        return PLAIN
    is_flat = len(np.unique(small.reshape(-1, small.shape[2]), axis=0)) <= FLAT_COLOURS
    if is_flat and (used < FLAT_USED or size > PIXEL_ART):
        return PLAIN
    return Grain(size, -across.first % size, -down.first % size)


@dataclass(frozen=True)
class _Steps:
    """Along one axis pixels change only every `size` px, the first time at `first`, at this share of those places."""

    size: int
    first: int
    used: float


def _steps(pixels: NDArray[np.uint8]) -> _Steps | None:
    """How pixels change along the second axis; None where they do at any place."""
    some = _in_step(_changes(pixels[:: max(1, len(pixels) // PROBES)]))
    return some and _in_step(_changes(pixels))


def _changes(pixels: NDArray[np.uint8]) -> NDArray[np.intp]:
    """Where along the second axis any row changes."""
    return 1 + np.flatnonzero((pixels[:, 1:] != pixels[:, :-1]).any(axis=(0, 2)))


def _in_step(changes: NDArray[np.intp]) -> _Steps | None:
    if len(changes) < LEAST_CHANGES:
        return None
    size = int(np.gcd.reduce(np.diff(changes)))
    first, last = int(changes[0]), int(changes[-1])
    return _Steps(size, first, len(changes) * size / (last - first + size)) if size > 1 else None
