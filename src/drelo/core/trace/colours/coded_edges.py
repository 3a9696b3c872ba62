"""Edges of pictures that keep brightness finely and colour coarsely, as JPEG does.

Where two colours meet that are about as light, only the coarse colour tells where; there the picture is believed less.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.palette import PARTED
from drelo.core.trace.colours.arcs import Arcs
from drelo.core.trace.fit.trust import Trust

Array = NDArray[np.float64]
Pixels = NDArray[np.float32]

# Where an edge lies is told by brightness so many times as surely as by colour.
SURER = 1.4
# Two colours are alike in lightness when less than this share of what tells them apart is brightness.
ALIKE = 0.22
# An edge is as doubtful where noise is this share of what tells its colours apart.
FAINT = 0.08
# By how much more curves may keep from an edge of like lightness, and by how much the scale of corners grows.
MORE, WIDER = 1.4, 0.7


def told_by_lightness(pixels: Pixels) -> Pixels:
    """Pixels, shape (height, width, 3), in coordinates in which distances weigh brightness as surely as it is kept."""
    return np.asarray(pixels @ _TOLD.astype(np.float32), np.float32)


def colours_by_lightness(colours: Array) -> Array:
    """Colours, shape (n, 3), in the same coordinates."""
    return np.asarray(colours @ _TOLD)


def less_sure(trust: Trust, arcs: Arcs, colours: Array, noise: float) -> Trust:
    """Trust in a coded picture, by how much of its edges' length lies between colours of like lightness, or between
    colours that differ by little more than the noise (standard deviation, of 255).
    """
    inner = ~arcs.border
    if not inner.any():
        return trust
    apart = (colours[arcs.left[inner]] - colours[arcs.right[inner]]) @ PARTED.T
    brightness = np.abs(apart[:, 0]) / np.maximum(np.linalg.norm(apart, axis=1), 1e-9)
    length = np.diff(arcs.starts)[inner]
    faint = np.clip(noise / np.maximum(np.linalg.norm(apart, axis=1), 1e-9) / FAINT, 0.0, 1.0)
    doubt = np.maximum(brightness < ALIKE, faint)
    share = float((length * doubt).sum()) / max(float(length.sum()), 1e-9)
    return replace(trust, tolerance=trust.tolerance * (1 + MORE * share), scale=trust.scale + WIDER * share)


_TOLD = (PARTED * np.array([[SURER], [1.0], [1.0]])).T
