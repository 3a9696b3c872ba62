"""Colours of shapes so thin that nowhere a pixel of theirs has only its like around it: letters, hairlines, dots.

Most of their pixels are mixtures with what lies beside them, so that counting colours does not find them. They are told
by what the colours found so far do not explain: a pixel off every mixture of two of them. Of those pixels, the one
that, taken as a colour, explains most is the purest.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Pixels = NDArray[np.float32]

# How far (of 255) a pixel lies off every mixture that is no mixture, and a colour that is one of its own; more for each
# unit of noise.
OFF, OWN, OFF_NOISE = 40.0, 60.0, 3.0
# A thin colour has at least so many pixels, this share of the picture, near to it.
FEWEST, LEAST, NEAR = 12, 0.0015, 30.0
# Unexplained pixels that are looked at, and how many of them are tried as a colour.
LOOK_AT, TRY = 4000, 160


def thin_colours(pixels: Pixels, found: Array, most: int, noise: float) -> Array:
    """Up to `most` further colours, shape (n, 3), of pixels, shape (m, 3), that `found`, shape (k, 3), do not explain.

    All in red, green, blue 0..255; found must have at least one row. noise: standard deviation, of 255.
    """
    limit = OFF + OFF_NOISE * noise
    rest = pixels[_off(pixels, found) > limit].astype(np.float64)
    # However many there are, those looked at stand for all.
    share = max(1, -(-len(rest) // LOOK_AT))
    rest = rest[::share]
    fewest = max(FEWEST, LEAST * len(pixels)) / share
    colours = found
    while len(colours) < len(found) + most and len(rest) >= fewest:
        off = _off(rest, colours)
        candidates = rest[:: max(1, len(rest) // TRY)]
        candidates = candidates[_off(candidates, colours) > OWN + OFF_NOISE * noise]
        near = [(np.linalg.norm(rest - c, axis=1) < NEAR + OFF_NOISE * noise) for c in candidates]
        gains = [
            float((off - np.minimum(off, _beside(rest, c, colours))).sum()) if n.sum() >= fewest else 0.0
            for c, n in zip(candidates, near, strict=True)
        ]
        if not gains or max(gains) <= 0:
            break
        best = int(np.argmax(gains))
        colours = np.concatenate([colours, np.median(rest[near[best]], axis=0)[None]])
        rest = rest[_off(rest, colours) > limit]
    return colours[len(found) :]


def _off(pixels: Array | Pixels, colours: Array) -> Array:
    """How far each pixel lies off the nearest mixture of two colours, or off the only one."""
    best = np.full(len(pixels), np.inf)
    for k in range(len(colours)):
        best = np.minimum(best, _beside(pixels, colours[k], colours[: k + 1]))
    return best


def _beside(pixels: Array | Pixels, one: Array, others: Array) -> Array:
    """How far each pixel lies off the nearest mixture of one colour with any of the others."""
    # Axis by axis: sums over so short an axis are slow.
    away = [np.asarray(pixels[:, c], np.float64) - one[c] for c in range(3)]
    best = np.full(len(pixels), np.inf)
    for step in others - one:
        share = (away[0] * step[0] + away[1] * step[1] + away[2] * step[2]) / max(float(step @ step), 1e-9)
        np.clip(share, 0, 1, out=share)
        off = (away[0] - share * step[0]) ** 2
        for c in (1, 2):
            off += (away[c] - share * step[c]) ** 2
        np.minimum(best, off, out=best)
    return np.asarray(np.sqrt(best))
