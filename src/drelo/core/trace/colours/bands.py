"""Colours that run into each other: one surface under uneven light, or a gradient, is one area.

Each keeps its colours as bands, so that its edges are held against the colour that lies there; but bands of one surface
count as one, and the line between two of them, which is nowhere to be seen, is calm.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.palette import Palette, in_eye, nearest
from drelo.core.trace.colours.labels import Labels, Pixels

Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# Only colours within this of each other (CIELAB units) may run into each other.
ALIKE = 34.0
# The picture is calmed by this blur (px), and looked at so many px to both sides of where two colours meet.
CALM, ASIDE = 2.0, 4
# What is seen there is less than this share of what lies between the two colours; at so many places at least.
STEP, FEWEST = 0.45, 24
# … or less than so much of it at this share of the places.
SOFT, SOFT_SHARE = 0.15, 0.08
# Blur (px) by which bands of one surface are told apart.
BAND = 6.0
# Pictures with more pixels are looked at every second pixel, or third …
LOOK_AT = 250_000


def bands(pixels: Pixels, palette: Palette) -> Indices:
    """For every colour of the palette the commonest one of its surface; its own number where it is a surface by itself.

    pixels: shape (height, width, 4), as they mix at edges.
    """
    step = max(1, int(np.sqrt(pixels.shape[0] * pixels.shape[1] / LOOK_AT)))
    calm = np.asarray(cv2.GaussianBlur(np.ascontiguousarray(pixels[::step, ::step]), (0, 0), CALM), np.float32)
    colours = palette.mixing
    near = _nearest(calm, colours)
    eye = in_eye(palette.rgba[:, :3])
    result = np.arange(len(palette))
    for k in range(len(palette)):
        for j in range(k):
            apart = float(np.linalg.norm(eye[k] - eye[j]))
            clear = min(palette.rgba[k, 3], palette.rgba[j, 3]) == 0
            if apart < ALIKE and not clear and _run_together(calm, near, colours, k, j):
                # The palette begins with the commonest.
                result[np.isin(result, (result[k], result[j]))] = min(result[k], result[j])
    return result


def _run_together(calm: Pixels, near: Labels, colours: Array, k: int, j: int) -> bool:
    way = colours[k] - colours[j]
    way = (way / float(way @ way)).astype(np.float32)
    seen = []
    for labels, values in ((near, calm), (near.T, calm.transpose(1, 0, 2))):
        one, other = labels[:, ASIDE - 1 : -ASIDE], labels[:, ASIDE : 1 - ASIDE]
        far, further = labels[:, : 1 - 2 * ASIDE], labels[:, 2 * ASIDE - 1 :]
        for a, b, sign in ((k, j, -1.0), (j, k, 1.0)):
            # Right at an edge between others a mixture may look like either.
            y, x = np.nonzero((one == a) & (other == b) & (far == a) & (further == b))
            seen.append(sign * (values[y, x + 2 * ASIDE - 1] - values[y, x]) @ way)
    steps = np.concatenate(seen)
    if len(steps) < FEWEST:
        return False
    # Two flat areas that meet have a step everywhere; what only looks like one of the two is left out of account.
    soft = int(np.count_nonzero(steps < SOFT))
    return float(np.median(steps)) < STEP or (soft >= FEWEST and soft >= SOFT_SHARE * len(steps))


def calm_bands(labels: Labels, pixels: Pixels, colours: Array, groups: Indices) -> Labels:
    """Labels, shape (height, width), in which the bands of each surface meet in calm lines.

    groups: as `bands` gives them.
    """
    result = labels.copy()
    for group in np.flatnonzero(np.bincount(groups, minlength=len(groups)) > 1).tolist():
        members = np.flatnonzero(groups == group)
        inside = np.isin(labels, members)
        # Only what belongs to the surface counts.
        weight = cv2.GaussianBlur(inside.astype(np.float32), (0, 0), BAND)
        calm = cv2.GaussianBlur(pixels * inside[..., None].astype(np.float32), (0, 0), BAND)
        even = np.asarray(calm / np.maximum(weight, np.float32(1e-6))[..., None], np.float32)
        result[inside] = members[_nearest(even, colours[members])][inside]
    return result


def _nearest(pixels: Pixels, colours: Array) -> Labels:
    flat = pixels.reshape(-1, pixels.shape[2])
    return nearest(flat, colours).astype(np.int16).reshape(pixels.shape[:2])
