"""Colours of thin shapes in pictures whose coding spreads colour further than brightness.

JPEG keeps colour at half the width and coarsely, so that a stroke of two pixels has its own nowhere. The mean colour of
a block that was coded as one is kept well: with all areas known, it tells what colour the thin ones must have.
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.contour import Contour
from drelo.core.picture.palette import PARTED
from drelo.core.trace.colours.arcs import Arcs
from drelo.core.trace.seen.coverage import mixed

Array = NDArray[np.float64]
Pixels = NDArray[np.float32]

# px of a block.
BLOCK = 16
# Of thin or small shapes fewer pixels than this have only their like around them.
FEW = 300
# What thin shapes cover of blocks, root sum of squares, from where it says enough.
ENOUGH = 0.25
# Chord tolerance (px) of areas.
FINE = 0.05


def coded_colours(
    pixels: Pixels, colours: Array, arcs: Arcs, lines: Sequence[Contour], offset: tuple[float, float]
) -> Array:
    """The colours, shape (n, 3), 0..255, with those of thin shapes as the blocks of the picture show them.

    pixels: shape (height, width, 3). lines: a contour for every arc, moved by `offset` px.
    """
    cover = _covered(arcs, lines, len(colours), pixels.shape[1], pixels.shape[0], offset)
    plain = [np.count_nonzero(cv2.erode(c, np.ones((3, 3), np.uint8)) > 0.99) for c in np.moveaxis(cover, 2, 0)]
    thin = np.array(plain) < FEW
    shares, means = _blocks(cover, offset), _blocks(pixels, offset)
    thin &= np.linalg.norm(shares, axis=0) >= ENOUGH
    if not thin.any() or thin.all():
        return colours
    parted = colours @ PARTED.T
    left = means @ PARTED.T - shares[:, ~thin] @ parted[~thin]
    found = np.linalg.lstsq(shares[:, thin], left, rcond=None)[0]
    # Brightness is coded sharply: the purest pixels have told it.
    parted[thin, 1:] = found[:, 1:]
    return np.where(thin[:, None], np.clip(parted @ np.linalg.inv(PARTED).T, 0, 255), colours)


def _covered(
    arcs: Arcs, lines: Sequence[Contour], count: int, width: int, height: int, offset: tuple[float, float]
) -> Pixels:
    """Share of every pixel that each label covers, shape (height, width, count)."""
    # One more for what lies outside the picture.
    own = np.eye(count + 1)
    rings = [_drawn(c) for c in lines]
    steps = [
        np.repeat((own[left] - own[right])[None], len(r) - 1, axis=0)
        for r, left, right in zip(rings, arcs.left, arcs.right, strict=True)
    ]
    starts, ends = (np.concatenate([r[part] for r in rings]) - offset for part in (slice(None, -1), slice(1, None)))
    return np.ascontiguousarray(mixed(starts, ends, np.concatenate(steps), width, height)[..., :count])


def _drawn(line: Contour) -> Array:
    points = line.flattened(FINE)
    return np.concatenate([points, points[:1]]) if line.closed else points


def _blocks(values: Pixels, offset: tuple[float, float]) -> Array:
    """Means over the whole blocks of a part of a picture that begins at `offset` px, shape (blocks, channels)."""
    left, top = (int(-v % BLOCK) for v in offset)
    inside = values[top:, left:]
    channels = values.shape[2]
    rows, columns = (n // BLOCK for n in inside.shape[:2])
    tiles = inside[: rows * BLOCK, : columns * BLOCK].reshape(rows, BLOCK, columns, BLOCK, channels)
    return np.asarray(tiles.mean(axis=(1, 3), dtype=np.float64)).reshape(rows * columns, channels)
